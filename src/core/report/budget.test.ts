import { describe, expect, it } from 'vitest';
import type { ExchangeRow, PageOverview } from '../analysis';
import type { Finding } from '../diagnose';
import type { ExchangeIndex, PageId } from '../model';
import { type Budget, checkBudgets, checkedLines, checkedToJunit, isRule, readBudget } from './budget';

describe('a budget as it is written', () => {
  it.each([
    ['loaded=3s', { name: 'loaded', most: 3000 }],
    ['loaded=250ms', { name: 'loaded', most: 250 }],
    ['READY=1.5 min', { name: 'ready', most: 90_000 }],
    ['wire=1.5MB', { name: 'wire', most: 1_500_000 }],
    ['body=20kB', { name: 'body', most: 20_000 }],
    [' exchanges=80 ', { name: 'exchanges', most: 80 }],
    ['failed=0', { name: 'failed', most: 0 }],
  ])('%j is read', (text, budget) => {
    expect(readBudget(text)).toEqual({ ok: true, budget });
  });

  it.each([
    ['', 'is not a budget'],
    ['huts=3', 'names: loaded, ready, wire'],
    ['toString=3', 'is not a budget'],
    ['loaded', 'has no number'],
    ['loaded=', 'write e.g. loaded=3s'],
    ['loaded=-1', 'has no number'],
    ['loaded=3', 'needs a unit: write loaded=3s or loaded=3ms.'],
    ['wire=100', 'needs a unit: write wire=100kB or wire=100MB.'],
    ['loaded=3kB', 'not measured in: use one of s, ms, min.'],
    ['wire=3s', 'not measured in: use one of kB, MB, B, GB.'],
    ['exchanges=3s', 'it is a count, without a unit.'],
  ])('%j is none, with the reason', (text, reason) => {
    const reading = readBudget(text);
    expect(reading.ok ? '' : reading.sentence).toContain(reason);
  });
});

const row = (index: number, members: Partial<ExchangeRow> = {}): ExchangeRow =>
  ({
    index,
    pageId: 'p1',
    method: 'GET',
    url: `https://a.example/${index}.js`,
    kind: 'script',
    source: 'network',
    wireBytes: 500 + 100 * index,
    bodyBytes: 10,
    startMs: 100 * index,
    startedAt: 100 * index,
    timeMs: 50,
    isOnRoute: true,
    ...members,
  }) as unknown as ExchangeRow;
const page = (id: string, loadedMs: number | undefined): PageOverview =>
  ({ id, loadedMs, domReadyMs: 100 }) as unknown as PageOverview;
const finding = (claim: string): Finding => ({ rule: 'sent-uncompressed', claim, evidence: [1] }) as unknown as Finding;

const check = (
  budget: Budget,
  { rows = [row(0), row(1)], pages = [page('p1', 900)] } = {},
): { isOver: boolean; says: string; exchanges: readonly number[] }[] => checkBudgets(rows, pages, [], [budget], []);

