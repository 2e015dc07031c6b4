import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { analyse, type CaptureOverview, type ExchangeRow, takeFacts } from '../analysis';
import { type JsonObject, normaliseEntry, normalisePage } from '../har';
import { exchangeIndex } from '../model';
import { documentOf } from './document';
import { type Change, documentAnswersMs, Load, plotPage, tellBrief, tellCard, tellLegs, WhatIf } from './index';

interface Sketch {
  readonly at?: number;
  readonly host?: string;
  readonly kind?: string;
  readonly timings?: Readonly<Record<string, number>>;
  readonly time?: number;
  readonly by?: number;
  readonly url?: string;
  readonly status?: number;
  readonly failure?: string;
  readonly payload?: string;
  readonly protocol?: string;
  readonly wire?: number | undefined;
  /** The exchange that a redirect leads to. */
  readonly location?: number;
}

const START = Date.UTC(2026, 9, 3, 9);

/** @param pages when each page that was recorded was loaded, in ms since it began, all at once */
function analysisOf(
  sketches: readonly Sketch[],
  pages: readonly number[] = [],
): { readonly rows: ExchangeRow[]; readonly overview: CaptureOverview } {
  const urlOf = (at: number): string =>
    `https://${sketches[at]?.host ?? 'www.a.example'}${sketches[at]?.url ?? `/${at}`}`;
  const facts = sketches.map((sketch, place) =>
    takeFacts(
      normaliseEntry(
        {
          startedDateTime: new Date(START + (sketch.at ?? 0)).toISOString(),
          request: {
            method: sketch.payload === undefined ? 'GET' : 'POST',
            url: urlOf(place),
            ...(sketch.payload === undefined
              ? {}
              : { postData: { mimeType: 'application/json', text: sketch.payload } }),
          },
          response: {
            status: sketch.status ?? (sketch.failure === undefined ? 200 : 0),
            ...(sketch.failure === undefined ? {} : { _failureText: sketch.failure }),
            ...(sketch.protocol === undefined ? {} : { httpVersion: sketch.protocol }),
            ...(sketch.wire === undefined ? {} : { _transferSize: sketch.wire }),
            ...(sketch.location === undefined ? {} : { redirectURL: urlOf(sketch.location) }),
          },
          time: sketch.time ?? 0,
          timings: sketch.timings ?? {},
          _resourceType: sketch.kind ?? 'fetch',
          ...(pages.length === 0 ? {} : { pageref: 'p0' }),
          ...(sketch.by === undefined ? {} : { _initiator: { type: 'script', url: urlOf(sketch.by) } }),
        } as unknown as JsonObject,
        place,
      ),
    ),
  );
  const recorded = pages.map((onLoad, place) =>
    normalisePage({ id: `p${place}`, startedDateTime: new Date(START).toISOString(), pageTimings: { onLoad } }, place),
  );
  return analyse(facts, recorded, { type: 'whole' });
}

const rowsOf = (sketches: readonly Sketch[]): ExchangeRow[] => analysisOf(sketches).rows;

const tellOf = (sketches: readonly Sketch[], page: { loadedMs?: number; domReadyMs?: number } = {}): string => {
  const rows = rowsOf(sketches);
  const brief = plotPage(rows, { loadedMs: page.loadedMs, domReadyMs: page.domReadyMs });
  return brief === undefined ? 'none' : tellBrief(brief, new Map(rows.map((row) => [row.index, row])));
};

