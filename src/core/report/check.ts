import type { ExchangeRow, PageOverview } from '../analysis';
import { type Finding, type FoundInCapture, findingsOn, type RuleId } from '../diagnose';
import type { ExchangeIndex, PageId } from '../model';
import { formatBytes, formatCount, formatExactBytes, formatMs } from '../wording';
import { type Allowance, BUDGETS, type Budget, type BudgetUnit, nameBudget } from './budget';
import { type Measured, type MeasuredPart, measure } from './measures';

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
  readonly unit: BudgetUnit | undefined;
  /** In the unit; undefined where it is not known, and for rules. */
  readonly value: number | undefined;
  readonly most: number | undefined;
  /** What it was in the baseline; undefined without one. */
  readonly baseline: number | undefined;
  /** What a breach rests on, dearest first; none where nothing is over. */
  readonly exchanges: readonly ExchangeIndex[];
}

/** A capture as it is checked. */
export interface CheckedCapture {
  readonly rows: readonly ExchangeRow[];
  readonly pages: readonly PageOverview[];
  readonly found: FoundInCapture;
}

/** Holds each page of a capture against budgets, and the capture against rules that must find nothing. */
export function checkBudgets(capture: CheckedCapture, budgets: readonly Budget[], rules: readonly RuleId[]): Checked[] {
  return [
    ...budgets.flatMap((budget) =>
      partsFor(budget, capture).map((part) => {
        const measured = measure(budget.name, part, budget.of, budget.most);
        const { most } = budget;
        return checkedOf(budget, part, measured, most, (write) => `at most ${write(most)} allowed`, undefined);
      }),
    ),
    ...rules.flatMap((rule) => checkRule(rule, capture.found.findings)),
  ];
}

/** Holds each page of a capture against the page at the same place of a baseline, with what is allowed on top. */
export function checkAgainst(
  capture: CheckedCapture,
  baseline: CheckedCapture,
  allowances: readonly Allowance[],
): Checked[] {
  return allowances.flatMap((allowance) => {
    const { name, of, more, written } = allowance;
    const before = partsFor({ name, of: withoutPage(of) }, baseline);
    const all = partsFor({ name, of: withoutPage(of) }, capture);
    return partsFor({ name, of }, capture).map((part) => {
      const own = all.findIndex(({ page }) => page?.id === part.page?.id);
      const other = before[own];
      const base = other === undefined ? undefined : measure(name, other, withoutPage(of)).value;
      const most = base === undefined ? undefined : 'share' in more ? base * (1 + more.share) : base + more.amount;
      const measured = measure(name, part, of, most ?? 0);
      return checkedOf(
        allowance,
        part,
        measured,
        most,
        (write) =>
          base === undefined || most === undefined
            ? 'unknown in the baseline'
            : `at most ${write(most)} allowed: ${write(base)} in the baseline, ${written}`,
        base,
      );
    });
  });
}

/** Pages have other ids in the baseline: they are known by their places. */
const withoutPage = ({ page: _, ...of }: Budget['of']): Budget['of'] => of;

/** What a budget is held against at once. */
interface Part extends MeasuredPart {
  /** Said behind the value; empty where the part is the whole capture. */
  readonly where: string;
}

function partsFor({ name, of }: Pick<Budget, 'name' | 'of'>, { rows, pages, found }: CheckedCapture): Part[] {
  const known = new Set(pages.map(({ id }) => id));
  const outside = rows.filter(({ pageId }) => pageId === undefined || !known.has(pageId));
  const isSplit = pages.length > 1 || (pages.length > 0 && outside.length > 0);
  const parts = pages.map(
    (page): Part => ({
      page,
      rows: rows.filter(({ pageId }) => pageId === page.id),
      findings: findingsOn(found, page.id),
      where: isSplit ? ` on page ${page.id}` : '',
    }),
  );
  if (outside.length > 0 || pages.length === 0)
    parts.push({
      page: undefined,
      rows: outside,
      findings: pages.length === 0 ? found.findings : [],
      where: isSplit ? ' outside of any page' : '',
    });
  const wanted = parts.filter(({ page }) => of.page === undefined || page?.id === of.page);
  // What belongs to no page has no milestones that could be late.
  const timed = wanted.filter(({ page }) => page !== undefined || pages.length === 0 || BUDGETS[name] !== 'ms');
  // A page that is not there is none that could be checked: its value is unknown.
  return timed.length === 0 && of.page !== undefined
    ? [{ page: undefined, rows: [], findings: [], where: ` on page ${of.page}, which there is not` }]
    : timed;
}

/** Long because a check is put together here once for both: value, limit, words. */
function checkedOf(
  budget: Pick<Budget, 'name' | 'of'>,
  { page, where, rows }: Part,
  measured: Measured,
  most: number | undefined,
  limitWords: (write: (value: number) => string) => string,
  baseline: number | undefined,
): Checked {
  const unit = BUDGETS[budget.name];
  // A name that was mistyped, or is gone from the site, is within every budget.
  const isOfNone = Object.keys(budget.of).some((key) => key !== 'page') && measured.isOfNone === true;
  const isMissing = budget.of.page !== undefined && page === undefined && rows.length === 0;
  const value = isMissing ? undefined : measured.value;
  // Of sums of fractions the last bits do not count.
  const isOver = value === undefined || most === undefined || value > most + ROUNDING;
  // What reads alike is told apart exactly: "1.1 kB, at most 1.1 kB allowed" would be over for no reason that one sees.
  const isAlike =
    value !== undefined && most !== undefined && value !== most && WRITERS[unit](value) === WRITERS[unit](most);
  const write = isAlike ? EXACT_WRITERS[unit] : WRITERS[unit];
  const came = value === undefined ? 'unknown' : `${measured.isLeast === true ? 'at least ' : ''}${write(value)}`;
  return {
    name: nameBudget(budget),
    isOver,
    says: `${nameBudget(budget)}: ${came}${where}${isOfNone ? ', of no exchange at all' : ''}, ${limitWords(write)}`,
    page: page?.id,
    unit,
    value,
    most,
    baseline,
    exchanges: isOver && value !== undefined ? measured.exchanges.map(({ index }) => index) : [],
  };
}
const ROUNDING = 1e-9;

/** Everything that a rule found, or that it found nothing. */
function checkRule(rule: RuleId, findings: readonly Finding[]): Checked[] {
  const base = { name: rule, page: undefined, unit: undefined, value: undefined, most: undefined, baseline: undefined };
  const found = findings.filter((finding) => finding.rule === rule);
  if (found.length === 0) return [{ ...base, isOver: false, says: `${rule} found nothing`, exchanges: [] }];
  return found.map(({ claim, evidence }) => ({ ...base, isOver: true, says: claim, exchanges: evidence }));
}

const EXACT_WRITERS = {
  ms: (ms: number): string => `${Number(ms.toFixed(3))} ms`,
  bytes: formatExactBytes,
  count: (count: number): string => String(Number(count.toFixed(3))),
};

const WRITERS: Record<BudgetUnit, (value: number) => string> = {
  ms: formatMs,
  bytes: formatBytes,
  count: (count) => (Number.isInteger(count) ? formatCount(count) : String(Number(count.toFixed(2)))),
};
