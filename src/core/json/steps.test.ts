import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EACH, readPath, writePath } from './index';

describe('a place in JSON', () => {
  it.each([
    ['$', []],
    ['$.a[0].b', ['a', 0, 'b']],
    ['a.b', ['a', 'b']],
    ['$[\'a b\'][*]["c"]', ['a b', EACH, 'c']],
    ['$["*"]', ['*']],
    ['$[', undefined],
  ])('%s leads to %j', (text, wanted) => expect(readPath(text)).toEqual(wanted));

  it('is read back as it is written, whatever its names', () => {
    const step = fc.oneof(fc.nat(99), fc.constant(EACH), fc.constant('*'), fc.string({ unit: 'binary', minLength: 1 }));
    fc.assert(
      fc.property(fc.array(step), (place) => {
        expect(readPath(writePath(place))).toEqual(place);
      }),
      { seed: 13 },
    );
  });
});
