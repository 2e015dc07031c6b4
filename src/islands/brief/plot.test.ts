import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { ExchangeRow } from '#core/analysis';
import type { PlottedLeg } from '#core/brief';
import { exchangeIndex, NO_PHASES } from '#core/model';
import { profileInFlight } from '#core/timing';
import { endpointBars, hostBars, routeBars, statusBars } from './bars';
import { countTicks, flightSlices, roundTicks } from './flight';
import { BOX_PX, plotOf } from './plot';

const leg = (index: number, startMs: number, endMs: number): PlottedLeg => ({
  type: 'exchange',
  index: exchangeIndex(index),
  startMs,
  endMs,
  phases: {},
  evidence: undefined,
  confidence: undefined,
});
const gap = (startMs: number, endMs: number): PlottedLeg => ({
  type: 'gap',
  startMs,
  endMs,
  after: undefined,
  before: undefined,
  isPause: false,
  meanwhile: [],
  idleMs: endMs - startMs,
});

describe('the plotted route', () => {
  it('rises with each exchange, and stays level in gaps', () => {
    const { boxes } = plotOf([leg(0, 0, 100), gap(100, 150), leg(1, 150, 200)], 200);
    expect(boxes.map(({ x, widthPx, number }) => [x, widthPx, number])).toEqual([
      [0, 100, 1],
      [100, 50, undefined],
      [150, 50, 2],
    ]);
    const [first, second, third] = boxes.map(({ y }) => y);
    expect(second).toBe(first);
    expect(third).toBeLessThan(first ?? 0);
  });

  it('is one line from its first leg to its last, whatever the legs, and stays inside its picture', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 1, max: 500 }), fc.boolean()), { minLength: 1, maxLength: 80 }),
        (drawn) => {
          let at = 0;
          const legs = drawn.map(([length, isWork], index) => {
            const from = at;
            at += length;
            return isWork ? gap(from, at) : leg(index, from, at);
          });
          const { boxes, line, heightPx } = plotOf(legs, 640);
          expect(line.match(/M/g)).toHaveLength(1);
          for (const { x, y, widthPx } of boxes) {
            expect(x).toBeGreaterThanOrEqual(0);
            expect(x + widthPx).toBeLessThanOrEqual(642);
            expect(y).toBeGreaterThanOrEqual(-1);
            expect(y + BOX_PX).toBeLessThanOrEqual(heightPx);
          }
        },
      ),
    );
  });
});

it('a route of thousands of legs is no taller than a screen, and draws no more boxes than there are pixels', () => {
  const legs = Array.from({ length: 4000 }, (_, at) =>
    at % 2 === 0 ? leg(at, at * 10, at * 10 + 9) : gap(at * 10 - 1, at * 10 + 10),
  );
  const long = leg(9999, 40_000, 41_000);
  const { boxes, line, heightPx } = plotOf([...legs, long], 640);
  expect(heightPx).toBeLessThan(300);
  expect(boxes.length).toBeLessThanOrEqual(2 * 640);
  expect(boxes.at(-1)).toMatchObject({ leg: long, number: 2001 });
  expect(line.match(/M/g)).toHaveLength(1);
});

const row = (change: Partial<ExchangeRow>): ExchangeRow =>
  ({ host: 'a.example', kind: 'data', endpoint: 'GET a', ...change }) as ExchangeRow;

