import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { ExchangeRow } from '#core/analysis';
import type { Cause, LoadComparison, Pair } from '#core/compare';
import { Columns, evaluateFilter, parseFilter } from '#core/filter';
import { signedBytes, signedMs, signedWholeMs } from '#core/wording';
import { pairTable, sumLine } from './compare-tables';
import { findSplit, ledgerSteps, wholeMsOf } from './ledger-steps';
import { compareAddress, readExchangeName, readLoadName, writeExchangeName, writeLoadName } from './load-name';
import { arrangePairs, comparedColumns, filterPairs, groupPairs, keyOfPair, listRows, type ShownPair } from './pairs';

const row = (index: number, timeMs: number, more: Partial<ExchangeRow> = {}): ExchangeRow =>
  ({
    index,
    timeMs,
    startMs: 10 * index,
    url: `https://a.example/${index}`,
    host: 'a.example',
    kind: 'data',
    phases: { waitMs: timeMs },
    wireBytes: 100 * timeMs,
    ...more,
  }) as unknown as ExchangeRow;

function pairOf(
  a: ExchangeRow | undefined,
  b: ExchangeRow | undefined,
  changes: Pair['changes'],
  did?: ShownPair['did'],
): ShownPair {
  const pair = { a: a?.index, b: b?.index, changes, facts: [], by: undefined, endpoint: '', didMs: undefined } as Pair;
  return { key: keyOfPair(pair), pair, a, b, did };
}

const pairs = [
  pairOf(row(0, 40), row(0, 90), ['slower']),
  pairOf(row(1, 500), undefined, ['gone']),
  pairOf(row(2, 80), row(1, 20), ['quicker', 'other'], { ms: -60, others: 0, why: 'wait 60 ms shorter' }),
  pairOf(undefined, row(2, 300), ['new'], { ms: 200, others: 0, why: 'new' }),
];
const keys = (list: readonly ShownPair[]): string[] => list.map(({ key }) => key);

describe('pairs', () => {
  it.each([
    ['did', ['-2', '2-1', '0-0', '1-']],
    ['start', ['0-0', '1-', '2-1', '-2']],
    ['time', ['2-1', '0-0', '1-', '-2']],
    ['wire', ['2-1', '0-0', '1-', '-2']],
  ] as const)('are arranged by %s', (order, expected) => {
    expect(keys(arrangePairs(pairs, order))).toEqual(expected);
  });

  const rowsA = [row(0, 40), row(1, 500), row(2, 80), row(9, 1)];
  const rowsB = [row(0, 90), row(1, 20), row(2, 300)];
  it.each([
    ['change = gone', ['1-']],
    ['change = other', ['2-1']],
    ['change = slower or change = new', ['0-0', '-2']],
    ['delta.wait > 30 ms', ['0-0']],
    ['delta.wait < -50ms', ['2-1']],
    ['delta.time = unknown', ['1-', '-2']],
    // A pair passes where either of its exchanges does.
    ['wait > 85', ['0-0', '1-', '-2']],
    ['not change = same', ['0-0', '1-', '2-1', '-2']],
    ['', ['0-0', '1-', '2-1', '-2']],
  ])('are filtered by %s', (text, expected) => {
    const parsed = parseFilter(text);
    if (!parsed.ok) throw new Error(parsed.problem.code);
    const maskOf = (rows: readonly ExchangeRow[], side: 'a' | 'b') =>
      evaluateFilter(parsed.filter, new Columns(rows, new Map(), new Map(), comparedColumns(rows, pairs, side)));
    const passing = filterPairs(
      pairs,
      { rows: rowsA, mask: maskOf(rowsA, 'a') },
      { rows: rowsB, mask: maskOf(rowsB, 'b') },
    );
    expect(keys(passing)).toEqual(expected);
  });

  it('that one cause is about stand under one row, which folds and unfolds', () => {
    const cause = {
      ms: -90,
      endpoint: 'GET a.example/{}',
      played: [
        { a: 0, b: 0 },
        { a: 1, b: undefined },
      ],
    } as unknown as Cause;
    const causes = { totalMs: -90, causes: [cause], others: { ms: 0, exchanges: 0 }, notExplainedMs: 0 };
    const list = (order: 'did' | 'start', turned: string[], groups: LoadComparison['groups'] = []) =>
      listRows(groupPairs(pairs, order, { causes, groups }), turned).map((one) =>
        one.type === 'group' ? `${one.key} of ${one.members.length}` : one.key,
      );
    expect(list('did', [])).toEqual(['group GET a.example/{} of 2', '2-1', '-2']);
    expect(list('did', ['group GET a.example/{}'])).toEqual(['group GET a.example/{} of 2', '0-0', '1-', '2-1', '-2']);
    expect(list('start', [])).toEqual(['0-0', '1-', '2-1', '-2']);
  });
});

it('calls of an endpoint that one side made more of stand under one row, those that did something by themselves', () => {
  const calls = [
    pairOf(row(0, 40), row(0, 40), ['same']),
    pairOf(row(1, 40), undefined, ['gone'], { ms: -40, others: 0, why: 'gone' }),
    pairOf(row(2, 40), undefined, ['gone']),
    pairOf(row(3, 40), undefined, ['gone']),
  ];
  const group = { endpoint: '', a: [0, 1, 2, 3], b: [0] } as unknown as LoadComparison['groups'][number];
  const rows = listRows(groupPairs(calls, 'did', { causes: undefined, groups: [group] }), []);
  expect(rows.map((one) => (one.type === 'group' ? `${one.key}of ${one.members.length}` : one.key))).toEqual([
    'numbers of 3',
    '1-',
  ]);
  // One call more or less is no group.
  expect(groupPairs(calls, 'did', { causes: undefined, groups: [{ ...group, b: group.a.slice(1) }] })).toHaveLength(4);
});

