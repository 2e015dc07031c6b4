import { and, asc, desc, eq, gt, isNotNull, isNull, lt, sql } from 'drizzle-orm';
import type { ExchangeRow } from '#core/analysis';
import type { Json } from '#core/har';
import type { ExchangeIndex } from '#core/model';
import type { AskedExchange, AskedNotes, Rehearsal, RehearsalOrder, ResponseVariant } from '#core/wire';
import { reanalyse } from '../ingest/reanalyse';
import type { Connection } from './connection';
import { rehearsals, trials, variants } from './schema';
import { putTrial, setTrialsDeleted } from './trials';

type Row = typeof rehearsals.$inferSelect;

const rehearsalOf = ({ id, captureId, order, status, startedAt, asked, missed, notKept, problem }: Row): Rehearsal => ({
  id,
  captureId,
  order: JSON.parse(order) as RehearsalOrder,
  status: status as Rehearsal['status'],
  addresses: [],
  startedAt,
  asked,
  missed,
  notKept,
  ...(problem === null ? {} : { problem }),
});

export const writeRehearsal = (
  { db }: Connection,
  { id, captureId, order, startedAt }: Pick<Rehearsal, 'id' | 'captureId' | 'order' | 'startedAt'>,
): void => {
  db.insert(rehearsals)
    .values({ id, captureId, order: JSON.stringify(order), status: 'running', startedAt })
    .run();
};

/** The rehearsals of a capture, the newest first. */
export const listRehearsals = ({ db }: Connection, captureId: string): Rehearsal[] =>
  db
    .select()
    .from(rehearsals)
    .where(and(eq(rehearsals.captureId, captureId), isNull(rehearsals.deletedAt)))
    .orderBy(desc(rehearsals.startedAt))
    .all()
    .map(rehearsalOf);

export function findRehearsal({ db }: Connection, captureId: string, id: string): Rehearsal | undefined {
  const row = db
    .select()
    .from(rehearsals)
    .where(and(eq(rehearsals.id, id), eq(rehearsals.captureId, captureId)))
    .get();
  return row === undefined ? undefined : rehearsalOf(row);
}

/** What a rehearsal was asked, ready to be written. */
export interface NewAsked {
  readonly entry: Json;
  readonly row: ExchangeRow;
  readonly notes: AskedNotes;
}

/** Writes what a rehearsal was asked, all of it or nothing. @param counted how many requests that were, kept or not */
export function addAsked(
  connection: Connection,
  of: { readonly id: string; readonly name: string; readonly captureId: string },
  asked: readonly NewAsked[],
  counted: { readonly asked: number; readonly missed: number; readonly notKept: number },
): void {
  const write = connection.sqlite.transaction(() => {
    for (const { entry, row, notes } of asked) {
      const startedAt = Date.parse((entry as unknown as { startedDateTime: string }).startedDateTime);
      putTrial(connection, of, { entry, sentAt: startedAt, notes: { ...notes, row } });
    }
    connection.db
      .update(rehearsals)
      .set({
        asked: sql`${rehearsals.asked} + ${counted.asked}`,
        missed: sql`${rehearsals.missed} + ${counted.missed}`,
        notKept: sql`${rehearsals.notKept} + ${counted.notKept}`,
      })
      .where(eq(rehearsals.id, of.id))
      .run();
  });
  write.immediate();
}

/** So many are handed over at once; who wants more asks for those behind. */
const MOST_ASKED = 500;

/** What a rehearsal was asked behind a number, in its order. */
export const listAsked = ({ db }: Connection, id: string, after: number): AskedExchange[] =>
  db
    .select({ place: trials.place, notes: trials.notes })
    .from(trials)
    .where(and(eq(trials.captureId, id), gt(trials.place, after)))
    .orderBy(asc(trials.place))
    .limit(MOST_ASKED)
    .all()
    .map(({ place, notes }) => {
      const kept = JSON.parse(notes) as AskedNotes & { readonly row: ExchangeRow };
      return { ...kept, number: place, row: { ...kept.row, index: place as ExchangeIndex } };
    });

/** Ends a rehearsal, and makes what it was asked ready to be opened as a capture. */
export function endRehearsal(connection: Connection, id: string, problem: string | undefined): void {
  const write = connection.sqlite.transaction(() => {
    const values = { status: 'stopped', ...(problem === undefined ? {} : { problem }) };
    connection.db.update(rehearsals).set(values).where(eq(rehearsals.id, id)).run();
    const there = connection.db.select({ place: trials.place }).from(trials).where(eq(trials.captureId, id)).get();
    if (there !== undefined) reanalyse(connection, id);
  });
  write.immediate();
}

/** Takes a rehearsal away, with what it was asked, or brings it back. */
export function setRehearsalDeleted(
  connection: Connection,
  captureId: string,
  id: string,
  deletedAt: number | null,
): void {
  connection.db
    .update(rehearsals)
    .set({ deletedAt })
    .where(and(eq(rehearsals.captureId, captureId), eq(rehearsals.id, id)))
    .run();
  setTrialsDeleted(connection, captureId, id, deletedAt);
}

/** Removes for good what was deleted before an instant; the captures of their requests go as all deleted captures do. */
export const purgeRehearsals = ({ db }: Connection, before: number): void => {
  db.delete(rehearsals)
    .where(and(isNotNull(rehearsals.deletedAt), lt(rehearsals.deletedAt, before)))
    .run();
};

/** The ids of those that were running when the server stopped. */
export const runningRehearsals = ({ db }: Connection): string[] =>
  db
    .select({ id: rehearsals.id })
    .from(rehearsals)
    .where(eq(rehearsals.status, 'running'))
    .all()
    .map(({ id }) => id);

/** The changed responses that are kept with a capture. */
export function readVariants({ db }: Connection, captureId: string): ResponseVariant[] {
  const row = db.select().from(variants).where(eq(variants.captureId, captureId)).get();
  return row === undefined ? [] : (JSON.parse(row.value) as ResponseVariant[]);
}

export const writeVariants = ({ db }: Connection, captureId: string, value: readonly ResponseVariant[]): void => {
  const text = JSON.stringify(value);
  db.insert(variants)
    .values({ captureId, value: text })
    .onConflictDoUpdate({ target: variants.captureId, set: { value: text } })
    .run();
};
