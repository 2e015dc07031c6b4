import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EMPTY_DRAFT, FIRST_LOOP, LINK_NEXT, type LoopFields, readLoop } from '../convert';
import { own } from '../convert/testing/odd-texts';
import type { HeldResponse } from '../trial';
import type { Condition } from './condition';
import {
  columnsOf,
  countRepeated,
  Grow,
  isMeasure,
  judge,
  readCondition,
  rowsAsCsv,
  rowsAsJson,
  rowsAsLines,
  Series,
  type SeriesLoop,
  tellSubject,
  typedColumn,
  waitBefore,
} from './index';
import { readColumn } from './values';

const loopOf = (fields: Partial<LoopFields>): SeriesLoop => {
  const loop = readLoop({ ...FIRST_LOOP, list: '$', ...fields });
  if (typeof loop !== 'object' || loop.type === 'poll') throw new Error(String(loop));
  return loop;
};

const respond = (body: unknown, status = 200) => ({ status, headers: [], text: JSON.stringify(body) });
const held = (body: unknown, status = 200): HeldResponse => ({
  status,
  headers: [],
  body: { type: 'text', text: typeof body === 'string' ? body : JSON.stringify(body) },
});

describe('a condition', () => {
  it.each([
    ['status = 200', {}, 200, true, '200'],
    ['Status >= 500', {}, 200, false, '200'],
    ['$.price < 30', { price: 29.5 }, 200, true, '29.5'],
    ['$.price < 30', { price: '29.5' }, 200, true, '29.5'],
    // What is no number is neither less nor more.
    ['$.price < 30', { price: 'sold' }, 200, false, 'sold'],
    ['$.price < 30', { price: null }, 200, false, 'null'],
    ['$.price < 30', {}, 200, false, undefined],
    ['$.state = done', { state: 'done' }, 200, true, 'done'],
    ['$.state = "done"', { state: 'done' }, 200, true, 'done'],
    ['$.left = 0', { left: 0.0 }, 200, true, '0'],
    ['$.state != done', {}, 200, false, undefined],
    ['$.state != done', { state: 'held' }, 200, true, 'held'],
    ['$["a <= b"][0].x ~ Alba', { 'a <= b': [{ x: 'pico alba' }] }, 200, true, 'pico alba'],
    ['$.items[0] is there', { items: [] }, 200, false, undefined],
    ['$.items[0] is there', { items: [null] }, 200, true, 'null'],
    ['$.a.b is there', { a: [1] }, 200, false, undefined],
    ['$.at = { "a": 1 }', { at: { a: 1 } }, 200, false, '{"a":1}'],
  ])('%s of %j is %s', (text, body, status, isMet, value) => {
    const condition = readCondition(text);
    if (typeof condition === 'string') throw new Error(condition);
    expect(judge(condition, held(body, status), undefined)).toEqual({ isMet, value });
  });

  it.each([
    // As doubles all of these are the same number.
    ['$.id = 98765432109876543', '98765432109876543', true],
    ['$.id = 98765432109876543', '98765432109876544', false],
    ['$.id != 98765432109876543', '98765432109876544', true],
    ['$.id > 98765432109876543', '98765432109876544', true],
    ['$.id < 98765432109876544', '98765432109876544', false],
    ['$.id = 5', '5.0', true],
    ['$.id > 98765432109876543.5', '98765432109876543', false],
    ['$.id < 0', '-98765432109876543', true],
  ])('%s of the very digits %s is %s', (text, id, isMet) => {
    const condition = readCondition(text);
    if (typeof condition === 'string') throw new Error(condition);
    expect(judge(condition, held(`{"id":${id}}`), undefined)).toEqual({ isMet, value: id });
  });

  it.each(['status = 2xx', 'status = ok', 'status != 20', 'status >= 1e2'])('%s could never be met', (text) =>
    expect(readCondition(text)).toBe(
      'A status is a number of three digits, like status = 200; any that succeeded is status < 300.',
    ),
  );

  it('of a change is met by what is another than at first, of a place or of the whole', () => {
    for (const [text, subject] of [
      ['$.free changes', '$.free'],
      ['changes', 'the response'],
    ] as const) {
      const condition = readCondition(text);
      if (typeof condition === 'string') throw new Error(condition);
      expect(tellSubject(condition)).toBe(subject);
      expect(judge(condition, held({ free: 3 }), undefined).isMet).toBe(false);
      expect(judge(condition, held({ free: 3 }), held({ free: 3 })).isMet).toBe(false);
      expect(judge(condition, held({}), held({ free: 3 })).isMet).toBe(true);
    }
  });

  it.each([
    ['$.hut changes', { hut: { a: 1, b: [2] } }, '{"hut":{"b":[2],"a":1}}', 200, false],
    ['$.hut changes', { hut: { a: 1, b: [2, 3] } }, '{"hut":{"b":[3,2],"a":1}}', 200, true],
    ['$.at changes', { at: '2026-03-01T09:00:00Z' }, '{"at":"2026-03-01T10:00:00Z"}', 200, true],
    // A service that fails, or says that nothing has changed, says nothing of the place.
    ['$.free changes', { free: 3 }, '<h1>Bad gateway</h1>', 502, false],
    ['$.free changes', { free: 3 }, '', 304, false],
    ['$.free changes', { free: 3 }, '{"free":0}', 404, true],
    ['changes', { free: 3 }, '', 304, false],
    ['changes', { free: 3 }, '{ "free": 3 }', 200, false],
    ['changes', { free: 3, requestId: 'a-1' }, '{"requestId":"a-2","free":3}', 200, false],
    ['changes', { free: 3 }, '{"free":3}', 410, true],
  ])('%s from %j to %s (%i) is %s', (text, first, then, status, isMet) => {
    const condition = readCondition(text);
    if (typeof condition === 'string') throw new Error(condition);
    expect(judge(condition, held(then, status), held(first)).isMet).toBe(isMet);
  });

  it('of a change begins with the first response that tells something', () => {
    const [place, whole] = ['$.free changes', 'changes'].map(readCondition) as [Condition, Condition];
    const lacking = [held('busy', 503), held('', 302), held('', 304)];
    expect(lacking.map((one) => isMeasure(place, one))).toEqual([false, false, false]);
    expect([held('{"free":1}', 503), held('{}')].map((one) => isMeasure(place, one))).toEqual([true, true]);
    expect(isMeasure(whole, held('busy', 503))).toBe(true);
    // What was not modified before is now.
    expect(judge(whole, held('{"free":1}'), held('', 304)).isMet).toBe(true);
  });

  it.each([
    ['', 'A condition is like "status = 200"'],
    ['$.price', 'A condition is like "status = 200"'],
    ['price < 3', 'Before < stands "status", or a place like $.price.'],
    ['$.items[*].price < 3', 'Before < stands "status", or a place like $.price.'],
    ['$.price < cheap', 'Behind < stands a number.'],
    ['$.price =', 'Behind = stands what it is compared with.'],
    ['price changes', 'Before "changes" stands a place like $.price.'],
  ])('%j is none: %s', (text, sentence) => expect(readCondition(text)).toContain(sentence));
});

