import { and, asc, desc, eq, isNotNull, isNull, lt, sql } from 'drizzle-orm';
import type { Json } from '#core/har';
import type { SentSheet, Trial, TrialNotes } from '#core/wire';
import { reanalyse } from '../ingest/reanalyse';
import { ServerProblem } from '../problem';
import { dropOrphanBodies } from './bodies';
import { readRows } from './captures';
import type { Connection } from './connection';
import { entryWriter, prepareEntry } from './entries';
import { bodies, captures, entries, trials } from './schema';

// The trials of a draft are a capture of their own, under the draft's id and off the shelf: what works on captures works
// on them. What only trials have is beside it, in `trials`.

/** More trials of one draft are not kept, nor more bytes of their bodies: the oldest go. */
export const MOST_TRIALS = 100;
export const MOST_TRIAL_BYTES = 200 * 1024 * 1024;

export interface NewTrial {
  readonly entry: Json;
  readonly sentAt: number;
  readonly sheet: SentSheet;
  readonly wireHash: string;
  readonly notes: TrialNotes;
}

/** Writes a trial behind the others of its draft. Returns its number and how many old ones had to go. */
export function addTrial(
  connection: Connection,
  draft: { readonly id: string; readonly name: string; readonly captureId: string },
  trial: NewTrial,
): { readonly number: number; readonly dropped: number } {
  const run = connection.sqlite.transaction(() => {
    const number = putTrial(connection, { ...draft, name: `Trials of ${draft.name}` }, trial);
    const dropped = dropOldest(connection, draft.id);
    reanalyse(connection, draft.id);
    return { number, dropped };
  });
  return run.immediate();
}

/** Writes what was sent and what came back behind what was sent before, in a capture that is made where there is none. Returns its number. */
export function putTrial(
  connection: Connection,
  of: { readonly id: string; readonly name: string; readonly captureId: string },
  {
    entry,
    sentAt,
    sheet,
    wireHash,
    notes,
  }: Pick<NewTrial, 'entry' | 'sentAt'> & Partial<Pick<NewTrial, 'sheet' | 'wireHash'>> & { readonly notes: object },
): number {
  const { db } = connection;
  ensureCapture(connection, of, sentAt);
  const last = db
    .select({ place: sql<number | null>`max(${trials.place})` })
    .from(trials)
    .where(eq(trials.captureId, of.id))
    .get();
  const number = (last?.place ?? 0) + 1;
  entryWriter(connection, of.id)(prepareEntry(entry, number));
  db.insert(trials)
    .values({
      captureId: of.id,
      place: number,
      sentAt,
      // What others sent has no sheet.
      sheet: JSON.stringify(sheet ?? {}),
      wireHash: wireHash ?? '',
      notes: JSON.stringify(notes),
    })
    .run();
  return number;
}

function ensureCapture(
  { db }: Connection,
  { id, name, captureId }: { readonly id: string; readonly name: string; readonly captureId: string },
  now: number,
): void {
  const outline = {
    rootShape: 'object',
    root: [{ type: 'log' }],
    log: [
      { type: 'value', key: 'version', value: '1.2' },
      { type: 'value', key: 'creator', value: { name: 'Trazado', version: '1' } },
      { type: 'entries' },
    ],
  };
  const values = { name: name.slice(0, 200), deletedAt: null };
  db.insert(captures)
    .values({
      ...values,
      id,
      // No file has such a hash.
      sha256: `trials of ${id}`,
      fileBytes: 0,
      importedAt: now,
      recorder: 'Trazado',
      outline: JSON.stringify(outline),
      completeness: JSON.stringify({ type: 'whole' }),
      trialsOf: captureId,
    })
    .onConflictDoUpdate({ target: captures.id, set: values, setWhere: eq(captures.trialsOf, captureId) })
    .run();
  const there = db.select({ of: captures.trialsOf }).from(captures).where(eq(captures.id, id)).get();
  // Whatever else has this id stays as it is.
  if (there?.of !== captureId)
    throw new ServerProblem('not-found', 'This draft is not of this capture.', 'Open it from its own capture.');
}

