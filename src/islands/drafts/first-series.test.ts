import { describe, expect, it } from 'vitest';
import { EMPTY_DRAFT, FIRST_LOOP, type LoopFields } from '#core/convert';
import { keptFrom } from '#core/sheet';
import { firstSeries } from './first-series';

const of = (loop: Partial<LoopFields>, lineName: string) => {
  const draft = { ...EMPTY_DRAFT, url: 'https://a.example/huts?page=7&q=alba&x=1.5' };
  const { kind, parameter, from } = firstSeries(
    { ...keptFrom('d', 'x', draft, undefined), loop: { ...FIRST_LOOP, ...loop } },
    lineName,
  );
  return [kind, parameter, from];
};

describe('what a series goes through at first', () => {
  it.each([
    [{}, 'page', ['pages', 'page', '7']],
    [{}, 'q', ['values', 'q', '0']],
    // Counting goes by whole numbers.
    [{}, 'x', ['values', 'x', '0']],
    [{ next: '$.next' }, 'page', ['pages', 'page', '7']],
    [{ next: '$.next' }, '', ['follow', 'page', '0']],
    [{ total: '$.total' }, '', ['pages', 'page', '0']],
    [{}, '', ['one', 'page', '0']],
    // What somebody has chosen stays, a loop that waits does not.
    [{ kind: 'days', parameter: 'day' }, 'page', ['days', 'day', '0']],
    [{ kind: 'poll' }, 'page', ['pages', 'page', '7']],
  ] as const)('%j, on the line %s: %j', (loop, lineName, wanted) => expect(of(loop, lineName)).toEqual(wanted));
});
