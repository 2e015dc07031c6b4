import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { plotPage } from '../brief';
import { compareLoads, type LoadComparison } from './loads';
import { DELTAS, deltaOf } from './pair';
import { compareSides } from './sides';
import { remarksOn, tellComparison } from './tell';
import { anyLoad, type MadeExchange, makeLoad } from './testing/loads';

const SITE = 'https://www.cumbrera.example';
const seen = (pairs: LoadComparison['pairs']): string[] =>
  pairs.map(({ a, b, by, changes }) => `${a}-${b} ${by} ${[...changes].sort()}`).sort();
const exchangedWord: Readonly<Record<string, string>> = {
  gone: 'new',
  new: 'gone',
  slower: 'quicker',
  quicker: 'slower',
};

describe('the laws of comparing two loads', () => {
  it('a load against itself has nothing but the same, and no difference at all', () => {
    fc.assert(
      fc.property(anyLoad, (load) => {
        const { pairs, counts, ledger, causes, groups, findings } = compareLoads(load, load);
        expect(
          pairs.every(({ a, b, changes, facts }) => a === b && `${changes}` === 'same' && facts.length === 0),
        ).toBe(true);
        expect(counts.same).toBe(load.rows.length);
        for (const { aMs, bMs } of [...(ledger?.byPhase ?? []), ...(ledger?.byHost ?? [])]) expect(bMs - aMs).toBe(0);
        if (causes !== undefined)
          expect(causes).toEqual({ totalMs: 0, causes: [], others: { ms: 0, exchanges: 0 }, notExplainedMs: 0 });
        expect([groups, findings]).toEqual([[], []]);
      }),
      { seed: 1, numRuns: 150 },
    );
  });

  it('the sides exchanged give the same with its signs turned', () => {
    fc.assert(
      fc.property(anyLoad, anyLoad, (a, b) => {
        const [there, back] = [compareLoads(a, b), compareLoads(b, a)];
        const turnedPairs = back.pairs.map((pair) => ({
          ...pair,
          a: pair.b,
          b: pair.a,
          changes: pair.changes.map((change) => exchangedWord[change] ?? change) as typeof pair.changes,
        }));
        expect(seen(turnedPairs)).toEqual(seen(there.pairs));
        expect(back.causes?.causes.map(({ ms }) => ms)).toEqual(
          there.causes?.causes.map(({ ms }) => (ms === 0 ? 0 : -ms)),
        );
        expect(back.causes?.notExplainedMs).toBe(
          there.causes === undefined ? undefined : there.causes.notExplainedMs === 0 ? 0 : -there.causes.notExplainedMs,
        );
      }),
      { seed: 2, numRuns: 150 },
    );
  });

  it('every exchange is in one pair, and the ledgers and the causes add up to the difference', () => {
    fc.assert(
      fc.property(anyLoad, anyLoad, (a, b) => {
        const { pairs, ledger, causes } = compareLoads(a, b);
        for (const [side, load] of [
          ['a', a],
          ['b', b],
        ] as const) {
          const own = pairs.flatMap((pair) => pair[side] ?? []);
          expect(own.toSorted((one, other) => one - other)).toEqual(load.rows.map(({ index }) => index));
        }
        if (ledger === undefined || causes === undefined) return;
        const wholeMs = ledger.bMs - ledger.aMs;
        for (const list of [ledger.byPhase, ledger.byHost, ledger.byParty]) {
          expect(list.reduce((sum, { aMs, bMs }) => sum + bMs - aMs, 0)).toBeCloseTo(wholeMs, 6);
        }
        const explained = causes.causes.reduce((sum, { ms }) => sum + ms, 0);
        expect(explained + causes.others.ms + causes.notExplainedMs).toBeCloseTo(wholeMs, 6);
        expect(causes.totalMs).toBeCloseTo(wholeMs, 6);
      }),
      { seed: 3, numRuns: 200 },
    );
  });
});

