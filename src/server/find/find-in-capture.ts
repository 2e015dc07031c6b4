import { and, asc, eq, sql } from 'drizzle-orm';
import { findInBody, findInExchange, type Hit, mayHoldRuns, type Needle, runsOf, type Search } from '#core/find';
import { isObject, type Json, normaliseEntry } from '#core/har';
import type { Exchange } from '#core/model';
import { isOfFailureWords } from '#core/wording';
import type { Connection } from '../db/connection';
import { prepareFirst } from '../db/prepared';
import { bodies, entries, signatures } from '../db/schema';
import { withinTime } from './bounded';
import { BLOCK, WHOLE } from './protocol';
import { asRead, bodyText, type KeptBody, mayHold, payloadText } from './texts';

/** What a regular expression may take for one exchange, and beside it for each million characters that it reads. */
const LIMIT_MS = 2000;
const LIMIT_MS_PER_MILLION = 100;

/** Everything found in one exchange. Throws TookTooLong where a regular expression does not end. */
export function findIn(exchange: Exchange, body: KeptBody | undefined, search: Search): Hit[] {
  // Unpacking a large body is none of an expression's doing: it is not timed.
  const text = body === undefined ? undefined : bodyText(exchange, body, search.needles);
  const payload = payloadText(exchange);
  const run = (): Hit[] => {
    const inBody = text === undefined ? [] : findInBody(exchange.index, 'response body', text, search);
    return [...findInExchange(exchange, payload, search), ...inBody];
  };
  if (search.needles.length > 0) return run();
  const millions = ((text?.text.length ?? 0) + (payload?.text.length ?? 0)) / 1e6;
  return withinTime(Math.ceil(LIMIT_MS + millions * LIMIT_MS_PER_MILLION), run);
}

/** What was found in an exchange, or that nothing was; its place tells how far the search is. */
export interface Searched {
  /** Which block of exchanges it is of. */
  readonly block: number;
  readonly place: number;
  readonly hits: readonly Hit[];
}

/**
 * Searches a capture, one exchange after the other. Exchanges whose signature tells that nothing can be found in them
 * are not read. A body that several exchanges had is searched once.
 * @param share of the blocks of exchanges those that are searched
 */
export function* findInCapture(
  connection: Connection,
  captureId: string,
  search: Search,
  { part, of } = WHOLE,
): Generator<Searched> {
  const reader = new EntryReader(connection, captureId);
  const known = new Map<string, readonly Hit[]>();
  const all = search.needles.map(soughtOf);
  const isUnsigned = search.needles.length === 0 || isWordOfOurs(search.needles);
  for (const [at, { place, bits }] of reader.places().entries()) {
    const block = Math.floor(at / BLOCK);
    if (block % of !== part) continue;
    const likely = isUnsigned || bits === null ? all : all.filter(({ runs }) => mayHoldRuns(bits, runs));
    if (likely.length === 0 && all.length > 0) {
      yield { block, place, hits: [] };
      continue;
    }
    yield { block, place, hits: searchEntry(reader, place, { search, sought: likely }, isUnsigned, known) };
  }
}

function searchEntry(
  reader: EntryReader,
  place: number,
  likely: { readonly search: Search; readonly sought: readonly Sought[] },
  isUnsigned: boolean,
  known: Map<string, readonly Hit[]>,
): readonly Hit[] {
  const { sought } = likely;
  const search = { ...likely.search, needles: sought.map(({ needle }) => needle) };
  const { raw, sha256, form } = reader.entry(place);
  const earlier = sha256 === null ? undefined : known.get(sha256);
  const kept = sha256 === null || earlier !== undefined ? undefined : reader.body(sha256, form);
  const isLikelyBody = kept !== undefined && (!kept.isDecodedText || mayHold(kept.bytes, search.needles));
  const isLikely = isUnsigned || isLikelyBody || mayStandIn(raw, sought);
  const hits = isLikely ? searchIn(raw, place, isLikelyBody || isUnsigned ? kept : undefined, search) : [];
  if (earlier !== undefined) return [...hits, ...earlier.map((hit) => ({ ...hit, index: place }))];
  if (sha256 !== null && kept !== undefined) {
    known.set(
      sha256,
      hits.filter((hit) => hit.place === 'response body'),
    );
  }
  return hits;
}

