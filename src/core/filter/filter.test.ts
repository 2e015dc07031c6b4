import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { analyse, type ExchangeRow, takeFacts } from '../analysis';
import { type JsonObject, normaliseEntry } from '../har';
import { FEW_VALUES, FIELDS, type FieldName } from './fields';
import {
  Columns,
  completeFilter,
  evaluateFilter,
  type Filter,
  fieldsOf,
  hasRegex,
  parseFilter,
  printFilter,
  toggleTerm,
  wordFilterProblem,
} from './index';
import { OPERATORS } from './tokens';

const entry = (url: string, more: Record<string, unknown> = {}, response: Record<string, unknown> = {}): JsonObject =>
  ({
    startedDateTime: '2026-10-03T09:00:00.000Z',
    request: { method: 'GET', url, headers: [] },
    response: { status: 200, content: { size: 100, mimeType: 'application/json' }, _transferSize: 150, ...response },
    timings: { blocked: 5, dns: 10, connect: 40, ssl: 25, send: 1, wait: 200, receive: 40 },
    _resourceType: 'fetch',
    ...more,
  }) as unknown as JsonObject;

const rows = analyse(
  [
    entry('https://www.cumbrera.example/huts', { _resourceType: 'document' }),
    entry('https://api.cumbrera.example/huts?page=0&sort=a%20b', { timings: { wait: 20, receive: 1 } }),
    entry('https://api.cumbrera.example/huts?page=1', {}, { status: 404, _transferSize: 2_500_000 }),
    entry(
      'https://stats.tallyfox.example/count',
      { request: { method: 'POST', url: 'https://stats.tallyfox.example/count' } },
      { status: 503 },
    ),
    entry('https://stats.tallyfox.example/count', { timings: {} }, { status: -1, _transferSize: -1, content: {} }),
  ].map((one, place) => takeFacts(normaliseEntry(one, place))),
  [],
  { type: 'whole' },
).rows;
const extra = new Map([['req.accept', { values: ['text/html', 'a\nb'], codes: [0, 1, -1, -1, -1] }]]);
const columns = new Columns(rows, new Map(), extra);

const treeOf = (text: string): Filter => {
  const parsed = parseFilter(text);
  if (!parsed.ok) throw new Error(`${text}: ${wordFilterProblem(parsed.problem)}`);
  return parsed.filter;
};
const through = (text: string): number[] =>
  [...evaluateFilter(treeOf(text), columns)].flatMap((bit, at) => (bit === 1 ? at : []));

describe('a filter lets through', () => {
  it.each<[string, number[]]>([
    ['', [0, 1, 2, 3, 4]],
    ['huts', [0, 1, 2]],
    ['HUTS page', [1, 2]],
    ['"huts?page"', [1, 2]],
    ['huts?page=1', [2]],
    ['/page=[01]$/', [2]],
    ['/HUTS/', []],
    ['/HUTS/i', [0, 1, 2]],
    ['kind = document', [0]],
    ['kind != document', [1, 2, 3, 4]],
    ['status = 4xx', [2]],
    ['status >= 4xx', [2, 3]],
    ['status > 4xx', [3]],
    ['status <= 4xx', [0, 1, 2]],
    ['status in (404, 503)', [2, 3]],
    ['status = none', [4]],
    ['not status = 200 and not failed', []],
    ['failed', [2, 3, 4]],
    ['wait > 100ms', [0, 2, 3]],
    ['wait >= 0.2 s', [0, 2, 3]],
    ['wait < 0.2s', [1]],
    ['setup = 50', [0, 2, 3]],
    ['wire > 2.4 MB', [2]],
    ['wire = unknown', [4]],
    ['wire != unknown and wire < 1 kB', [0, 1, 3]],
    ['party = third or status = 404', [2, 3, 4]],
    ['party = third and (status = 503 or status = none)', [3, 4]],
    ['query.page = 1', [2]],
    ['query.sort = "a b"', [1]],
    ['query.page = unknown', [0, 3, 4]],
    ['req.Accept = b', [1]],
    ['req.accept ~ html', [0]],
    ['host ~ api path = /huts', [1, 2]],
    ['host !~ cumbrera', [3, 4]],
    ['method = post', [3]],
    ['repeated', []],
    ['endpoint = "GET api.cumbrera.example/huts"', [1, 2]],
    ['outcome = failed', [2, 3, 4]],
  ])('%s', (text, expected) => expect(through(text)).toEqual(expected));

  it('nothing by a comparison with an unknown value, and everything else by its opposite', () => {
    expect(through('wait < 1 or wait >= 1')).toEqual([0, 1, 2, 3]);
    expect(through('not wait < 1')).toEqual([0, 1, 2, 3, 4]);
  });
});

