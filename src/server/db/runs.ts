import { and, asc, desc, eq, gt, isNotNull, isNull, lt, sql } from 'drizzle-orm';
import type { Json } from '#core/har';
import type { ExchangeIndex } from '#core/model';

import type { Run, RunBegin, RunResult, RunStep, SendLeave, SentSheet } from '#core/wire';
import { reanalyse } from '../ingest/reanalyse';
import type { Connection } from './connection';
import { runs, trials } from './schema';
import { putTrial, setTrialsDeleted } from './trials';

/** A run as it was begun. */
export interface Begun extends RunBegin {
  readonly leave: SendLeave;
}

type Row = typeof runs.$inferSelect;

const runOf = ({ db }: Connection, row: Row): Run => {
  const sends = db.select({ count: sql<number>`count(*)` }).from(trials).where(eq(trials.captureId, row.id)).get();
  return {
    id: row.id,
    draft: row.draftId,
    order: (JSON.parse(row.begin) as Begun).order,
    status: row.status as Run['status'],
    sentence: row.sentence,
    startedAt: row.startedAt,
    ...(row.endedAt === null ? {} : { endedAt: row.endedAt }),
    sends: sends?.count ?? 0,
    result: JSON.parse(row.result) as RunResult,
  };
};

export function writeRun(
  { db }: Connection,
  run: { readonly id: string; readonly captureId: string; readonly begun: Begun; readonly startedAt: number },
): void {
  db.insert(runs)
    .values({
      id: run.id,
      captureId: run.captureId,
      draftId: run.begun.kept.id,
      begin: JSON.stringify(run.begun),
      status: 'running',
      sentence: '',
      result: '{}',
      startedAt: run.startedAt,
    })
    .run();
}

/** The runs of a draft, the newest first. */
export const listRuns = (connection: Connection, captureId: string, draftId: string): Run[] =>
  connection.db
    .select()
    .from(runs)
    .where(and(eq(runs.captureId, captureId), eq(runs.draftId, draftId), isNull(runs.deletedAt)))
    .orderBy(desc(runs.startedAt))
    .all()
    .map((row) => runOf(connection, row));

/** The runs of all drafts of a capture, the oldest first. */
export const runsOfCapture = (
  connection: Connection,
  captureId: string,
): { readonly run: Run; readonly draftName: string }[] =>
  connection.db
    .select()
    .from(runs)
    .where(and(eq(runs.captureId, captureId), isNull(runs.deletedAt)))
    .orderBy(asc(runs.startedAt))
    .all()
    .map((row) => ({ run: runOf(connection, row), draftName: (JSON.parse(row.begin) as Begun).kept.name }));

/** A run of a capture with what it was begun with; undefined where there is none. */
export function findRun(
  connection: Connection,
  captureId: string,
  id: string,
): { readonly run: Run; readonly begun: Begun } | undefined {
  const row = connection.db
    .select()
    .from(runs)
    .where(and(eq(runs.captureId, captureId), eq(runs.id, id)))
    .get();
  return row === undefined ? undefined : { run: runOf(connection, row), begun: JSON.parse(row.begin) as Begun };
}

interface RunChange {
  readonly status?: Run['status'];
  readonly sentence?: string;
  readonly result?: RunResult;
  readonly endedAt?: number | null;
}

export function changeRun({ db }: Connection, id: string, { result, ...change }: RunChange): void {
  const values = { ...change, ...(result === undefined ? {} : { result: JSON.stringify(result) }) };
  db.update(runs).set(values).where(eq(runs.id, id)).run();
}

/** Takes a run away, with what it sent, or brings it back. */
export function setRunDeleted(connection: Connection, captureId: string, id: string, deletedAt: number | null): void {
  connection.db
    .update(runs)
    .set({ deletedAt })
    .where(and(eq(runs.captureId, captureId), eq(runs.id, id)))
    .run();
  setTrialsDeleted(connection, captureId, id, deletedAt);
}

/** Removes for good what was deleted before an instant; the captures of their requests go as all deleted captures do. */
export const purgeRuns = ({ db }: Connection, before: number): void => {
  db.delete(runs)
    .where(and(isNotNull(runs.deletedAt), lt(runs.deletedAt, before)))
    .run();
};

/** Runs that were under way when the server stopped can be gone on with. */
export const pauseRuns = ({ db }: Connection): void => {
  db.update(runs)
    .set({ status: 'paused', sentence: 'It stopped with the server.' })
    .where(eq(runs.status, 'running'))
    .run();
};

export interface NewStep {
  readonly entry: Json;
  readonly sentAt: number;
  readonly sheet: SentSheet;
  readonly wireHash: string;
  readonly step: Omit<RunStep, 'number' | 'sentAt'>;
}

/** Writes a step and what is known behind it, both or none. Returns its number. */
export function addStep(
  connection: Connection,
  run: { readonly id: string; readonly name: string; readonly captureId: string },
  { step, ...sent }: NewStep,
  change: RunChange,
): number {
  const write = connection.sqlite.transaction(() => {
    const number = putTrial(connection, run, { ...sent, notes: step });
    changeRun(connection, run.id, change);
    return number;
  });
  return write.immediate();
}

/** The steps of a run behind a number, in their order. */
export const listSteps = ({ db }: Connection, id: string, after = 0, most = MOST_STEPS): RunStep[] =>
  db
    .select({ place: trials.place, sentAt: trials.sentAt, notes: trials.notes })
    .from(trials)
    .where(and(eq(trials.captureId, id), gt(trials.place, after)))
    .orderBy(asc(trials.place))
    .limit(most)
    .all()
    .map(({ place, sentAt, notes }) => {
      const step = JSON.parse(notes) as Omit<RunStep, 'number' | 'sentAt'>;
      return { ...step, row: { ...step.row, index: place as ExchangeIndex }, number: place, sentAt };
    });

/** So many are handed over at once; who wants more asks for those behind. */
const MOST_STEPS = 1000;

/** Makes what a run sent ready to be opened as a capture. */
export const finishRun = (connection: Connection, id: string): void => {
  connection.sqlite.transaction(() => reanalyse(connection, id)).immediate();
};
