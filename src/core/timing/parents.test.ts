import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { exchangeIndex, type Kind } from '../model';
import { findParents, type ParentClue, plotRoute, type RouteStop } from './index';

type Sketch = Partial<Omit<ParentClue, 'index' | 'startMs' | 'answeredMs'>> & {
  at?: number;
  answered?: number | undefined;
};

const relate = (...sketches: Sketch[]) =>
  findParents(
    sketches.map(({ at, answered, ...rest }, place) => ({
      index: exchangeIndex(place),
      page: 'p',
      method: 'GET',
      url: `https://a.example/${place}`,
      kind: 'data',
      startMs: at,
      answeredMs: answered,
      location: undefined,
      initiatorUrl: undefined,
      referer: undefined,
      preflightMethod: undefined,
      referencedBy: undefined,
      ...rest,
    })),
  ).map(({ parent, evidence, depth }) => [parent, evidence, depth]);

const DOCUMENT: Sketch = { url: 'https://a.example/', kind: 'document', at: 0, answered: 50 };
const SCRIPT: Sketch = {
  url: 'https://a.example/s.js',
  kind: 'script',
  at: 60,
  answered: 90,
  initiatorUrl: 'https://a.example/',
};

describe('the parent of an exchange', () => {
  it('is the hop that led to it also where a preflight went there before it', () => {
    const api = 'https://api.example/holds';
    const hop: Sketch = { url: 'https://a.example/holds', at: 10, answered: 20, location: api };
    const preflight: Sketch = { url: api, method: 'OPTIONS', preflightMethod: 'GET', at: 21, answered: 30 };
    expect(relate({ ...DOCUMENT, answered: 5 }, hop, preflight, { url: api, at: 31, answered: 50 })).toEqual([
      [undefined, undefined, 0],
      [0, 'document', 1],
      [1, 'preflight', 1],
      [1, 'redirect', 1],
    ]);
  });

  it.each([
    [1000, 'preflight'],
    [1001, 'document'],
  ])('is a preflight that was answered %d ms before: %s', (apart, evidence) => {
    const api = 'https://api.example/holds';
    const preflight: Sketch = { url: api, method: 'OPTIONS', preflightMethod: 'GET', at: 100, answered: 100 };
    const [, , main] = relate(DOCUMENT, preflight, { url: api, at: 100 + apart });
    expect(main?.[1]).toBe(evidence);
  });

  it('is the hop whose Location led to it, and takes no step of discovery', () => {
    const hop: Sketch = { ...DOCUMENT, url: 'http://a.example/', location: 'https://a.example/#top', answered: 10 };
    expect(relate(hop, { ...DOCUMENT, at: 11 })).toEqual([
      [undefined, undefined, 0],
      [0, 'redirect', 0],
    ]);
  });

  it('is what the recorder says, before what Referer says, before the document', () => {
    const referer = 'https://a.example/s.js';
    expect(
      relate(
        DOCUMENT,
        SCRIPT,
        { at: 100, initiatorUrl: 'https://a.example/', referer },
        { at: 100, referer },
        { at: 100 },
      ),
    ).toEqual([
      [undefined, undefined, 0],
      [0, 'declared', 1],
      [0, 'declared', 1],
      [1, 'referer', 2],
      [0, 'document', 1],
    ]);
  });

  it('is one that began to answer before it started', () => {
    expect(relate(DOCUMENT, { at: 40, initiatorUrl: 'https://a.example/' })[1]).toEqual([
      undefined,
      undefined,
      undefined,
    ]);
    expect(relate(DOCUMENT, { at: 49, initiatorUrl: 'https://a.example/' })[1]).toEqual([0, 'declared', 1]);
  });

  it('is never on another page', () => {
    expect(relate(DOCUMENT, { ...SCRIPT, page: 'q' })[1]).toEqual([undefined, undefined, undefined]);
  });

  it('is the preflight that was awaited, or one that both share where the clocks overlap', () => {
    const url = 'https://b.example/x';
    const main: Sketch = { url, method: 'PUT', initiatorUrl: 'https://a.example/s.js' };
    const preflight: Sketch = { url, method: 'OPTIONS', kind: 'preflight', preflightMethod: 'PUT' };
    expect(relate(DOCUMENT, SCRIPT, { ...preflight, at: 100, answered: 120 }, { ...main, at: 121 }).slice(2)).toEqual([
      [1, 'preflight', 2],
      [2, 'preflight', 2],
    ]);
    expect(relate(DOCUMENT, SCRIPT, { ...preflight, at: 102, answered: 120 }, { ...main, at: 100 }).slice(2)).toEqual([
      [1, 'preflight', 2],
      [1, 'declared', 2],
    ]);
  });

  it('comes before it in time, always, so that there are no cycles', () => {
    const address = fc.constantFrom('https://a.example/', 'https://a.example/1', 'https://a.example/2');
    const sketch = fc.record({
      url: address,
      at: fc.integer({ min: 0, max: 20 }),
      answered: fc.option(fc.integer({ min: 0, max: 30 }), { nil: undefined }),
      kind: fc.constantFrom<Kind>('document', 'data', 'preflight'),
      method: fc.constantFrom('GET', 'OPTIONS'),
      initiatorUrl: fc.option(address, { nil: undefined }),
      location: fc.option(address, { nil: undefined }),
      preflightMethod: fc.option(fc.constant('GET'), { nil: undefined }),
    });
    fc.assert(
      fc.property(fc.array(sketch, { maxLength: 12 }), (sketches) => {
        relate(...sketches).forEach(([parent], child) => {
          if (typeof parent !== 'number') return;
          const [own, other] = [sketches[child], sketches[parent]];
          expect((other?.at ?? 0) < (own?.at ?? 0) || (other?.at === own?.at && parent < child)).toBe(true);
        });
      }),
    );
  });
});