/** A document, a script that it names, and a call and a picture that the script asks for. */
const base = (change: Partial<Record<'document' | 'script' | 'photo', Partial<MadeExchange>>> = {}): MadeExchange[] => {
  const document: MadeExchange = { url: `${SITE}/`, kind: 'document', startMs: 0, waitMs: 99, ...change.document };
  const documentEnd = document.startMs + document.waitMs + 1;
  const script: MadeExchange = {
    url: `${SITE}/app.js`,
    kind: 'script',
    by: `${SITE}/`,
    startMs: documentEnd,
    waitMs: 199,
    ...change.script,
  };
  const photo: MadeExchange = {
    url: `${SITE}/alba.png`,
    kind: 'image',
    by: `${SITE}/app.js`,
    startMs: script.startMs + script.waitMs + 1 + 50,
    waitMs: 99,
    ...change.photo,
  };
  return [document, script, photo];
};
const lengthOf = (exchanges: readonly MadeExchange[]): number =>
  Math.max(...exchanges.map(({ startMs, waitMs, receiveMs = 1 }) => startMs + waitMs + receiveMs)) + 10;
const load = (exchanges: readonly MadeExchange[]) => makeLoad(exchanges, { loadedMs: lengthOf(exchanges) });

describe('what made the difference', () => {
  const causesOf = (from: readonly MadeExchange[], to: readonly MadeExchange[]) => {
    const { causes } = compareLoads(load(from), load(to));
    return {
      list: causes?.causes.map(({ ms, played }) => [Math.round(ms), played[0]?.a, played[0]?.b]),
      notExplainedMs: Math.round(causes?.notExplainedMs ?? Number.NaN),
      causes,
    };
  };

  it('is the wait of one exchange by just as much, whatever comes behind it', () => {
    const { list, notExplainedMs } = causesOf(base(), base({ script: { waitMs: 99 } }));
    expect([list, notExplainedMs]).toEqual([[[-100, 1, 1]], 0]);
  });

  it('is what is asked for earlier, by something else', () => {
    const { list, causes } = causesOf(base(), base({ photo: { by: `${SITE}/`, startMs: 100 } }));
    expect(list).toEqual([[-150, 2, 2]]);
    expect(causes?.causes[0]?.played[0]?.asked).toEqual({ a: 1, b: 0 });
  });

  it('is what is gone, and seen from the other side what is new', () => {
    const without = base().slice(0, 2);
    expect(causesOf(base(), without).list).toEqual([[-150, 2, undefined]]);
    expect(causesOf(without, base()).list).toEqual([[150, undefined, 2]]);
  });

  it('names nothing where only a gap is longer: that is not explained', () => {
    const { list, notExplainedMs } = causesOf(base(), base({ photo: { startMs: 430 } }));
    expect([list, notExplainedMs]).toEqual([[], 80]);
  });

  it('tells two causes that work against each other apart', () => {
    const { list } = causesOf(base(), base({ document: { waitMs: 199 }, script: { waitMs: 59 } }));
    expect(list).toEqual([
      [-140, 1, 1],
      [100, 0, 0],
    ]);
  });

  it('names the calls of an endpoint together where each alone gains nothing', () => {
    const photos = (waitMs: number): MadeExchange[] =>
      [1, 2, 3, 4].map((number) => ({
        url: `${SITE}/photos/alba-${number}.png`,
        kind: 'image',
        by: `${SITE}/`,
        startMs: 100,
        waitMs,
      }));
    const { causes } = causesOf([...base(), ...photos(900)], [...base(), ...photos(700)]);
    expect(causes?.causes.map(({ endpoint, ms, played }) => [endpoint, Math.round(ms), played.length])).toEqual([
      ['GET www.cumbrera.example/photos/{}.png', -200, 4],
    ]);
  });

  it('says that the load waits for something no longer', () => {
    const late = base({ photo: { startMs: 300, waitMs: 5000 } });
    const { causes } = compareLoads(load(base({ photo: { waitMs: 600 } })), makeLoad(late, { loadedMs: 320 }));
    expect(causes?.causes.map(({ played }) => played[0]?.held)).toEqual(['in-a']);
  });

  it('leaves alone what lies beside the route', () => {
    const beacon = (waitMs: number): MadeExchange => ({ url: `${SITE}/numbers`, startMs: 0, waitMs });
    const { list } = causesOf([...base(), beacon(1)], [...base(), beacon(290)]);
    expect(list).toEqual([]);
  });
});

