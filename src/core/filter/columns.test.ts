import { describe, expect, it } from 'vitest';
import type { ExchangeRow } from '../analysis';
import { packTexts } from '../wire';
import { Columns, columnName } from './columns';
import { numberOf } from './number-of';

const row = (change: Partial<Record<keyof ExchangeRow, unknown>> = {}): ExchangeRow =>
  ({
    index: 0,
    pageId: 'p#1',
    method: 'GET',
    url: 'https://api.cumbrera.example/huts/7?page=2&q=a%20b&page=3#top',
    source: 'network',
    startMs: 100,
    timeMs: 50,
    phases: { blockedMs: 4, dnsMs: 1, connectMs: 2, tlsMs: undefined, sendMs: 0, waitMs: 30, receiveMs: 9 },
    wireBytes: 700,
    bodyBytes: 2000,
    depth: 2,
    isOnRoute: false,
    ...change,
  }) as unknown as ExchangeRow;

const columnsOf = (rows: readonly ExchangeRow[], extra = new Map()): Columns =>
  new Columns(rows, new Map([['p#1', 'Alba Norte']]), extra);

/** The texts that a column holds, row by row. */
function textsOf(columns: Columns, field: Parameters<Columns['text']>[0]): (string | undefined)[] {
  const { values, codes } = columns.text(field);
  return [...codes].map((code) => values[code]);
}

describe('measures', () => {
  it.each([
    ['number', 0],
    ['end', 150],
    ['blocked', 4],
    ['setup', 3],
    ['wait', 30],
    ['receive', 9],
    ['wire', 700],
    ['body', 2000],
    ['saved', 0],
    ['depth', 2],
  ] as const)('%s is %s', (field, value) => {
    expect(numberOf(row(), field)).toBe(value);
  });

  it('are unknown where a part of them is', () => {
    expect(numberOf(row({ timeMs: undefined }), 'end')).toBeUndefined();
    expect(numberOf(row({ startMs: undefined }), 'end')).toBeUndefined();
    expect(numberOf(row({ bodyBytes: undefined, source: 'disk' }), 'saved')).toBeUndefined();
    expect(columnsOf([row({ timeMs: undefined })]).number('time')).toEqual(Float64Array.of(Number.NaN));
  });

  it('what a cache spared is the body, whichever cache it was', () => {
    for (const source of ['memory', 'disk', 'cache', 'worker', 'revalidated', 'prefetched']) {
      expect(numberOf(row({ source }), 'saved'), source).toBe(2000);
    }
    expect(numberOf(row({ source: 'none' }), 'saved')).toBe(0);
  });
});

describe('texts', () => {
  it('of a query are decoded, all values of the name, and none of the fragment', () => {
    const columns = columnsOf([row(), row({ url: 'https://a.example/x#?page=9' }), row({ url: 'not an address' })]);
    expect(textsOf(columns, { name: 'query', key: 'page' })).toEqual(['2\n3', undefined, undefined]);
    expect(textsOf(columns, { name: 'query', key: 'q' })).toEqual(['a b', undefined, undefined]);
  });

  it('of a page are its id and its title', () => {
    const columns = columnsOf([row(), row({ pageId: 'other' }), row({ pageId: undefined })]);
    expect(textsOf(columns, { name: 'page' })).toEqual(['p#1\nAlba Norte', 'other', undefined]);
  });

  it('of headers come from without, and are absent until they are there', () => {
    const columns = columnsOf([row(), row()]);
    const etag = { name: 'res', key: 'ETag' } as const;
    expect(columnName(etag)).toBe('res.etag');
    expect(columnName({ name: 'cookie', key: 'Walker' })).toBe('cookie.Walker');
    expect(textsOf(columns, etag)).toEqual([undefined, undefined]);
    const filled = columns.with(new Map([['res.etag', packTexts([undefined, '"a"'])]]));
    expect(textsOf(filled, etag)).toEqual([undefined, '"a"']);
  });

  it('that were made of the rows are kept when headers come', () => {
    const columns = columnsOf([row()]);
    const made = columns.text({ name: 'host' });
    expect(columns.with(new Map()).text({ name: 'host' })).toBe(made);
  });
});

describe('flags', () => {
  it('the same request is repeated only within a page, and only with the same operation', () => {
    const rows = [row(), row(), row({ pageId: 'other' }), row({ operation: 'HutCard' }), row({ method: 'HEAD' })];
    expect([...columnsOf(rows).flag('repeated')]).toEqual([1, 1, 0, 0, 0]);
  });

  it('tell what failed and what the load waited for', () => {
    const columns = columnsOf([row({ failure: 'closed' }), row({ isOnRoute: true })]);
    expect([...columns.flag('failed')]).toEqual([1, 0]);
    expect([...columns.flag('onroute')]).toEqual([0, 1]);
  });
});
