import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { exchangeIndex, type Kind } from '../model';
import { findParents, type Goal, type ParentClue, plotRoute, type RouteStop } from './index';

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
  party: 'first',
  startMs,
  endMs,
  holds: kind === 'socket' ? undefined : kind === 'document' || kind === 'script' ? 'ready' : 'loaded',
  heldUntilMs: endMs,
  parent: parent === undefined ? undefined : exchangeIndex(parent),
  namedBy: undefined,
  request: `GET /${index}`,
  hasFailed: false,
});
const plain = (stops: readonly RouteStop[], from: number, to: number) =>
  plotRoute(stops, from, { type: 'moment', atMs: to }).map((leg) => [
    leg.type === 'exchange' ? leg.index : leg.isPause ? 'pause' : 'gap',
    leg.startMs,
    leg.endMs,
  ]);
const names = (stops: readonly RouteStop[], goal: Goal) =>
  plotRoute(stops, 0, goal).flatMap((leg) => (leg.type === 'exchange' ? leg.index : leg.isPause ? 'pause' : 'gap'));

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
      ['gap', 100, 120],
      [1, 120, 200],
      ['gap', 200, 210],
      [3, 210, 400],
      ['gap', 400, 420],
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
    expect(plain(stops, 0, 400).map(([leg]) => leg)).toEqual([0, 'gap', 1, 'gap', 2]);
  });

  it('goes over the answer that named it, where that came later than its parent', () => {
    const named = { ...stop(3, 320, 500, 0, 'image'), namedBy: exchangeIndex(2) };
    const stops = [stop(0, 0, 100, undefined, 'document'), stop(2, 110, 300, 0), named];
    expect(plain(stops, 0, 500).map(([leg]) => leg)).toEqual([0, 'gap', 2, 'gap', 3]);
    // Not over one that came only afterwards.
    const late = [stop(0, 0, 100, undefined, 'document'), stop(2, 110, 330, 0), named];
    expect(plain(late, 0, 500).map(([leg]) => leg)).toEqual([0, 'gap', 3]);
  });

  it('goes over the call of its party that ended last before another one, however long the gap', () => {
    const stops = [stop(0, 0, 100, undefined, 'script'), stop(1, 150, 290, 0), stop(2, 300, 400, 0)];
    expect(plain(stops, 0, 400).map(([leg]) => leg)).toEqual([0, 'gap', 1, 'gap', 2]);
    const apart = [stop(0, 0, 100, undefined, 'script'), stop(1, 150, 250, 0), stop(2, 5300, 5400, 0)];
    expect(plain(apart, 0, 5400).map(([leg]) => leg)).toEqual([0, 'gap', 1, 'gap', 2]);
    const foreign: RouteStop = { ...stop(3, 150, 290, 0), party: 'third' };
    const among = [stop(0, 0, 100, undefined, 'script'), stop(1, 120, 200, 0), foreign, stop(2, 300, 400, 0)];
    expect(plain(among, 0, 400).map(([leg]) => leg)).toEqual([0, 'gap', 1, 'gap', 2]);
    // An image waits for no call that does not name it.
    const image = [stop(0, 0, 100, undefined, 'script'), stop(1, 150, 250, 0), stop(2, 5300, 5400, 0, 'image')];
    expect(plain(image, 0, 5400).map(([leg]) => leg)).toEqual([0, 'gap', 2]);
  });

  it('has a pause only before what had failed and is sent again', () => {
    const again = { ...stop(2, 900, 950, 0), request: 'GET /1' };
    const failed = { ...stop(1, 150, 290, 0), hasFailed: true };
    expect(plain([stop(0, 0, 100, undefined, 'script'), failed, again], 0, 950).map(([leg]) => leg)).toEqual([
      0,
      'gap',
      1,
      'pause',
      2,
    ]);
    // The next page of a search, or a poll, is no retry.
    const worked = stop(1, 150, 290, 0);
    expect(plain([stop(0, 0, 100, undefined, 'script'), worked, again], 0, 950).map(([leg]) => leg)).toEqual([
      0,
      'gap',
      1,
      'gap',
      2,
    ]);
  });

  it('goes over what was asked for between two tries, where that ended just before the second', () => {
    const again = { ...stop(3, 900, 950, 0), request: 'GET /1' };
    const failed = { ...stop(1, 150, 290, 0), hasFailed: true };
    const script = stop(0, 0, 100, undefined, 'script');
    const renewal = [script, failed, stop(2, 300, 890, 0), again];
    expect(plain(renewal, 0, 950).map(([leg]) => leg)).toEqual([0, 'gap', 1, 'gap', 2, 'gap', 3]);
    // One that had begun before the first try failed has nothing to do with it; nor has one that ended a while before.
    const other = [script, failed, stop(2, 200, 890, 0), again];
    expect(plain(other, 0, 950).map(([leg]) => leg)).toEqual([0, 'gap', 1, 'pause', 3]);
    const ended = [script, failed, stop(2, 300, 800, 0), again];
    expect(plain(ended, 0, 950).map(([leg]) => leg)).toEqual([0, 'gap', 1, 'pause', 3]);
  });

  it('ends in what the milestone waits for, and not in what happens to end last', () => {
    const page = stop(0, 0, 100, undefined, 'document');
    const call: RouteStop = { ...stop(2, 110, 398, 0), holds: undefined };
    const image = stop(1, 110, 390, 0, 'image');
    expect(names([page, image, call], { type: 'loaded', atMs: 400, readyMs: 150 })).toEqual([0, 'gap', 1, 'gap']);
    // Images had come before DOM ready: its script was waited for, and the rest is a gap.
    const script = stop(3, 120, 500, 0, 'script');
    const early = [page, image, script];
    expect(names(early, { type: 'loaded', atMs: 600, readyMs: 540 })).toEqual([0, 'gap', 3, 'gap']);
    const async: RouteStop = { ...stop(4, 120, 530, 0, 'script'), holds: 'loaded' };
    expect(names([...early, async], { type: 'ready', atMs: 540 })).toEqual([0, 'gap', 3, 'gap']);
    expect(names([...early, async], { type: 'loaded', atMs: 600, readyMs: 540 })).toEqual([0, 'gap', 3, 'gap']);
    expect(names([...early, call], { type: 'exchange', atMs: 398, index: exchangeIndex(2) })).toEqual([0, 'gap', 2]);
  });

  it('allows for starts that are rounded to the millisecond', () => {
    const stops = [
      stop(0, 0, 100, undefined, 'document'),
      stop(1, 100, 400.7, 0, 'image'),
      stop(2, 100, 300, 0, 'image'),
    ];
    expect(names(stops, { type: 'loaded', atMs: 400, readyMs: undefined })).toEqual([0, 1]);
  });

  it('says of a gap what was in flight in it, and for how long nothing was', () => {
    const page = stop(0, 0, 100, undefined, 'document');
    const image = stop(1, 500, 600, 0, 'image');
    const call: RouteStop = { ...stop(2, 150, 250, 0), holds: undefined };
    const [, gap] = plotRoute([page, call, image], 0, { type: 'loaded', atMs: 600, readyMs: undefined });
    expect(gap).toMatchObject({ type: 'gap', after: 0, before: 1, meanwhile: [2], idleMs: 300 });
  });

  it('begins with the first document where nothing had ended by then, in whatever order they come', () => {
    const stops = [stop(0, 20, 900, undefined, 'document'), stop(1, 10, 800, undefined, 'document')];
    expect(plain(stops, 0, 100)).toEqual(plain(stops.toReversed(), 0, 100));
    expect(plain(stops, 0, 100).at(-1)).toEqual([1, 10, 100]);
  });

  it('ends where played times have two wait for one another', () => {
    const stops = [stop(0, 200, 400, 1, 'script'), stop(1, 200, 500, 0, 'script')];
    expect(plain(stops, 0, 500)).toEqual([
      ['gap', 0, 200],
      [1, 200, 500],
    ]);
  });

  it('takes no socket for lasting, and nothing after its target', () => {
    const stops = [stop(0, 0, 100), stop(1, 100, 480, 0, 'socket'), stop(2, 490, 700, 0)];
    expect(plain(stops, 0, 500)).toEqual([
      [0, 0, 100],
      ['gap', 100, 500],
    ]);
    expect(plain([], 0, 50)).toEqual([['gap', 0, 50]]);
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
        const legs = plotRoute(stops, -50, { type: 'loaded', atMs: target, readyMs: target / 2 });
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