describe('waiting for a busy server', () => {
  const busy = (retryAfter?: string, status = 503) => ({
    status,
    headers: retryAfter === undefined ? [] : [{ name: 'Retry-After', value: retryAfter }],
  });
  const now = Date.UTC(2026, 9, 5, 8);

  it.each([
    [1, busy(), 1000],
    [2, busy(), 2000],
    [3, busy(undefined, 429), 4000],
    [4, busy(), undefined],
    [1, undefined, 1000],
    [1, busy('7'), 7000],
    [1, busy('Mon, 05 Oct 2026 08:00:30 GMT'), 30_000],
    [1, busy('Mon, 05 Oct 2026 07:00:00 GMT'), 0],
    // Nobody waits for an hour, nor goes on without it.
    [1, busy('3600'), undefined],
    [1, busy('soon'), 1000],
    [1, busy('7', 200), undefined],
    [1, busy('7', 500), undefined],
  ])('behind try %d, %j: %s ms', (tries, outcome, ms) => expect(waitBefore(tries, outcome, now)?.ms).toBe(ms));
});

describe('gathered rows', () => {
  const rows =
    (...json: string[]) =>
    () =>
      json.map((one, at) => ({ json: one, value: String(at) }));

  it('keep their very characters: long numbers, trailing zeros, escapes', () => {
    const given = rows('{"id":9007199254740993, "p":1.50,"n":"a\\u0041"}');
    expect([...rowsAsCsv(given, {})].join('')).toBe('id,p,n\n9007199254740993,1.50,aA\n');
    expect([...rowsAsLines(given, {})].join('')).toBe('{"id":9007199254740993,"p":1.50,"n":"a\\u0041"}\n');
  });

  it('have the value that each came from in front, whatever they are', () => {
    const given = rows('{"a":1}', '{}', '7');
    const choice = { valueColumn: 'from page' };
    expect([...rowsAsCsv(given, choice)].join('')).toBe('from page,a,value\n0,1,\n1,,\n2,,7\n');
    expect(JSON.parse([...rowsAsJson(given, choice)].join(''))).toEqual([
      { 'from page': '0', a: 1 },
      { 'from page': '1' },
      { 'from page': '2', value: 7 },
    ]);
  });

  it('are repeated by their ids, else by all that they say', () => {
    const same = rows(
      '{"id":1,"at":1}',
      '{"id":1,"at":2}',
      '{"id":9007199254740993}',
      '{"id":9007199254740992}',
      '{"a":1}',
      '{ "a": 1 }',
      '[1]',
      '[1]',
    );
    expect(countRepeated(same())).toBe(3);
    expect([...rowsAsLines(same, { once: true })]).toHaveLength(5);
  });
});

