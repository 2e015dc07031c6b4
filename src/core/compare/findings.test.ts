import { describe, expect, it } from 'vitest';
import type { Finding } from '../diagnose';
import type { ExchangeIndex } from '../model';
import { compareFindings } from './findings';
import { compareLoads } from './loads';
import { type MadeExchange, makeLoad } from './testing/loads';

const finding = (rule: string, evidence: readonly number[], routeMs?: number): Finding =>
  ({
    rule,
    claim: `${rule} ${evidence}`,
    evidence,
    cost: routeMs === undefined ? {} : { routeMs },
  }) as unknown as Finding;
const index = (number: number) => number as ExchangeIndex;
/** Exchange n of A is n + 10 of B. */
const pairs = [0, 1, 2, 3].map((number) => ({ a: index(number), b: index(number + 10) }));
const told = (a: Finding[], b: Finding[]) =>
  compareFindings(a, b, pairs).map((one) => `${one.change} ${one.a?.claim ?? '-'} / ${one.b?.claim ?? '-'}`);

describe('the findings of two loads', () => {
  it.each([
    [
      'about the same exchanges are the same',
      [finding('gap', [0, 1])],
      [finding('gap', [10, 11])],
      ['same gap 0,1 / gap 10,11'],
    ],
    [
      'about more exchanges have changed',
      [finding('gap', [0])],
      [finding('gap', [10, 11])],
      ['changed gap 0 / gap 10,11'],
    ],
    [
      'that cost clearly more have changed',
      [finding('gap', [0], 100)],
      [finding('gap', [10], 140)],
      ['changed gap 0 / gap 10'],
    ],
    [
      'that cost hardly more are the same',
      [finding('gap', [0], 100)],
      [finding('gap', [10], 105)],
      ['same gap 0 / gap 10'],
    ],
    [
      'of another rule are gone and new',
      [finding('gap', [0])],
      [finding('heavy-script', [10])],
      ['gone gap 0 / -', 'new - / heavy-script 10'],
    ],
    [
      'of a rule that found one thing in each belong together',
      [finding('gap', [0])],
      [finding('gap', [13])],
      ['changed gap 0 / gap 13'],
    ],
    [
      'of a rule that found several belong by what they share most',
      [finding('gap', [0, 1]), finding('gap', [1, 2, 3])],
      [finding('gap', [11, 12, 13]), finding('gap', [10])],
      ['changed gap 0,1 / gap 10', 'same gap 1,2,3 / gap 11,12,13'],
    ],
  ])('%s', (_, a, b, expected) => {
    expect(told(a, b)).toEqual(expected);
  });
});

const SITE = 'https://www.cumbrera.example';
const one = (more: Partial<MadeExchange>): MadeExchange => ({
  url: `${SITE}/a.css`,
  kind: 'style',
  startMs: 0,
  waitMs: 50,
  body: 'x',
  ...more,
});
/** Something that was kept, without which a visit is no warm one. */
const kept: MadeExchange = {
  url: `${SITE}/kept.js`,
  kind: 'script',
  startMs: 0,
  waitMs: 9,
  body: 'k',
  headers: [['cache-control', 'max-age=900']],
};

describe('what was fetched again though its bytes are the same', () => {
  const whyOf = (headers: MadeExchange['headers'], laterMs: number) => {
    const first = makeLoad([one({ ...(headers === undefined ? {} : { headers }) }), kept]);
    const again = makeLoad([one({}), { ...kept, isFromDisk: true }], { laterMs });
    return compareLoads(first, again).visits?.fetchedAgain.map(({ why }) => why);
  };

  it.each([
    ['not-storable', [['cache-control', 'no-store']], 5000],
    ['no-lifetime', [], 5000],
    ['expired', [['cache-control', 'max-age=60']], 90_000],
    ['all-the-same', [['cache-control', 'max-age=60']], 5000],
    ['all-the-same', [['etag', '"1"']], 5000],
  ] as const)('is so because of %s', (why, headers, laterMs) => {
    expect(whyOf(headers, laterMs)).toEqual([why]);
  });

  it('is not told of bodies that changed, nor of a visit that took nothing from a cache', () => {
    const first = makeLoad([one({}), kept]);
    const changed = makeLoad([one({ body: 'y' }), { ...kept, isFromDisk: true }], { laterMs: 5000 });
    expect(compareLoads(first, changed).visits?.fetchedAgain).toEqual([]);
    expect(compareLoads(first, makeLoad([one({}), kept], { laterMs: 5000 })).visits).toBeUndefined();
  });
});
