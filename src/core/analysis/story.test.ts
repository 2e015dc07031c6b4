import { describe, expect, it } from 'vitest';
import { type JsonObject, normaliseEntry } from '../har';
import { analyse, findSurroundings, isAlone, takeFacts, tellStory } from './index';

interface Sketch {
  readonly url?: string;
  readonly at?: number;
  readonly method?: string;
  readonly response?: Record<string, unknown>;
  readonly timings?: Record<string, number>;
  readonly request?: Record<string, unknown>;
  readonly extra?: Record<string, unknown>;
}

const ZERO = Date.UTC(2026, 9, 3, 9, 0, 0);
const WWW = 'https://www.cumbrera.example';
const DOCUMENT: Sketch = {
  url: `${WWW}/`,
  timings: { send: 1, wait: 20, receive: 4 },
  extra: { _resourceType: 'document' },
};

const entryOf = (sketch: Sketch, place: number): JsonObject =>
  ({
    startedDateTime: new Date(ZERO + (sketch.at ?? place * 100)).toISOString(),
    request: { method: sketch.method ?? 'GET', url: sketch.url ?? `${WWW}/call`, headers: [], ...sketch.request },
    response: { status: 200, content: { size: 100, text: 'x' }, _transferSize: 150, ...sketch.response },
    timings: sketch.timings ?? { send: 1, wait: 20, receive: 4 },
    _resourceType: 'fetch',
    ...sketch.extra,
  }) as unknown as JsonObject;

/** The story of the last of these exchanges. */
function storyOf(...sketches: Sketch[]): string {
  const facts = sketches.map((sketch, place) => takeFacts(normaliseEntry(entryOf(sketch, place), place)));
  const { rows } = analyse(facts, [], { type: 'whole' });
  const row = rows.at(-1);
  if (row === undefined) throw new Error('no row');
  return tellStory({ ...row, isOnRoute: false }, findSurroundings(row, rows));
}
/** Only what is told of how it went, for exchanges that stand alone. */
const outcomeOf = (sketch: Sketch): string => storyOf(sketch).replace(/^Started at [\d.]+ ms\. /, '');
const PLAIN = 'Returned 200 in 25 ms, 20 ms of it waiting for the server; 150 B on the wire, 100 B decoded.';
const declared = (url: string) => ({ extra: { _resourceType: 'fetch', _initiator: { type: 'script', url } } });

