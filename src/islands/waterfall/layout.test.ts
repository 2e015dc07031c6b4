import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { ExchangeRow } from '#core/analysis';
import type { Placed } from './arrange';
import { type ChartRow, type LayoutOptions, layOut } from './layout';
import { findTies, tiePath } from './ties';
import { fitWindow, isInWindow, pan, windowOver, zoomAbout } from './window';

const one = (index: number, more: Partial<Record<keyof ExchangeRow, unknown>> = {}, startMs = index * 10): Placed => ({
  row: {
    index,
    host: 'a',
    kind: 'data',
    status: 200,
    endpoint: `e${index}`,
    phases: {},
    timeMs: 5,
    ...more,
  } as ExchangeRow,
  startMs,
  endMs: startMs + 5,
});
const PLAIN: LayoutOptions = { order: 'start', lanes: undefined, isGrouped: false, turned: [] };
const brief = (rows: readonly ChartRow[]) =>
  rows.map((row) =>
    row.type === 'strip' ? row.placed.row.index : `${row.key}${row.isFolded ? ' folded' : ''} ${row.members.length}`,
  );

describe('the rows of the chart', () => {
  it('are ordered by any measure, the greatest first, unknown ones last', () => {
    const placed = [
      one(0, { timeMs: 5 }),
      one(1, { timeMs: undefined }),
      one(2, { timeMs: 50 }),
      one(3, { timeMs: undefined }),
    ];
    expect(brief(layOut(placed, { ...PLAIN, order: 'time' }))).toEqual([2, 0, 1, 3]);
    expect(brief(layOut(placed, PLAIN))).toEqual([0, 1, 2, 3]);
  });

  it('stand in lanes that can be folded', () => {
    const placed = [one(0, { host: 'b' }), one(1), one(2, { host: 'b' })];
    const lanes = { ...PLAIN, lanes: 'host' } as const;
    expect(brief(layOut(placed, lanes))).toEqual(['host:b 2', 0, 2, 'host:a 1', 1]);
    expect(brief(layOut(placed, { ...lanes, turned: ['host:b'] }))).toEqual(['host:b folded 2', 'host:a 1', 1]);
  });

  it('put lanes of a known order in it, and the unknown lane last', () => {
    const placed = [one(0, { depth: undefined }), one(1, { depth: 10 }), one(2, { depth: 2 })];
    const by = (lanes: LayoutOptions['lanes']) =>
      brief(layOut(placed, { ...PLAIN, lanes })).filter((row) => typeof row === 'string');
    expect(by('depth')).toEqual(['depth:2 1', 'depth:10 1', 'depth: 1']);
  });

  it('fold repeated calls together until they are opened', () => {
    const placed = [one(0, { endpoint: 'x' }), one(1), one(2, { endpoint: 'x' })];
    const grouped = { ...PLAIN, isGrouped: true };
    expect(brief(layOut(placed, grouped))).toEqual(['x folded 2', 1]);
    expect(brief(layOut(placed, { ...grouped, turned: ['x'] }))).toEqual(['x 2', 0, 2, 1]);
    expect(brief(layOut(placed, { ...grouped, lanes: 'kind' }))).toEqual(['kind:data 3', 'kind:data x folded 2', 1]);
  });

  it('show every exchange once when nothing is folded, whatever the lanes', () => {
    const anyRow = fc.record({
      host: fc.constantFrom('a', 'b', undefined),
      kind: fc.constantFrom('data', 'image'),
      endpoint: fc.constantFrom('x', 'y'),
    });
    fc.assert(
      fc.property(
        fc.array(anyRow, { maxLength: 12 }),
        fc.constantFrom('host', 'kind', undefined),
        fc.boolean(),
        (rows, lanes, isGrouped) => {
          const placed = rows.map((row, at) => one(at, row));
          const keys = new Set<string>();
          let laid = layOut(placed, { ...PLAIN, lanes, isGrouped });
          for (;;) {
            const folded = laid.filter((row) => row.type === 'lane' && row.isFolded && !keys.has(row.key));
            if (folded.length === 0) break;
            for (const { key } of folded) keys.add(key);
            laid = layOut(placed, { ...PLAIN, lanes, isGrouped, turned: [...keys] });
          }
          const strips = laid.flatMap((row) => (row.type === 'strip' ? row.placed.row.index : []));
          expect(strips.sort((a, b) => a - b)).toEqual(rows.map((_, at) => at));
          expect(new Set(laid.map(({ key }) => key)).size).toBe(laid.length);
        },
      ),
    );
  });
});

