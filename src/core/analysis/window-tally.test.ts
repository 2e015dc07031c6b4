import fc from 'fast-check';
import { expect, it } from 'vitest';
import type { ExchangeIndex } from '../model';
import type { ExchangeRow } from './exchange-row';
import { type Tally, tally } from './summary';
import { type TalliedAt, WindowTally } from './window-tally';

const maybe = <T>(value: fc.Arbitrary<T>) => fc.option(value, { nil: undefined });
const ms = fc.integer({ min: -20, max: 100 });
const item = fc
  .record({
    startMs: maybe(ms),
    timeMs: maybe(fc.nat(40)),
    wireBytes: maybe(fc.nat(1000)),
    bodyBytes: maybe(fc.nat(1000)),
    fails: fc.boolean(),
    source: fc.constantFrom('network' as const, 'cache' as const),
    fetchedFor: maybe(fc.constant(3)),
    fetchedAs: maybe(fc.constant(4)),
  })
  .map(({ startMs, timeMs, fails, fetchedFor, fetchedAs, ...rest }): TalliedAt => {
    const row = {
      ...rest,
      failure: fails ? { type: 'status', status: 500, statusText: '' } : undefined,
      fetchedFor: fetchedFor as ExchangeIndex | undefined,
      fetchedAs: fetchedAs as ExchangeIndex | undefined,
    } as ExchangeRow;
    return { row, startMs, endMs: startMs === undefined ? undefined : startMs + (timeMs ?? 0) };
  });

it('sums over any window what a pass over all exchanges sums', () => {
  const inside = (items: readonly TalliedAt[], fromMs: number, toMs: number): Tally =>
    tally(
      items.flatMap(({ row, startMs, endMs }) =>
        startMs !== undefined && startMs <= toMs && (endMs ?? startMs) >= fromMs ? row : [],
      ),
    );
  fc.assert(
    fc.property(
      fc.array(item, { maxLength: 30 }),
      fc.array(fc.tuple(ms, fc.nat(60)), { maxLength: 8 }),
      (items, spans) => {
        const sums = new WindowTally(items);
        for (const [fromMs, lengthMs] of spans) {
          const toMs = fromMs + lengthMs;
          expect(sums.within({ fromMs, toMs })).toEqual(inside(items, fromMs, toMs));
        }
      },
    ),
  );
});