describe('holding a capture against its budgets', () => {
  it.each([
    ['what is just within it is not over', { name: 'wire', most: 1100 }, 'wire: 1.1 kB, at most 1.1 kB allowed', []],
    ['a byte more is, by the heaviest', { name: 'wire', most: 1099 }, 'wire: 1,100 B, at most 1,099 B allowed', [1, 0]],
    [
      'a load rests on what it waited for',
      { name: 'loaded', most: 800 },
      'loaded: 900 ms, at most 800 ms allowed',
      [0, 1],
    ],
    [
      'what began too late for it does not count',
      { name: 'ready', most: 9 },
      'ready: 100 ms, at most 9.0 ms allowed',
      [0],
    ],
    ['exchanges are counted', { name: 'exchanges', most: 2 }, 'exchanges: 2, at most 2 allowed', []],
    ['those beyond are named', { name: 'exchanges', most: 1 }, 'exchanges: 2, at most 1 allowed', [1]],
  ] as [string, Budget, string, number[]][])('%s', (_, budget, says, exchanges) => {
    expect(check(budget)).toMatchObject([{ isOver: exchanges.length > 0, says, exchanges }]);
  });

  it('takes what is unknown for over', () => {
    const budget: Budget = { name: 'loaded', most: 5000 };
    expect(check(budget, { pages: [page('p1', undefined)] })).toMatchObject([
      { isOver: true, says: 'loaded: unknown, at most 5.00 s allowed', exchanges: [] },
    ]);
    expect(check(budget, { pages: [] })).toMatchObject([{ isOver: true }]);
    expect(check({ name: 'wire', most: 9 }, { rows: [row(0, { wireBytes: undefined })] })).toMatchObject([
      { isOver: true },
    ]);
  });

  it('says "at least" of a sum of which a part is unknown', () => {
    const [wire] = check({ name: 'wire', most: 600 }, { rows: [row(0), row(1, { wireBytes: undefined })] });
    expect(wire).toMatchObject({ isOver: false, says: 'wire: at least 500 B, at most 600 B allowed' });
  });

  it('holds every budget against each page by itself, and against what belongs to none', () => {
    const capture = {
      rows: [
        row(0),
        row(1, { pageId: 'p2' as ExchangeRow['pageId'] }),
        row(2, { pageId: undefined, failure: { type: 'no-response', reason: 'reset', recorded: 'closed' } }),
      ],
      pages: [page('p1', 900), page('p2', 1200)],
    };
    expect(check({ name: 'loaded', most: 1000 }, capture).map(({ says }) => says)).toEqual([
      'loaded: 900 ms on page p1, at most 1.00 s allowed',
      'loaded: 1.20 s on page p2, at most 1.00 s allowed',
    ]);
    expect(check({ name: 'failed', most: 0 }, capture)).toMatchObject([
      { says: 'failed: 0 on page p1, at most 0 allowed', isOver: false },
      { says: 'failed: 0 on page p2, at most 0 allowed', isOver: false },
      { says: 'failed: 1 outside of any page, at most 0 allowed', isOver: true, exchanges: [2] },
    ]);
  });

  it('has rules find nothing, and says everything that they found', () => {
    const found = [finding('a.js is sent uncompressed'), finding('b.js is sent uncompressed')];
    const checked = checkBudgets([], [], found, [], ['sent-uncompressed', 'too-many']);
    expect(checked).toMatchObject([
      { name: 'sent-uncompressed', isOver: true, says: 'a.js is sent uncompressed', exchanges: [1] },
      { name: 'sent-uncompressed', isOver: true, says: 'b.js is sent uncompressed' },
      { name: 'too-many', isOver: false, says: 'too-many found nothing', exchanges: [] },
    ]);
    expect(isRule('sent-uncompressed')).toBe(true);
    expect(isRule('sent-by-mule')).toBe(false);
  });

  it('prints below a breach what it rests on, each with its part, the first ten', () => {
    const rows = Array.from({ length: 12 }, (_, at) => row(at));
    const checked = checkBudgets(rows, [page('p1', 900)], [], [{ name: 'wire', most: 1 }], []);
    const lines = checkedLines(checked, rows);
    expect(lines.slice(0, 2)).toEqual(['over  wire: 13 kB, at most 1 B allowed', '      #11 GET 11.js: 1.6 kB']);
    expect(lines.slice(-2)).toEqual(['      #2 GET 2.js: 700 B', '      and 2 more']);
  });
});

describe('the checks as JUnit', () => {
  it('count the failures, hold the numbers, and keep hostile names out of the markup', () => {
    const base = { page: undefined, unit: undefined, value: undefined, most: undefined, exchanges: [] };
    const xml = checkedToJunit(
      [
        { ...base, name: 'wire', isOver: false, says: 'fine' },
        {
          ...base,
          name: 'a<b',
          isOver: true,
          says: '"x" & \u0000y',
          exchanges: [3 as ExchangeIndex, 4 as ExchangeIndex],
        },
        {
          name: 'wire',
          isOver: true,
          says: 'much',
          page: 'p"1' as PageId,
          unit: 'bytes',
          value: 12,
          most: 9,
          exchanges: [7 as ExchangeIndex],
        },
      ],
      'f"<.har',
    );
    expect(xml).toBe(
      [
        '<?xml version="1.0" encoding="UTF-8"?>',
        '<testsuite name="f&quot;&lt;.har" tests="3" failures="2">',
        '  <testcase classname="trazado" name="wire"/>',
        '  <testcase classname="trazado" name="a&lt;b"><failure type="finding" message="&quot;x&quot; &amp; y">exchanges: #3, #4</failure></testcase>',
        '  <testcase classname="trazado" name="wire (p&quot;1)"><failure type="budget" message="much">value: 12',
        'limit: 9',
        'unit: bytes',
        'exchanges: #7</failure></testcase>',
        '</testsuite>',
        '',
      ].join('\n'),
    );
  });
});
