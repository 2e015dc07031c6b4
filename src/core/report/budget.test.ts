import { describe, expect, it } from 'vitest';
import type { ExchangeRow, PageOverview } from '../analysis';
import type { Finding } from '../diagnose';
import { type Budget, checkBudgets, checkedToJunit, isRule, readBudget } from './budget';

describe('a budget as it is written', () => {
  it.each([
    ['loaded=3s', { name: 'loaded', most: 3000 }],
    ['loaded=250', { name: 'loaded', most: 250 }],
    ['READY=1.5 min', { name: 'ready', most: 90_000 }],
    ['wire=1.5MB', { name: 'wire', most: 1_500_000 }],
    ['body=20kB', { name: 'body', most: 20_000 }],
    [' exchanges=80 ', { name: 'exchanges', most: 80 }],
    ['failed=0', { name: 'failed', most: 0 }],
  ])('%j is read', (text, budget) => {
    expect(readBudget(text)).toEqual(budget);
  });

  it.each(['', 'loaded', 'loaded=', 'loaded=-1', 'loaded=3kB', 'wire=3s', 'exchanges=3s', 'huts=3', 'toString=3'])(
    '%j is none',
    (text) => {
      expect(readBudget(text)).toBeUndefined();
    },
  );
});

const row = (wireBytes: number | undefined, failure?: string): ExchangeRow =>
  ({ source: 'network', wireBytes, bodyBytes: 10, failure }) as unknown as ExchangeRow;
const page = (loadedMs: number | undefined): PageOverview => ({ loadedMs, domReadyMs: 100 }) as unknown as PageOverview;
const finding = { rule: 'sent-uncompressed', claim: 'a.js is sent uncompressed' } as unknown as Finding;

const check = (
  budget: Budget,
  { rows = [row(500), row(600)], pages = [page(900), page(1200)] } = {},
): { isOver: boolean; says: string } | undefined => checkBudgets(rows, pages, [], [budget], [])[0];

describe('holding a capture against its budgets', () => {
  it.each([
    ['what is just within it is not over', { name: 'wire', most: 1100 }, false, 'wire is 1.1 kB, allowed are 1.1 kB'],
    ['a byte more is', { name: 'wire', most: 1099 }, true, 'wire is 1.1 kB, allowed are 1.1 kB'],
    ['the slowest page counts', { name: 'loaded', most: 1000 }, true, 'loaded is 1.20 s, allowed are 1.00 s'],
    ['exchanges are counted', { name: 'exchanges', most: 2 }, false, 'exchanges is 2, allowed are 2'],
  ] as [string, Budget, boolean, string][])('%s', (_, budget, isOver, says) => {
    expect(check(budget)).toMatchObject({ isOver, says });
  });

  it('takes what is unknown for over: one page without the milestone is enough', () => {
    const budget: Budget = { name: 'loaded', most: 5000 };
    expect(check(budget, { pages: [page(900), page(undefined)] })).toMatchObject({
      isOver: true,
      says: 'loaded is unknown, allowed are 5.00 s',
    });
    expect(check(budget, { pages: [] })).toMatchObject({ isOver: true });
    expect(check({ name: 'wire', most: 9 }, { rows: [row(undefined)] })).toMatchObject({ isOver: true });
  });

  it('counts failures', () => {
    expect(check({ name: 'failed', most: 0 }, { rows: [row(1, 'closed')] })).toMatchObject({ isOver: true });
  });

  it('has rules find nothing, and says what they found', () => {
    const checked = checkBudgets([], [], [finding], [], ['sent-uncompressed', 'too-many']);
    expect(checked).toEqual([
      { name: 'sent-uncompressed', isOver: true, says: 'a.js is sent uncompressed' },
      { name: 'too-many', isOver: false, says: 'too-many found nothing' },
    ]);
    expect(isRule('sent-uncompressed')).toBe(true);
    expect(isRule('sent-by-mule')).toBe(false);
  });
});

describe('the checks as JUnit', () => {
  it('count the failures and keep hostile names out of the markup', () => {
    const xml = checkedToJunit(
      [
        { name: 'wire', isOver: false, says: 'fine' },
        { name: 'a<b', isOver: true, says: '"x" & \u0000y' },
      ],
      'f"<.har',
    );
    expect(xml).toBe(
      [
        '<?xml version="1.0" encoding="UTF-8"?>',
        '<testsuite name="f&quot;&lt;.har" tests="2" failures="1">',
        '  <testcase classname="trazado" name="wire"/>',
        '  <testcase classname="trazado" name="a&lt;b"><failure message="&quot;x&quot; &amp; y"/></testcase>',
        '</testsuite>',
        '',
      ].join('\n'),
    );
  });
});
