import {
  and,
  asc,
  desc,
  eq,
  getTableColumns,
  gt,
  isNotNull,
  isNull,
  lt,
  ne,
  or,
  type Placeholder,
  sql,
} from 'drizzle-orm';
import {
  ANALYSIS_VERSION,
  type CaptureOverview,
  type ExchangeRow,
  flattenRow,
  type RowColumn,
  raiseRow,
} from '#core/analysis';
import { FINDINGS_VERSION } from '#core/diagnose';
import type { HarOutline, Json } from '#core/har';
import type { Completeness } from '#core/model';
import type { CapturedRequest } from '#core/rehearse';
import { type CaptureCard, type PackedRows, packColumns } from '#core/wire';
import { dropOrphanBodies } from './bodies';
import type { Connection } from './connection';
import { prepareDirectly } from './prepared';
import { analyses, captures, exchanges, findings, pages } from './schema';

/** The columns of an exchange: its capture, its place there, and a row's. */
type ExchangeColumn = 'captureId' | 'place' | Exclude<RowColumn, 'index'>;

/** A placeholder for each column of an exchange: what is written follows from the table. */
const PLACES = Object.fromEntries(
  Object.keys(getTableColumns(exchanges)).map((name) => [name, sql.placeholder(name)]),
) as { readonly [Name in ExchangeColumn]: Placeholder };

const listed = {
  id: captures.id,
  name: captures.name,
  fileBytes: captures.fileBytes,
  importedAt: captures.importedAt,
  utcOffsetMinutes: captures.utcOffsetMinutes,
  recorder: captures.recorder,
  browser: captures.browser,
  note: captures.note,
  overview: analyses.overview,
  findingsVersion: findings.version,
};

type ListedRow = { [Key in keyof typeof listed]: (typeof listed)[Key]['_']['data'] | null };

function toStored(row: ListedRow): CaptureCard {
  return {
    id: row.id ?? '',
    name: row.name ?? '',
    fileBytes: row.fileBytes ?? 0,
    importedAt: row.importedAt ?? 0,
    utcOffsetMinutes: row.utcOffsetMinutes ?? undefined,
    recorder: row.recorder ?? undefined,
    browser: row.browser ?? undefined,
    note: row.note ?? '',
    overview: JSON.parse(row.overview ?? '{}') as CaptureOverview,
    isDiagnosed: row.findingsVersion === FINDINGS_VERSION,
  };
}

/** Every capture on the shelf, the newest first. */
export function listCaptures({ db }: Connection): CaptureCard[] {
  const rows = db
    .select(listed)
    .from(captures)
    .innerJoin(analyses, eq(analyses.captureId, captures.id))
    .leftJoin(findings, eq(findings.captureId, captures.id))
    .where(and(isNull(captures.deletedAt), isNull(captures.trialsOf)))
    .orderBy(desc(captures.importedAt), asc(captures.name))
    .all();
  return rows.map(toStored);
}

export function findCapture({ db }: Connection, id: string): CaptureCard | undefined {
  const row = db
    .select(listed)
    .from(captures)
    .innerJoin(analyses, eq(analyses.captureId, captures.id))
    .leftJoin(findings, eq(findings.captureId, captures.id))
    .where(and(eq(captures.id, id), isNull(captures.deletedAt)))
    .get();
  return row === undefined ? undefined : toStored(row);
}

/** The capture that was read from the same bytes, if it is on the shelf. */
export function findByHash({ db }: Connection, sha256: string): { id: string; name: string } | undefined {
  return db
    .select({ id: captures.id, name: captures.name })
    .from(captures)
    .where(and(eq(captures.sha256, sha256), isNull(captures.deletedAt)))
    .get();
}

/** Puts a deleted capture back that was read from the same bytes, as if it came in now; undefined where there is none. */
export function restoreByHash(
  { db }: Connection,
  sha256: string,
  now: number,
): { id: string; name: string; exchanges: number } | undefined {
  const found = db
    .select({ id: captures.id, name: captures.name })
    .from(captures)
    .where(and(eq(captures.sha256, sha256), isNotNull(captures.deletedAt)))
    .get();
  if (found === undefined) return undefined;
  db.update(captures).set({ deletedAt: null, importedAt: now }).where(eq(captures.id, found.id)).run();
  const counted = db
    .select({ exchanges: sql<number>`count(*)` })
    .from(exchanges)
    .where(eq(exchanges.captureId, found.id))
    .get();
  return { ...found, exchanges: counted?.exchanges ?? 0 };
}

/** Changes a capture's name or note. False where there is none. */
export function describeCapture(
  { db }: Connection,
  id: string,
  change: { readonly name?: string | undefined; readonly note?: string | undefined },
): boolean {
  return db.update(captures).set(change).where(eq(captures.id, id)).run().changes > 0;
}

/** How long a deleted capture can be brought back. */
export const UNDO_MS = 10 * 60_000;

/** Takes a capture off the shelf. False where there is none. */
export const setDeleted = ({ db }: Connection, id: string, deletedAt: number): boolean =>
  db.update(captures).set({ deletedAt }).where(eq(captures.id, id)).run().changes > 0;

