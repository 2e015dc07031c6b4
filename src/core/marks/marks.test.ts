import fc from 'fast-check';
import { expect, it } from 'vitest';
import { legName, type MarkTarget, markKey, readMarkKey } from './index';

const target: fc.Arbitrary<MarkTarget> = fc.oneof(
  fc.record({ type: fc.constant('exchange' as const), index: fc.nat(1e9 - 1) }),
  fc.record({ type: fc.constant('finding' as const), key: fc.string({ minLength: 1 }) }),
  fc.record({
    type: fc.constant('leg' as const),
    page: fc.string({ unit: 'grapheme' }),
    leg: fc.oneof(
      fc.nat(1e6).map((index) => legName({ type: 'exchange', index })),
      fc.double({ min: -1e6, max: 1e9, noNaN: true }).map((startMs) => legName({ type: 'gap', startMs })),
    ),
  }),
  fc.record({ type: fc.constant('page' as const), id: fc.string({ minLength: 1, unit: 'grapheme' }) }),
);

it('a target is read as it was written, whatever its ids look like', () => {
  fc.assert(
    fc.property(target, (one) => {
      expect(readMarkKey(markKey(one))).toEqual(one);
    }),
    { seed: 30, numRuns: 1000 },
  );
});

it.each(['', 'exchange', 'exchange -1', 'exchange 1.5', 'exchange 12 ', 'leg #x page', 'leg gap page', 'host a'])(
  '"%s" is no target',
  (text) => expect(readMarkKey(text)).toBeUndefined(),
);