describe('ties', () => {
  it('lead from a hop to where it led, and from a preflight to what it was sent for', () => {
    const placed = [
      one(0),
      one(1, { parent: 0, parentEvidence: 'redirect' }),
      one(2, { preflightFor: 3 }),
      one(3, { parent: 0, parentEvidence: 'declared' }),
    ];
    const rows = layOut(placed, PLAIN);
    const ties = findTies(rows);
    expect(ties.map(({ type, from, to }) => [type, from, to])).toEqual([
      ['redirect', 0, 1],
      ['preflight', 2, 3],
    ]);
    const [hop] = ties;
    if (hop === undefined) throw new Error('no tie');
    expect(tiePath(hop, rows, { fromMs: 0, toMs: 100, widthPx: 1000 }, 20)).toBe('M59 14H100V24');
    expect(tiePath(hop, rows, { fromMs: 6, toMs: 100, widthPx: 1000 }, 20)).toBeUndefined();
    expect(findTies(layOut(placed.slice(1), PLAIN)).map(({ type }) => type)).toEqual(['preflight']);
  });
});

describe('the window', () => {
  const whole = { fromMs: 0, toMs: 600_000 };

  it('keeps the moment under the pointer where it is, down to 1 ms', () => {
    expect(zoomAbout(whole, 150_000, 2, whole)).toEqual({ fromMs: 75_000, toMs: 375_000 });
    const closest = zoomAbout({ fromMs: 100, toMs: 101.5 }, 101, 50, whole);
    expect(closest?.toMs).toBeCloseTo((closest?.fromMs ?? 0) + 1);
    expect(zoomAbout({ fromMs: 0, toMs: 400_000 }, 10, 0.5, whole)).toBeUndefined();
  });

  it('never leaves the load, whatever is done', () => {
    const step = fc.oneof(
      fc.record({
        at: fc.double({ min: 0, max: 600_000, noNaN: true }),
        factor: fc.double({ min: 0.1, max: 10, noNaN: true }),
      }),
      fc.record({ share: fc.double({ min: -2, max: 2, noNaN: true }) }),
    );
    fc.assert(
      fc.property(fc.array(step, { maxLength: 20 }), (steps) => {
        let window = whole;
        for (const act of steps) {
          window =
            ('share' in act ? pan(window, act.share, whole) : zoomAbout(window, act.at, act.factor, whole)) ?? whole;
          expect(window.fromMs).toBeGreaterThanOrEqual(whole.fromMs);
          expect(window.toMs).toBeLessThanOrEqual(whole.toMs + 1e-6);
          expect(window.toMs - window.fromMs).toBeGreaterThanOrEqual(1 - 1e-6);
        }
      }),
    );
  });

  it('goes over what it is asked to show, and knows what is in it', () => {
    expect(
      windowOver(
        [
          { startMs: 100, endMs: 200 },
          { startMs: 150, endMs: 300 },
        ],
        whole,
      ),
    ).toEqual({ fromMs: 84, toMs: 316 });
    expect(windowOver([{ startMs: undefined, endMs: undefined }], whole)).toBeUndefined();
    expect(fitWindow({ fromMs: 5, toMs: 5 }, whole)).toEqual({ fromMs: 5, toMs: 6 });
    const window = { fromMs: 10, toMs: 20 };
    expect(
      [
        [0, 9],
        [0, 10],
        [12, 13],
        [20, 30],
        [21, 30],
      ].map(([startMs, endMs]) => isInWindow({ startMs, endMs }, window)),
    ).toEqual([false, true, true, true, false]);
    expect(isInWindow({ startMs: undefined, endMs: undefined }, window)).toBe(false);
  });
});