describe('the law of the ledger', () => {
  it('legs tile the time from origin to target, and the ledger adds up to it', () => {
    const sketch = fc.record({
      at: fc.integer({ min: 0, max: 900 }),
      kind: fc.constantFrom('document', 'script', 'fetch', 'image', 'websocket', 'stylesheet'),
      timings: fc.dictionary(
        fc.constantFrom('blocked', 'dns', 'connect', 'ssl', 'send', 'wait', 'receive'),
        fc.double({ min: -1, max: 300, noNaN: true }),
      ),
      time: fc.double({ min: 0, max: 500, noNaN: true }),
      by: fc.option(fc.nat(11), { nil: undefined }),
    });
    const milestone = fc.option(fc.double({ min: 0.1, max: 1500, noNaN: true }), { nil: undefined });
    fc.assert(
      fc.property(fc.array(sketch, { minLength: 1, maxLength: 12 }), milestone, (sketches, loadedMs) => {
        const brief = plotPage(rowsOf(sketches as Sketch[]), { loadedMs, domReadyMs: undefined });
        if (brief === undefined) throw new Error('every exchange has a start');
        let at = brief.originMs;
        for (const leg of brief.legs) {
          expect(leg.startMs).toBeCloseTo(at, 6);
          expect(leg.endMs).toBeGreaterThan(leg.startMs);
          at = leg.endMs;
        }
        const whole = brief.targetMs - brief.originMs;
        if (brief.legs.length > 0) expect(at).toBeCloseTo(brief.targetMs, 6);
        const { phases, gapMs, retryPauseMs, unknownMs, byParty, byHost, spent, sides } = brief.ledger;
        const idle = gapMs + retryPauseMs;
        const inPhases = Object.values(phases).reduce((sum, ms) => sum + ms, 0);
        expect(Math.abs(inPhases + idle + unknownMs - whole)).toBeLessThan(0.01);
        const inParties = Object.values(byParty).reduce((sum, ms) => sum + ms, 0);
        expect(Math.abs(inParties + idle - whole)).toBeLessThan(0.01);
        expect(Math.abs(byHost.reduce((sum, { ms }) => sum + ms, 0) + idle - whole)).toBeLessThan(0.01);
        expect(Math.abs(spent.reduce((sum, { ms }) => sum + ms, 0) - whole)).toBeLessThan(0.01);
        expect(Math.abs(Object.values(sides).reduce((sum, ms) => sum + ms, 0) - whole)).toBeLessThan(0.01);
      }),
    );
  });
});

type Case = [string, Sketch[], { loadedMs?: number; domReadyMs?: number }, string];

