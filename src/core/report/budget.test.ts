import { describe, expect, it } from 'vitest';
import type { ExchangeRow, PageOverview } from '../analysis';
import type { Finding } from '../diagnose';
import type { ExchangeIndex, PageId } from '../model';
import { type Budget, isRule, readAllowance, readBudget } from './budget';
import { type CheckedCapture, checkAgainst, checkBudgets } from './check';
import { checkedLines, checkedToJunit } from './check-print';

describe('a budget as it is written', () => {
  it.each([
    ['loaded=3s', { name: 'loaded', most: 3000 }],
    ['loaded=250ms', { name: 'loaded', most: 250 }],
    ['READY=1.5 min', { name: 'ready', most: 90_000 }],
    ['wire=1.5MB', { name: 'wire', most: 1_500_000 }],
    ['body=20kB', { name: 'body', most: 20_000 }],
    [' exchanges=80 ', { name: 'exchanges', most: 80 }],
    ['failed=0', { name: 'failed', most: 0 }],
    ['wire[kind=script]=100kB', { name: 'wire', of: { kind: 'script' }, most: 100_000 }],
    [
      'wait[host=api.example, endpoint=GET api.example/huts/{}]=20ms',
      { name: 'wait', of: { host: 'api.example', endpoint: 'GET api.example/huts/{}' }, most: 20 },
    ],
    ['loaded[page=p2]=3s', { name: 'loaded', of: { page: 'p2' }, most: 3000 }],
  ])('%j is read', (text, budget) => {
    expect(readBudget(text)).toEqual({ ok: true, budget: { of: {}, ...budget } });
  });

  it.each([
    ['', 'is not a budget'],
    ['huts=3', 'names: loaded, ready, ttfb, route, wait'],
    ['toString=3', 'is not a budget'],
    ['loaded', 'has no number'],
    ['loaded=', 'write e.g. loaded=3s'],
    ['loaded=-1', 'has no number'],
    ['loaded=3', 'needs a unit: write loaded=3s or loaded=3ms.'],
    ['wire=100', 'needs a unit: write wire=100kB or wire=100MB.'],
    ['loaded=3kB', 'not measured in: use one of s, ms, min.'],
    ['wire=3s', 'not measured in: use one of kB, MB, B, GB.'],
    ['exchanges=3s', 'it is a count, without a unit.'],
    ['wire[kind=script', 'has no end of its brackets'],
    ['wire[colour=red]=3kB', '"colour=red" selects nothing; write one of kind, host, party, page, endpoint'],
    ['wire[kind=]=3kB', 'selects nothing'],
    ['wire[]=3kB', 'selects nothing'],
    ['wire[kind=scrpt]=3kB', 'there is no kind "scrpt"; use one of document, '],
    ['wire[party=both]=3kB', 'there is no party "both"; use one of first, third.'],
    ['wire[kind=script, kind=style]=3kB', 'kind stands twice: write a budget for each.'],
    ['loaded[kind=script]=3s', "loaded is a page's; only [page=ID] can be selected."],
  ])('%j is none, with the reason', (text, reason) => {
    const reading = readBudget(text);
    expect(reading.ok ? '' : reading.sentence).toContain(reason);
  });
});