describe('what came back, from where, and what took the time', () => {
  it.each<[Sketch, string]>([
    [{}, PLAIN],
    [
      { timings: { dns: 30, connect: 60, ssl: 30, send: 0, wait: 50, receive: 10 } },
      'Started at 0 ms, on a new connection, set up in 90 ms. Returned 200 in 150 ms, 90 ms of it setting up the connection; 150 B on the wire, 100 B decoded.',
    ],
    [
      { timings: { blocked: 900, send: 0, wait: 50, receive: 10 } },
      'Returned 200 in 960 ms, 900 ms of it blocked in the browser; 150 B on the wire, 100 B decoded.',
    ],
    [
      { timings: { send: 0, wait: 50, receive: 950 } },
      'Returned 200 in 1.00 s, 950 ms of it downloading; 150 B on the wire, 100 B decoded.',
    ],
    [
      { timings: { send: 0, wait: 50, receive: 50 } },
      'Returned 200 in 100 ms, 50 ms of it waiting for the server; 150 B on the wire, 100 B decoded.',
    ],
    [{ timings: { send: 0, wait: 0, receive: 0 } }, 'Returned 200 in 0 ms; 150 B on the wire, 100 B decoded.'],
    [{ timings: {} }, 'Returned 200; duration unknown; 150 B on the wire, 100 B decoded.'],
    [{ timings: {}, extra: { time: 40 } }, 'Returned 200 in 40 ms; 150 B on the wire, 100 B decoded.'],
    [
      { response: { _transferSize: 0 } },
      "Taken from the browser's cache with status 200, without contacting the server; 100 B decoded.",
    ],
    [
      { extra: { _fromCache: 'memory' } },
      "Taken from the browser's memory cache with status 200, without contacting the server; 100 B decoded.",
    ],
    [
      { extra: { _fetchedViaServiceWorker: true } },
      "The page's service worker returned 200 in 25 ms, 20 ms of it waiting for the worker; 100 B decoded.",
    ],
    [
      { extra: { _was_pushed: 1 } },
      'Pushed by the server with status 200 before it was requested; 150 B on the wire, 100 B decoded.',
    ],
    [
      { extra: { _fromPrefetchCache: true } },
      'Status 200, from what the browser had prefetched; 150 B on the wire, 100 B decoded.',
    ],
    [
      { response: { status: 304, content: { size: -1 } }, timings: { send: 0, wait: 9, receive: 9 } },
      'The server confirmed the stored copy (304) in 18 ms, 9.0 ms of it waiting for the server; 150 B on the wire.',
    ],
    [{ response: { status: 500 } }, PLAIN.replace('200', '500')],
    [
      { response: { _transferSize: -1, headersSize: -1, bodySize: -1 } },
      'Returned 200 in 25 ms, 20 ms of it waiting for the server; 100 B decoded, transfer size unknown.',
    ],
    [
      { response: { _transferSize: -1, headersSize: -1, bodySize: -1, content: { size: -1 } } },
      'Returned 200 in 25 ms, 20 ms of it waiting for the server.',
    ],
    [
      { response: { status: -1, _failureText: 'net::ERR_CONNECTION_REFUSED' }, timings: {}, extra: { time: 15.8 } },
      'No response arrived after 16 ms: net::ERR_CONNECTION_REFUSED.',
    ],
    [
      { response: { status: -1, _failureText: 'net::ERR_ABORTED' } },
      'No response arrived after 25 ms: net::ERR_ABORTED.',
    ],
    [{ response: { status: 0 }, timings: {} }, 'No response reached the page, and the capture does not say why.'],
    [
      { response: { _failureText: 'net::ERR_CONTENT_LENGTH_MISMATCH' }, timings: { send: 0, wait: 1, receive: 9 } },
      'Cut off after status 200 in 10 ms, 9.0 ms of it downloading; 150 B on the wire, 100 B decoded.',
    ],
  ])('%#', (sketch, story) => {
    expect(outcomeOf(sketch)).toBe(story);
  });
});