const stop = (index: number, startMs: number, endMs: number, parent?: number, kind: Kind = 'data'): RouteStop => ({
  index: exchangeIndex(index),
  kind,
  startMs,
  endMs,
  parent: parent === undefined ? undefined : exchangeIndex(parent),
  namedBy: undefined,
  request: `GET /${index}`,
});
const plain = (stops: readonly RouteStop[], from: number, to: number) =>
  plotRoute(stops, from, to).map((leg) => [leg.type === 'exchange' ? leg.index : 'browser', leg.startMs, leg.endMs]);

describe('the route', () => {
  it('walks back from what ended last, through what each waited for', () => {
    const stops = [
      stop(0, 0, 100, undefined, 'document'),
      stop(1, 120, 200, 0),
      stop(2, 130, 180, 0),
      stop(3, 210, 400, 1),
    ];
    expect(plain(stops, 0, 420)).toEqual([
      [0, 0, 100],
      ['browser', 100, 120],
      [1, 120, 200],
      ['browser', 200, 210],
      [3, 210, 400],
      ['browser', 400, 420],
    ]);
  });

  it('ends the leg of a parent that still streamed where its child starts', () => {
    expect(plain([stop(0, 0, 100), stop(1, 60, 150, 0)], 0, 150)).toEqual([
      [0, 0, 60],
      [1, 60, 150],
    ]);
  });

  it('goes over the script that held the parser up, where the parent ended long before', () => {
    const stops = [stop(0, 0, 100, undefined, 'document'), stop(1, 110, 290, 0, 'script'), stop(2, 300, 400, 0)];
    expect(plain(stops, 0, 400).map(([leg]) => leg)).toEqual([0, 'browser', 1, 'browser', 2]);
  });

  it('goes over the answer that named it, where that came later than its parent', () => {
    const named = { ...stop(3, 320, 500, 0, 'image'), namedBy: exchangeIndex(2) };
    const stops = [stop(0, 0, 100, undefined, 'document'), stop(2, 110, 300, 0), named];
    expect(plain(stops, 0, 500).map(([leg]) => leg)).toEqual([0, 'browser', 2, 'browser', 3]);
    // Not over one that came only afterwards.
    const late = [stop(0, 0, 100, undefined, 'document'), stop(2, 110, 330, 0), named];
    expect(plain(late, 0, 500).map(([leg]) => leg)).toEqual([0, 'browser', 3]);
  });

  it('goes over the call that ended just before another one, not over one that ended a while ago', () => {
    const stops = [stop(0, 0, 100, undefined, 'script'), stop(1, 150, 290, 0), stop(2, 300, 400, 0)];
    expect(plain(stops, 0, 400).map(([leg]) => leg)).toEqual([0, 'browser', 1, 'browser', 2]);
    const apart = [stop(0, 0, 100, undefined, 'script'), stop(1, 150, 250, 0), stop(2, 300, 400, 0)];
    expect(plain(apart, 0, 400).map(([leg]) => leg)).toEqual([0, 'browser', 2]);
  });

  it('goes over the first try of what is sent again', () => {
    const again = { ...stop(2, 900, 950, 0), request: 'GET /1' };
    const stops = [stop(0, 0, 100, undefined, 'script'), stop(1, 150, 290, 0), again];
    expect(plain(stops, 0, 950).map(([leg]) => leg)).toEqual([0, 'browser', 1, 'browser', 2]);
  });

  it('goes over what was asked for between two tries, where that ended just before the second', () => {
    const again = { ...stop(3, 900, 950, 0), request: 'GET /1' };
    const stops = [stop(0, 0, 100, undefined, 'script'), stop(1, 150, 290, 0), stop(2, 300, 890, 0), again];
    expect(plain(stops, 0, 950).map(([leg]) => leg)).toEqual([0, 'browser', 1, 'browser', 2, 'browser', 3]);
    // One that had begun before the first try failed has nothing to do with it; nor has one that ended a while before.
    const other = [stop(0, 0, 100, undefined, 'script'), stop(1, 150, 290, 0), stop(2, 200, 890, 0), again];
    expect(plain(other, 0, 950).map(([leg]) => leg)).toEqual([0, 'browser', 1, 'browser', 3]);
    const ended = [stop(0, 0, 100, undefined, 'script'), stop(1, 150, 290, 0), stop(2, 300, 800, 0), again];
    expect(plain(ended, 0, 950).map(([leg]) => leg)).toEqual([0, 'browser', 1, 'browser', 3]);
  });

  it('goes over the calls that were made meanwhile, where something is asked for long after its parent', () => {
    const calls = [300, 600, 900, 1200].map((start, at) => stop(at + 1, start, start + 200, 0));
    const stops = [stop(0, 0, 100, undefined, 'script'), ...calls, stop(9, 1500, 1600, 0, 'image')];
    expect(plain(stops, 0, 1600).map(([leg]) => leg)).toEqual([0, 'browser', 3, 'browser', 4, 'browser', 9]);
    // Two calls are not enough: the page may have been at work all the while.
    const few = [stop(0, 0, 100, undefined, 'script'), ...calls.slice(2), stop(9, 1500, 1600, 0, 'image')];
    expect(plain(few, 0, 1600).map(([leg]) => leg)).toEqual([0, 'browser', 9]);
  });

  it('begins with the first document where nothing had ended by then, in whatever order they come', () => {
    const stops = [stop(0, 20, 900, undefined, 'document'), stop(1, 10, 800, undefined, 'document')];
    expect(plain(stops, 0, 100)).toEqual(plain(stops.toReversed(), 0, 100));
    expect(plain(stops, 0, 100).at(-1)).toEqual([1, 10, 100]);
  });

  it('ends where played times have two wait for one another', () => {
    const stops = [stop(0, 200, 400, 1, 'script'), stop(1, 200, 500, 0, 'script')];
    expect(plain(stops, 0, 500)).toEqual([
      ['browser', 0, 200],
      [1, 200, 500],
    ]);
  });

  it('takes no socket for lasting, and nothing after its target', () => {
    const stops = [stop(0, 0, 100), stop(1, 100, 480, 0, 'socket'), stop(2, 490, 700, 0)];
    expect(plain(stops, 0, 500)).toEqual([
      [0, 0, 100],
      ['browser', 100, 500],
    ]);
    expect(plain([], 0, 50)).toEqual([['browser', 0, 50]]);
    expect(plain(stops, 0, 0)).toEqual([]);
  });

  it('tiles the time from origin to target exactly, whatever the exchanges', () => {
    const one = fc.record({
      start: fc.integer({ min: -50, max: 900 }),
      length: fc.integer({ min: 0, max: 400 }),
      parent: fc.nat(20),
    });
    fc.assert(
      fc.property(fc.array(one, { maxLength: 20 }), fc.integer({ min: 1, max: 1000 }), (drawn, target) => {
        const sorted = [...drawn].sort((a, b) => a.start - b.start);
        const stops = sorted.map(({ start, length, parent }, at) =>
          stop(at, start, start + length, at === 0 ? undefined : parent % at),
        );
        const legs = plotRoute(stops, -50, target);
        let cursor = -50;
        for (const leg of legs) {
          expect(leg.startMs).toBe(cursor);
          expect(leg.endMs).toBeGreaterThan(leg.startMs);
          cursor = leg.endMs;
        }
        expect(cursor).toBe(target);
      }),
      { numRuns: 500 },
    );
  });
});
