import { type ExchangeRow, nameExchange, type PageOverview, tally } from '../analysis';
import { type Finding, RULE_IDS, type RuleId } from '../diagnose';
import type { ExchangeIndex, PageId } from '../model';
import { formatBytes, formatCount, formatExactBytes, formatMs, wordFailure } from '../wording';

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

/**
 * One thing that was checked: what was allowed, what it came to. Unknown values are over. Budgets are held against each
 * page by itself; what belongs to no page is held against them as one.
 */
export interface Checked {
  readonly name: string;
  readonly isOver: boolean;
  readonly says: string;
  /** The page it was measured on; undefined for exchanges of no page, and for rules, which see the whole capture. */
  readonly page: PageId | undefined;
  readonly unit: (typeof BUDGETS)[BudgetName] | undefined;
  /** In the unit; undefined where it is not known, and for rules. */
  readonly value: number | undefined;
  readonly most: number | undefined;
  /** What a breach rests on, dearest first; none where nothing is over. */
  readonly exchanges: readonly ExchangeIndex[];
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

/** What a text is as a budget, or why it is none. */
export type BudgetReading =
  | { readonly ok: true; readonly budget: Budget }
  | { readonly ok: false; readonly sentence: string };

/** Units by dimension, the usual ones first. */
const UNITS = { ms: ['s', 'ms', 'min'], bytes: ['kB', 'MB', 'B', 'GB'], count: [] } as const;

/** Reads "loaded=3s", "wire=1.5MB", "exchanges=80". A time or an amount of bytes without a unit is refused: 3 of what? */
export function readBudget(text: string): BudgetReading {
  const match = /^([a-z]+)=(\d+(?:\.\d+)?)\s*([a-z]*)$/i.exec(text.trim());
  const name = match?.[1]?.toLowerCase() ?? text.split('=')[0]?.trim().toLowerCase() ?? '';
  if (!isBudgetName(name)) {
    const names = Object.keys(BUDGETS).join(', ');
    return {
      ok: false,
      sentence: `"${text}" is not a budget. Write NAME=VALUE, e.g. loaded=3s or wire=1.5MB; names: ${names}.`,
    };
  }
  const dimension = BUDGETS[name];
  const units: readonly string[] = UNITS[dimension];
  const [usual = '', next = ''] = units;
  const [, , number = '', unit = ''] = match ?? [];
  if (number === '') {
    return { ok: false, sentence: `"${text}" has no number behind the equals sign; write e.g. ${name}=3${usual}.` };
  }
  if (unit === '' && units.length > 0) {
    return {
      ok: false,
      sentence: `"${text}" needs a unit: write ${name}=${number}${usual} or ${name}=${number}${next}.`,
    };
  }
  if (unit !== '' && !units.some((one) => one.toLowerCase() === unit.toLowerCase())) {
    const allowed = units.length === 0 ? 'it is a count, without a unit' : `use one of ${units.join(', ')}`;
    return { ok: false, sentence: `"${text}" has a unit that ${name} is not measured in: ${allowed}.` };
  }
  return { ok: true, budget: { name, most: Number(number) * (FACTORS[unit.toLowerCase()] ?? 1) } };
}

const isBudgetName = (name: string): name is BudgetName => Object.hasOwn(BUDGETS, name);

export const isRule = (text: string): text is RuleId => (RULE_IDS as readonly string[]).includes(text);

/** Holds each page of a capture against budgets, and the capture against rules that must find nothing. */
export function checkBudgets(
  rows: readonly ExchangeRow[],
  pages: readonly PageOverview[],
  findings: readonly Finding[],
  budgets: readonly Budget[],
  rules: readonly RuleId[],
): Checked[] {
  const parts = partsOf(rows, pages);
  return [
    ...budgets.flatMap((budget) =>
      parts
        // What belongs to no page has no milestones that could be late.
        .filter(({ page }) => page !== undefined || pages.length === 0 || BUDGETS[budget.name] !== 'ms')
        .map((part) => checkPart(budget, part)),
    ),
    ...rules.flatMap((rule) => checkRule(rule, findings)),
  ];
}

/** What a budget is held against at once. */
interface Part {
  readonly page: PageOverview | undefined;
  readonly rows: readonly ExchangeRow[];
  /** Said behind the value; empty where the part is the whole capture. */
  readonly where: string;
}

function partsOf(rows: readonly ExchangeRow[], pages: readonly PageOverview[]): Part[] {
  const known = new Set(pages.map(({ id }) => id));
  const outside = rows.filter(({ pageId }) => pageId === undefined || !known.has(pageId));
  const isSplit = pages.length > 1 || (pages.length > 0 && outside.length > 0);
  const parts = pages.map(
    (page): Part => ({
      page,
      rows: rows.filter(({ pageId }) => pageId === page.id),
      where: isSplit ? ` on page ${page.id}` : '',
    }),
  );
  if (outside.length > 0 || pages.length === 0)
    parts.push({ page: undefined, rows: outside, where: isSplit ? ' outside of any page' : '' });
  return parts;
}

function checkPart({ name, most }: Budget, { page, rows, where }: Part): Checked {
  const unit = BUDGETS[name];
  const { value, isLeast, exchanges } = MEASURES[name](rows, page, most);
  const isOver = value === undefined || value > most;
  // What reads alike is told apart exactly: "1.1 kB, at most 1.1 kB allowed" would be over for no reason that one sees.
  const isAlike = value !== undefined && value !== most && WRITERS[unit](value) === WRITERS[unit](most);
  const write = isAlike ? EXACT_WRITERS[unit] : WRITERS[unit];
  const came = value === undefined ? 'unknown' : `${isLeast === true ? 'at least ' : ''}${write(value)}`;
  return {
    name,
    isOver,
    says: `${name}: ${came}${where}, at most ${write(most)} allowed`,
    page: page?.id,
    unit,
    value,
    most,
    exchanges: isOver && value !== undefined ? exchanges.map(({ index }) => index) : [],
  };
}

interface Measured {
  readonly value: number | undefined;
  /** True where some of it is not known. */
  readonly isLeast?: boolean;
  /** What it rests on, dearest first. */
  readonly exchanges: readonly ExchangeRow[];
}

const MEASURES: Record<
  BudgetName,
  (rows: readonly ExchangeRow[], page: PageOverview | undefined, most: number) => Measured
> = {
  loaded: (rows, page) => milestone(rows, page?.loadedMs),
  ready: (rows, page) => milestone(rows, page?.domReadyMs),
  wire: (rows) => weight(rows, 'wireBytes'),
  body: (rows) => weight(rows, 'bodyBytes'),
  // Those that came when the budget was spent.
  exchanges: (rows, _, most) => ({ value: rows.length, exchanges: inOrderOfStart(rows).slice(Math.floor(most)) }),
  failed: (rows) => {
    const failed = rows.filter(({ failure }) => failure !== undefined);
    return { value: failed.length, exchanges: failed };
  },
};

/** A milestone rests on what the load waited for before it. */
function milestone(rows: readonly ExchangeRow[], value: number | undefined): Measured {
  const waitedFor = rows.filter(({ isOnRoute, startMs }) => isOnRoute && (startMs ?? 0) < (value ?? 0));
  return { value, exchanges: dearestFirst(waitedFor, 'timeMs') };
}

function weight(rows: readonly ExchangeRow[], member: 'wireBytes' | 'bodyBytes'): Measured {
  const value = tally(rows)[member];
  const known = rows.filter((row) => row[member] !== undefined);
  return {
    value,
    isLeast: known.length < rows.length,
    exchanges: dearestFirst(
      known.filter((row) => row[member] !== 0),
      member,
    ),
  };
}

const dearestFirst = (rows: readonly ExchangeRow[], member: 'wireBytes' | 'bodyBytes' | 'timeMs'): ExchangeRow[] =>
  [...rows].sort((a, b) => (b[member] ?? 0) - (a[member] ?? 0));

const inOrderOfStart = (rows: readonly ExchangeRow[]): ExchangeRow[] =>
  [...rows].sort((a, b) => (a.startedAt ?? 0) - (b.startedAt ?? 0) || a.index - b.index);

/** Everything that a rule found, or that it found nothing. */
function checkRule(rule: RuleId, findings: readonly Finding[]): Checked[] {
  const base = { name: rule, page: undefined, unit: undefined, value: undefined, most: undefined };
  const found = findings.filter((finding) => finding.rule === rule);
  if (found.length === 0) return [{ ...base, isOver: false, says: `${rule} found nothing`, exchanges: [] }];
  return found.map(({ claim, evidence }) => ({ ...base, isOver: true, says: claim, exchanges: evidence }));
}

/** Exchanges printed below a breach; JSON and JUnit have all. */
const SHOWN_EXCHANGES = 10;

/** What was checked as lines: the verdict, and below a breach the exchanges that it rests on. */
export function checkedLines(checked: readonly Checked[], rows: readonly ExchangeRow[]): string[] {
  const byIndex = new Map(rows.map((row) => [row.index, row]));
  return checked.flatMap(({ isOver, says, name, exchanges }) => {
    const shown = exchanges.slice(0, SHOWN_EXCHANGES).map((index) => {
      const row = byIndex.get(index);
      return `      ${row === undefined ? `#${index}` : lineOf(row, name)}`;
    });
    const more = exchanges.length - shown.length;
    return [`${isOver ? 'over' : 'ok  '}  ${says}`, ...shown, ...(more > 0 ? [`      and ${more} more`] : [])];
  });
}

/** An exchange with its own part in a budget. */
function lineOf(row: ExchangeRow, budget: string): string {
  const part: Readonly<Record<string, string>> = {
    loaded: formatMs(row.timeMs),
    ready: formatMs(row.timeMs),
    wire: formatBytes(row.wireBytes),
    body: formatBytes(row.bodyBytes),
    failed: row.failure === undefined ? '' : wordFailure(row.failure),
  };
  const own = Object.hasOwn(part, budget) ? `: ${part[budget]}` : '';
  return `#${row.index} ${row.method} ${nameExchange(row)}${own}`;
}

const EXACT_WRITERS = {
  ms: (ms: number): string => `${Number(ms.toFixed(3))} ms`,
  bytes: formatExactBytes,
  count: formatCount,
};

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

/** The checks as JUnit XML, which continuous integration reads; numbers, limit and exchanges stand in the failure's text. */
export function checkedToJunit(checked: readonly Checked[], file: string): string {
  const failures = checked.filter(({ isOver }) => isOver).length;
  const cases = checked.map((one) => {
    const { name, isOver, says, page } = one;
    const head = `  <testcase classname="trazado" name="${escapeXml(page === undefined ? name : `${name} (${page})`)}"`;
    if (!isOver) return `${head}/>`;
    return `${head}><failure type="${one.unit === undefined ? 'finding' : 'budget'}" message="${escapeXml(says)}">${escapeXml(numbersOf(one))}</failure></testcase>`;
  });
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    `<testsuite name="${escapeXml(file)}" tests="${checked.length}" failures="${failures}">`,
    ...cases,
    '</testsuite>',
    '',
  ].join('\n');
}

function numbersOf({ unit, value, most, exchanges }: Checked): string {
  const named = exchanges.length === 0 ? [] : [`exchanges: ${exchanges.map((index) => `#${index}`).join(', ')}`];
  return [
    ...(unit === undefined ? [] : [`value: ${value ?? 'unknown'}`, `limit: ${most}`, `unit: ${unit}`]),
    ...named,
  ].join('\n');
}
