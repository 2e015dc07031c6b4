import fc from 'fast-check';
import { analyse, takeFacts } from '../../analysis';
import { type JsonObject, normaliseEntry, normalisePage } from '../../har';
import type { ComparedLoad } from '../load';
import { takeTraits } from '../load';

/** An exchange of a made-up load, in ms since the page's start. */
export interface MadeExchange {
  readonly url: string;
  readonly startMs: number;
  readonly waitMs: number;
  readonly receiveMs?: number;
  readonly blockedMs?: number;
  readonly connectMs?: number;
  readonly kind?: 'document' | 'script' | 'style' | 'image' | 'xhr';
  readonly status?: number;
  readonly method?: string;
  readonly payload?: string;
  /** Address of what asked for it. */
  readonly by?: string;
  readonly bytes?: number;
  readonly headers?: readonly (readonly [string, string])[];
  readonly body?: string;
  readonly isFromDisk?: boolean;
}

const TYPES = {
  document: 'text/html',
  script: 'text/javascript',
  style: 'text/css',
  image: 'image/png',
  xhr: 'application/json',
} as const;

const EPOCH = Date.UTC(2026, 9, 3, 7, 0, 0);

/**
 * A load made of exchanges, read as a capture of them is. Long because it writes the entries out.
 * @param laterMs so long after others it was recorded
 */
export function makeLoad(
  exchanges: readonly MadeExchange[],
  {
    loadedMs,
    readyMs,
    name = 'made',
    laterMs = 0,
  }: { loadedMs?: number; readyMs?: number; name?: string; laterMs?: number } = {},
): ComparedLoad {
  const at = (ms: number): string => new Date(EPOCH + laterMs + ms).toISOString();
  const entries = exchanges.map((one): JsonObject => {
    const { blockedMs, connectMs, waitMs, receiveMs = 1, kind = 'xhr', bytes = 1000, headers = [] } = one;
    return {
      pageref: 'p',
      startedDateTime: at(one.startMs),
      time: (blockedMs ?? 0) + (connectMs ?? 0) + waitMs + receiveMs,
      _resourceType: kind,
      ...(one.by === undefined ? {} : { _initiator: { type: 'parser', url: one.by } }),
      ...(one.isFromDisk === true ? { _fromCache: 'disk' } : {}),
      request: {
        method: one.method ?? 'GET',
        url: one.url,
        httpVersion: 'h2',
        headers: [],
        ...(one.payload === undefined ? {} : { postData: { mimeType: 'text/plain', text: one.payload } }),
      },
      response: {
        status: one.status ?? 200,
        httpVersion: 'h2',
        headers: headers.map(([header, value]) => ({ name: header, value })),
        content: { mimeType: TYPES[kind], size: bytes, ...(one.body === undefined ? {} : { text: one.body }) },
        bodySize: one.isFromDisk === true ? 0 : bytes,
        headersSize: 0,
      },
      timings: {
        blocked: blockedMs ?? -1,
        dns: -1,
        connect: connectMs ?? -1,
        ssl: -1,
        send: 0,
        wait: waitMs,
        receive: receiveMs,
      },
    } as unknown as JsonObject;
  });
  const page = normalisePage(
    {
      id: 'p',
      title: name,
      startedDateTime: at(0),
      pageTimings: { onLoad: loadedMs ?? -1, onContentLoad: readyMs ?? -1 },
    },
    0,
  );
  const read = entries.map((entry, place) => normaliseEntry(entry, place));
  const { rows, overview } = analyse(read.map(takeFacts), [page], { type: 'whole' });
  return {
    name,
    page: overview.pages[0],
    rows,
    traits: read.map((exchange, place) => takeTraits(exchange, exchanges[place]?.body)),
    findings: [],
    foretold: undefined,
  };
}

const PATHS = [
  '/',
  '/app.js',
  '/app.3f9a1c.js',
  '/style.css',
  '/api/huts?page=1',
  '/api/huts?page=2',
  '/api/huts/17/beds',
  '/api/huts/18/beds',
  '/photos/alba-1.png',
  '/photos/alba-2.png',
  '/photos/serena-1.png',
  '/graphql',
];
const HOSTS = ['https://www.cumbrera.example', 'https://api.cumbrera.example'];

/** Random loads of a small site: calls repeated, in any order, with any times, with milestones or without. */
export const anyLoad: fc.Arbitrary<ComparedLoad> = fc
  .record({
    exchanges: fc.array(
      fc.record({
        url: fc.tuple(fc.constantFrom(...HOSTS), fc.constantFrom(...PATHS)).map(([host, path]) => host + path),
        startMs: fc.integer({ min: 0, max: 2000 }),
        waitMs: fc.integer({ min: 0, max: 800 }),
        receiveMs: fc.integer({ min: 0, max: 300 }),
        kind: fc.constantFrom('document', 'script', 'style', 'image', 'xhr'),
        status: fc.constantFrom(200, 200, 200, 304, 404, 500),
        method: fc.constantFrom('GET', 'GET', 'POST'),
        bytes: fc.integer({ min: 0, max: 90_000 }),
      }),
      { maxLength: 14 },
    ),
    more: fc.array(
      fc.record({
        blockedMs: fc.option(fc.integer({ min: 0, max: 90 })),
        connectMs: fc.option(fc.integer({ min: 0, max: 90 })),
      }),
    ),
    loadedMs: fc.option(fc.integer({ min: 1, max: 4000 }), { nil: undefined }),
    readyMs: fc.option(fc.integer({ min: 1, max: 2000 }), { nil: undefined }),
  })
  .map(({ exchanges, more, loadedMs, readyMs }) =>
    makeLoad(
      exchanges.map((one, at) => {
        const { blockedMs, connectMs } = more[at] ?? {};
        return {
          ...one,
          ...(blockedMs === undefined || blockedMs === null ? {} : { blockedMs }),
          ...(connectMs === undefined || connectMs === null ? {} : { connectMs }),
        } as MadeExchange;
      }),
      { ...(loadedMs === undefined ? {} : { loadedMs }), ...(readyMs === undefined ? {} : { readyMs }) },
    ),
  );
