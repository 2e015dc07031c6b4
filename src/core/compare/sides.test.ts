import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { holdsZero, intervalOf, LOADS_FOR_95, medianOf } from './chance';
import { compareGroup } from './group';
import type { ComparedLoad } from './load';
import { compareSides } from './sides';
import { tellComparison } from './tell';
import { tellGroup } from './tell-group';
import { type MadeExchange, makeLoad } from './testing/loads';

const SITE = 'https://www.cumbrera.example';
const API = 'https://api.cumbrera.example';

/** A document and two calls that hold it up one after the other, with more about the times of some. */
function visit(
  waits: { document?: number; script?: number; photo?: number },
  more: Partial<MadeExchange> = {},
  name?: string,
): ComparedLoad {
  const { document = 100, script = 80, photo = 60 } = waits;
  const exchanges: MadeExchange[] = [
    { url: `${SITE}/`, kind: 'document', startMs: 0, waitMs: document },
    { url: `${SITE}/app.js`, kind: 'script', by: `${SITE}/`, startMs: document + 1, waitMs: script, ...more },
    { url: `${API}/alba.png`, kind: 'image', by: `${SITE}/app.js`, startMs: document + script + 2, waitMs: photo },
  ];
  return makeLoad(exchanges, { loadedMs: document + script + photo + 3, ...(name === undefined ? {} : { name }) });
}

type Side = [ComparedLoad, ...ComparedLoad[]];
const side = (...loads: ComparedLoad[]): Side => loads as Side;

describe('several loads a side', () => {
  it('are told by their medians, and drawn by the load nearest to it', () => {
    const a = side(visit({ script: 50 }), visit({ script: 500 }), visit({ script: 70 }));
    const compared = compareSides(a, side(visit({ script: 20 })));
    expect(compared.a).toEqual({ loadsMs: [213, 663, 233], medianMs: 233, drawn: 2 });
    expect(compared.differenceMs).toBe(-50);
    expect(compared.interval).toBeUndefined();
    expect([...(compared.spread.a.get(a[2]?.rows[1]?.index ?? (9 as never)) ?? [])].sort((x, y) => x - y)).toEqual([
      51, 71, 501,
    ]);
    expect(compared.spread.b.size).toBe(0);
  });

  it('cannot be told from chance where they vary by as much as they differ', () => {
    const scripts = [50, 90, 70, 60, 120, 80];
    const a = side(...scripts.map((script) => visit({ script })));
    const b = side(...scripts.map((script) => visit({ script: script + 3 })));
    expect(tellComparison(compareSides(a, b)).slice(0, 2)).toEqual([
      'Loaded in 241 ms instead of 238 ms in the median: 3.0 ms later.',
      'That cannot be told from chance with 6 and 6 loads.',
    ]);
    const c = side(...scripts.map((script) => visit({ script: script + 400 })));
    expect(tellComparison(compareSides(a, c))[1]).toMatch(
      /^With 95 % confidence it is between 3\d\d ms and 4\d\d ms \(6 and 6 loads\)\.$/,
    );
  });

  it('is told with 95 % only where an interval of so many loads holds the real difference so often', () => {
    const of = (count: number) =>
      tellComparison(compareSides(side(...scriptsOf(count, 50)), side(...scriptsOf(count, 450))))[1];
    const scriptsOf = (count: number, from: number) =>
      Array.from({ length: count }, (_, at) => visit({ script: from + at * 7 }));
    expect(of(3)).toMatch(
      /^It is probably between .+: with 3 and 3 loads such a range is right about nine times in ten\.$/,
    );
    expect(of(4)).toMatch(/^It is probably/);
    expect(of(5)).toMatch(/^With 95 % confidence/);
    // Loads of one site, twice: the real difference is none. What is counted here is how often an interval says so.
    const holding = (count: number): number => {
      const draw = fc.array(fc.noBias(fc.integer({ min: 1, max: 10_000 })), { minLength: count, maxLength: count });
      const sides = fc.sample(fc.tuple(draw, draw), { seed: 20, numRuns: 800 });
      return sides.filter(([a, b]) => holdsZero(intervalOf(a, b) ?? { fromMs: 1, toMs: 2 })).length / sides.length;
    };
    expect(holding(LOADS_FOR_95 - 2)).toBeLessThan(0.95);
    expect(holding(LOADS_FOR_95)).toBeGreaterThanOrEqual(0.95);
    expect(holding(10)).toBeGreaterThanOrEqual(0.94);
  });

  it('the interval turns its signs with the sides, and holds 0 for a side against itself', () => {
    const values = fc.array(fc.integer({ min: 0, max: 5000 }), { minLength: 3, maxLength: 12 });
    fc.assert(
      fc.property(values, values, (a, b) => {
        const [there, back] = [intervalOf(a, b), intervalOf(b, a)];
        if (there === undefined || back === undefined) throw new Error('three values are enough');
        expect(
          `${a.toSorted()}` === `${b.toSorted()}` || (back.fromMs === -there.toMs && back.toMs === -there.fromMs),
        ).toBe(true);
        expect(there.fromMs).toBeLessThanOrEqual(there.toMs);
        expect(intervalOf(a.toReversed(), b.toReversed())).toEqual(there);
        const own = intervalOf(a, a);
        expect(own === undefined || holdsZero(own)).toBe(true);
      }),
      { seed: 6, numRuns: 60 },
    );
    expect(intervalOf([1, 2], [1, 2, 3])).toBeUndefined();
  });

  it.each([
    [[], undefined],
    [[4], 4],
    [[5, 1], 3],
    [[9, 1, 5], 5],
  ])('the median of %j is %j', (values, median) => {
    expect(medianOf(values)).toBe(median);
  });
});