describe('the sentence', () => {
  it.each([
    [
      'one slow answer',
      [{ kind: 'document', timings: { wait: 900, receive: 100 } }],
      { loadedMs: 1000 },
      'Loaded in 1.00 s. Nearly all of it (900 ms) went to waiting for www.a.example to respond to /0 (#0).',
    ],
    [
      'a large download',
      [{ kind: 'document', timings: { wait: 100, receive: 700 } }],
      { loadedMs: 800 },
      'Loaded in 800 ms. Nearly all of it (700 ms) went to receiving /0 (#0).',
    ],
    [
      'gaps alone',
      [{ kind: 'document', timings: { wait: 10, receive: 10 } }],
      { loadedMs: 2000 },
      'Loaded in 2.00 s. Nearly all of it (1.98 s) went to gaps with no request in flight.',
    ],
    [
      'several responses of one host',
      [
        { kind: 'document', timings: { wait: 50 } },
        { at: 50, kind: 'script', host: 'api.a.example', timings: { wait: 200 }, by: 0 },
        { at: 250, kind: 'script', host: 'api.a.example', timings: { wait: 200 }, by: 1 },
      ],
      { loadedMs: 450 },
      'Loaded in 450 ms. Nearly all of it (400 ms) went to waiting for api.a.example to respond.',
    ],
    [
      'connecting',
      [{ kind: 'document', timings: { dns: 100, connect: 300, ssl: 200, wait: 100 } }],
      { loadedMs: 500 },
      'Loaded in 500 ms. Four fifths of it (400 ms) went to connecting to www.a.example; 100 ms to waiting for www.a.example to respond to /0 (#0), no longer than the way there and back takes.',
    ],
    [
      'a request held back',
      [{ kind: 'document', timings: { blocked: 600, wait: 200 } }],
      { loadedMs: 800 },
      'Loaded in 800 ms. Three quarters of it (600 ms) went to /0 (#0), blocked before it was sent; 200 ms to waiting for www.a.example to respond to /0 (#0).',
    ],
    [
      'only DOM ready',
      [{ kind: 'document', timings: { wait: 100 } }],
      { domReadyMs: 100 },
      'Load time unknown; DOM ready after 100 ms. All of it (100 ms) went to waiting for www.a.example to respond to /0 (#0).',
    ],
    [
      'no milestone',
      [{ kind: 'document', timings: { wait: 100 } }],
      {},
      'No milestone was recorded; the last exchange that a load waits for ended after 100 ms. All of it (100 ms) went to waiting for www.a.example to respond to /0 (#0).',
    ],
    [
      'a third party',
      [
        { kind: 'document', timings: { wait: 100 } },
        { at: 100, host: 'maps.example', kind: 'script', timings: { wait: 300 }, by: 0 },
      ],
      { loadedMs: 400 },
      'Loaded in 400 ms. Three quarters of it (300 ms) went to waiting for maps.example to respond to 1 (#1) and 100 ms to waiting for www.a.example to respond to /0 (#0).',
    ],
    [
      'many small things',
      Array.from({ length: 10 }, (_, at) => ({
        at: at * 50,
        host: `h${at}.example`,
        kind: at === 0 ? 'document' : 'script',
        timings: { wait: 50 },
        ...(at === 0 ? {} : { by: at - 1 }),
      })),
      { loadedMs: 500 },
      'Loaded in 500 ms. No single cause took 15 % or more of it.',
    ],
    [
      'an answer after loaded, which it did not wait for',
      [
        { kind: 'document', timings: { wait: 100 } },
        { at: 120, timings: { wait: 900 }, by: 0 },
      ],
      { loadedMs: 200 },
      'Loaded in 200 ms. Half of it (100 ms) went to waiting for www.a.example to respond to /0 (#0) and 100 ms to gaps in which no request was in flight that it is known to wait for.',
    ],
    [
      'a socket, which lasts',
      [
        { kind: 'document', timings: { wait: 100 } },
        { at: 110, kind: 'websocket', timings: { wait: 700 }, by: 0 },
      ],
      { loadedMs: 120 },
      'Loaded in 120 ms. Four fifths of it (100 ms) went to waiting for www.a.example to respond to /0 (#0) and 20 ms to gaps in which no request was in flight that it is known to wait for.',
    ],
    [
      'an exchange without phases',
      [{ kind: 'document', time: 300 }],
      { loadedMs: 300 },
      'Loaded in 300 ms. All of it (300 ms) went to /0 (#0), whose phases are unknown.',
    ],
    [
      'exchanges most of which have no times',
      [
        { kind: 'document', timings: { receive: 2 } },
        { at: 100, kind: 'image', timings: { receive: 3 }, by: 0 },
        { at: 100, kind: 'image', timings: { wait: 50 }, by: 0 },
      ],
      { loadedMs: 200 },
      'Loaded in 200 ms. Most of its exchanges have no times, so what took it cannot be said.',
    ],
    [
      'downloads from one host',
      [
        { kind: 'document', timings: { wait: 10, receive: 90 } },
        { at: 100, kind: 'image', timings: { send: 0, receive: 100 }, by: 0 },
      ],
      { loadedMs: 200 },
      'Loaded in 200 ms. Nearly all of it (190 ms) went to receiving responses from www.a.example, most of it for 1 (#1).',
    ],
    [
      'an upload',
      [{ kind: 'document', timings: { send: 400, wait: 100 } }],
      { loadedMs: 500 },
      'Loaded in 500 ms. Four fifths of it (400 ms) went to sending to www.a.example and 100 ms to waiting for www.a.example to respond to /0 (#0).',
    ],
    [
      'several requests held back',
      [
        { kind: 'document', timings: { blocked: 100 } },
        { at: 100, kind: 'image', timings: { blocked: 100 }, by: 0 },
      ],
      { loadedMs: 200 },
      'Loaded in 200 ms. All of it (200 ms) went to requests to www.a.example, blocked before they were sent.',
    ],
    [
      'nothing that takes time',
      [{ kind: 'document' }],
      {},
      'No milestone was recorded; the last exchange that a load waits for ended after 0 ms.',
    ],
    [
      'a redirect on the way',
      [
        { kind: 'document', timings: { wait: 300 }, status: 302, location: 1 },
        { at: 300, kind: 'document', timings: { wait: 100 } },
      ],
      { loadedMs: 400 },
      'Loaded in 400 ms. All of it (400 ms) went to waiting for www.a.example to respond, most of it for /0 (#0).',
    ],
    [
      'a request made again after its failure',
      [
        { kind: 'document', timings: { wait: 100 } },
        { at: 100, kind: 'image', timings: { wait: 200 }, status: 503, url: '/beds', by: 0 },
        { at: 800, kind: 'image', timings: { wait: 100 }, url: '/beds', by: 0 },
      ],
      { loadedMs: 900 },
      'Loaded in 900 ms. More than half of it (500 ms) went to the pause before beds (#2) was sent again and 400 ms to waiting for www.a.example to respond.',
    ],
    ...(
      [
        ['{"query":"query HutList { a }"}', '{"query":"query Weather { b }"}'],
        ['{"method":"hut.list","id":1}', '{"method":"weather","id":2}'],
      ] as const
    ).map(
      ([first, second]): Case => [
        `two calls to one address with other payloads, ${first}`,
        [
          { kind: 'document', timings: { wait: 100 } },
          { at: 100, timings: { wait: 200 }, url: '/graphql', payload: first, by: 0 },
          { at: 1500, timings: { wait: 100 }, url: '/graphql', payload: second, by: 0 },
        ],
        { loadedMs: 1600 },
        'Loaded in 1.60 s. Nearly all of it (1.50 s) went to gaps in which no request was in flight that it is known to wait for.',
      ],
    ),
    [
      'connections to two hosts',
      [
        { kind: 'document', timings: { connect: 200, wait: 50 } },
        { at: 250, host: 'fonts.a.example', kind: 'font', timings: { dns: 50, connect: 150, wait: 50 }, by: 0 },
      ],
      { loadedMs: 500 },
      'Loaded in 500 ms. Two fifths of it (200 ms) went to connecting to www.a.example and 200 ms to connecting to fonts.a.example.',
    ],
    [
      'TLS within the connecting, which HAR counts twice',
      [{ kind: 'document', timings: { connect: 300, ssl: 200, wait: 100 } }],
      { loadedMs: 400 },
      'Loaded in 400 ms. Three quarters of it (300 ms) went to connecting to www.a.example; 100 ms to waiting for www.a.example to respond to /0 (#0), no longer than the way there and back takes.',
    ],
    [
      'server, download and gaps in equal parts',
      [{ kind: 'document', timings: { wait: 100, receive: 100 } }],
      { loadedMs: 300 },
      'Loaded in 300 ms. A third of it (100 ms) went to waiting for www.a.example to respond to /0 (#0), 100 ms to receiving /0 (#0) and 100 ms to gaps with no request in flight.',
    ],
    [
      'an answer that came while the browser could use its first part',
      [
        { kind: 'document', timings: { wait: 100, receive: 400 } },
        { at: 150, kind: 'script', timings: { wait: 400 }, by: 0 },
      ],
      { loadedMs: 550 },
      'Loaded in 550 ms. Nearly all of it (500 ms) went to waiting for www.a.example to respond, most of it for 1 (#1).',
    ],
    [
      'a download cut off by loaded',
      [{ kind: 'document', timings: { wait: 100, receive: 900 } }],
      { loadedMs: 400 },
      'Loaded in 400 ms. Three quarters of it (300 ms) went to receiving /0 (#0) and 100 ms to waiting for www.a.example to respond to /0 (#0).',
    ],
    [
      'a stream, which lasts',
      [
        { kind: 'document', timings: { wait: 200 } },
        { at: 200, kind: 'eventsource', timings: { wait: 50, receive: 5000 }, by: 0 },
      ],
      {},
      'No milestone was recorded; the last exchange that a load waits for ended after 200 ms. All of it (200 ms) went to waiting for www.a.example to respond to /0 (#0).',
    ],
    [
      'a thing just worth naming and one just not',
      [{ kind: 'document', timings: { blocked: 150, send: 149, wait: 701 } }],
      { loadedMs: 1000 },
      'Loaded in 1.00 s. Two thirds of it (701 ms) went to waiting for www.a.example to respond to /0 (#0); 150 ms to /0 (#0), blocked before it was sent.',
    ],
    [
      'a load of minutes',
      [{ kind: 'document', timings: { wait: 90_000, receive: 45_000 } }],
      { loadedMs: 150_000 },
      'Loaded in 150.00 s. Two thirds of it (90.00 s) went to waiting for www.a.example to respond to /0 (#0) and 45.00 s to receiving /0 (#0).',
    ],
    [
      'a load of less than a millisecond',
      [{ kind: 'document', timings: { wait: 0.4 } }],
      { loadedMs: 0.5 },
      'Loaded in 0.5 ms. Four fifths of it (0.4 ms) went to waiting for www.a.example to respond to /0 (#0) and 0.1 ms to gaps with no request in flight.',
    ],
    [
      'a document that never came',
      [{ kind: 'document', failure: 'net::ERR_CONNECTION_REFUSED', time: 16 }],
      { loadedMs: 700 },
      'The document /0 (#0) never came (no response: net::ERR_CONNECTION_REFUSED).',
    ],
    [
      'a document that went round in a circle',
      [
        { kind: 'document', timings: { wait: 20 }, status: 302, location: 1, url: '/in' },
        { at: 20, kind: 'document', timings: { wait: 20 }, status: 302, location: 2, url: '/out' },
        { at: 40, kind: 'document', failure: 'net::ERR_TOO_MANY_REDIRECTS', time: 5, url: '/in' },
      ],
      { loadedMs: 120 },
      'The document /in (#0) never came (after 2 redirects, no response: net::ERR_TOO_MANY_REDIRECTS).',
    ],
    [
      'a document that was refused',
      [{ kind: 'document', timings: { wait: 80, receive: 10 }, status: 500, url: '/pay' }],
      { loadedMs: 100 },
      'The document /pay (#0) returned 500. Loaded in 100 ms. Four fifths of it (80 ms) went to waiting for www.a.example to respond to /pay (#0).',
    ],
    [
      'a document that was refused once, then given',
      [
        { kind: 'document', timings: { wait: 50 }, status: 302, location: 1, url: '/in' },
        { at: 50, kind: 'document', timings: { wait: 50 }, url: '/huts' },
        { at: 60, kind: 'document', timings: { wait: 20 }, status: 404, url: '/frame', by: 1 },
      ],
      { loadedMs: 100 },
      'Loaded in 100 ms. All of it (100 ms) went to waiting for www.a.example to respond.',
    ],
    [
      'a queue that the recorder counts as download',
      [
        { kind: 'document', timings: { wait: 100 } },
        ...Array.from({ length: 12 }, (_, at) => ({
          at: 100,
          host: 'img.a.example',
          kind: 'image',
          protocol: 'http/1.1',
          timings: { wait: 50, receive: at < 6 ? 50 : 250 },
          by: 0,
        })),
      ],
      { loadedMs: 400 },
      'Loaded in 400 ms. Two thirds of it (250 ms) went to receiving 7 (#7), 100 ms of it a wait for one of six connections; 100 ms to waiting for www.a.example to respond to /0 (#0).',
    ],
    [
      'a name of markup and commas',
      [{ kind: 'document', timings: { wait: 100 }, url: '/<b>,a, and b.html' }],
      { loadedMs: 100 },
      'Loaded in 100 ms. All of it (100 ms) went to waiting for www.a.example to respond to /<b>,a, and b.html (#0).',
    ],
    [
      'half server, half front end after DOM ready',
      [
        { kind: 'document', timings: { wait: 200 } },
        { at: 200, kind: 'script', timings: { wait: 200 }, by: 0 },
        { at: 600, kind: 'image', timings: { wait: 200 }, by: 1 },
      ],
      { loadedMs: 1000, domReadyMs: 450 },
      'Loaded in 1.00 s. Two thirds of it (600 ms) went to waiting for www.a.example to respond and 400 ms to gaps with no request in flight.',
    ],
  ] as Case[])('of %s', (_, sketches, page, sentence) => {
    expect(tellOf(sketches, page)).toBe(sentence);
  });

  it('is none where nothing has a start', () => expect(plotPage([], undefined)).toBeUndefined());
});

