import { describe, expect, it } from 'vitest';
import {
  type Cause,
  compareSides,
  type LoadComparison,
  nameCause,
  type Pair,
  tellCause,
  tellConnections,
  tellFacts,
} from '#core/compare';
import { readLoad } from '../src/cli/loads';
import { foretellFor, type ReadLoad } from '../src/server/load-of-file';

const read = (name: string): Promise<ReadLoad> => readLoad(`demo/captures/alba-norte-${name}.har`);
const [first, second, slow, fixed] = await Promise.all(
  ['first-visit', 'second-visit', 'slow-line', 'fixed-release'].map(read),
);
if (first === undefined || second === undefined || slow === undefined || fixed === undefined)
  throw new Error('the demo has four loads of this page');

function compare(a: ReadLoad, b: ReadLoad) {
  const { drawn } = compareSides([foretellFor(a, b)], [foretellFor(b, a)]);
  const rowOf = (load: ReadLoad) => (index: number | undefined) => load.load.rows.find((row) => row.index === index);
  const [rowOfA, rowOfB] = [rowOf(a), rowOf(b)];
  return {
    drawn,
    named: (path: string): Pair => {
      const pair = drawn.pairs.find((one) => (rowOfA(one.a) ?? rowOfB(one.b))?.url.includes(path) === true);
      if (pair === undefined) throw new Error(`nothing is called ${path}`);
      return pair;
    },
    facts: (pair: Pair): string => tellFacts(pair, rowOfA(pair.a), rowOfB(pair.b)),
    cause: (name: string): Cause | undefined =>
      drawn.causes?.causes.find((one) => nameCause(one, rowOfA, rowOfB).includes(name)),
    why: (cause: Cause | undefined): string => (cause === undefined ? '' : tellCause(cause, rowOfA, rowOfB)),
    rowOfA,
    rowOfB,
  };
}

const sumOf = ({ sums }: LoadComparison, list: 'whole' | 'byKind', of: string) =>
  sums[list].find((one) => one.of === of);

describe('the first release against the fixed one: what was changed on the site is found', () => {
  const { drawn, named, facts, cause, why } = compare(first, fixed);

  it('most of the difference is made by the photos, of which the fixed release asks for those in sight alone', () => {
    const photos = cause('photos');
    expect(why(photos)).toContain('43 → 12 exchanges');
    expect(drawn.groups.find(({ endpoint }) => endpoint.includes('photos'))).toMatchObject({
      a: { length: 43 },
      b: { length: 12 },
    });
    const wholeMs = (drawn.ledger?.bMs ?? 0) - (drawn.ledger?.aMs ?? 0);
    expect(photos?.ms).toBeLessThan(wholeMs / 2);
    expect(drawn.causes?.causes[0]).toBe(photos);
    expect(Math.abs(drawn.causes?.notExplainedMs ?? Number.NaN)).toBeLessThan(Math.abs(wholeMs) / 5);
  });

  it('the large script is compressed and may be stored', () => {
    const atlas = named('/atlas.');
    expect(atlas.changes).toEqual(['quicker', 'other']);
    expect(facts(atlas)).toMatch(
      /^br instead of none: 1\.1 MB → 21 kB on the wire; cache-control: no-store → public, max-age=31536000, immutable/,
    );
  });

  it('the document comes sooner: its page takes the server 60 ms in place of 140', () => {
    const caused = cause('/huts/alba-norte');
    expect(why(caused)).toContain('wait');
    expect(caused?.ms).toBeLessThan(-50);
  });

  it('the modules are named in the document, and no longer asked for one by another', () => {
    expect(why(cause('views.js'))).toMatch(/^requested after \/huts\/alba-norte, not after /);
  });

  it('three sheets are one, four calls of beds are one, preflights spared', () => {
    expect(sumOf(drawn, 'byKind', 'style')).toMatchObject({ a: 4, b: 1 });
    const beds = drawn.groups.find(({ endpoint }) => /^GET .*availability$/.test(endpoint));
    expect(beds).toMatchObject({ a: { length: 4 }, b: { length: 1 } });
    expect([drawn.counts.gone, drawn.counts.new]).toEqual([81, 1]);
    const preflights = sumOf(drawn, 'byKind', 'preflight');
    expect(preflights?.b ?? 99).toBeLessThan((preflights?.a ?? 0) / 2);
  });

  it('the findings about all that are gone', () => {
    const gone = drawn.findings?.filter(({ change }) => change === 'gone').map(({ a }) => a?.rule) ?? [];
    expect(gone).toEqual(
      expect.arrayContaining(['sent-uncompressed', 'never-kept', 'in-a-row', 'asked-twice', 'heavy-script']),
    );
    expect(drawn.findings?.some(({ change, b }) => change === 'new' && b?.rule === 'sent-uncompressed')).toBe(false);
  });

  it('the connection is the same: less that came over it says nothing of it', () => {
    expect(tellConnections(drawn)).toEqual([]);
    expect(drawn.visits).toBeUndefined();
  });
});

describe('the first visit against the second: what the cache did', () => {
  const { drawn } = compare(first, second);

  it('is told by sources: what it had, what it asked about, what was fetched again and why', () => {
    const { visits } = drawn;
    expect(visits?.earlier).toBe('a');
    expect(visits?.asked).toBe(second.load.rows.filter(({ source }) => source === 'revalidated').length);
    expect(visits?.spared.exchanges).toBeGreaterThan(20);
    const atlas = visits?.fetchedAgain.find(
      ({ earlier }) => first.load.rows[earlier]?.url.includes('/atlas.') === true,
    );
    expect(atlas?.why).toBe('not-storable');
  });

  it('and the forecast of the first was right for nearly all', () => {
    const { forecast } = drawn.visits ?? {};
    expect(forecast?.agreed).toBeGreaterThan(100);
    expect(forecast?.differing.length ?? 99).toBeLessThan(6);
  });

  it('is no warm visit seen from the other side: the same is told', () => {
    const back = compare(second, first).drawn.visits;
    expect(back).toMatchObject({ earlier: 'b', spared: drawn.visits?.spared, asked: drawn.visits?.asked });
  });
});

describe('the quick line against the slow one', () => {
  const { drawn } = compare(first, slow);

  it('is the same page: every exchange has its own again', () => {
    expect([drawn.counts.gone, drawn.counts.new]).toEqual([0, 0]);
  });

  it('the connection alone makes nearly all of the difference', () => {
    const { connections, ledger } = drawn;
    const wholeMs = (ledger?.bMs ?? 0) - (ledger?.aMs ?? 0);
    expect([connections.isFarther, connections.isNarrower]).toEqual([true, true]);
    // The line was recorded with 150 ms more to and fro.
    const www = connections.trips.find(({ host }) => host === 'www.cumbrera.example');
    expect((www?.bMs ?? 0) - (www?.aMs ?? 0)).toBeGreaterThan(140);
    expect((connections.aloneMs ?? 0) / wholeMs).toBeGreaterThan(0.85);
    expect((connections.aloneMs ?? 0) / wholeMs).toBeLessThan(1.15);
  });

  it('and seen from the slow line as much less', () => {
    const { connections, ledger } = compare(slow, first).drawn;
    const wholeMs = (ledger?.bMs ?? 0) - (ledger?.aMs ?? 0);
    expect((connections.aloneMs ?? 0) / wholeMs).toBeGreaterThan(0.75);
    expect((connections.aloneMs ?? 0) / wholeMs).toBeLessThan(1.15);
  });
});
