import { describe, expect, it } from 'vitest';
import { EACH } from '../../json';
import { EMPTY_DRAFT, FIRST_LOOP, type LoopFields, readLoop, suggestLoop } from '../index';

const draft = { ...EMPTY_DRAFT, url: 'https://a.example/huts' };

describe('what a captured response suggests for a loop', () => {
  it.each([
    ['{"nights":[{"at":1}],"page":0,"pages":4}', { list: '$.nights', pages: '$.pages' }],
    ['{"tags":["a"],"data":{"the items":[{},{}],"total":120}}', { list: '$.data["the items"]', total: '$.data.total' }],
    ['[{"a":1},{"a":2}]', { list: '$' }],
    // What counts the page is no total, and what is the last page's number may count from 0.
    ['{"items":[1,2],"count":2,"last_page":3}', { list: '$.items' }],
    ['{"items":[],"count":7}', { list: '$.items', total: '$.count' }],
    ['{"pages":0,"items":[1]}', { list: '$.items' }],
    ['{"status":"held"}', {}],
    ['no JSON', {}],
    ['{"rows":[1],"next":"https://a.example/huts?page=2"}', { list: '$.rows', next: '$.next', cursor: '' }],
    [
      '{"_links":{"next":{"href":"/huts?page=2"}},"rows":[1]}',
      { list: '$.rows', next: '$._links.next.href', cursor: '' },
    ],
    [
      '{"info":{"endCursor":"b2","hasNextPage":true},"rows":[1]}',
      { list: '$.rows', next: '$.info.endCursor', cursor: 'cursor' },
    ],
    ['{"next_page_token":"t","rows":[1]}', { list: '$.rows', next: '$.next_page_token', cursor: 'page_token' }],
    // A page that is the last names nothing; what looks like it elsewhere is none.
    ['{"next":null,"rows":[1]}', { list: '$.rows' }],
    ['{"next":"","nextSteps":"call us","rows":[{"next":"x"}]}', { list: '$.rows' }],
  ])('%s', (text, wanted) => expect(suggestLoop({ text }, draft)).toEqual(wanted));

  it.each([
    [[{ name: 'X-Total-Count', value: '319' }], { total: 'header X-Total-Count' }],
    [[{ name: 'content-range', value: 'items 0-24/319' }], { total: 'header content-range' }],
    [[{ name: 'content-range', value: 'items 0-24/*' }], {}],
    [[{ name: 'x-total-pages', value: '7' }], { pages: 'header x-total-pages' }],
    [[{ name: 'link', value: '<https://a.example/?p=2>; rel="next"' }], { next: 'header Link', cursor: '' }],
    [[{ name: 'link', value: '<https://a.example/>; rel="preload"; title="next"' }], {}],
  ])('the headers %j', (headers, wanted) => expect(suggestLoop({ headers }, draft)).toEqual(wanted));

  it('takes the parameter that the request has for what the response names', () => {
    const text = '{"rows":[1],"meta":{"nextCursor":"x"}}';
    for (const [change, cursor] of [
      [{ url: 'https://a.example/huts?after=a' }, 'after'],
      [{ url: 'https://a.example/huts?cursor=a&after=b' }, 'cursor'],
      [{ payload: { type: 'text', text: '{"variables":{"after":null}}' } }, 'after'],
    ] as const)
      expect(suggestLoop({ text }, { ...draft, ...change }).cursor).toBe(cursor);
  });
});

describe('a loop as it is typed', () => {
  const typed = (change: Partial<LoopFields>) => readLoop({ ...FIRST_LOOP, ...change });

  it('is one request until another kind is chosen', () => {
    expect(typed({})).toBeUndefined();
    expect(typed({ kind: 'pages', list: '$.items', total: 'header X-Total', step: 'rows', shortEnds: 'yes' })).toEqual({
      type: 'pages',
      parameter: 'page',
      from: 0,
      to: undefined,
      step: 'rows',
      list: ['items'],
      total: { in: 'header', name: 'X-Total' },
      pages: undefined,
      shortEnds: true,
      rows: 'csv',
      mostPages: 100,
      pauseMs: 500,
    });
    expect(typed({ kind: 'follow', list: '$', next: '$.next', cursor: 'after', rows: 'jsonl' })).toEqual({
      type: 'follow',
      parameter: 'after',
      next: { in: 'json', at: ['next'] },
      list: [],
      rows: 'jsonl',
      mostPages: 100,
      pauseMs: 500,
    });
    expect(typed({ kind: 'follow', list: '$', next: 'header link', cursor: 'after' })).toMatchObject({
      parameter: undefined,
      next: { in: 'link' },
    });
    expect(typed({ kind: 'poll', pauseMs: '0' })).toEqual({
      type: 'poll',
      until: { in: 'json', at: ['status'], text: 'done' },
      most: 20,
      pauseMs: 0,
    });
    expect(typed({ kind: 'poll', pauseMs: '0.4' })).toMatchObject({ pauseMs: 0 });
    expect(typed({ kind: 'poll', status: '200' })).toMatchObject({ until: { in: 'status', status: 200 } });
    expect(typed({ kind: 'table', list: '$' })).toEqual({ type: 'table', list: [], rows: 'csv' });
    expect(typed({ kind: 'files', list: '$[*].at' })).toEqual({ type: 'files', at: [EACH, 'at'], folder: 'files' });
  });

  it.each([
    [
      { kind: 'pages', step: '0' },
      'From is a whole number, the step is one that is not 0, or "rows" for as many as came.',
    ],
    [
      { kind: 'pages', from: '' },
      'From is a whole number, the step is one that is not 0, or "rows" for as many as came.',
    ],
    [{ kind: 'pages', to: 'x' }, 'To is a whole number, or empty.'],
    [{ kind: 'pages', mostPages: '0' }, 'The most pages are a whole number, 1 or more.'],
    [{ kind: 'pages', parameter: '' }, 'Name the parameter.'],
    [{ kind: 'pages' }, 'Give the place of the list, like $.items; a list that is the whole response is at $.'],
    [{ kind: 'table', list: '$[' }, 'The list is a place like $.items.'],
    [{ kind: 'pages', list: '$.huts[*]' }, 'The list is a place like $.items.'],
    [
      { kind: 'pages', list: '$', total: '$[' },
      'The total is at a place like $.total, or in a header: "header X-Total-Count".',
    ],
    [
      { kind: 'pages', list: '$', pages: 'header a b' },
      'The number of pages is at a place like $.pages, or in a header: "header X-Pages".',
    ],
    [{ kind: 'follow', list: '$' }, 'The next page is at a place like $.next, or in "header Link".'],
    [
      { kind: 'follow', list: '$', next: 'header Location' },
      'The next page is at a place like $.next, or in "header Link".',
    ],
    [{ kind: 'table', list: '$', rows: 'xml' }, 'Rows are written as csv or jsonl.'],
    [{ kind: 'poll', status: '20' }, 'The status is a number like 200, or empty.'],
    [{ kind: 'poll', mostTries: '1.5' }, 'The tries are a whole number, 1 or more.'],
    [{ kind: 'poll', pauseMs: '-1' }, 'The pause is a number of ms.'],
    [{ kind: 'files', list: '$[*]', folder: ' ' }, 'Name the folder.'],
  ] as [Partial<LoopFields>, string][])('%j is refused: %s', (change, sentence) =>
    expect(typed(change)).toBe(sentence),
  );
});
