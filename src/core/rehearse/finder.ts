import { HASHED_CHARS } from '../analysis';
import { addTo } from '../collections';
import { textFromBytes } from '../content';
import { queryOf, splitUrl } from '../http';
import {
  type Exchange,
  findField,
  findHeader,
  findResponse,
  hashText,
  type NameValue,
  sentPayloadBytes,
} from '../model';
import { originOf } from './addresses';
import { type Asked, type CapturedRequest, normalPath } from './asked';
import { compareFields, type FieldDifference, queryFields } from './fit';
import { findNearest, type Nearest } from './nearest';
import { arrivedFields, capturedFields, payloadKey } from './payload-fields';
import { rangeFit } from './ranges';

/** Which captured response is given, and by what it was chosen. */
export type Match =
  | {
      readonly type: 'fits';
      readonly exchange: Exchange;
      /** Parameters and fields that are not the same and do not count: tokens, and what is new each time. */
      readonly differs: readonly FieldDifference[];
      /** Which of those that fit alike it is, from 1, and how many there are. */
      readonly turn: number;
      readonly of: number;
    }
  | { readonly type: 'none'; readonly nearest: Nearest | undefined };

export interface FinderOptions {
  /** Tokens, cookies and what is new each time have to be the same, too. */
  readonly isExact: boolean;
}

interface Candidate {
  readonly request: CapturedRequest;
  readonly query: readonly FieldDifference[];
}

/** Two of them are compared in full; of more of one path, those whose payload says the same are found by its key. */
const MOST_COMPARED = 300;

/**
 * Finds the captured response that fits a request: the same method, path and, where one is named, host; among those by query,
 * GraphQL operation and variables, and payload; then by the headers that the response varies by. Several that fit alike are
 * given in captured order, the last one again and again.
 */
export class ResponseFinder {
  readonly #byPath = new Map<string, CapturedRequest[]>();
  readonly #read: (index: number) => Exchange;
  readonly #turns = new Map<string, number>();
  /** Keys of payloads, for paths that were asked by more requests than can be compared each time. */
  readonly #payloadKeys = new Map<number, string | undefined>();
  readonly #mainOrigin: string | undefined;
  readonly #isExact: boolean;

