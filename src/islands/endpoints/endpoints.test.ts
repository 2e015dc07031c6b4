import { describe, expect, it } from 'vitest';
import type { ExchangeRow } from '#core/analysis';
import type { Placed } from '../waterfall/arrange';
import { findCounter, findEndpointOrder, groupEndpoints, slowestOf, strokesOf } from './endpoints';

const call = (endpoint: string, timeMs: number | undefined, change: Partial<ExchangeRow> = {}): Placed =>
  ({ row: { endpoint, timeMs, source: 'network', url: 'https://a.example/', ...change } }) as unknown as Placed;

const calls = [
  call('GET a.example/huts/{}', 40, { wireBytes: 100 }),
  call('GET a.example/beds', 900, { wireBytes: 5 }),
  call('GET a.example/huts/{}', 60, { wireBytes: 100 }),
  call('POST a.example/beds', undefined, { failure: { type: 'no-response', reason: 'reset', recorded: 'closed' } }),
  call('GET a.example/huts/{}', 20),
];
const namesBy = (order: string): string[] => groupEndpoints(calls, findEndpointOrder(order)).map(({ name }) => name);

describe('exchanges by endpoint', () => {
  it.each([
    ['calls', ['GET a.example/huts/{}', 'GET a.example/beds', 'POST a.example/beds']],
    ['failed', ['POST a.example/beds', 'GET a.example/beds', 'GET a.example/huts/{}']],
    ['median', ['GET a.example/beds', 'GET a.example/huts/{}', 'POST a.example/beds']],
    ['slowest', ['GET a.example/beds', 'GET a.example/huts/{}', 'POST a.example/beds']],
    ['wire', ['GET a.example/huts/{}', 'GET a.example/beds', 'POST a.example/beds']],
    ['by mule', ['GET a.example/huts/{}', 'GET a.example/beds', 'POST a.example/beds']],
  ])('stand by %s', (order, names) => {
    expect(namesBy(order)).toEqual(names);
  });

  it('sum only what is known, and keep the order of their starts', () => {
    const [huts] = groupEndpoints(calls, 'calls');
    expect(huts?.sums).toMatchObject({ exchanges: 3, wireBytes: 200, failed: 0 });
    expect(huts?.calls.map(({ row }) => row.timeMs)).toEqual([40, 60, 20]);
    expect(slowestOf(huts?.calls ?? [])).toBe(60);
    expect(groupEndpoints([], 'calls')).toEqual([]);
  });

  it('stand before the preflights that ask leave for them', () => {
    const preflight = call('OPTIONS a.example/beds', 1, { kind: 'preflight' });
    const all = [preflight, preflight, call('GET a.example/beds', 9)];
    expect(groupEndpoints(all, 'calls').map(({ name }) => name)).toEqual([
      'GET a.example/beds',
      'OPTIONS a.example/beds',
    ]);
  });
});

describe('the strokes of their durations', () => {
  it('are a path for each outcome with no stroke twice, half of one that two outcomes share', () => {
    const failed = { failure: { type: 'http', status: 500 } } as unknown as Partial<ExchangeRow>;
    const own = [
      ...[call('a', 10, failed), call('a', 30, failed)],
      ...[call('a', 10), call('a', 10.1), call('a', 20), call('a', undefined)],
    ];
    expect(strokesOf(own, (ms) => ms)).toEqual([
      { outcome: 'plain', d: 'M10 6v9M20 6v9' },
      { outcome: 'failed', d: 'M10 11v4M30 6v9' },
    ]);
  });

  it('are no more than can be told apart, however many calls there are', () => {
    const many = Array.from({ length: 100_000 }, (_, at) => call('a', at / 1000));
    const strokes = strokesOf(many, (ms) => ms * 3.8);
    expect(strokes).toHaveLength(1);
    expect(strokes[0]?.d.match(/M/g)).toHaveLength(761);
  });
});

describe('the parameter that an endpoint pages by', () => {
  const of = (...queries: string[]) => findCounter(queries.map((query) => `https://a.example/huts${query}`));

  it('counts on by one step', () => {
    expect(of('?size=20&page=0', '?size=20&page=1', '?size=20&page=2')).toBe('page');
    expect(of('?offset=40', '?offset=20')).toBe('offset');
  });

  it('is none of one call, of what stays, jumps, lacks, or is no whole number', () => {
    expect(of('?page=1')).toBeUndefined();
    expect(of('?page=1', '?page=1')).toBeUndefined();
    expect(of('?page=1', '?page=2', '?page=4')).toBeUndefined();
    expect(of('?page=1', '')).toBeUndefined();
    expect(of('?at=1.5', '?at=2.5')).toBeUndefined();
  });
});