describe('values of a table', () => {
  it('are those of a column, however it is quoted', () => {
    const cell = fc.string({ unit: fc.constantFrom('a', '1', ',', '"', '\n', '\r', ' ', 'é'), maxLength: 6 });
    fc.assert(
      fc.property(fc.array(fc.tuple(cell, cell), { maxLength: 6 }), (rows) => {
        const quoted = (text: string): string => `"${text.replaceAll('"', '""')}"`;
        const text = [['hut', 'the "id"'], ...rows].map((row) => row.map(quoted).join(',')).join('\r\n');
        const read = readColumn(text, 'the "id"');
        expect(read).toEqual(rows.map(([, value]) => value.trim()).filter((value) => value !== ''));
      }),
      { seed: 3, numRuns: 500 },
    );
    expect(columnsOf('\uFEFFid;x,name\r\n1,2')).toEqual(['id;x', 'name']);
    expect(readColumn('id,name\n1,2', 'hut')).toBeUndefined();
    expect(columnsOf('')).toEqual([]);
  });

  it.each([
    ['id;price\r\n1;2,50\r\n2;3,10', 'price', ['2,50', '3,10']],
    ['id\tname\n1\ta, b', 'name', ['a, b']],
    ['"a;b";c\n1;2', 'c', ['2']],
    ['id,name\n1,6" nail\n2,x', 'name', ['6" nail', 'x']],
    ['id,name\n1,"a"b\n2,x', 'name', ['ab', 'x']],
  ])('are those of %j, whatever parts its cells', (text, column, values) => {
    expect(readColumn(text, column)).toEqual(values);
  });

  it('are as many in the field of a loop, commas in them or not, and none of them of two lines', () => {
    const taken = (text: string): unknown => {
      const column = typedColumn(text, 'hut');
      return 'problem' in column ? column.problem : loopOf({ kind: 'values', parameter: 'hut', values: column.typed });
    };
    expect(taken('hut\n"Ibón, upper"')).toMatchObject({ values: ['Ibón, upper'] });
    expect(taken('id,hut\n1,"a, b"\n2,c')).toMatchObject({ values: ['a, b', 'c'] });
    expect(taken('hut\nx\n"upper\r\nlower"')).toBe(
      'The cell "upper…" of column "hut" has a line break in it: a value is one line.',
    );
    expect(taken('id\n1')).toBe('There is no column "hut".');
  });
});

it('reads a cell and a row of millions of letters', () => {
  const long = 'y'.repeat(3_000_000);
  expect(readColumn(`id,note\n1,"${long}"\n2,${long}`, 'note')?.map(({ length }) => length)).toEqual([3e6, 3e6]);
  expect(columnsOf('a,'.repeat(1_000_000))).toHaveLength(1_000_001);
});

describe('the next page that a Link header names', () => {
  it.each([
    ['</a?x=1,2>; rel="next"', '/a?x=1,2'],
    ['</a>; rel="prev", </b>; rel="next"', '/b'],
    ['</a>; rel="prev next"', '/a'],
    ['</a>; title="a, b"; REL = next, </b>; rel=last', '/a'],
    ['</a>; foo; rel="next last"; title="x"', '/a'],
    ['</a>; rel="next-archive"', undefined],
    ['</a>; rel=nexts', undefined],
    ['</a>; rev="next"', undefined],
    ['</a>; title="b; rel=next"; rel=prev', undefined],
  ])('%s', (header, next) => expect(new RegExp(LINK_NEXT, 'i').exec(header)?.[1]).toBe(next));
});