  /**
   * @param requests in captured order
   * @param read gives an exchange in full; it is asked for those that come into question
   */
  constructor(
    requests: Iterable<CapturedRequest>,
    read: (index: number) => Exchange,
    { mainOrigin, isExact }: { readonly mainOrigin: string | undefined } & FinderOptions,
  ) {
    this.#read = read;
    this.#mainOrigin = mainOrigin;
    this.#isExact = isExact;
    for (const request of requests) addTo(this.#byPath, keyOf(request.method, pathOf(request.url)), request);
  }

  find(asked: Asked): Match {
    const alike = this.#alike(asked);
    const [first] = alike;
    if (first === undefined)
      return { type: 'none', nearest: findNearest(asked, this.#byPath, (index) => this.#read(index)) };
    const key = `${asked.method} ${alike.map(({ exchange }) => exchange.index).join(' ')}`;
    const turn = Math.min((this.#turns.get(key) ?? 0) + 1, alike.length);
    this.#turns.set(key, turn);
    const { exchange, differs } = alike[turn - 1] ?? first;
    return { type: 'fits', exchange, differs, turn, of: alike.length };
  }

  /** An exchange that fits, without it being anybody's turn. */
  look = (asked: Asked): Exchange | undefined => this.#alike(asked)[0]?.exchange;

  /** Begins from the first of each again. */
  rewind(): void {
    this.#turns.clear();
  }

  #there(method: string, { origin, path, query, headers }: Asked): Candidate[] {
    const list = this.#byPath.get(keyOf(method, normalPath(path))) ?? [];
    const asked = queryFields(query);
    const isSocket = /^websocket$/i.test(findHeader(headers, 'upgrade') ?? '');
    return list.flatMap((request) => {
      if (request.isSocket !== isSocket) return [];
      if (origin !== undefined && originOf(request.url) !== origin) return [];
      return [{ request, query: compareFields(queryFields(queryOf(request.url)), asked) }];
    });
  }

  #fitting(asked: Asked, candidates: readonly Candidate[]): Fitting[] {
    const isFit = (differences: readonly FieldDifference[]): boolean =>
      differences.length === 0 || (!this.#isExact && differences.every(({ changes }) => changes));
    const byQuery = candidates.filter(({ query, request }) => isFit(query) && this.#isSamePreflight(asked, request));
    // Those whose query is the same to the letter come first.
    const same = byQuery.filter(({ query }) => query.length === 0);
    for (const list of [same, byQuery]) {
      const found = this.#byPayload(asked, list, isFit);
      if (found.length > 0) return found;
    }
    return this.#isExact ? [] : this.#bySilence(asked, candidates);
  }

  /** A preflight asks for leave for one method (Fetch 4.8); recorders may not tell for which. */
  #isSamePreflight({ headers }: Asked, { index, method }: CapturedRequest): boolean {
    const name = 'access-control-request-method';
    const asked = findHeader(headers, name);
    if (asked === undefined || method.toUpperCase() !== 'OPTIONS') return true;
    return asked === (findHeader(this.#read(index).request.headers, name) ?? asked);
  }

  /**
   * What only takes note, as a counter does, gives the same nothing whatever the values are: it fits where the names of
   * parameters and fields are the same.
   */
  #bySilence(asked: Asked, candidates: readonly Candidate[]): Fitting[] {
    const isOfOneName = ({ captured, asked: is }: FieldDifference): boolean =>
      captured !== undefined && is !== undefined;
    const named = candidates.filter(({ query }) => query.every(isOfOneName)).slice(0, MOST_SILENT);
    return this.#byPayload(asked, named, (differences) => differences.every(isOfOneName)).filter(({ exchange }) =>
      saysNothing(exchange),
    );
  }

  #byPayload(
    asked: Asked,
    candidates: readonly Candidate[],
    isFit: (differences: readonly FieldDifference[]) => boolean,
  ): Fitting[] {
    const arrived = arrivedFields(asked.path + asked.query, findHeader(asked.headers, 'content-type'), asked.body);
    const near = candidates.length <= MOST_COMPARED ? candidates : this.#near(asked, candidates, payloadKey(arrived));
    const known: Fitting[] = [];
    const unknown: Fitting[] = [];
    for (const { request, query } of near.slice(0, MOST_COMPARED)) {
      const exchange = this.#read(request.index);
      const own = capturedFields(exchange.request);
      const payload = own === undefined ? [] : compareFields(own.fields, arrived.fields);
      (own === undefined ? unknown : known).push({ exchange, differs: [...query, ...payload], payload });
    }
    // What the capture does not hold can be told apart by its length alone.
    const ofLength = unknown.filter(({ exchange }) => sentPayloadBytes(exchange.request) === asked.body.length);
    const ways = [
      known.filter(({ payload }) => payload.length === 0),
      known.filter(({ payload }) => isFit(payload)),
      ofLength,
      // Code that was written from the capture sends nothing where it has nothing.
      unknown,
    ];
    return ways.find((found) => found.length > 0) ?? [];
  }

  /** Of more than can be compared those that sent the very same text; else those that say the same. */
  #near({ body }: Asked, candidates: readonly Candidate[], key: string): readonly Candidate[] {
    const text = body.length === 0 ? undefined : textFromBytes(body);
    const hash = text === undefined ? undefined : hashText(text.slice(0, HASHED_CHARS));
    const same = candidates.filter(({ request }) => request.payloadHash === hash);
    return same.length > 0 ? same : candidates.filter(({ request }) => this.#keyOf(request.index) === key);
  }

  #keyOf(index: number): string | undefined {
    if (!this.#payloadKeys.has(index)) {
      const own = capturedFields(this.#read(index).request);
      this.#payloadKeys.set(index, own === undefined ? undefined : payloadKey(own));
    }
    return this.#payloadKeys.get(index);
  }

  /** Those that fit, and whose other headers fit as well as any; in captured order. */
  #alike(asked: Asked): Fitting[] {
    const there = this.#there(asked.method, asked);
    // What HEAD gives is what GET would, without its body (RFC 9110 9.3.2).
    const candidates = there.length === 0 && asked.method === 'HEAD' ? this.#there('GET', asked) : there;
    const ranked = this.#fitting(asked, candidates).map((one) => ({ one, rank: this.#rankOf(asked, one.exchange) }));
    const best = Math.min(...ranked.map(({ rank }) => rank));
    return ranked.filter(({ rank }) => rank === best).map(({ one }) => one);
  }

  /** How ill the headers of a captured request fit, the gravest first: its host, what its response varies by, ranges, conditions. */
  #rankOf({ origin, headers }: Asked, exchange: Exchange): number {
    const { request } = exchange;
    const isOther = origin === undefined && originOf(request.url) !== this.#mainOrigin;
    const varies = variedBy(exchange).filter((name) => said(request.headers, name) !== said(headers, name)).length;
    const status = findResponse(exchange)?.status;
    const isConditional = ['if-none-match', 'if-modified-since'].some(
      (name) => findHeader(headers, name) !== undefined,
    );
    const isOdd = status === 304 && !isConditional;
    return (isOther ? 1000 : 0) + (isOdd ? 500 : 0) + RANGE_RANK[rangeFit(headers, exchange)] + Math.min(varies, 100);
  }
}

const RANGE_RANK = { same: 0, all: 120, beginning: 150, other: 200 } as const;

interface Fitting {
  readonly exchange: Exchange;
  readonly differs: readonly FieldDifference[];
  readonly payload: readonly FieldDifference[];
}

/** No content, or a picture of a few bytes, as counters give (RFC 9110 15.3.5). */
function saysNothing(exchange: Exchange): boolean {
  const response = findResponse(exchange);
  if (response === undefined || response.status >= 300) return false;
  if (response.status === 204 || exchange.bodyBytes === 0) return true;
  return /^image\//i.test(response.mimeType ?? '') && (exchange.bodyBytes ?? Number.POSITIVE_INFINITY) <= DOT_BYTES;
}
const DOT_BYTES = 100;
const MOST_SILENT = 20;

/** The headers that a response varies by (RFC 9110 12.5.5); what only says how it is packed does not count. */
function variedBy(exchange: Exchange): string[] {
  const vary = findField(findResponse(exchange)?.headers ?? [], 'vary') ?? '';
  return vary
    .split(',')
    .map((name) => name.trim().toLowerCase())
    .filter((name) => name !== '' && name !== '*' && name !== 'accept-encoding');
}

const said = (headers: readonly NameValue[], name: string): string => (findHeader(headers, name) ?? '').trim();

const keyOf = (method: string, path: string): string => `${method.toUpperCase()} ${path}`;
const pathOf = (url: string): string => normalPath(splitUrl(url)?.path ?? url);
