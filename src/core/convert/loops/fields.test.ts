import { describe, expect, it } from 'vitest';
import { EACH } from '../../json';
import { FIRST_LOOP, type LoopFields, readLoop, suggestLoop } from '../index';

describe('what an answer suggests for a loop', () => {
  it.each([
    ['{"nights":[{"at":1}],"page":0,"pages":4}', 0, 1, { list: '$.nights', to: '3' }],
    ['{"nights":[{"at":1}],"page":1,"pages":4}', 1, 1, { list: '$.nights', to: '4' }],
    [
      '{"tags":["a"],"data":{"the items":[{},{}],"total":120}}',
      0,
      20,
      { list: '$.data["the items"]', total: '$.data.total' },
    ],
    ['[{"a":1},{"a":2}]', 0, 1, { list: '$' }],
    // What counts the page is no total; pages of another step are none of this parameter.
    ['{"items":[1,2],"count":2,"pages":3}', 0, 2, { list: '$.items' }],
    ['{"items":[],"count":7}', 0, 1, { list: '$.items', total: '$.count' }],
    ['{"pages":0,"items":[1]}', 0, 1, { list: '$.items' }],
    ['{"status":"held"}', 0, 1, {}],
    ['no JSON', 0, 1, {}],
  ])('%s', (text, first, step, wanted) => expect(suggestLoop(text, first, step)).toEqual(wanted));
});

describe('a loop as it is typed', () => {
  const typed = (change: Partial<LoopFields>) => readLoop({ ...FIRST_LOOP, ...change });

  it('is one request until another kind is chosen', () => {
    expect(typed({})).toBeUndefined();
    expect(typed({ kind: 'pages' })).toEqual({
      type: 'pages',
      parameter: 'page',
      from: 0,
      to: undefined,
      step: 1,
      list: ['items'],
      total: undefined,
      mostPages: 100,
      pauseMs: 500,
    });
    expect(typed({ kind: 'poll', pauseMs: '0' })).toMatchObject({ type: 'poll', until: 'done', most: 20, pauseMs: 0 });
    expect(typed({ kind: 'table', list: '$' })).toEqual({ type: 'table', list: [] });
    expect(typed({ kind: 'files', list: '$[*].at' })).toEqual({ type: 'files', at: [EACH, 'at'], folder: 'files' });
  });

  it.each([
    [{ kind: 'pages', step: '0' }, 'From and step are whole numbers, the step not 0.'],
    [{ kind: 'pages', from: '' }, 'From and step are whole numbers, the step not 0.'],
    [{ kind: 'pages', to: 'x' }, 'To is a whole number, or empty.'],
    [{ kind: 'pages', mostPages: '0' }, 'The most pages are a whole number, 1 or more.'],
    [{ kind: 'pages', parameter: '' }, 'Name the parameter.'],
    [{ kind: 'pages', list: '$[' }, 'The list is a place like $.items.'],
    [{ kind: 'pages', total: '$[' }, 'The total is a place like $.total.'],
    [{ kind: 'poll', mostTries: '1.5' }, 'The tries are a whole number, 1 or more.'],
    [{ kind: 'poll', pauseMs: '-1' }, 'The pause is a number of ms.'],
    [{ kind: 'files', folder: ' ' }, 'Name the folder.'],
  ] as [Partial<LoopFields>, string][])('%j is refused: %s', (change, sentence) =>
    expect(typed(change)).toBe(sentence),
  );
});