describe('the bars of the brief', () => {
  it('sum wire and body bytes by host, most first, what is unknown left out', () => {
    const rows = [
      row({ wireBytes: 10, bodyBytes: 40 }),
      row({ host: 'b.example', wireBytes: 90 }),
      row({ host: 'c.example' }),
    ];
    expect(hostBars(rows)).toEqual([
      { name: 'b.example', value: 90, second: undefined, outcome: 'plain' },
      { name: 'a.example', value: 10, second: 40, outcome: 'plain' },
    ]);
  });

  it('sum the route by kind, its gaps beside it', () => {
    const rows = [row({ index: exchangeIndex(0), kind: 'document' }), row({ index: exchangeIndex(1) })];
    const legs = [leg(0, 0, 40), gap(40, 50), leg(1, 50, 150), gap(150, 180)];
    expect(routeBars(legs, rows).map(({ name, value }) => [name, value])).toEqual([
      ['data', 100],
      ['document', 40],
      ['gaps', 40],
    ]);
  });

  it('are not known where nothing of a sum is, and nothing where it is known to be', () => {
    const rows = [
      row({ wireBytes: 0, bodyBytes: 5 }),
      row({ host: 'b.example', bodyBytes: 7 }),
      row({ host: 'b.example' }),
    ];
    expect(hostBars(rows).map(({ name, value, second }) => [name, value, second])).toEqual([
      ['b.example', undefined, 7],
      ['a.example', 0, 5],
    ]);
  });

  it('count exchanges by the class of their status', () => {
    const rows = [200, 204, 404, undefined].map((status) => row({ status }));
    expect(statusBars(rows).map(({ name, value, outcome }) => [name, value, outcome])).toEqual([
      ['2xx', 2, 'plain'],
      ['4xx', 1, 'failed'],
      ['none', 1, 'failed'],
    ]);
  });

  it('order endpoints by their median, without sockets and streams, which last as long as they like', () => {
    const rows = [
      ...[10, 20, 30].map((timeMs) => row({ timeMs })),
      row({ endpoint: 'GET b', timeMs: 25 }),
      row({ endpoint: 'GET c', timeMs: 90_000, kind: 'socket' }),
    ];
    expect(endpointBars(rows).map(({ name, value }) => [name, value])).toEqual([
      ['GET b', 25],
      ['GET a', 20],
    ]);
  });
});

describe('the slices of the load', () => {
  const span = fc.record({
    startMs: fc.integer({ min: 0, max: 500 }),
    timeMs: fc.integer({ min: 1, max: 300 }),
    phases: fc.constant(NO_PHASES),
  });

  it('are of one round length and begin at round moments, as do their ticks', () => {
    const slices = flightSlices([{ startMs: 52, timeMs: 3060, phases: NO_PHASES }]);
    expect([slices[0]?.fromMs, slices[0]?.toMs, slices.length]).toEqual([0, 100, 32]);
    expect(roundTicks(slices)).toEqual([0, 500, 1000, 1500, 2000, 2500, 3000]);
    // A load that begins before its page does.
    expect(roundTicks(flightSlices([{ startMs: -300, timeMs: 900, phases: NO_PHASES }]))).toEqual([-200, 0, 200, 400]);
  });

  it('tile the load, and their fullest is the most that were ever open at once', () => {
    fc.assert(
      fc.property(fc.array(span, { minLength: 1, maxLength: 30 }), (spans) => {
        const slices = flightSlices(spans);
        const { steps, max } = profileInFlight(spans);
        const [first, last] = [steps[0]?.atMs ?? 0, steps.at(-1)?.atMs ?? 0];
        const widthMs = (slices[0]?.toMs ?? 0) - (slices[0]?.fromMs ?? 0);
        expect(first - (slices[0]?.fromMs ?? 0)).toBeGreaterThanOrEqual(0);
        expect(first - (slices[0]?.fromMs ?? 0)).toBeLessThan(widthMs);
        expect((slices.at(-1)?.toMs ?? 0) - last).toBeGreaterThanOrEqual(-1e-9);
        for (const [at, slice] of slices.entries())
          expect(slice.fromMs).toBeCloseTo(slices[at - 1]?.toMs ?? slice.fromMs, 6);
        const open = slices.map(({ settingUp, waiting, downloading }) => settingUp + waiting + downloading);
        expect(Math.max(...open)).toBe(max);
      }),
    );
  });

  it.each([
    [0, [0, 1]],
    [1, [0, 1]],
    [3, [0, 1, 2, 3]],
    [6, [0, 2, 4, 6]],
    [37, [0, 10, 20, 30, 40]],
    [120_000, [0, 50_000, 100_000, 150_000]],
  ])('have whole numbers beside them up to %i', (most, ticks) => {
    const slice = { fromMs: 0, toMs: 1, settingUp: 0, waiting: most, downloading: 0 };
    expect(countTicks([slice])).toEqual(ticks);
  });

  it('are none where nothing took any time', () => expect(flightSlices([])).toEqual([]));
});