describe('the sentence on the card', () => {
  const slowServer: Sketch[] = [
    { kind: 'document', timings: { wait: 300 } },
    { at: 320, kind: 'image', timings: { wait: 60 }, by: 0 },
  ];
  it.each([
    [
      'what the load waited for longest',
      slowServer,
      [400],
      'Loaded in 400 ms, nothing failed; 360 ms of that went to waiting for www.a.example to respond, most of it for /0 (#0).',
    ],
    [
      'which load that is said of, where there are more',
      slowServer,
      [400, 90],
      'Loaded in 400 ms; 1 more page, nothing failed; 360 ms of the first load went to waiting for www.a.example to respond, most of it for /0 (#0).',
    ],
    [
      'the route to the last exchange where no page was recorded',
      slowServer,
      [],
      'Its last exchange ended after 380 ms, loaded unknown, nothing failed; 360 ms of that went to waiting for www.a.example to respond, most of it for /0 (#0).',
    ],
    [
      'nothing more where no one thing stands out',
      Array.from({ length: 9 }, (_, place) => ({
        at: place * 100,
        host: `h${place}.example`,
        kind: place === 0 ? 'document' : 'script',
        timings: { wait: 100 },
        ...(place === 0 ? {} : { by: place - 1 }),
      })),
      [900],
      'Loaded in 900 ms, nothing failed.',
    ],
    [
      'that a document never came',
      [{ kind: 'document', time: 300, failure: 'refused' }],
      [310],
      'Its document never came, 1 failed.',
    ],
  ] as [string, Sketch[], number[], string][])('says %s', (_, sketches, pages, sentence) => {
    const { rows, overview } = analysisOf(sketches, pages);
    const [first] = overview.pages;
    const own = rows.filter(({ pageId }) => pageId === first?.id);
    expect(tellCard(overview, own, plotPage(own, first))).toBe(sentence);
  });
});

