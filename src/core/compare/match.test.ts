import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { ExchangeIndex } from '../model';
import { withoutFingerprints } from './fingerprint';
import { addressIn, HostMapError, readHostMap } from './hosts';
import { longestCommon } from './longest-common';
import { type Corrections, matchLoads } from './match';
import { anyLoad, type MadeExchange, makeLoad } from './testing/loads';

const SITE = 'https://www.cumbrera.example';
const exchange = (path: string, more: Partial<MadeExchange> = {}): MadeExchange => ({
  url: `${SITE}${path}`,
  startMs: 0,
  waitMs: 10,
  ...more,
});
const inTurn = (exchanges: readonly MadeExchange[]) => exchanges.map((one, at) => ({ ...one, startMs: 10 * at }));
const match = (a: readonly MadeExchange[], b: readonly MadeExchange[], map?: string, corrections?: Corrections) => {
  const [own, other] = [makeLoad(inTurn(a)), makeLoad(inTurn(b))];
  const found = matchLoads(own.rows, other.rows, readHostMap(map === undefined ? [] : [map]), corrections);
  return {
    pairs: found.pairs.map((pair) => `${pair.a.index}-${pair.b.index} ${pair.by}`).sort(),
    gone: found.gone.map(({ index }) => index),
    fresh: found.fresh.map(({ index }) => index),
    groups: found.groups.map(({ endpoint, a: inA, b: inB }) => `${endpoint} ${inA.length} → ${inB.length}`),
  };
};
const script = (path: string) => exchange(path, { kind: 'script' });

describe('exchanges of two loads are the same by the surest evidence', () => {
  it.each([
    [
      'the same request, whatever its order',
      [exchange('/a'), exchange('/b')],
      [exchange('/b'), exchange('/a')],
      ['0-1 request', '1-0 request'],
    ],
    [
      'the same request made twice, in turn',
      [exchange('/a'), exchange('/a')],
      [exchange('/a'), exchange('/a')],
      ['0-0 request', '1-1 request'],
    ],
    ['a fingerprint in a file name', [script('/app.41ab77.js')], [script('/app.77d0c9.js')], ['0-0 fingerprint']],
    ['a fingerprint in a folder', [script('/3f9a1c02/app.js')], [script('/77d0c9b1/app.js')], ['0-0 fingerprint']],
    [
      'a cache-buster in a query',
      [exchange('/dot?t=1790000000123')],
      [exchange('/dot?t=1790000009999')],
      ['0-0 fingerprint'],
    ],
    [
      'another payload at the same address',
      [exchange('/gql', { method: 'POST', payload: 'a' })],
      [exchange('/gql', { method: 'POST', payload: 'b' })],
      ['0-0 endpoint'],
    ],
    ['another page of a listing', [exchange('/huts?page=1')], [exchange('/huts?page=2')], ['0-0 numbers']],
    ['another query', [exchange('/huts?sort=name')], [exchange('/huts?sort=beds')], ['0-0 place']],
  ])('%s', (_, a, b, pairs) => {
    expect(match(a, b)).toMatchObject({ pairs, gone: [], fresh: [] });
  });

  it.each([
    ['another path', [exchange('/huts')], [exchange('/ridges')]],
    ['another host', [exchange('/huts')], [{ ...exchange('/huts'), url: 'https://api.cumbrera.example/huts' }]],
    ['another method', [exchange('/huts')], [exchange('/huts', { method: 'DELETE' })]],
    [
      'a page is no call, though they have one endpoint',
      [exchange('/huts?a', { kind: 'document' })],
      [exchange('/huts?b')],
    ],
    ['words are no fingerprints', [script('/winter.js')], [script('/summer.js')]],
  ])('not %s', (_, a, b) => {
    expect(match(a, b)).toEqual({ pairs: [], gone: [0], fresh: [0], groups: [] });
  });

  it('takes of several the one with the same number, then by place, and tells the rest as a group', () => {
    const photos = (...names: string[]) => names.map((name) => exchange(`/photos/${name}.webp`, { kind: 'image' }));
    expect(
      match(photos('alba-480', 'brisa-480', 'jara-480', 'sol-480'), photos('alba-960', 'sol-960', 'luz-960')),
    ).toEqual({
      pairs: ['0-0 numbers', '1-2 place', '3-1 numbers'],
      gone: [2],
      fresh: [],
      groups: ['GET www.cumbrera.example/photos/{}.webp 4 → 3'],
    });
  });

  it('knows an endpoint by what varies on either side', () => {
    const own = [exchange('/huts/17/beds'), exchange('/huts/18/beds')];
    // One side alone has but one word at that place, and cannot know that it varies.
    expect(match(own, [exchange('/huts/alba/beds')])).toMatchObject({ pairs: ['0-0 place'], gone: [1] });
  });

  it('takes hosts for one another where that is said, from either side', () => {
    const staging = { ...exchange('/huts/17'), url: 'http://staging.cumbrera.example:8080/huts/17' };
    const map = 'staging.cumbrera.example=www.cumbrera.example';
    expect(match([staging], [exchange('/huts/17')])).toMatchObject({ pairs: [] });
    expect(match([staging], [exchange('/huts/17')], map)).toMatchObject({ pairs: ['0-0 request'] });
    expect(match([exchange('/huts/17')], [staging], map)).toMatchObject({ pairs: ['0-0 request'] });
    const other = { ...staging, url: `${staging.url}?sort=a` };
    expect(match([other], [exchange('/huts/17?sort=b')], map)).toMatchObject({ pairs: ['0-0 place'] });
  });

  it('is corrected by hand', () => {
    const index = (number: number) => number as ExchangeIndex;
    const [a, b] = [
      [exchange('/a'), exchange('/b')],
      [exchange('/a'), exchange('/c')],
    ];
    const by = { matched: [[index(1), index(1)]], parted: [[index(0), index(0)]] } as const;
    expect(match(a, b, undefined, by)).toMatchObject({ pairs: ['1-1 hand'], gone: [0], fresh: [0] });
    // What names exchanges that there are not is left aside.
    expect(match(a, b, undefined, { matched: [[index(9), index(0)]], parted: [] })).toMatchObject({
      pairs: ['0-0 request'],
    });
  });

  it('never takes one twice, and is the same from both sides', () => {
    fc.assert(
      fc.property(anyLoad, anyLoad, ({ rows: a }, { rows: b }) => {
        const [there, back] = [matchLoads(a, b), matchLoads(b, a)];
        expect(new Set(there.pairs.map((pair) => pair.a)).size + there.gone.length).toBe(a.length);
        expect(new Set(there.pairs.map((pair) => pair.b)).size + there.fresh.length).toBe(b.length);
        expect(back.pairs.map((pair) => `${pair.b.index} ${pair.a.index} ${pair.by}`).sort()).toEqual(
          there.pairs.map((pair) => `${pair.a.index} ${pair.b.index} ${pair.by}`).sort(),
        );
        expect(back.gone).toEqual(there.fresh);
      }),
      { seed: 4, numRuns: 200 },
    );
  });
});