describe('a series', () => {
  const draft = { ...EMPTY_DRAFT, url: 'https://a.example/nights?day=x&page=0' };

  it.each([
    [{ firstDay: '2026-02-27', lastDay: '2026-03-02' }, ['2026-02-27', '2026-02-28', '2026-03-01', '2026-03-02']],
    [{ firstDay: '20241231', lastDay: '20250114', step: '7' }, ['20241231', '20250107', '20250114']],
    [{ firstDay: '2026/03/02', lastDay: '2026/03/01', step: '-1' }, ['2026/03/02', '2026/03/01']],
  ])('goes through days: %j', (fields, values) =>
    expect(loopOf({ kind: 'days', parameter: 'day', ...fields })).toMatchObject({ type: 'values', values }),
  );

  it.each([
    [{ firstDay: '2026-02-30', lastDay: '2026-03-02' }, 'The first and the last day are days like 2026-03-01.'],
    [{ firstDay: '2026-03-02', lastDay: '2026-03-01' }, 'The last day is before the first.'],
    [{ firstDay: '1026-03-02', lastDay: '2026-03-01' }, 'are more than the 10000 of one series.'],
    [{ firstDay: '2026-03-01', lastDay: '2026-03-02', step: '0' }, 'The step is a whole number of days that is not 0.'],
  ])('has no such days: %j', (fields, sentence) =>
    expect(readLoop({ ...FIRST_LOOP, kind: 'days', parameter: 'day', list: '$', ...fields })).toContain(sentence),
  );

  it('knows what comes behind the next only where no response is needed for it', () => {
    const ahead = (fields: Partial<LoopFields>): (string | undefined)[] => {
      const series = new Series(draft, loopOf(fields));
      return [0, 1, 2, 3].map((count) => series.requestAt(series.begin(), count)?.value);
    };
    expect(ahead({ kind: 'pages', to: '2' })).toEqual(['0', '1', '2', undefined]);
    expect(ahead({ kind: 'pages', from: '4', step: '-2', mostPages: '2' })).toEqual(['4', '2', undefined, undefined]);
    expect(ahead({ kind: 'pages', step: 'rows' })).toEqual(['0', undefined, undefined, undefined]);
    expect(ahead({ kind: 'values', parameter: 'day', values: 'a,b' })).toEqual(['a', 'b', undefined, undefined]);
    expect(ahead({ kind: 'follow', next: '$.next' })[1]).toBeUndefined();
  });

  it.each([
    ['a query', { url: 'https://a.example/rows?after=a%2Bb' }, 'a+b'],
    ['a parameter that is not there yet', { url: 'https://a.example/rows' }, ''],
    [
      'JSON',
      {
        headers: [own('Content-Type', 'application/json')],
        payload: { type: 'text', text: '{"after":"a+b"}' } as const,
      },
      'a+b',
    ],
  ])('follows what stands in %s by what it says, however it is written there', (_, more, first) => {
    const follow = loopOf({ kind: 'follow', next: '$.next', cursor: 'after', list: '$.rows' });
    const series = new Series({ ...draft, url: 'https://a.example/rows', ...more }, follow);
    const begun = series.begin();
    expect(series.requestAt(begun)?.value).toBe(first);
    const then = series.take(begun, respond({ rows: [1], next: 'é &"x=%41' }), 'https://a.example/rows');
    expect(series.requestAt(then)?.value).toBe('é &"x=%41');
  });

  it('is the same whether it is kept and read between two responses or not', () => {
    const series = new Series(draft, loopOf({ kind: 'pages', list: '$.rows', total: '$.total' }));
    let [one, other] = [series.begin(), series.begin()];
    for (const count of [2, 2, 1]) {
      const response = respond({ rows: Array.from({ length: count }, (_, at) => at * count), total: 5 });
      one = series.take(one, response, draft.url);
      other = JSON.parse(JSON.stringify(series.take(JSON.parse(JSON.stringify(other)), response, draft.url)));
    }
    expect(other).toEqual(one);
    expect(one.end).toEqual({ why: 'done', sentence: 'The response to 1 is the one before again.' });
  });
});

