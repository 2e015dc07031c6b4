import { and, asc, eq, sql } from 'drizzle-orm';
import { findInBody, findInExchange, type Hit, mayHoldRuns, type Needle, runsOf, type Search } from '#core/find';
import { isObject, type Json, normaliseEntry } from '#core/har';
import type { Exchange } from '#core/model';
import { FAILURE_WORDS } from '#core/wording';
import type { Connection } from '../db/connection';
import { bodies, entries, signatures } from '../db/schema';
import { withinTime } from './bounded';
import { bodyText, type KeptBody, mayHold, payloadText } from './texts';

/** What one exchange may take of a regular expression's time. */
const LIMIT_MS = 2000;

/** Everything found in one exchange. Throws TookTooLong where a regular expression does not end. */
export function findIn(exchange: Exchange, body: KeptBody | undefined, search: Search): Hit[] {
  const run = (): Hit[] => {
    const text = body === undefined ? undefined : bodyText(exchange, body, search.needles);
    const inBody = text === undefined ? [] : findInBody(exchange.index, 'response body', text, search);
    return [...findInExchange(exchange, payloadText(exchange), search), ...inBody];
  };
  return search.needles.length === 0 ? withinTime(LIMIT_MS, run) : run();
}

/** What was found in an exchange, or that nothing was; its place tells how far the search is. */
export interface Searched {
  readonly place: number;
  readonly hits: readonly Hit[];
}

/**
 * Searches a capture, one exchange after the other. Exchanges whose signature tells that nothing can be found in them
 * are not read. A body that several exchanges had is searched once.
 */
export function* findInCapture(connection: Connection, captureId: string, search: Search): Generator<Searched> {
  const reader = new EntryReader(connection, captureId);
  const known = new Map<string, readonly Hit[]>();
  const sought = search.needles.map((needle) => ({ needle, runs: runsOf(needle) }));
  const isUnsigned = search.needles.length === 0 || isWordOfOurs(search.needles);
  for (const { place, bits } of reader.places()) {
    const likely =
      isUnsigned || bits === null
        ? search.needles
        : sought.flatMap(({ needle, runs }) => (mayHoldRuns(bits, runs) ? needle : []));
    if (likely.length === 0 && search.needles.length > 0) {
      yield { place, hits: [] };
      continue;
    }
    yield { place, hits: searchEntry(reader, place, { ...search, needles: likely }, isUnsigned, known) };
  }
}

function searchEntry(
  reader: EntryReader,
  place: number,
  search: Search,
  isUnsigned: boolean,
  known: Map<string, readonly Hit[]>,
): readonly Hit[] {
  const { raw, sha256, form } = reader.entry(place);
  const earlier = sha256 === null ? undefined : known.get(sha256);
  const kept = sha256 === null || earlier !== undefined ? undefined : reader.body(sha256, form);
  const isLikelyBody = kept !== undefined && (!kept.isDecodedText || mayHold(kept.bytes, search.needles));
  const isLikely = isUnsigned || isLikelyBody || mayStandIn(raw, search.needles);
  const exchange = isLikely ? readEntry(raw, place) : undefined;
  const hits = exchange === undefined ? [] : findIn(exchange, isLikelyBody || isUnsigned ? kept : undefined, search);
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
  needles.some(
    ({ text }) => FAILURE_WORDS.includes(text.toLowerCase()) || /no response|cut off after|status \d/i.test(text),
  );

/**
 * Whether an entry's JSON may hold a needle: by its longest run of letters that neither escapes nor the joining of
 * header lines changes.
 */
function mayStandIn(raw: string, needles: readonly Needle[]): boolean {
  // A payload may be kept in base64: what stands in it does not show.
  if (raw.includes('"postData":') && /"_?encoding":/.test(raw)) return true;
  let folded: string | undefined;
  return needles.some(({ text, ignoresCase }) => {
    const longest = (text.match(/[\w-]+/g) ?? []).reduce((most, run) => (run.length > most.length ? run : most), '');
    if (longest === '') return true;
    if (!ignoresCase) return raw.includes(longest);
    folded ??= raw.toLowerCase();
    return folded.includes(longest.toLowerCase());
  });
}

function readEntry(raw: string, place: number): Exchange | undefined {
  const value = JSON.parse(raw) as Json;
  return isObject(value) ? normaliseEntry(value, place) : undefined;
}

/** Reads entries by queries that are prepared once. */
class EntryReader {
  readonly #places;
  readonly #entry;
  readonly #body;

  constructor({ db }: Connection, captureId: string) {
    const ofCapture = eq(entries.captureId, captureId);
    this.#places = db
      .select({ place: entries.place, bits: signatures.bits })
      .from(entries)
      .leftJoin(signatures, and(eq(signatures.captureId, entries.captureId), eq(signatures.place, entries.place)))
      .where(ofCapture)
      .orderBy(asc(entries.place))
      .prepare();
    this.#entry = db
      .select({ raw: entries.raw, sha256: entries.bodySha256, form: entries.bodyForm })
      .from(entries)
      .where(and(ofCapture, eq(entries.place, sql.placeholder('place'))))
      .prepare();
    this.#body = db
      .select({ bytes: bodies.bytes })
      .from(bodies)
      .where(eq(bodies.sha256, sql.placeholder('sha256')))
      .prepare();
  }

  places(): { readonly place: number; readonly bits: Buffer | null }[] {
    return this.#places.all();
  }

  entry(place: number): { readonly raw: string; readonly sha256: string | null; readonly form: string | null } {
    const row = this.#entry.get({ place });
    if (row === undefined) throw new Error(`entry ${place} is gone`);
    return row;
  }

  body(sha256: string, form: string | null): KeptBody | undefined {
    const row = this.#body.get({ sha256 });
    if (row === undefined) return undefined;
    const bytes = form === 'utf16' ? Buffer.from(row.bytes.toString('utf16le')) : row.bytes;
    return { bytes, isDecodedText: form !== 'base64' };
  }
}