/** Drops the oldest trials until what is left is within the bounds. Returns how many went. */
function dropOldest(connection: Connection, id: string): number {
  const { db } = connection;
  const sizes = db
    .select({ place: entries.place, bytes: sql<number>`coalesce(length(${bodies.bytes}), 0) + length(${entries.raw})` })
    .from(entries)
    .leftJoin(bodies, eq(bodies.sha256, entries.bodySha256))
    .where(eq(entries.captureId, id))
    .orderBy(desc(entries.place))
    .all();
  let total = 0;
  const gone = sizes.filter(({ bytes }, at) => {
    total += bytes;
    // The newest stays, however large it is.
    return at >= MOST_TRIALS || (at > 0 && total > MOST_TRIAL_BYTES);
  });
  for (const { place } of gone) dropTrial(connection, id, place);
  if (gone.length > 0) dropOrphanBodies(connection);
  return gone.length;
}

function dropTrial({ db }: Pick<Connection, 'db'>, id: string, place: number): void {
  db.delete(trials)
    .where(and(eq(trials.captureId, id), eq(trials.place, place)))
    .run();
  db.delete(entries)
    .where(and(eq(entries.captureId, id), eq(entries.place, place)))
    .run();
}

/** Removes for good the trials that were deleted before an instant, and the bodies that nobody else holds. */
export function purgeTrials(connection: Connection, before: number): number {
  const run = connection.sqlite.transaction(() => {
    const gone = connection.db
      .select({ id: trials.captureId, place: trials.place })
      .from(trials)
      .where(and(isNotNull(trials.deletedAt), lt(trials.deletedAt, before)))
      .all();
    for (const { id, place } of gone) dropTrial(connection, id, place);
    for (const id of new Set(gone.map((one) => one.id))) reanalyse(connection, id);
    if (gone.length > 0) dropOrphanBodies(connection);
    return gone.length;
  });
  return run.immediate();
}

/** The trials of a draft, the newest first. */
export function listTrials(connection: Connection, draftId: string): Trial[] {
  const rows = new Map(readRows(connection, draftId).map((row) => [row.index as number, row]));
  return connection.db
    .select()
    .from(trials)
    .where(and(eq(trials.captureId, draftId), isNull(trials.deletedAt)))
    .orderBy(desc(trials.place))
    .all()
    .flatMap(({ place, sentAt, notes, note }): Trial[] => {
      const row = rows.get(place);
      return row === undefined ? [] : [{ ...(JSON.parse(notes) as TrialNotes), number: place, sentAt, row, note }];
    });
}

/** The numbers of the trials that sent the very same, deleted ones too. */
export const sameTrials = ({ db }: Connection, draftId: string, wireHash: string): number[] =>
  db
    .select({ place: trials.place })
    .from(trials)
    .where(and(eq(trials.captureId, draftId), eq(trials.wireHash, wireHash)))
    .orderBy(asc(trials.place))
    .all()
    .map(({ place }) => place);

/** What was sent in a trial; undefined where there is none of that number. */
export function findSent(
  { db }: Connection,
  draftId: string,
  number: number,
): { readonly sheet: SentSheet; readonly wireHash: string } | undefined {
  const row = db
    .select({ sheet: trials.sheet, wireHash: trials.wireHash })
    .from(trials)
    .where(and(eq(trials.captureId, draftId), eq(trials.place, number)))
    .get();
  return row === undefined ? undefined : { sheet: JSON.parse(row.sheet) as SentSheet, wireHash: row.wireHash };
}

/** Changes a trial's note, deletes it or brings it back. False where there is none. */
export const changeTrial = (
  { db }: Connection,
  draftId: string,
  number: number,
  change: { readonly note?: string; readonly deletedAt?: number | null },
): boolean =>
  db
    .update(trials)
    .set(change)
    .where(and(eq(trials.captureId, draftId), eq(trials.place, number)))
    .run().changes > 0;

/** Takes the trials of a draft away with it, or brings them back. */
export const setTrialsDeleted = (
  { db }: Connection,
  captureId: string,
  draftId: string,
  deletedAt: number | null,
): void => {
  db.update(captures)
    .set({ deletedAt })
    .where(and(eq(captures.id, draftId), eq(captures.trialsOf, captureId)))
    .run();
};
