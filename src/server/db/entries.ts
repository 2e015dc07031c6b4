import { and, asc, eq, gt, sql } from 'drizzle-orm';
import { isObject, type Json, member } from '#core/har';
import { type BodyForm, bodyWriter, type StoredForm, storedFormOf, textOf } from './bodies';
import type { Connection } from './connection';
import { prepareDirectly, prepareRows } from './prepared';
import { bodies, entries } from './schema';

export interface StoredEntry {
  readonly place: number;
  /** The entry as it was read, its body's text put back. */
  readonly value: Json;
}

/** An entry as it is kept: its JSON without its body's text, of which an empty one marks the place, and the body. */
export interface PreparedEntry {
  readonly place: number;
  readonly raw: string;
  readonly body: StoredForm | undefined;
}

/** Takes an entry's body out of it: the entry is the caller's to spoil, which spares a copy of every one. */
export function prepareEntry(value: Json, place: number): PreparedEntry {
  const content = member(member(value, 'response'), 'content');
  const text = member(content, 'text');
  if (!isObject(content) || typeof text !== 'string') return { place, raw: JSON.stringify(value), body: undefined };
  const body = storedFormOf(text, member(content, 'encoding') === 'base64');
  (content as { text: string }).text = '';
  return { place, raw: JSON.stringify(value), body };
}

export function entryWriter(connection: Connection, captureId: string): (entry: PreparedEntry) => void {
  const writeBody = bodyWriter(connection);
  const query = connection.db.insert(entries).values({
    captureId,
    place: sql.placeholder('place'),
    raw: sql.placeholder('raw'),
    bodySha256: sql.placeholder('bodySha256'),
    bodyForm: sql.placeholder('bodyForm'),
  });
  const insert = prepareDirectly(connection, query);
  return ({ place, raw, body }) => {
    const bodySha256 = body === undefined ? null : writeBody(body.bytes);
    insert({ place, raw, bodySha256, bodyForm: body?.form ?? null });
  };
}

const restorable = { place: entries.place, raw: entries.raw, form: entries.bodyForm, bytes: bodies.bytes };

/** One entry as it was read; undefined where the capture has none at that place. */
export function findEntry({ db }: Connection, captureId: string, place: number): StoredEntry | undefined {
  const row = db
    .select(restorable)
    .from(entries)
    .leftJoin(bodies, eq(bodies.sha256, entries.bodySha256))
    .where(and(eq(entries.captureId, captureId), eq(entries.place, place)))
    .get();
  return row === undefined ? undefined : restore(row);
}

/** Every entry of a capture as it was read, one at a time, in the order of the file. */
export function* readEntries(connection: Connection, captureId: string): Generator<StoredEntry> {
  const query = connection.db
    .select(restorable)
    .from(entries)
    .leftJoin(bodies, eq(bodies.sha256, entries.bodySha256))
    .where(and(eq(entries.captureId, captureId), gt(entries.place, sql.placeholder('last'))))
    .orderBy(asc(entries.place));
  const from = prepareRows<'last', RestorableColumns>(connection, query);
  for (const [place, raw, form, bytes] of inPortions(from)) yield restore({ place, raw, form, bytes });
}

/** Every entry of a capture without its response body's text, in the order of the file. */
export function* readEntryHeads(connection: Connection, captureId: string): Generator<StoredEntry> {
  const query = connection.db
    .select({ place: entries.place, raw: entries.raw })
    .from(entries)
    .where(and(eq(entries.captureId, captureId), gt(entries.place, sql.placeholder('last'))))
    .orderBy(asc(entries.place));
  const from = prepareRows<'last', readonly [place: number, raw: string]>(connection, query);
  for (const [place, raw] of inPortions(from)) yield { place, value: JSON.parse(raw) as Json };
}

/** All rows, some at once: each question takes as long as reading a few. They are few, since another one may be asked between them. */
function* inPortions<Row extends readonly [place: number, raw: string, form?: unknown, bytes?: Buffer | null]>(
  from: (after: { readonly last: number }) => Iterable<Row>,
): Generator<Row> {
  for (let last: number | undefined = -1; last !== undefined; ) {
    const some: Row[] = [];
    let chars = 0;
    for (const row of from({ last })) {
      some.push(row);
      chars += row[1].length + (row[3]?.length ?? 0);
      if (some.length >= ENTRIES_AT_ONCE || chars >= CHARS_AT_ONCE) break;
    }
    yield* some;
    last = some.at(-1)?.[0];
  }
}
const ENTRIES_AT_ONCE = 64;
const CHARS_AT_ONCE = 256 * 1024;

/** The hashes of a capture's response bodies, by the places of their entries. */
export const readBodyHashes = ({ db }: Connection, captureId: string): ReadonlyMap<number, string | undefined> =>
  new Map(
    db
      .select({ place: entries.place, sha256: entries.bodySha256 })
      .from(entries)
      .where(eq(entries.captureId, captureId))
      .all()
      .map(({ place, sha256 }) => [place, sha256 ?? undefined]),
  );

/** `restorable` in its order. */
type RestorableColumns = readonly [place: number, raw: string, form: BodyForm | null, bytes: Buffer | null];

interface RestorableRow {
  readonly place: number;
  readonly raw: string;
  readonly form: BodyForm | null;
  readonly bytes: Buffer | null;
}

function restore(row: RestorableRow): StoredEntry {
  const value = JSON.parse(row.raw) as Json;
  if (row.form !== null && row.bytes !== null) {
    const { content } = (value as unknown as { response: { content: { text: string } } }).response;
    content.text = textOf({ bytes: row.bytes, form: row.form });
  }
  return { place: row.place, value };
}