describe('who asked for it, on what connection', () => {
  const pooled = (sketch: Sketch): Sketch => ({ ...sketch, extra: { ...sketch.extra, _connectionId: '7' } });
  it.each<[string, Sketch[], RegExp]>([
    ['the recorder says who', [DOCUMENT, { ...declared(`${WWW}/`) }], /^Requested by \/ \(#0\) at 100 ms\. /],
    ['only the page is known', [DOCUMENT, {}], /^Probably requested by \/ \(#0\) at 100 ms\. /],
    [
      'its Referer is all that tells',
      [DOCUMENT, { request: { headers: [{ name: 'Referer', value: `${WWW}/` }] } }],
      /^Requested by \/ \(#0\), says its Referer, at 100 ms\. /,
    ],
    ['nothing is known', [{}], /^Started at 0 ms\. /],
    [
      'an open connection was there',
      [pooled(DOCUMENT), pooled({})],
      /^Probably requested by \/ \(#0\) at 100 ms, on the connection that \/ \(#0\) had used\. /,
    ],
    [
      'an open connection was opened before it',
      [pooled({ ...DOCUMENT, timings: { connect: 30, send: 0, wait: 20, receive: 4 } }), pooled({})],
      /, on the connection that \/ \(#0\) had opened\. /,
    ],
    [
      'a redirect led to it',
      [{ ...DOCUMENT, url: `${WWW}/old`, response: { status: 301, redirectURL: `${WWW}/` } }, DOCUMENT],
      /^Where \/old \(#0\) led at 100 ms\. /,
    ],
    [
      'it asks leave',
      [
        DOCUMENT,
        { method: 'PUT', at: 100 },
        { method: 'OPTIONS', at: 101, request: { headers: [{ name: 'Access-Control-Request-Method', value: 'PUT' }] } },
      ],
      /^Sent at 101 ms as the preflight for call \(#1\)\. /,
    ],
  ])('when %s', (_, sketches, beginning) => {
    expect(storyOf(...sketches)).toMatch(beginning);
  });
});

describe('how it compares, and what came of it', () => {
  const call = (wait: number): Sketch => ({ url: `${WWW}/call?${wait}`, timings: { send: 0, wait, receive: 0 } });
  it.each<[string, Sketch[], RegExp]>([
    ['one other call', [call(40), call(60)], /The other call to this endpoint took 40 ms\.$/],
    ['few others', [call(40), call(50), call(60)], /Other calls to this endpoint took 40 ms and 50 ms\.$/],
    [
      'the slowest',
      [10, 20, 30, 40, 50, 90].map(call),
      /Slowest of 6 calls to this endpoint, median of the others 30 ms\.$/,
    ],
    [
      'a slow one',
      [10, 20, 30, 40, 95, 90].map(call),
      /1 of 6 calls to this endpoint, median of the others 30 ms, was slower\.$/,
    ],
    [
      'a usual one',
      [10, 20, 30, 40, 50, 31].map(call),
      /Typical for this endpoint: the median of its 5 other calls is 30 ms\.$/,
    ],
    [
      'a quick one',
      [30, 20, 30, 40, 50, 9].map(call),
      /Quick for this endpoint: the median of its 5 other calls is 30 ms\.$/,
    ],
    [
      'one that was refused at once',
      [...[30, 20, 30, 40, 50].map(call), { ...call(9), response: { status: 403 } }],
      /100 B decoded\. The median of its 5 other calls is 30 ms\.$/,
    ],
    [
      'a retry that helped',
      [{ response: { status: 503, statusText: 'Busy' } }, {}],
      /Repeats #0, which had failed: status 503 Busy\.$/,
    ],
    ['a second fetch', [{}, {}], /The same URL had been requested before, as #0\.$/],
    [
      'a second fetch from cache',
      [{}, { response: { _transferSize: 0 } }],
      /100 B decoded\. The other call to this endpoint took 25 ms\.$/,
    ],
  ])('%s', (_, sketches, end) => {
    expect(storyOf(...sketches)).toMatch(end);
  });

  it('of one that failed tells how it went on, and on the route that it delayed the load', () => {
    const facts = [{ response: { status: 503 } }, {}].map((sketch, place) =>
      takeFacts(normaliseEntry(entryOf(sketch, place), place)),
    );
    const { rows } = analyse(facts, [], { type: 'whole' });
    const [failed] = rows;
    if (failed === undefined) throw new Error('no row');
    expect(tellStory({ ...failed, isOnRoute: true }, findSurroundings(failed, rows))).toMatch(
      /Sent again as #1 and succeeded\. On the route: the load waited for it\.$/,
    );
  });
});

it('says what a response that was sent as a success says went wrong', () => {
  const { rows } = analyse([takeFacts(normaliseEntry(entryOf({}, 0), 0))], [], { type: 'whole' });
  const [row] = rows.map((one) => ({ ...one, errorInside: 'no such hut.' }));
  if (row === undefined) throw new Error('no row');
  expect(tellStory(row, findSurroundings(row, [row]))).toContain(
    'Its body says that something went wrong: “no such hut”.',
  );
});

describe('an exchange stands alone', () => {
  const rowsOf = (...sketches: Sketch[]) =>
    analyse(
      sketches.map((sketch, place) => takeFacts(normaliseEntry(entryOf(sketch, place), place))),
      [],
      { type: 'whole' },
    ).rows;
  const MOVED = { status: 302, redirectURL: `${WWW}/new`, content: { size: 0 } };

  it.each<[string, boolean, Sketch[]]>([
    ['where there is no other', true, [DOCUMENT]],
    [
      'not where it led to another address',
      false,
      [
        { ...DOCUMENT, response: MOVED },
        { ...DOCUMENT, url: `${WWW}/new` },
      ],
    ],
    [
      'not where another went over its connection',
      false,
      [
        { ...DOCUMENT, extra: { _resourceType: 'document', connection: '7' } },
        { url: `${WWW}/other`, extra: { _resourceType: 'document', connection: '7' } },
      ],
    ],
  ])('%s', (_, alone, sketches) => {
    const rows = rowsOf(...sketches);
    const [row] = rows;
    if (row === undefined) throw new Error('no row');
    expect(isAlone(findSurroundings(row, rows))).toBe(alone);
  });
});