describe('a filter that cannot be read', () => {
  it.each<[string, number, number, string]>([
    ['"huts', 0, 5, 'never closed'],
    ['kind =', 6, 6, 'found the end of the expression'],
    ['kind = scrpt', 7, 12, 'There is no kind "scrpt": use one of document, style, script'],
    ['not party in (first, both)', 21, 25, 'There is no party "both": use one of first, third.'],
    ['source != caches', 10, 16, 'There is no source "caches"'],
    ['outcome = fail', 10, 14, 'use one of plain, cached, redirect, failed.'],
    ['kind = )', 7, 8, 'found ")"'],
    ['(kind = data', 0, 1, 'put ) at its end'],
    ['kind = data)', 11, 12, 'Unmatched )'],
    ['colour = red', 0, 6, 'Unknown field "colour"'],
    ['hosts = a', 0, 5, 'did you mean host?'],
    ['query = 3', 0, 5, 'write query.NAME'],
    ['host > a', 5, 6, 'has no order'],
    ['wait ~ 3', 5, 6, 'is a number'],
    ['wait > soon', 7, 11, 'such as 200 ms or 1.5 s; found "soon"'],
    ['wait > 3kB', 7, 10, 'found "3kB"'],
    ['failed = 3', 0, 8, 'write failed or not failed'],
    ['/(/', 0, 3, 'cannot be read'],
    ['a or', 4, 4, 'found the end'],
    ['or a', 0, 2, 'found "or"'],
    ['status in (404', 14, 14, 'A list in parentheses'],
    ['= 3', 0, 1, 'found "="'],
  ])('%s says where, and what was expected', (text, from, to, words) => {
    const parsed = parseFilter(text);
    if (parsed.ok) throw new Error('it was read');
    expect([parsed.problem.from, parsed.problem.to]).toEqual([from, to]);
    expect(wordFilterProblem(parsed.problem)).toContain(words);
  });

  it('is refused, not looped over, when it nests without end', () => {
    const deep = parseFilter('('.repeat(5000));
    expect(!deep.ok && deep.problem.code).toBe('too-deep');
    const nots = parseFilter(`${'not '.repeat(5000)}a`);
    expect(!nots.ok && nots.problem.code).toBe('too-deep');
  });

  it('never throws and never points outside of it, whatever is typed', () => {
    const piece = fc.constantFrom(
      '"',
      '/',
      '(',
      ')',
      'in',
      'and',
      'not',
      '=',
      '!',
      '~',
      'wait',
      '3ms',
      '.',
      'query.',
      '\\',
      ',',
      'x',
      ' ',
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 14 }), (pieces) => {
        const text = pieces.join('');
        const parsed = parseFilter(text);
        if (parsed.ok) return;
        expect(parsed.problem.from).toBeGreaterThanOrEqual(0);
        expect(parsed.problem.to).toBeLessThanOrEqual(text.length);
        expect(wordFilterProblem(parsed.problem)).toMatch(/[.]$/);
      }),
      { numRuns: 500 },
    );
  });
});

const fieldsOfType = (type: string) =>
  (Object.keys(FIELDS) as FieldName[]).filter((name) => FIELDS[name].type === type);
const text = fc.oneof(
  fc.string({ unit: 'binary' }),
  fc.constantFrom('and', 'unknown', 'failed', '/a/', 'a b', '"', '\\', '4xx', 'in', 'x.', 'host'),
);
const pattern = fc.oneof(
  text.map((one) => ({ type: 'text' as const, text: one })),
  fc.record({
    type: fc.constant('regex' as const),
    source: fc.constantFrom('a', 'a b', '[/]x', '\\/x', '(a|b)+'),
    ignoresCase: fc.boolean(),
  }),
);
const amount = fc.integer({ min: -1_000_000, max: 1_000_000 }).map((one) => one / 100);
const textField = fc.oneof(
  fc.constantFrom(...fieldsOfType('text').filter((name) => FEW_VALUES[name] === undefined)).map((name) => ({ name })),
  fc.record({
    name: fc.constantFrom(...fieldsOfType('named').filter((name) => name !== 'forecast')),
    key: text.filter((one) => one !== ''),
  }),
  fc.record({ name: fc.constant('forecast'), key: fc.constantFrom('minute', 'hour', 'day', 'month') }),
);
const comparison = fc.oneof(
  fc.record({
    type: fc.constant('compare'),
    field: textField,
    operator: fc.constantFrom(...OPERATORS.filter((one) => /[~]|^!?=$/.test(one))),
    value: fc.oneof(pattern, fc.constant({ type: 'unknown' })),
  }),
  fc.record({
    type: fc.constant('compare'),
    field: fc.constantFrom('wait', 'time').map((name) => ({ name })),
    operator: fc.constantFrom('=', '!=', '<', '<=', '>', '>='),
    value: fc.record({ type: fc.constant('number'), amount, unit: fc.constantFrom('', 'ms', 's') }),
  }),
  fc.record({ type: fc.constant('in'), field: textField, values: fc.array(pattern, { minLength: 1, maxLength: 3 }) }),
);
const { filter: anyFilter } = fc.letrec((tie) => ({
  filter: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    comparison,
    fc.record({ type: fc.constant('address'), pattern }),
    fc.record({ type: fc.constant('flag'), flag: fc.constantFrom(...fieldsOfType('flag')) }),
    fc.record({ type: fc.constant('not'), part: tie('filter') }),
    fc.record({ type: fc.constantFrom('and', 'or'), parts: fc.array(tie('filter'), { minLength: 2, maxLength: 3 }) }),
  ),
}));

