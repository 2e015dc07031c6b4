import type { ExchangeRow, PageOverview } from '../analysis';
import type { NextVisit } from '../cache';
import type { Finding } from '../diagnose';
import { type Exchange, findResponse } from '../model';

/** What a comparison needs of an exchange beside its row. */
export interface ExchangeTraits {
  readonly priority: string | undefined;
  /** The values of `MATTERING` response headers, in their order; undefined where there is none. */
  readonly headers: readonly (string | undefined)[];
  /** The same for bodies of the same bytes; absent where none was recorded. */
  readonly bodyHash: string | undefined;
}

/** Response headers that decide what becomes of a response: caching, coding, type. Names in small letters. */
export const MATTERING = [
  'content-type',
  'content-encoding',
  'cache-control',
  'expires',
  'vary',
  'etag',
  'last-modified',
  'location',
] as const;

/** Of these it matters whether they are there: their values change with every release, or every load. */
export const BY_PRESENCE: ReadonlySet<string> = new Set(['expires', 'etag', 'last-modified']);

export function takeTraits(exchange: Exchange, bodyHash: string | undefined): ExchangeTraits {
  const found = new Map<string, string>();
  for (const { name, value } of findResponse(exchange)?.headers ?? []) {
    const known = found.get(name.toLowerCase());
    found.set(name.toLowerCase(), known === undefined ? value : `${known}, ${value}`);
  }
  return { priority: exchange.priority, headers: MATTERING.map((name) => found.get(name)), bodyHash };
}

/** One load: a page of a capture, or a whole capture that has none. */
export interface ComparedLoad {
  /** What it is called on the screen. */
  readonly name: string;
  readonly page: PageOverview | undefined;
  /** Its exchanges, times since the page's start. */
  readonly rows: readonly ExchangeRow[];
  /** One for each row; none where the headers and bodies were not read. */
  readonly traits: readonly ExchangeTraits[];
  /** What the rules found on it; undefined while its bodies are still being read. */
  readonly findings: readonly Finding[] | undefined;
  /** For each row what a visit as late as the other side's would do with it; absent where that is not known. */
  readonly foretold: readonly NextVisit[] | undefined;
}