describe('what if', () => {
  const sketches: Sketch[] = [
    { kind: 'document', timings: { wait: 80, receive: 20 } },
    { at: 120, host: 'maps.example', kind: 'script', timings: { wait: 200, receive: 80 }, by: 0 },
    { at: 410, kind: 'image', timings: { wait: 300, receive: 90 }, by: 0 },
    { at: 420, host: 'maps.example', timings: { wait: 50 }, by: 1 },
  ];
  const play = (...changes: Change[]): number | undefined =>
    new Load(rowsOf(sketches), { loadedMs: 820, domReadyMs: undefined }).play(changes)?.targetMs;
  const of = (...indexes: number[]) =>
    new Set(rowsOf(sketches).flatMap(({ index }) => (indexes.includes(index) ? index : [])));

  it('is asked of what took longest first, and has no load without its document', () => {
    const rows = rowsOf(sketches);
    const whatIf = new WhatIf(rows, { loadedMs: 820, domReadyMs: undefined });
    const ask = (subject: string | undefined, kind: 'leave-out' | 'answer-in') =>
      whatIf.ask({ subject, kind, waitMs: 0 });
    const first = ask(undefined, 'leave-out');
    expect(first?.subjects.map(([id]) => id)).toEqual(['#2', '#1', '#0', 'www.a.example', 'maps.example', 'all']);
    expect(first).toMatchObject({ subject: '#2', outcome: { wholeMs: 820 } });
    expect(first?.outcome?.newMs).toBe(play({ type: 'leave-out', indexes: of(2) }));
    expect(ask('no such exchange', 'leave-out')).toEqual(first);
    expect(ask('#0', 'leave-out')).toMatchObject({ subject: '#0', outcome: undefined });
    const all = ask('all', 'answer-in')?.outcome;
    expect(all?.newMs).toBe(play({ type: 'answer-in', indexes: of(0, 1, 2, 3), waitMs: 0 }));
    expect(all?.route).toBe('Its route would be /0 (#0), then 1 (#1), then 2 (#2).');
    expect(new WhatIf([], undefined).ask({ subject: undefined, kind: 'leave-out', waitMs: 0 })).toBeUndefined();
  });

  it('nothing changed gives back the recorded times', () => {
    const sketch = fc.record({
      at: fc.integer({ min: 0, max: 900 }),
      kind: fc.constantFrom('document', 'script', 'fetch', 'image', 'websocket'),
      timings: fc.record({
        wait: fc.double({ min: 0, max: 300, noNaN: true }),
        receive: fc.double({ min: 0, max: 90, noNaN: true }),
      }),
      by: fc.option(fc.nat(11), { nil: undefined }),
    });
    fc.assert(
      fc.property(
        fc.array(sketch, { minLength: 1, maxLength: 12 }),
        fc.double({ min: 1, max: 1500, noNaN: true }),
        (drawn, loadedMs) => {
          const rows = rowsOf(drawn as Sketch[]);
          const again = new Load(rows, { loadedMs, domReadyMs: undefined }).play([]);
          expect(again?.targetMs).toBe(loadedMs);
          const startOf = new Map(again?.rows().map(({ index, startMs, timeMs }) => [index, [startMs, timeMs]]));
          for (const { index, startMs, timeMs } of rows) expect(startOf.get(index)).toEqual([startMs, timeMs]);
          expect(again?.plot()?.legs).toEqual(plotPage(rows, { loadedMs, domReadyMs: undefined })?.legs);
        },
      ),
    );
  });

  it('whatever is changed, the new route tiles the new load', () => {
    const sketch = fc.record({
      at: fc.integer({ min: 0, max: 2500 }),
      kind: fc.constantFrom('document', 'script', 'fetch', 'image'),
      timings: fc.record({ wait: fc.integer({ min: 0, max: 300 }), receive: fc.integer({ min: 0, max: 90 }) }),
      by: fc.option(fc.nat(11), { nil: undefined }),
    });
    const type = fc.constantFrom('leave-out', 'answer-in', 'from-cache', 'download-share', 'start-at');
    fc.assert(
      fc.property(
        fc.array(sketch, { minLength: 1, maxLength: 12 }),
        type,
        fc.array(fc.nat(11)),
        fc.integer({ min: 0, max: 400 }),
        (drawn, kind, chosen, ms) => {
          const rows = rowsOf(drawn as Sketch[]);
          const indexes = new Set(rows.flatMap(({ index }) => (chosen.includes(index) ? index : [])));
          const change = { type: kind, indexes, waitMs: ms, share: ms / 400, startMs: ms } as Change;
          const plotted = new Load(rows, { loadedMs: 2000, domReadyMs: undefined }).play([change])?.plot();
          let cursor = plotted?.originMs ?? 0;
          for (const { startMs, endMs } of plotted?.legs ?? []) {
            expect(startMs).toBeCloseTo(cursor, 6);
            cursor = endMs;
          }
          if (plotted !== undefined) expect(cursor).toBeCloseTo(plotted.targetMs, 6);
        },
      ),
    );
  });

  // Loads with a document, what it names, queues over HTTP/1.1 and a milestone or two.
  const drawn = fc.array(
    fc.record({
      at: fc.integer({ min: 0, max: 2500 }),
      kind: fc.constantFrom('document', 'script', 'stylesheet', 'fetch', 'image'),
      protocol: fc.constantFrom('h2', 'http/1.1'),
      status: fc.constantFrom(200, 200, 200, 503),
      url: fc.constantFrom('/a', '/b', '/c', '/d'),
      wire: fc.constantFrom(undefined, 20_000, 100_000),
      timings: fc.record({
        blocked: fc.constantFrom(0, 0, 40, 200),
        connect: fc.constantFrom(-1, 30),
        wait: fc.integer({ min: 0, max: 300 }),
        receive: fc.integer({ min: 0, max: 900 }),
      }),
      by: fc.option(fc.nat(19), { nil: undefined }),
    }),
    { minLength: 1, maxLength: 20 },
  );
  const moments = fc.record({
    domReadyMs: fc.integer({ min: 1, max: 1500 }),
    loadedMs: fc.integer({ min: 1500, max: 3000 }),
  });
  const chosen = fc.array(fc.nat(19));
  const changeOf = (
    type: Change['type'],
    rows: readonly ExchangeRow[],
    picked: readonly number[],
    ms: number,
  ): Change =>
    ({
      type,
      indexes: new Set(rows.flatMap(({ index }) => (picked.includes(index) ? index : []))),
      waitMs: ms,
      startMs: ms,
      share: ms / 400,
    }) as Change;
  const TYPES = [
    'leave-out',
    'answer-in',
    'from-cache',
    'start-at',
    'download-share',
    'connected',
    'unqueued',
    'no-gap',
  ] as const satisfies readonly Change['type'][];

  it.each(TYPES)('less work never makes a load longer, nor loaded come before DOM ready: %s', (type) => {
    fc.assert(
      fc.property(
        drawn,
        moments,
        chosen,
        chosen,
        fc.integer({ min: 0, max: 400 }),
        (sketched, page, some, more, ms) => {
          const rows = rowsOf(sketched as Sketch[]);
          const load = new Load(rows, page);
          const less = load.play([changeOf(type, rows, some, ms)]);
          const evenLess = load.play([changeOf(type, rows, [...some, ...more], ms)]);
          expect(less?.targetMs).toBeLessThanOrEqual(page.loadedMs + 1e-6);
          // What is on no chain that decides is not played, and would have gained nothing.
          const gainMs = load.gainMs([changeOf(type, rows, some, ms)]);
          expect(gainMs).toBeCloseTo(page.loadedMs - (less?.targetMs ?? 0), 6);
          // It is known when it is asked for again, with exchanges of another page beside; another change has its own.
          const own = changeOf(type, rows, some, ms);
          const wider = { ...own, indexes: new Set([...own.indexes, exchangeIndex(999)]) };
          expect(load.gainMs([wider])).toBe(gainMs);
          const whole = [changeOf(type, rows, [...some, ...more], ms + 1)];
          expect(load.gainMs(whole)).toBe(new Load(rows, page).gainMs(whole));
          expect(evenLess?.targetMs).toBeLessThanOrEqual((less?.targetMs ?? 0) + 1e-6);
          expect(less?.targetMs).toBeGreaterThanOrEqual((less?.domReadyMs ?? 0) - 1e-6);
        },
      ),
      { numRuns: 300 },
    );
  });

  it.each<[string, Sketch[], number | undefined]>([
    [
      'the one that a redirect led to',
      [
        { status: 301, location: 1, kind: 'document' },
        { at: 40, kind: 'document' },
      ],
      1,
    ],
    [
      'one that failed',
      [
        { status: 500, kind: 'document' },
        { at: 90, kind: 'image' },
      ],
      0,
    ],
    ['not a frame', [{ kind: 'script' }, { at: 300, kind: 'document', by: 0 }], undefined],
    ['none among calls', [{ at: 5 }], undefined],
  ])('has as its document %s', (_, own, index) => {
    expect(documentOf(rowsOf(own))?.index).toBe(index);
  });

  it('named in the document, it begins when that answers, and what it asks for follows', () => {
    expect(play({ type: 'start-at', indexes: of(2), startMs: 80 })).toBe(490);
    // It had begun before that.
    expect(play({ type: 'start-at', indexes: of(2), startMs: 500 })).toBe(820);
    expect(documentAnswersMs(rowsOf(sketches))).toBe(80);
  });

  it('a quicker answer pulls forward what waited for it', () => {
    // The document is 60 ms quicker, and all of the rest with it.
    expect(play({ type: 'answer-in', indexes: of(0), waitMs: 20 })).toBe(760);
  });

  it('half the download takes half the time', () =>
    expect(play({ type: 'download-share', indexes: of(2), share: 0.5 })).toBe(775));

  it('from cache nothing is waited for', () => expect(play({ type: 'from-cache', indexes: of(2) })).toBe(431));

  it('a host left out takes with it what it asked for, and holds nothing up any more', () => {
    const left = new Load(rowsOf(sketches), { loadedMs: 820, domReadyMs: undefined }).play([
      { type: 'leave-out', indexes: of(1) },
    ]);
    expect(left?.rows().map(({ index }) => Number(index))).toEqual([0, 2]);
    // The gap before it stays: what filled that is not known.
    expect(left?.targetMs).toBe(540);
  });
});

