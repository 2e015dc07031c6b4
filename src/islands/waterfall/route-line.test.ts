import { describe, expect, it } from 'vitest';
import type { PlottedLeg } from '#core/brief';
import { exchangeIndex } from '#core/model';
import type { ChartRow } from './layout';
import { findRouteRows, type RouteStep, routePath, routeSteps, workPath } from './route-line';

const SCALE = { fromMs: 0, toMs: 100, widthPx: 100 };
const STRIP_PX = 20;
const strip = (index: number): ChartRow =>
  ({
    type: 'strip',
    key: String(index),
    level: 1,
    placed: { row: { index: exchangeIndex(index) } },
  }) as unknown as ChartRow;
const leg = (index: number, startMs: number, endMs: number): PlottedLeg => ({
  type: 'exchange',
  index: exchangeIndex(index),
  startMs,
  endMs,
  phases: {},
  evidence: undefined,
  confidence: undefined,
});
const LEGS: readonly PlottedLeg[] = [
  leg(0, 0, 20),
  {
    type: 'gap',
    startMs: 20,
    endMs: 30,
    after: exchangeIndex(0),
    before: exchangeIndex(2),
    isPause: false,
    meanwhile: [],
    idleMs: 10,
  },
  leg(2, 30, 60),
];

const stepsOf = (legs: readonly PlottedLeg[], rows: readonly ChartRow[]): RouteStep[] =>
  routeSteps(legs, findRouteRows(legs, rows), SCALE, STRIP_PX);

describe('the route through the strips', () => {
  it('runs under each leg and comes over to the next where that begins, gaps apart', () => {
    const steps = stepsOf(LEGS, [strip(0), strip(1), strip(2)]);
    expect(steps.map(({ number, row, fromPx, toPx }) => [number, row, fromPx, toPx])).toEqual([
      [1, 0, 0, 20],
      [2, 2, 30, 60],
    ]);
    expect(routePath(steps)).toBe('M0 18H20M30 18V58H60');
    expect(workPath(steps)).toBe('M20 18H30');
  });

  it('leaves out what is filtered away, and keeps the numbers of the others', () => {
    const steps = stepsOf(LEGS, [strip(2)]);
    expect(steps.map(({ number, row }) => [number, row])).toEqual([[2, 0]]);
  });

  it('is nothing where there is no route', () => expect(routePath(stepsOf([], [strip(0)]))).toBe(''));
});
