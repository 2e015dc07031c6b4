import type { ExchangeRow, PageOverview } from '../analysis';
import { tally } from '../analysis';
import { type Finding, RULE_IDS, type RuleId } from '../diagnose';
import { formatBytes, formatCount, formatMs } from '../wording';

/** What a budget can be set for, each with its dimension. */
export const BUDGETS = {
  loaded: 'ms',
  ready: 'ms',
  wire: 'bytes',
  body: 'bytes',
  exchanges: 'count',
  failed: 'count',
} as const;
export type BudgetName = keyof typeof BUDGETS;

export interface Budget {
  readonly name: BudgetName;
  /** In ms, bytes or as a count. */
  readonly most: number;
}

/** One thing that was checked: what was allowed, what it came to; unknown values are over. */
export interface Checked {
  readonly name: string;
  readonly isOver: boolean;
  readonly says: string;
}

const FACTORS: Readonly<Record<string, number>> = {
  ms: 1,
  s: 1000,
  min: 60_000,
  b: 1,
  kb: 1000,
  mb: 1_000_000,
  gb: 1_000_000_000,
};

/** Reads "loaded=3s", "wire=1.5MB", "exchanges=80"; undefined where it is no budget. */
export function readBudget(text: string): Budget | undefined {
  const match = /^([a-z]+)=(\d+(?:\.\d+)?)\s*([a-z]*)$/i.exec(text.trim());
  const name = match?.[1]?.toLowerCase() ?? '';
  if (match === null || !Object.hasOwn(BUDGETS, name)) return undefined;
  const dimension = BUDGETS[name as BudgetName];
  const unit = (match[3] ?? '').toLowerCase();
  const fits =
    unit === '' ||
    (dimension === 'ms' ? /^(ms|s|min)$/.test(unit) : dimension === 'bytes' && /^(b|kb|mb|gb)$/.test(unit));
  if (!fits) return undefined;
  return { name: name as BudgetName, most: Number(match[2]) * (FACTORS[unit] ?? 1) };
}

export const isRule = (text: string): text is RuleId => (RULE_IDS as readonly string[]).includes(text);

/** Holds a capture against budgets and rules that must find nothing. Milestones are of the slowest page. */
export function checkBudgets(
  rows: readonly ExchangeRow[],
  pages: readonly PageOverview[],
  findings: readonly Finding[],
  budgets: readonly Budget[],
  rules: readonly RuleId[],
): Checked[] {
  const sums = tally(rows);
  const slowest = (values: readonly (number | undefined)[]): number | undefined =>
    values.length === 0 || values.includes(undefined) ? undefined : Math.max(...values.map((value) => value ?? 0));
  const values: Record<BudgetName, number | undefined> = {
    loaded: slowest(pages.map(({ loadedMs }) => loadedMs)),
    ready: slowest(pages.map(({ domReadyMs }) => domReadyMs)),
    wire: sums.wireBytes,
    body: sums.bodyBytes,
    exchanges: sums.exchanges,
    failed: sums.failed,
  };
  const checked = budgets.map(({ name, most }): Checked => {
    const value = values[name];
    const write = WRITERS[BUDGETS[name]];
    return {
      name,
      isOver: value === undefined || value > most,
      says: `${name} is ${value === undefined ? 'unknown' : write(value)}, allowed are ${write(most)}`,
    };
  });
  return [
    ...checked,
    ...rules.map((rule): Checked => {
      const found = findings.filter((finding) => finding.rule === rule);
      return { name: rule, isOver: found.length > 0, says: found[0]?.claim ?? `${rule} found nothing` };
    }),
  ];
}

const WRITERS: Record<(typeof BUDGETS)[BudgetName], (value: number) => string> = {
  ms: formatMs,
  bytes: formatBytes,
  count: formatCount,
};

const escapeXml = (text: string): string =>
  text
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('"', '&quot;')
    // biome-ignore lint/suspicious/noControlCharactersInRegex: XML allows none of them.
    .replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f]/g, '');

/** The checks as JUnit XML, which continuous integration reads. */
export function checkedToJunit(checked: readonly Checked[], file: string): string {
  const failures = checked.filter(({ isOver }) => isOver).length;
  const cases = checked.map(({ name, isOver, says }) =>
    isOver
      ? `  <testcase classname="trazado" name="${escapeXml(name)}"><failure message="${escapeXml(says)}"/></testcase>`
      : `  <testcase classname="trazado" name="${escapeXml(name)}"/>`,
  );
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    `<testsuite name="${escapeXml(file)}" tests="${checked.length}" failures="${failures}">`,
    ...cases,
    '</testsuite>',
    '',
  ].join('\n');
}