/** Puts a deleted capture back, or leaves one that is there. False where there is none, or its time has expired. */
export const restore = ({ db }: Connection, id: string, now: number): boolean =>
  db
    .update(captures)
    .set({ deletedAt: null })
    .where(and(eq(captures.id, id), or(isNull(captures.deletedAt), gt(captures.deletedAt, now - UNDO_MS))))
    .run().changes > 0;

/** Removes for good what was deleted before an instant, and the bodies that nobody else holds. */
export function purgeDeleted(connection: Connection, before: number): number {
  const { changes } = connection.db
    .delete(captures)
    .where(and(isNotNull(captures.deletedAt), lt(captures.deletedAt, before)))
    .run();
  if (changes > 0) dropOrphanBodies(connection);
  return changes;
}

/** Ids of captures that an older version analysed. */
export function findOutdated({ db }: Connection): string[] {
  const rows = db.select({ id: analyses.captureId }).from(analyses).where(ne(analyses.version, ANALYSIS_VERSION)).all();
  return rows.map((row) => row.id);
}

/** Writes an analysis in place of any earlier one: its rows and its overview. */
export function writeAnalysis(
  connection: Connection,
  captureId: string,
  rows: readonly ExchangeRow[],
  overview: CaptureOverview,
): void {
  const { db } = connection;
  db.delete(exchanges).where(eq(exchanges.captureId, captureId)).run();
  db.delete(analyses).where(eq(analyses.captureId, captureId)).run();
  const insert = prepareDirectly<ExchangeColumn>(connection, db.insert(exchanges).values(PLACES));
  for (const row of rows) {
    const { index, ...columns } = flattenRow(row);
    insert({ ...columns, captureId, place: index });
  }
  db.insert(analyses)
    .values({ captureId, version: ANALYSIS_VERSION, overview: JSON.stringify(overview) })
    .run();
}

/** The rows of a capture's exchanges in the order of the file, or the one at a place. */
export function readRows({ db }: Connection, captureId: string, place?: number): ExchangeRow[] {
  const ofCapture = eq(exchanges.captureId, captureId);
  const wanted = place === undefined ? ofCapture : and(ofCapture, eq(exchanges.place, place));
  const stored = db.select().from(exchanges).where(wanted).orderBy(asc(exchanges.place)).all();
  return stored.map((row) => raiseRow((column) => (column === 'index' ? row.place : row[column])));
}

/** What a rehearsal keeps of each exchange, in the order of the file. */
export const listRequests = ({ db }: Connection, captureId: string): (CapturedRequest & { readonly kind: string })[] =>
  db
    .select({
      index: exchanges.place,
      method: exchanges.method,
      url: exchanges.url,
      kind: exchanges.kind,
      payloadHash: exchanges.payloadHash,
    })
    .from(exchanges)
    .where(eq(exchanges.captureId, captureId))
    .orderBy(asc(exchanges.place))
    // In the order that was asked for: making objects of them took as long as reading them.
    .values()
    .map((values) => {
      const [index, method, url, kind, payloadHash] = values as [number, string, string, string, number | null];
      return { index, method, url, kind, isSocket: kind === 'socket', payloadHash: payloadHash ?? undefined };
    });

/** The rows of a capture packed for the page: the database gathers each column itself, which no row by row comes near. */
export function readPackedRows({ db }: Connection, captureId: string, isDiagnosed: boolean): PackedRows {
  const { captureId: _, place, ...rest } = getTableColumns(exchanges);
  const columns = { index: place, ...rest };
  const ordered = db.select().from(exchanges).where(eq(exchanges.captureId, captureId)).orderBy(asc(exchanges.place));
  const gathered = Object.fromEntries(
    Object.entries(columns).map(([field, column]) => [
      field,
      sql<string>`json_group_array(${sql.identifier(column.name)})`.as(`all_${column.name}`),
    ]),
  );
  const [row] = db.select(gathered).from(ordered.as('ordered')).all() as Record<string, string>[];
  return packColumns(isDiagnosed, (field) => JSON.parse(row?.[field] ?? '[]') as unknown[]);
}

/** What encloses a capture's entries, as it was read, and how far the reading came. */
export function getOutline(
  { db }: Connection,
  captureId: string,
): { readonly outline: HarOutline; readonly pages: Json[]; readonly completeness: Completeness } {
  const capture = db
    .select({ outline: captures.outline, completeness: captures.completeness })
    .from(captures)
    .where(eq(captures.id, captureId))
    .get();
  if (capture === undefined) throw new Error(`There is no capture ${captureId}.`);
  const raws = db
    .select({ raw: pages.raw })
    .from(pages)
    .where(eq(pages.captureId, captureId))
    .orderBy(asc(pages.place))
    .all();
  return {
    outline: JSON.parse(capture.outline) as HarOutline,
    pages: raws.map(({ raw }) => JSON.parse(raw) as Json),
    completeness: JSON.parse(capture.completeness) as Completeness,
  };
}