describe('printing', () => {
  it('then parsing gives the same tree', () => {
    fc.assert(
      fc.property(anyFilter, (filter) => {
        const printed = printFilter(filter as Filter);
        expect(parseFilter(printed)).toEqual({ ok: true, filter });
      }),
      { numRuns: 1000 },
    );
  });
});

/** A row at a time, straight from the definition. */
function plain(filter: Filter, row: ExchangeRow): boolean {
  switch (filter.type) {
    case 'and':
      return filter.parts.every((part) => plain(part, row));
    case 'or':
      return filter.parts.some((part) => plain(part, row));
    case 'not':
      return !plain(filter.part, row);
    case 'address':
      return row.url.toLowerCase().includes((filter.pattern as { text: string }).text.toLowerCase());
    case 'flag':
      return filter.flag === 'failed' ? row.failure !== undefined : row.isOnRoute;
    case 'compare': {
      const value = filter.value as { amount: number; unit: string };
      const [wait, amountMs] = [row.phases.waitMs, value.amount * (value.unit === 's' ? 1000 : 1)];
      return wait !== undefined && (filter.operator === '<' ? wait < amountMs : wait >= amountMs);
    }
    default:
      throw new Error(filter.type);
  }
}

it('by columns lets through what plain testing of each row does', () => {
  const { filter: small } = fc.letrec((tie) => ({
    filter: fc.oneof(
      { depthSize: 'small' },
      fc.record({
        type: fc.constant('address'),
        pattern: fc.record({ type: fc.constant('text'), text: fc.constantFrom('huts', 'COUNT', 'x') }),
      }),
      fc.constantFrom({ type: 'flag', flag: 'failed' }, { type: 'flag', flag: 'onroute' }),
      fc.record({
        type: fc.constant('compare'),
        field: fc.constant({ name: 'wait' }),
        operator: fc.constantFrom('<', '>='),
        value: fc.constantFrom({ type: 'number', amount: 0.1, unit: 's' }, { type: 'number', amount: 10, unit: '' }),
      }),
      fc.record({ type: fc.constant('not'), part: tie('filter') }),
      fc.record({ type: fc.constantFrom('and', 'or'), parts: fc.array(tie('filter'), { minLength: 2, maxLength: 3 }) }),
    ),
  }));
  fc.assert(
    fc.property(small, (filter) => {
      expect([...evaluateFilter(filter as Filter, columns)]).toEqual(
        rows.map((row) => Number(plain(filter as Filter, row))),
      );
    }),
  );
});

describe('completion', () => {
  const at = (typed: string) => completeFilter(typed, typed.length, columns, [{ name: 'req.accept', count: 2 }]);
  const texts = (typed: string) => at(typed).suggestions.map((one) => one.text);

  it('offers fields, then operators that fit, then values with their counts', () => {
    expect(texts('ki')).toEqual(['kind']);
    expect(texts('kind ')).toEqual(['=', '!=', '~', '!~', 'in (']);
    expect(texts('wait ')).toEqual(['=', '!=', '<=', '<', '>=', '>', 'in (']);
    expect(at('kind = d')).toEqual({
      from: 7,
      to: 8,
      suggestions: [
        { text: 'data', says: undefined, count: 4 },
        { text: 'document', says: undefined, count: 1 },
      ],
    });
    expect(texts('status in (404, 5')).toEqual(['503']);
    expect(texts('req.')).toEqual(['req.accept']);
    expect(at('query.').suggestions.map(({ text, count }) => [text, count])).toEqual([
      ['query.page', 2],
      ['query.sort', 1],
    ]);
    expect(texts('forecast.')).toEqual(['forecast.minute', 'forecast.hour', 'forecast.day', 'forecast.month']);
    expect(texts('failed a')).toEqual(['and']);
    expect(texts('endpoint = "GET w')).toEqual(['"GET www.cumbrera.example/huts"']);
  });
});

describe('terms', () => {
  const term = treeOf('kind = data');

  it('are added to what there is, and removed when they are there', () => {
    expect(printFilter(toggleTerm(treeOf(''), term))).toBe('kind = data');
    expect(printFilter(toggleTerm(treeOf('a or b'), term))).toBe('(a or b) and kind = data');
    expect(printFilter(toggleTerm(treeOf('a kind = data b'), term))).toBe('a and b');
    expect(printFilter(toggleTerm(term, term))).toBe('');
  });

  it('tell which fields they need, and whether an expression is in them', () => {
    expect(fieldsOf(treeOf('not (req.a = 1 or host in (a, b))'))).toEqual([
      { name: 'req', key: 'a' },
      { name: 'host' },
    ]);
    expect(hasRegex(treeOf('not (a or host in (a, /b/))'))).toBe(true);
    expect(hasRegex(treeOf('not (a or host in (a, b))'))).toBe(false);
  });
});