describe('the legs of a route in words', () => {
  const rows = rowsOf([
    { kind: 'document', timings: { wait: 40, receive: 10 }, time: 50, url: '/old', status: 301, location: 1 },
    { at: 50, kind: 'document', timings: { wait: 100, receive: 1 }, time: 101, url: '/huts' },
    { at: 160, kind: 'script', timings: { wait: 10, receive: 30 }, time: 40, url: '/app.js', by: 1 },
    { at: 420, kind: 'fetch', time: 60, url: '/beds', host: 'api.a.example', by: 1 },
    { at: 481, kind: 'fetch', timings: { wait: 5, receive: 5 }, time: 10, url: '/prices', by: 1 },
  ]);
  const rowOf = (index: number) => rows.find((row) => row.index === index);
  const told = tellLegs(
    plotPage(rows, undefined, { type: 'exchange', index: exchangeIndex(4) })?.legs ?? [],
    rowOf,
  ).map(({ name, words }) => `${name} ${words}`.trim());

  it('say where the time went and why each came after the one before', () => {
    expect(told).toEqual([
      '/old #0 on www.a.example: wait 40 ms, receive 10 ms',
      '/huts #1: wait 100 ms; redirected here',
      'gap between /huts and beds; in flight meanwhile: #2',
      'beds #3 on api.a.example: no timing breakdown recorded; requested by the one before',
      'gap between beds and prices; nothing in flight',
      'prices #4 on www.a.example: wait 5.0 ms, receive 5.0 ms; started after the one before; the capture does not say why',
    ]);
  });

  it('do not call a gap empty beside what has no time', () => {
    const untimed = rowsOf([
      { kind: 'document', timings: { receive: 2 } },
      { at: 500, kind: 'script', timings: { receive: 3 }, by: 0 },
      { at: 700, kind: 'image', timings: { wait: 50 }, by: 1 },
    ]);
    const legs = plotPage(untimed, { loadedMs: 750, domReadyMs: undefined })?.legs ?? [];
    const words = tellLegs(legs, (index) => untimed.find((row) => row.index === index)).map((leg) => leg.words);
    expect(words.filter((text) => text.startsWith('gap'))).not.toEqual([]);
    for (const text of words) expect(text).not.toContain('nothing in flight');
  });

  it('go without the names of what is not there', () => {
    const [nowhere] = tellLegs(
      [
        {
          type: 'gap',
          startMs: 0,
          endMs: 5,
          after: undefined,
          before: undefined,
          isPause: false,
          meanwhile: [],
          idleMs: 5,
        },
      ],
      rowOf,
    );
    expect(nowhere?.words).toBe('gap; nothing in flight');
    const [leg] = tellLegs(plotPage(rows, undefined)?.legs ?? [], () => undefined);
    expect(leg?.name).toBe('#0');
  });
});
