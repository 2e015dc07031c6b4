import {
  and,
  asc,
  desc,
  eq,
  exists,
  gt,
  inArray,
  isNotNull,
  isNull,
  lt,
  lte,
  ne,
  notExists,
  or,
  sql,
  sum,
} from 'drizzle-orm';
import { ANALYSIS_VERSION, type CaptureOverview, type ExchangeRow, type RowColumn } from '#core/analysis';
import { FINDINGS_VERSION } from '#core/diagnose';
import type { HarOutline, Json } from '#core/har';
import type { Completeness } from '#core/model';
import type { CapturedRequest } from '#core/rehearse';
import { type CaptureCard, joinBlocks, openBlocks, type PackedBlock, type PackedRows, type RowBlock } from '#core/wire';
import { isAlive } from '../alive';
import { dropOrphanBodies } from './bodies';
import type { Connection } from './connection';
import { analyses, captures, entries, findings, pages, rowBlocks, signatures } from './schema';

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
    .where(and(eq(captures.sha256, sha256), isNotNull(captures.deletedAt), isNull(captures.arrivingFor)))
    .get();
  if (found === undefined) return undefined;
  db.update(captures).set({ deletedAt: null, importedAt: now }).where(eq(captures.id, found.id)).run();
  const counted = db
    .select({ exchanges: sum(rowBlocks.count).mapWith(Number) })
    .from(rowBlocks)
    .where(eq(rowBlocks.captureId, found.id))
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

/** What is in the database of a capture that still comes in: seen by nobody, and so old a deletion that none brings it back. */
export const ARRIVING = { deletedAt: 0, arrivingFor: process.pid } as const;
export const ARRIVED = { deletedAt: null, arrivingFor: null } as const;

/**
 * Removes for good what was deleted before an instant, what came in no further since its process died or gave it up, and the
 * bodies that nobody else holds. Not while this process imports.
 * @param between is called between two pieces, where others may write
 */
export function purgeDeleted(connection: Connection, before: number, between?: () => void): number {
  const due = connection.db
    .select({ id: captures.id, arrivingFor: captures.arrivingFor })
    .from(captures)
    .where(and(isNotNull(captures.deletedAt), lt(captures.deletedAt, before)))
    .all();
  return purge(
    connection,
    due.flatMap(({ id, arrivingFor }) => (arrivingFor === null || isGone(arrivingFor) ? id : [])),
    between,
  );
}

const isGone = (pid: number): boolean => pid === process.pid || !isAlive(pid);

/** So many entries are removed at a time: a hundred thousand at once hold the database for a second. */
const PIECE = 2000;

/**
 * Removes captures for good that nobody sees any more, and the bodies that nobody else holds, a piece at a time: what is
 * broken off goes on with the next tidying. Returns how many there were.
 */
export function purge(connection: Connection, ids: readonly string[], between = (): void => undefined): number {
  let count = 0;
  for (const id of ids) {
    for (const table of [entries, signatures]) {
      const some = connection.db.select({ place: table.place }).from(table).where(eq(table.captureId, id)).limit(PIECE);
      const drop = connection.db.delete(table).where(and(eq(table.captureId, id), inArray(table.place, some)));
      while (drop.run().changes > 0) between();
    }
    count += connection.db.delete(captures).where(eq(captures.id, id)).run().changes;
    between();
  }
  if (count > 0) dropOrphanBodies(connection, between);
  return count;
}

/** Ids of captures that an older version analysed. */
export function findOutdated({ db }: Connection): string[] {
  const rows = db.select({ id: analyses.captureId }).from(analyses).where(ne(analyses.version, ANALYSIS_VERSION)).all();
  return rows.map((row) => row.id);
}

/** Ids of captures that have exchanges of which no rows are kept. */
export function findWithoutRows({ db }: Connection): string[] {
  const ofCapture = (table: typeof entries | typeof rowBlocks) =>
    db.select({ one: sql`1` }).from(table).where(eq(table.captureId, captures.id));
  const rows = db
    .select({ id: captures.id })
    .from(captures)
    .where(and(isNull(captures.arrivingFor), exists(ofCapture(entries)), notExists(ofCapture(rowBlocks))))
    .all();
  return rows.map((row) => row.id);
}

/** Writes an analysis in place of any earlier one: its rows and its overview. */
export function writeAnalysis(
  connection: Connection,
  captureId: string,
  blocks: readonly PackedBlock[],
  overview: CaptureOverview,
): void {
  const { db } = connection;
  db.delete(rowBlocks).where(eq(rowBlocks.captureId, captureId)).run();
  db.delete(analyses).where(eq(analyses.captureId, captureId)).run();
  for (const { first, count, bytes } of blocks) {
    db.insert(rowBlocks)
      .values({ captureId, first, count, bytes: Buffer.from(bytes.buffer) })
      .run();
  }
  db.insert(analyses)
    .values({ captureId, version: ANALYSIS_VERSION, overview: JSON.stringify(overview) })
    .run();
}

/** The rows of a capture's exchanges in the order of the file. */
export const readRows = (connection: Connection, captureId: string): ExchangeRow[] =>
  readBlocks(connection, captureId).flatMap((block) => block.rows());

/** The row of the exchange at a place; undefined where there is none. */
export function findRow({ db }: Connection, captureId: string, place: number): ExchangeRow | undefined {
  const found = db
    .select({ bytes: rowBlocks.bytes })
    .from(rowBlocks)
    .where(and(eq(rowBlocks.captureId, captureId), lte(rowBlocks.first, place)))
    .orderBy(desc(rowBlocks.first))
    .limit(1)
    .get();
  if (found === undefined) return undefined;
  const [block] = openBlocks(found.bytes);
  return block?.find(place);
}

/** What a rehearsal keeps of each exchange, in the order of the file. */
export const listRequests = (
  connection: Connection,
  captureId: string,
): (CapturedRequest & { readonly kind: string })[] =>
  readBlocks(connection, captureId).flatMap((block) => {
    const columns = raiseRequest(block);
    return Array.from({ length: block.count }, (_, place) => columns(place));
  });

function raiseRequest(block: RowBlock): (place: number) => CapturedRequest & { readonly kind: string } {
  const of = <Value>(name: RowColumn) => block.column(name) as (place: number) => Value;
  const [index, method, url, kind] = [of<number>('index'), of<string>('method'), of<string>('url'), of<string>('kind')];
  const payloadHash = of<number | undefined>('payloadHash');
  return (place) => ({
    index: index(place),
    method: method(place),
    url: url(place),
    kind: kind(place),
    isSocket: kind(place) === 'socket',
    payloadHash: payloadHash(place),
  });
}

/** The rows of a capture as the page takes them. */
export const readPackedRows = (connection: Connection, captureId: string): PackedRows =>
  joinBlocks(readBlockBytes(connection, captureId));

const readBlocks = (connection: Connection, captureId: string): RowBlock[] =>
  readBlockBytes(connection, captureId).flatMap((bytes) => [...openBlocks(bytes)]);

const readBlockBytes = ({ db }: Connection, captureId: string): Buffer[] =>
  db
    .select({ bytes: rowBlocks.bytes })
    .from(rowBlocks)
    .where(eq(rowBlocks.captureId, captureId))
    .orderBy(asc(rowBlocks.first))
    .all()
    .map(({ bytes }) => bytes);

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