describe('growing', () => {
  const grown = (url: string, parameter: string | undefined, gives: (url: URL) => number | string) => {
    const grow = new Grow({ ...EMPTY_DRAFT, url }, parameter, ['rows']);
    let state = grow.begin();
    for (let step = grow.next(state), left = 100; step !== undefined && left > 0; step = grow.next(state), left--) {
      const variable = step.draft.variables.find(({ name }) => name === 'page');
      const asked = new URL(step.draft.url.replace(/‹page›/, variable?.value ?? ''));
      const rows = gives(asked);
      state = grow.take(
        state,
        typeof rows === 'string' ? respond({}, Number(rows)) : respond({ rows: Array(rows).fill(0) }),
      );
    }
    return state;
  };

  const number = (url: URL, name: string): number => Number(url.searchParams.get(name));

  it('ends at what the service caps, however much is asked for, and says that it may be all', () => {
    const state = grown('https://a.example/x?limit=10', 'limit', (url) => Math.min(53, number(url, 'limit')));
    expect(state.told.at(-1)).toBe('limit 80: 53 rows');
    expect(state.end).toBe(
      'The most it gave is 53 rows, with limit 80; unchanged it gave 10. Asked for 80, it gave fewer: all there are, or its limit.',
    );
  });

  it('finds the largest size that is not refused, tries each filter with it, and tells of all', () => {
    const state = grown('https://a.example/x?size=64&open=1&q=a&page=3', 'size', (url) =>
      number(url, 'size') > 100 ? '400' : url.searchParams.has('q') ? number(url, 'size') : '422',
    );
    expect(state.told).toEqual([
      'unchanged: 64 rows',
      'without page: 64 rows',
      'size 128 without page: 400',
      'size 100 without page: 100 rows',
      'size 101 without page: 400',
      'size 100 without page and open: 100 rows',
      'size 100 without page and q: 422',
      'size 100 and q empty without page: 100 rows',
    ]);
    expect(state.end).toBe(
      'The most it gave is 100 rows, with size 100 without page; unchanged it gave 64. With size 101 without page: 400.',
    );
  });

  it('asks for no other large page where one strained the service, or where the session is over', () => {
    for (const status of ['500', '504', '429', '401', '302']) {
      const state = grown('https://a.example/x?n=8&open=1', 'n', (url) => {
        const all = url.searchParams.has('open') ? 15 : 90;
        return number(url, 'n') > 16 ? status : Math.min(number(url, 'n'), all);
      });
      expect(state.told).toEqual([
        'unchanged: 8 rows',
        'n 16: 15 rows',
        'n 16 without open: 16 rows',
        `n 32 without open: ${status}`,
      ]);
      expect(state.end).toBe(
        `The most it gave is 16 rows, with n 16 without open; unchanged it gave 8. With n 32 without open: ${status}.`,
      );
    }
  });

  it('finds the most that a service gives, whatever it does about pages that are too large', () => {
    const filters = fc.array(fc.record({ hides: fc.integer({ min: 1, max: 400 }), isNeeded: fc.boolean() }), {
      maxLength: 3,
    });
    fc.assert(
      fc.property(
        fc.record({
          total: fc.integer({ min: 1, max: 400 }),
          filters,
          size: fc.integer({ min: 1, max: 60 }),
          above: fc.integer({ min: 0, max: 500 }),
          page: fc.constantFrom(undefined, 1, 2, 4),
          tooLarge: fc.constantFrom('cut', 'refused', 'default'),
        }),
        ({ total, filters, size, above, page, tooLarge }) => {
          // Its own choice of size shows only where a page is full.
          fc.pre(tooLarge !== 'default' || total >= size);
          const limit = size + above;
          const query = [
            `size=${size}`,
            ...filters.map((_, at) => `f${at}=1`),
            ...(page === undefined ? [] : [`page=${page}`]),
          ];
          const state = grown(`https://a.example/x?${query.join('&')}`, 'size', (url) => {
            const isGone = (at: number): boolean => !url.searchParams.has(`f${at}`);
            if (filters.some(({ isNeeded }, at) => isNeeded && isGone(at))) return '422';
            const there = filters.reduce((sum, { hides }, at) => sum + (isGone(at) ? hides : 0), total);
            const asked = number(url, 'size');
            if (asked > limit && tooLarge === 'refused') return '400';
            const given = asked <= limit ? asked : tooLarge === 'cut' ? limit : Math.min(size, 20);
            return Math.max(0, Math.min(given, there - ((number(url, 'page') || 1) - 1) * given));
          });
          const there = filters.reduce((sum, { hides, isNeeded }) => sum + (isNeeded ? 0 : hides), total);
          expect(state.most?.rows).toBe(Math.min(limit, there));
          expect(state.told.length).toBeLessThan(60);
        },
      ),
      { numRuns: 2000 },
    );
  });

  it('tries no page as large as one that strained the service, whatever gives more', () => {
    const state = grown('https://a.example/x?n=8&open=1', 'n', (url) => {
      const all = url.searchParams.has('open') ? 17 : 90;
      return number(url, 'n') > 16 ? '503' : Math.min(number(url, 'n'), all);
    });
    expect(state.told.slice(2)).toEqual(['n 32: 503', 'n 16 without open: 16 rows']);
  });

  it('never asks for ever, nor goes on where the draft gives no rows', () => {
    expect(grown('https://a.example/x?n=1', 'n', (url) => Number(url.searchParams.get('n'))).told.length).toBeLessThan(
      20,
    );
    expect(grown('https://a.example/x?n=1', 'n', () => '500').end).toBe('The unchanged draft gives no rows: 500.');
  });
});
