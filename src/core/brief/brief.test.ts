import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { analyse, type ExchangeRow, takeFacts } from '../analysis';
import { type JsonObject, normaliseEntry } from '../har';
import { type Change, plotPage, simulate, tellBrief } from './index';

interface Sketch {
  readonly at?: number;
  readonly host?: string;
  readonly kind?: string;
  readonly timings?: Readonly<Record<string, number>>;
  readonly time?: number;
  readonly by?: number;
}

const START = Date.UTC(2026, 9, 3, 9);

function rowsOf(sketches: readonly Sketch[]): ExchangeRow[] {
  const urlOf = (at: number): string => `https://${sketches[at]?.host ?? 'www.a.example'}/${at}`;
  const facts = sketches.map((sketch, place) =>
    takeFacts(
      normaliseEntry(
        {
          startedDateTime: new Date(START + (sketch.at ?? 0)).toISOString(),
          request: { method: 'GET', url: urlOf(place) },
          response: { status: 200 },
          time: sketch.time ?? 0,
          timings: sketch.timings ?? {},
          _resourceType: sketch.kind ?? 'fetch',
          ...(sketch.by === undefined ? {} : { _initiator: { type: 'script', url: urlOf(sketch.by) } }),
        } as unknown as JsonObject,
        place,
      ),
    ),
  );
  return analyse(facts, [], { type: 'whole' }).rows;
}

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
        const { phases, browserMs, unknownMs, byParty, byHost } = brief.ledger;
        const inPhases = Object.values(phases).reduce((sum, ms) => sum + ms, 0);
        expect(Math.abs(inPhases + browserMs + unknownMs - whole)).toBeLessThan(0.01);
        const inParties = Object.values(byParty).reduce((sum, ms) => sum + ms, 0);
        expect(Math.abs(inParties + browserMs - whole)).toBeLessThan(0.01);
        expect(Math.abs(byHost.reduce((sum, { ms }) => sum + ms, 0) + browserMs - whole)).toBeLessThan(0.01);
      }),
    );
  });
});

describe('the sentence', () => {
  it.each([
    [
      'one slow answer',
      [{ kind: 'document', timings: { wait: 900, receive: 100 } }],
      { loadedMs: 1000 },
      'Loaded in 1.00 s. Nearly all of it (900 ms) went to waiting for www.a.example to answer /0 (#0).',
    ],
    [
      'a large download',
      [{ kind: 'document', timings: { wait: 100, receive: 700 } }],
      { loadedMs: 800 },
      'Loaded in 800 ms. Nearly all of it (700 ms) went to downloading /0 (#0).',
    ],
    [
      'browser work alone',
      [{ kind: 'document', timings: { wait: 10, receive: 10 } }],
      { loadedMs: 2000 },
      'Loaded in 2.00 s. All of it (1.98 s) went to the browser’s own work.',
    ],
    [
      'several calls to one server',
      [
        { kind: 'document', timings: { wait: 50 } },
        { at: 50, host: 'api.a.example', timings: { wait: 200 }, by: 0 },
        { at: 250, host: 'api.a.example', timings: { wait: 200 }, by: 1 },
      ],
      { loadedMs: 450 },
      'Loaded in 450 ms. Nearly all of it (400 ms) went to waiting for the server of api.a.example.',
    ],
    [
      'connecting',
      [{ kind: 'document', timings: { dns: 100, connect: 300, ssl: 200, wait: 100 } }],
      { loadedMs: 500 },
      'Loaded in 500 ms. Four fifths of it (400 ms) went to connecting to www.a.example and 100 ms to waiting for www.a.example to answer /0 (#0).',
    ],
    [
      'a request held back',
      [{ kind: 'document', timings: { blocked: 600, wait: 200 } }],
      { loadedMs: 800 },
      'Loaded in 800 ms. Three quarters of it (600 ms) went to /0 (#0), held back before it was sent and 200 ms to waiting for www.a.example to answer /0 (#0).',
    ],
    [
      'only DOM ready',
      [{ kind: 'document', timings: { wait: 100 } }],
      { domReadyMs: 100 },
      'Loaded is unknown; the DOM was ready after 100 ms. All of it (100 ms) went to waiting for www.a.example to answer /0 (#0).',
    ],
    [
      'no milestone',
      [{ kind: 'document', timings: { wait: 100 } }],
      {},
      'No milestone was recorded; the last exchange ended after 100 ms. All of it (100 ms) went to waiting for www.a.example to answer /0 (#0).',
    ],
    [
      'a third party',
      [
        { kind: 'document', timings: { wait: 100 } },
        { at: 100, host: 'maps.example', kind: 'script', timings: { wait: 300 }, by: 0 },
      ],
      { loadedMs: 400 },
      'Loaded in 400 ms. Three quarters of it (300 ms) went to waiting for maps.example to answer 1 (#1) and 100 ms to waiting for www.a.example to answer /0 (#0).',
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
      'Loaded in 500 ms. No one thing took as much as a seventh of it.',
    ],
    [
      'an answer after loaded, which it did not wait for',
      [
        { kind: 'document', timings: { wait: 100 } },
        { at: 120, timings: { wait: 900 }, by: 0 },
      ],
      { loadedMs: 200 },
      'Loaded in 200 ms. Half of it (100 ms) went to waiting for www.a.example to answer /0 (#0) and 100 ms to the browser’s own work.',
    ],
    [
      'a socket, which lasts',
      [
        { kind: 'document', timings: { wait: 100 } },
        { at: 110, kind: 'websocket', timings: { wait: 700 }, by: 0 },
      ],
      { loadedMs: 120 },
      'Loaded in 120 ms. Four fifths of it (100 ms) went to waiting for www.a.example to answer /0 (#0) and 20 ms to the browser’s own work.',
    ],
    [
      'an exchange without phases',
      [{ kind: 'document', time: 300 }],
      { loadedMs: 300 },
      'Loaded in 300 ms. All of it (300 ms) went to /0 (#0), whose phases are unknown.',
    ],
    [
      'downloads from one host',
      [
        { kind: 'document', timings: { wait: 10, receive: 90 } },
        { at: 100, timings: { receive: 100 }, by: 0 },
      ],
      { loadedMs: 200 },
      'Loaded in 200 ms. Nearly all of it (190 ms) went to downloads from www.a.example.',
    ],
    [
      'an upload',
      [{ kind: 'document', timings: { send: 400, wait: 100 } }],
      { loadedMs: 500 },
      'Loaded in 500 ms. Four fifths of it (400 ms) went to sending to www.a.example and 100 ms to waiting for www.a.example to answer /0 (#0).',
    ],
    [
      'several requests held back',
      [
        { kind: 'document', timings: { blocked: 100 } },
        { at: 100, timings: { blocked: 100 }, by: 0 },
      ],
      { loadedMs: 200 },
      'Loaded in 200 ms. All of it (200 ms) went to requests held back before they went to www.a.example.',
    ],
    [
      'nothing that takes time',
      [{ kind: 'document' }],
      {},
      'No milestone was recorded; the last exchange ended after 0 ms.',
    ],
  ] as [string, Sketch[], { loadedMs?: number; domReadyMs?: number }, string][])(
    'of %s',
    (_, sketches, page, sentence) => {
      expect(tellOf(sketches, page)).toBe(sentence);
    },
  );

  it('is none where nothing has a start', () => expect(plotPage([], undefined)).toBeUndefined());
});