const isWordOfOurs = (needles: readonly Needle[]): boolean =>
  needles.some(({ text }) => isOfFailureWords(text.toLowerCase()));

/** What of a needle stands unbroken in an entry's JSON where it stands in the entry. */
interface Sought {
  readonly needle: Needle;
  /** Its runs of three letters, for signatures. */
  readonly runs: readonly number[];
  /** Its pieces as JSON has them: lines are joined of name and value by colons and spaces, which it has none of. */
  readonly pieces: readonly string[];
}

function soughtOf(needle: Needle): Sought {
  const text = needle.ignoresCase ? needle.text.toLowerCase() : needle.text;
  const pieces = text.split(/[\s:]+/).filter((piece) => piece !== '');
  return { needle, runs: runsOf(needle), pieces: pieces.map((piece) => JSON.stringify(piece).slice(1, -1)) };
}

/** Whether an entry, kept as this JSON, may hold one of what is sought beside its body. */
function mayStandIn(raw: string, sought: readonly Sought[]): boolean {
  // A payload may be kept in base64: what stands in it does not show.
  if (raw.includes('"postData":') && /"_?encoding":/.test(raw)) return true;
  let folded: string | undefined;
  return sought.some(({ needle, pieces }) => {
    if (needle.ignoresCase) folded ??= raw.toLowerCase();
    const text = needle.ignoresCase ? folded : raw;
    return pieces.every((piece) => text?.includes(piece) === true);
  });
}

function searchIn(raw: string, place: number, kept: KeptBody | undefined, search: Search): Hit[] {
  const value = JSON.parse(raw) as Json;
  if (!isObject(value)) return [];
  const exchange = normaliseEntry(value, place);
  return findIn(exchange, kept && asRead(exchange, value, kept), search);
}

/** Reads entries by queries that are prepared once. */
class EntryReader {
  readonly #places;
  readonly #entry;
  readonly #body;

  constructor(connection: Connection, captureId: string) {
    const { db } = connection;
    const ofCapture = eq(entries.captureId, captureId);
    this.#places = db
      .select({ place: entries.place, bits: signatures.bits })
      .from(entries)
      .leftJoin(signatures, and(eq(signatures.captureId, entries.captureId), eq(signatures.place, entries.place)))
      .where(ofCapture)
      .orderBy(asc(entries.place))
      .prepare();
    this.#entry = prepareFirst<'place', readonly [raw: string, sha256: string | null, form: string | null]>(
      connection,
      db
        .select({ raw: entries.raw, sha256: entries.bodySha256, form: entries.bodyForm })
        .from(entries)
        .where(and(ofCapture, eq(entries.place, sql.placeholder('place')))),
    );
    this.#body = prepareFirst<'sha256', readonly [bytes: Buffer]>(
      connection,
      db
        .select({ bytes: bodies.bytes })
        .from(bodies)
        .where(eq(bodies.sha256, sql.placeholder('sha256'))),
    );
  }

  places(): { readonly place: number; readonly bits: Buffer | null }[] {
    return this.#places.all();
  }

  entry(place: number): { readonly raw: string; readonly sha256: string | null; readonly form: string | null } {
    const row = this.#entry({ place });
    if (row === undefined) throw new Error(`entry ${place} is gone`);
    const [raw, sha256, form] = row;
    return { raw, sha256, form };
  }

  body(sha256: string, form: string | null): KeptBody | undefined {
    const row = this.#body({ sha256 });
    if (row === undefined) return undefined;
    const bytes = form === 'utf16' ? Buffer.from(row[0].toString('utf16le')) : row[0];
    return { bytes, isDecodedText: form !== 'base64' };
  }
}