/** Forty visits that vary by themselves, eight of them with a planted cause. */
function forty(
  planted: (at: number) => { waits: Parameters<typeof visit>[0]; more?: Partial<MadeExchange> },
): ComparedLoad[] {
  return Array.from({ length: 40 }, (_, at) => {
    // Every 5th is slow; all vary by up to 30 ms here and there.
    const noise = { document: 100 + ((at * 37) % 30), script: 80 + ((at * 53) % 30), photo: 60 + ((at * 71) % 30) };
    if (at % 5 !== 0) return visit(noise, {}, `user-${at}`);
    const { waits, more } = planted(at);
    return visit({ ...noise, ...waits }, more, `user-${at}`);
  });
}

describe('one group of loads', () => {
  const eight = [0, 5, 10, 15, 20, 25, 30, 35];

  it('finds a planted slow endpoint, and the phase it is slow in', () => {
    const group = compareGroup(forty((at) => ({ waits: { photo: 900 + at } })));
    expect(group?.slow.toSorted((a, b) => a - b)).toEqual(eight);
    expect(group?.isApart).toBe(true);
    const shared = new Map(
      group?.shared.map(({ dimension, value, ms, inLoads }) => [dimension, { value, ms, inLoads }]),
    );
    expect(shared.get('endpoint')).toMatchObject({ value: 'GET api.cumbrera.example/alba.png', inLoads: 8 });
    expect(shared.get('host')).toMatchObject({ value: 'api.cumbrera.example' });
    expect(shared.get('phase')).toMatchObject({ value: 'wait' });
    expect(shared.get('endpoint')?.ms).toBeGreaterThan(800);
    expect(group === undefined ? '' : tellGroup(group)[0]).toMatch(
      /^8 of 40 loads are slow: \d{3} ms more than the others in the median\.$/,
    );
  });

  it('finds that the slow ones fetch what the others have in their cache', () => {
    const loads = Array.from({ length: 12 }, (_, at) =>
      at % 4 === 0 ? visit({ script: 700 + at }) : visit({ script: 2 }, { isFromDisk: true }),
    );
    const group = compareGroup(loads);
    expect(group?.shared.find(({ dimension }) => dimension === 'source')).toMatchObject({
      value: 'disk → network',
      inLoads: 3,
    });
  });

  it('says that loads that vary evenly are not two groups', () => {
    const loads = Array.from({ length: 20 }, (_, at) => visit({ photo: 60 + 10 * at }));
    const group = compareGroup(loads);
    expect([group?.isApart, group?.slow.length]).toEqual([false, 4]);
    expect(group === undefined ? '' : tellGroup(group)[0]).toContain('not two groups');
  });

  it('calls most of a difference what makes half of it, and no less', () => {
    // Two endpoints share what the slow load takes longer.
    const loads = Array.from({ length: 8 }, (_, at) => (at === 3 ? visit({ script: 340, photo: 400 }) : visit({})));
    const group = compareGroup(loads);
    if (group === undefined) throw new Error('eight are enough');
    const tell = (ms: number): string | undefined =>
      tellGroup({
        ...group,
        differenceMs: 600,
        shared: [{ dimension: 'endpoint', value: 'GET a', ms, inLoads: 1 }],
      })[1];
    expect(tell(300)).toBe('Most of it comes with the endpoint GET a: it alone makes 300 ms of that.');
    expect(tell(299)).toMatch(/^The largest part of it comes with/);
  });

  it('says nothing of fewer than five', () => {
    expect(compareGroup([visit({}), visit({}), visit({}), visit({ photo: 900 })])).toBeUndefined();
  });
});