describe('a pair of exchanges', () => {
  const one = (change: Partial<MadeExchange>): MadeExchange => ({
    url: `${SITE}/api/huts`,
    startMs: 0,
    waitMs: 100,
    ...change,
  });
  const pairOf = (from: Partial<MadeExchange>, to: Partial<MadeExchange>) =>
    compareLoads(makeLoad([one(from)]), makeLoad([one(to)])).pairs[0];

  it.each([
    ['a little slower is the same', {}, { waitMs: 109 }, ['same']],
    ['ten per cent and 10 ms slower is slower', {}, { waitMs: 113 }, ['slower']],
    ['10 ms of a second are not felt', { waitMs: 1000 }, { waitMs: 1020 }, ['same']],
    ['quicker', { waitMs: 150 }, {}, ['quicker']],
    ['another status is another response', {}, { status: 500 }, ['other']],
    ['another body', { body: 'a' }, { body: 'b' }, ['other']],
    ['a body that was not recorded tells nothing', { body: 'a' }, {}, ['same']],
    ['another validator is the same', { headers: [['ETag', '"1"']] }, { headers: [['etag', '"2"']] }, ['same']],
    ['a validator that went missing is not', { headers: [['ETag', '"1"']] }, {}, ['other']],
    [
      'another lifetime',
      { headers: [['cache-control', 'no-store']] },
      { headers: [['Cache-Control', 'max-age=9']] },
      ['other'],
    ],
    ['another Date tells nothing', { headers: [['date', 'x']] }, { headers: [['date', 'y']] }, ['same']],
    ['slower and other', {}, { waitMs: 300, status: 404 }, ['slower', 'other']],
  ] as const)('%s', (_, from, to, changes) => {
    expect(pairOf(from, to)?.changes).toEqual(changes);
  });

  it('has no difference where a measure is not known, and one where only one of them set up a connection', () => {
    const [{ rows: a }, { rows: b }] = [makeLoad([one({ connectMs: 30 })]), makeLoad([one({})])];
    const unknown = { ...b[0], timeMs: undefined } as NonNullable<(typeof b)[0]>;
    expect(deltaOf('setup', a[0], b[0])).toBe(-30);
    expect(deltaOf('setup', a[0], unknown)).toBeUndefined();
    expect(DELTAS.map((name) => deltaOf(name, a[0], undefined))).toEqual(DELTAS.map(() => undefined));
  });
});

describe('two loads without the same milestones', () => {
  it('are measured to the first goal that both have', () => {
    const exchanges = base();
    const [full, ready, none] = [
      makeLoad(exchanges, { loadedMs: 470, readyMs: 300 }),
      makeLoad(exchanges, { readyMs: 310 }),
      makeLoad(exchanges),
    ];
    expect(compareLoads(full, full).goal).toBe('loaded');
    const compared = compareLoads(full, ready);
    expect([compared.goal, compared.ledger?.bMs, compared.ledger?.aMs]).toEqual(['domReady', 310, 300]);
    const bare = compareLoads(full, none);
    expect([bare.goal, bare.ledger?.bMs]).toEqual(['lastExchange', bare.ledger?.aMs]);
    expect(plotPage(none.rows, undefined)?.targetMs).toBe(bare.ledger?.aMs);
  });

  it('end nowhere that is known where one of them has no times', () => {
    const [timed, other] = [makeLoad(base()), makeLoad(base(), { name: 'bare' })];
    const rows = other.rows.map((row) => ({ ...row, timeMs: undefined, phases: {} as typeof row.phases }));
    const untimed = { ...other, rows };
    for (const [a, b] of [
      [timed, untimed],
      [untimed, untimed],
    ] as const) {
      const compared = compareSides([a], [b]);
      expect(compared.drawn.goal).toBe('lastMoment');
      expect(tellComparison(compared)[0]).toMatch(/^The last moment recorded came after .+\.$/);
      expect(remarksOn(a, b, compared.drawn, false).join(' ')).toMatch(/a start where no times are known\./);
    }
    expect(compareLoads(timed, timed).goal).toBe('lastExchange');
  });

  it('have no ledger where one of them has nothing with a start', () => {
    const { ledger, causes, pairs } = compareLoads(makeLoad([]), load(base()));
    expect([ledger, causes, pairs.map(({ changes }) => `${changes}`)]).toEqual([
      undefined,
      undefined,
      ['new', 'new', 'new'],
    ]);
  });
});