describe('what if', () => {
  const sketches: Sketch[] = [
    { kind: 'document', timings: { wait: 80, receive: 20 } },
    { at: 120, host: 'maps.example', kind: 'script', timings: { wait: 200, receive: 80 }, by: 0 },
    { at: 410, timings: { wait: 300, receive: 90 }, by: 0 },
    { at: 420, host: 'maps.example', timings: { wait: 50 }, by: 1 },
  ];
  const play = (...changes: Change[]): number | undefined =>
    simulate(rowsOf(sketches), { loadedMs: 820, domReadyMs: undefined }, changes)?.targetMs;
  const of = (...indexes: number[]) =>
    new Set(rowsOf(sketches).flatMap(({ index }) => (indexes.includes(index) ? index : [])));

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
          const again = simulate(rows, { loadedMs, domReadyMs: undefined }, []);
          expect(again?.targetMs).toBe(loadedMs);
          const startOf = new Map(again?.rows.map(({ index, startMs, timeMs }) => [index, [startMs, timeMs]]));
          for (const { index, startMs, timeMs } of rows) expect(startOf.get(index)).toEqual([startMs, timeMs]);
          expect(again?.brief?.legs).toEqual(plotPage(rows, { loadedMs, domReadyMs: undefined })?.legs);
        },
      ),
    );
  });

  it('a quicker answer pulls forward what waited for it', () => {
    // The document is 60 ms quicker, and all of the rest with it.
    expect(play({ type: 'answer-in', indexes: of(0), waitMs: 20 })).toBe(760);
  });

  it('half the download takes half the time', () =>
    expect(play({ type: 'download-share', indexes: of(2), share: 0.5 })).toBe(775));

  it('from cache nothing is waited for', () => expect(play({ type: 'from-cache', indexes: of(2) })).toBe(490));

  it('a host left out takes with it what it asked for, and holds nothing up any more', () => {
    const left = simulate(rowsOf(sketches), { loadedMs: 820, domReadyMs: undefined }, [
      { type: 'leave-out', indexes: of(1) },
    ]);
    expect(left?.rows.map(({ index }) => Number(index))).toEqual([0, 2]);
    expect(left?.targetMs).toBe(520);
  });
});