describe('a fingerprint', () => {
  it.each([
    ['/app.41ab77.js', '/app.#.js'],
    ['/index-BxkQwLtm.js', '/index-#.js'],
    ['/main.deadbe12.css', '/main.#.css'],
    ['/a.js?v=20261128', '/a.js?v=#'],
    ['/winter2024.js', '/winter2024.js'],
    ['/ridge1600.webp', '/ridge1600.webp'],
    ['/getUserProfileData.js', '/getUserProfileData.js'],
    ['/bookings.js', '/bookings.js'],
    ['/a.41ab.js', '/a.41ab.js'],
  ])('in the name of a file: %s is %s', (path, masked) => {
    expect(withoutFingerprints(`https://a3f9c1.example${path}`, true)).toBe(`https://a3f9c1.example${masked}`);
  });

  it('of a call lies in its query alone: its path says what is asked for', () => {
    expect(withoutFingerprints('https://a.example/beds/41ab77?nonce=9f8e7d6c&page=123456', false)).toBe(
      'https://a.example/beds/41ab77?nonce=#&page=123456',
    );
  });
});

describe('pairs of hosts', () => {
  it.each(['', 'a', 'a=', '=b', 'a=b=c', 'https://a=b', 'a b=c'])('%j is none', (text) => {
    expect(() => readHostMap([text])).toThrow(HostMapError);
  });

  it('map whole names alone', () => {
    const map = readHostMap(['a.example=b.example', 'c.example:81=b.example']);
    const urls = [
      'https://A.example/x',
      'https://aa.example/x',
      'http://u:p@c.example:81/x',
      'http://c.example/x',
      'data:a.example',
    ];
    expect(urls.map((url) => addressIn(url, map))).toEqual([
      '//b.example/x',
      urls[1],
      '//b.example/x',
      urls[3],
      urls[4],
    ]);
  });
});

describe('the longest common subsequence', () => {
  it('is as long as the plain table says, in order, of equal items', () => {
    const texts = fc.array(fc.constantFrom('a', 'b', 'c', 'd'), { maxLength: 30 });
    fc.assert(
      fc.property(texts, texts, (a, b) => {
        const found = longestCommon(a, b);
        const table = a.map(() => b.map(() => 0));
        const at = (i: number, j: number): number => table[i]?.[j] ?? 0;
        a.forEach((one, i) => {
          const row = table[i];
          b.forEach((other, j) => {
            if (row !== undefined) row[j] = one === other ? at(i - 1, j - 1) + 1 : Math.max(at(i - 1, j), at(i, j - 1));
          });
        });
        expect(found.length).toBe(at(a.length - 1, b.length - 1));
        for (const [i, j] of found) expect(a[i]).toBe(b[j]);
        for (const [place, [i, j]] of found.entries()) {
          const [before = [-1, -1]] = found.slice(Math.max(0, place - 1), place);
          expect(i > before[0] && j > before[1]).toBe(true);
        }
      }),
      { seed: 5, numRuns: 400 },
    );
  });

  it('of very many items alike is still a common one, quickly', () => {
    const many = Array.from({ length: 3000 }, () => 'x');
    expect(longestCommon(many, many.slice(1)).length).toBe(2999);
  });
});