describe('the difference in steps', () => {
  const phases = (list: readonly (readonly [string, number, number])[]): LoadComparison =>
    ({
      ledger: {
        aMs: list.reduce((sum, [, aMs]) => sum + aMs, 0),
        bMs: list.reduce((sum, [, , bMs]) => sum + bMs, 0),
        byPhase: list.map(([of, aMs, bMs]) => ({ of, aMs, bMs })),
        byHost: [],
        byParty: [],
      },
      causes: undefined,
    }) as unknown as LoadComparison;

  it('leads from the one load to the other, the greatest step first, the least ones together', () => {
    const steps = ledgerSteps(
      phases([
        ['waitMs', 900, 200],
        ['dnsMs', 0.2, 0],
        ['tlsMs', 0, 0.1],
        ['gap', 100, 150],
      ]),
      'phase',
      () => '',
    );
    expect(steps.map(({ label }) => label)).toEqual(['wait', 'gaps', '2 others']);
    expect(steps.map(({ fromMs, ms }) => [Math.round(fromMs), Math.round(ms)])).toEqual([
      [1000, -700],
      [300, 50],
      [350, -0],
    ]);
  });

  it('always adds up, in whole ms too', () => {
    const amount = fc.double({ min: 0, max: 5000, noNaN: true });
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom('waitMs', 'receiveMs', 'gap', 'dnsMs'), amount, amount), { maxLength: 14 }),
        (list) => {
          const compared = phases(list);
          const steps = ledgerSteps(compared, 'phase', () => '');
          const sum = steps.reduce((all, { ms }) => all + ms, 0);
          const difference = (compared.ledger?.bMs ?? 0) - (compared.ledger?.aMs ?? 0);
          expect(sum).toBeCloseTo(difference, 6);
          const whole = wholeMsOf(steps.map(({ ms }) => ms));
          expect(whole.reduce((all, ms) => all + ms, 0)).toBeCloseTo(Math.round(sum), 9);
          for (const [at, ms] of whole.entries()) expect(Math.abs(ms - (steps[at]?.ms ?? 0))).toBeLessThan(1);
        },
      ),
      { seed: 7 },
    );
  });

  it('is split by phase where the address names nothing known', () => {
    expect([findSplit(undefined), findSplit('mule'), findSplit('host')]).toEqual(['phase', 'phase', 'host']);
  });
});

describe('names in addresses', () => {
  it.each(['0b6f', '0b6f~2', 'a~b~12'])('of a load: %s is read and written', (text) => {
    expect(writeLoadName(readLoadName(text))).toBe(text);
  });
  it('of the first page are those of the capture', () => {
    expect(writeLoadName({ captureId: 'x', page: 1 })).toBe('x');
    expect([compareAddress([], []), compareAddress(['x', 'y~2'], ['z'])]).toEqual([
      '/compare',
      '/compare?a=x&a=y%7E2&b=z',
    ]);
  });
  it('of an exchange, with a dot in the id too; anything else is none', () => {
    expect(readExchangeName(writeExchangeName('a.b', 12))).toEqual({ capture: 'a.b', place: 12 });
    expect([readExchangeName(''), readExchangeName('a.'), readExchangeName(undefined)]).toEqual([
      undefined,
      undefined,
      undefined,
    ]);
  });
});

it.each([
  [signedMs(0), '±0'],
  [signedMs(1490), '+1.49 s'],
  [signedMs(-31), '−31 ms'],
  [signedWholeMs(-7), '−7 ms'],
  [signedWholeMs(12), '+12 ms'],
  [signedBytes(-1500), '−1.5 kB'],
  [signedBytes(0), '±0'],
])('a difference is written %s', (written, expected) => {
  expect(written).toBe(expected);
});

describe('what is copied as a table', () => {
  it.each([
    [{ of: 'failed', unit: 'count', a: 2, b: 2 }, ['2', '2', '±0']],
    [{ of: 'exchanges', unit: 'count', a: 1200, b: 65 }, ['1,200', '65', '−1,135']],
    [{ of: 'on the wire', unit: 'bytes', a: 1000, b: 3000 }, ['1.0 kB', '3.0 kB', '+2.0 kB']],
    [{ of: 'decoded', unit: 'bytes', a: undefined, b: 0 }, ['unknown', '0 B', 'unknown']],
  ] as const)('has sums with their difference, the unknown unknown: %j', (sum, [a, b, difference]) => {
    expect(sumLine(sum)).toEqual({ of: sum.of, a, b, difference });
  });

  it('has a row for each pair that is given, what one side lacks left empty, and what a pair alone did', () => {
    const ofMany = pairOf(row(4, 10), row(4, 30), ['slower'], { ms: 200, others: 11, why: '12 changed' });
    const { head, rows } = pairTable([...pairs, ofMany]);
    expect(rows.map((cells) => cells.length)).toEqual(rows.map(() => head.length));
    expect(rows.map(([a, b, , change]) => [a, b, change])).toEqual([
      ['#0', '#0', 'slower'],
      ['#1', '', 'gone'],
      ['#2', '#1', 'quicker, with another response'],
      ['', '#2', 'new'],
      ['#4', '#4', 'slower'],
    ]);
    expect(rows[1]?.slice(4, 6)).toEqual(['500 ms', '']);
    expect(rows[2]?.[6]).toContain('wait 60 ms shorter');
    expect(rows[4]?.[6]).not.toContain('12 changed');
  });
});