describe('an allowance as it is written', () => {
  it.each([
    ['loaded=+10%', { name: 'loaded', of: {}, more: { share: 0.1 }, written: '+10%' }],
    ['wire=+50kB', { name: 'wire', of: {}, more: { amount: 50_000 }, written: '+50kB' }],
    ['failed=+0', { name: 'failed', of: {}, more: { amount: 0 }, written: '+0' }],
    [
      'wait[host=api.example]=+20 ms',
      { name: 'wait', of: { host: 'api.example' }, more: { amount: 20 }, written: '+20 ms' },
    ],
  ])('%j is read', (text, budget) => {
    expect(readAllowance(text)).toEqual({ ok: true, budget });
  });

  it.each([
    ['loaded=3s', 'says no change: write loaded=+10%'],
    ['loaded=-3s', 'says no change'],
    ['loaded=+3', 'needs a unit'],
    ['loaded=+3kB', 'not measured in'],
    ['loaded', 'says no change'],
  ])('%j is none, with the reason', (text, reason) => {
    const reading = readAllowance(text);
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

const captureOf = (
  rows: readonly ExchangeRow[],
  pages: readonly PageOverview[],
  findings: readonly Finding[] = [],
): CheckedCapture => ({ rows, pages, found: { findings, byPage: {} } });

const check = (
  budget: Omit<Budget, 'of'> & Partial<Budget>,
  { rows = [row(0), row(1)], pages = [page('p1', 900)] } = {},
): { isOver: boolean; says: string; exchanges: readonly number[] }[] =>
  checkBudgets(captureOf(rows, pages), [{ of: {}, ...budget }], []);

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
  ] as [string, Omit<Budget, 'of'>, string, number[]][])('%s', (_, budget, says, exchanges) => {
    expect(check(budget)).toMatchObject([{ isOver: exchanges.length > 0, says, exchanges }]);
  });

  it('takes what is unknown for over', () => {
    const budget = { name: 'loaded', most: 5000 } as const;
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
    const checked = checkBudgets(captureOf([], [], found), [], ['sent-uncompressed', 'too-many']);
    expect(checked).toMatchObject([
      { name: 'sent-uncompressed', isOver: true, says: 'a.js is sent uncompressed', exchanges: [1] },
      { name: 'sent-uncompressed', isOver: true, says: 'b.js is sent uncompressed' },
      { name: 'too-many', isOver: false, says: 'too-many found nothing', exchanges: [] },
    ]);
    expect(isRule('sent-uncompressed')).toBe(true);
    expect(isRule('sent-by-mule')).toBe(false);
  });

  it('says of a budget that is about none of the exchanges that it is', () => {
    const capture = { rows: [row(0), row(1, { kind: 'data', host: 'api.example' })], pages: [page('p1', 900)] };
    const saysOf = (of: Budget['of']): string | undefined => check({ name: 'wire', of, most: 5000 }, capture)[0]?.says;
    expect(saysOf({ host: 'apo.example' })).toBe(
      'wire[host=apo.example]: 0 B, of no exchange at all, at most 5.0 kB allowed',
    );
    expect(saysOf({ host: 'api.example' })).not.toContain('of no exchange');
    expect(saysOf({})).not.toContain('of no exchange');
  });

  it.each([
    ['by kind', { kind: 'script' }, 'wire[kind=script]: 1.1 kB'],
    ['by host, whatever its case', { host: 'API.example' }, 'wire[host=API.example]: 700 B'],
    ['by several at once', { kind: 'script', host: 'api.example' }, 'wire[kind=script,host=api.example]: 0 B'],
  ])('measures some of the exchanges alone, %s', (_, of, says) => {
    const rows = [row(0), row(1), row(2, { kind: 'data', host: 'api.example' })];
    expect(check({ name: 'wire', of, most: 5000 }, { rows, pages: [page('p1', 900)] })[0]?.says).toContain(says);
  });

  const phases = (waitMs: number, dnsMs?: number) =>
    ({
      blockedMs: undefined,
      dnsMs,
      connectMs: undefined,
      tlsMs: undefined,
      sendMs: 1,
      waitMs,
      receiveMs: 10,
    }) as const;
  const timed = [
    row(0, {
      kind: 'document',
      status: 200,
      host: 'www.example',
      holds: 'ready',
      startMs: 0,
      timeMs: 61,
      phases: phases(40, 10),
    }),
    row(1, {
      host: 'api.example',
      holds: 'loaded',
      parent: 0 as ExchangeIndex,
      startMs: 61,
      timeMs: 111,
      phases: phases(100),
    }),
    // Beside the route: it holds nothing up.
    row(2, { host: 'api.example', kind: 'data', startMs: 0, timeMs: 911, phases: phases(900) }),
  ];

  it.each([
    ['ttfb', {}, 41],
    ['ttfb', { host: 'api.example' }, 901],
    ['ttfb', { host: 'nobody.example' }, 0],
    ['wait', {}, 140],
    ['wait', { host: 'api.example' }, 100],
    ['setup', {}, 10],
    ['route', {}, 172],
    ['route', { kind: 'document' }, 61],
  ] as const)('%s of %j is what the load spent on it', (name, of, value) => {
    const [checked] = checkBudgets(captureOf(timed, [page('p1', 172)]), [{ name, of, most: 0 }], []);
    expect(checked?.value).toBeCloseTo(value, 6);
  });

  it('counts findings that are more than notes, those about the selected exchanges alone', () => {
    const found = [
      { ...finding('a'), severity: 'costly' },
      { ...finding('b'), severity: 'note' },
      { ...finding('c'), severity: 'broken', evidence: [0] },
    ] as unknown as Finding[];
    const capture = captureOf([row(0), row(1, { host: 'api.example' })], [page('p1', 900)], found);
    const count = (of: Budget['of']) => checkBudgets(capture, [{ name: 'findings', of, most: 9 }], [])[0]?.value;
    expect([count({}), count({ host: 'api.example' })]).toEqual([2, 1]);
  });

  it('says that a page is not there', () => {
    expect(check({ name: 'wire', of: { page: 'p9' }, most: 5000 })).toMatchObject([
      { isOver: true, says: 'wire[page=p9]: unknown on page p9, which there is not, at most 5.0 kB allowed' },
    ]);
  });

  it.each([
    ['within a share', 1090, { share: 0.1 }, false],
    ['just within it', 1100, { share: 0.1 }, false],
    ['over a share', 1101, { share: 0.1 }, true],
    ['within an amount', 1050, { amount: 50 }, false],
    ['over an amount', 1051, { amount: 50 }, true],
    ['quicker than before', 400, { amount: 0 }, false],
  ])('holds a load against a baseline: %s', (_, loadedMs, more, isOver) => {
    const allowance = { name: 'loaded', of: {}, more, written: '+some' } as const;
    const [checked] = checkAgainst(captureOf([], [page('p1', loadedMs)]), captureOf([], [page('x', 1000)]), [
      allowance,
    ]);
    expect(checked).toMatchObject({ isOver, value: loadedMs, baseline: 1000 });
    expect(checked?.says).toMatch(/(1\.00 s|1000 ms) in the baseline, \+some$/);
  });

  it('holds each page against the one at its place, and is over where there is none', () => {
    const before = captureOf([row(0)], [page('a', 900)]);
    const now = captureOf([row(0), row(1, { pageId: 'p2' as PageId })], [page('p1', 900), page('p2', 900)]);
    const checked = checkAgainst(now, before, [{ name: 'loaded', of: {}, more: { amount: 0 }, written: '+0ms' }]);
    expect(checked.map(({ isOver, says }) => [isOver, says])).toEqual([
      [false, 'loaded: 900 ms on page p1, at most 900 ms allowed: 900 ms in the baseline, +0ms'],
      [true, 'loaded: 900 ms on page p2, unknown in the baseline'],
    ]);
  });

  it('prints below a breach what it rests on, each with its part, the first ten', () => {
    const rows = Array.from({ length: 12 }, (_, at) => row(at));
    const checked = checkBudgets(captureOf(rows, [page('p1', 900)]), [{ name: 'wire', of: {}, most: 1 }], []);
    const lines = checkedLines(checked, rows);
    expect(lines.slice(0, 2)).toEqual(['over  wire: 13 kB, at most 1 B allowed', '      #11 GET 11.js: 1.6 kB']);
    expect(lines.slice(-2)).toEqual(['      #2 GET 2.js: 700 B', '      and 2 more']);
  });
});

describe('the checks as JUnit', () => {
  it('count the failures, hold the numbers, and keep hostile names out of the markup', () => {
    const base = {
      page: undefined,
      unit: undefined,
      value: undefined,
      most: undefined,
      baseline: undefined,
      exchanges: [],
    };
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
          baseline: 8,
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
        '  <testcase classname="trazado" name="wire (p&quot;1)"><properties><property name="value" value="12"/><property name="limit" value="9"/><property name="baseline" value="8"/><property name="unit" value="bytes"/></properties><failure type="budget" message="much">value: 12',
        'limit: 9',
        'unit: bytes',
        'exchanges: #7</failure></testcase>',
        '</testsuite>',
        '',
      ].join('\n'),
    );
  });
});
