import { RULE_IDS, type RuleId } from '../diagnose';
import { KINDS, PARTIES } from '../model';

/** What a budget can be set for, each with its dimension. */
export const BUDGETS = {
  loaded: 'ms',
  ready: 'ms',
  ttfb: 'ms',
  route: 'ms',
  wait: 'ms',
  setup: 'ms',
  wire: 'bytes',
  body: 'bytes',
  exchanges: 'count',
  failed: 'count',
  findings: 'count',
} as const;
export type BudgetName = keyof typeof BUDGETS;
export type BudgetUnit = (typeof BUDGETS)[BudgetName];

/** Milestones are a page's: of some of its exchanges alone there are none. */
const WHOLE: ReadonlySet<BudgetName> = new Set<BudgetName>(['loaded', 'ready']);

/** By what a budget can be set for some exchanges alone. */
export const SELECTORS = ['kind', 'host', 'party', 'page', 'endpoint'] as const;
export type Selector = (typeof SELECTORS)[number];
/** Of what has but a few values another one is a slip, and would select nothing: nothing is ever over that. */
const KNOWN_VALUES: Readonly<Partial<Record<Selector, readonly string[]>>> = { kind: KINDS, party: PARTIES };
/** Exchanges that a budget is about, by all of these; of none about all. */
export type Selection = Readonly<Partial<Record<Selector, string>>>;

export interface Budget {
  readonly name: BudgetName;
  readonly of: Selection;
  /** In ms, bytes or as a count. */
  readonly most: number;
}

/** How much more than a baseline is allowed: so much, or such a share of it. */
export interface Allowance {
  readonly name: BudgetName;
  readonly of: Selection;
  readonly more: { readonly amount: number } | { readonly share: number };
  /** The amount as it was written: "+10%". */
  readonly written: string;
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
export type Reading<T> = { readonly ok: true; readonly budget: T } | { readonly ok: false; readonly sentence: string };

/** Units by dimension, the usual ones first. */
const UNITS = { ms: ['s', 'ms', 'min'], bytes: ['kB', 'MB', 'B', 'GB'], count: [] } as const;

/** Reads "loaded=3s", "wire[kind=script]=1.5MB", "exchanges=80". A time or an amount of bytes without a unit is refused: 3 of what? */
export function readBudget(text: string): Reading<Budget> {
  const head = readHead(text, 'e.g. loaded=3s or wire[kind=script]=100kB');
  if (!head.ok) return head;
  const { name, of, value } = head.budget;
  const amount = readAmount(text, name, value);
  return amount.ok ? { ok: true, budget: { name, of, most: amount.budget } } : amount;
}

/** Reads "loaded=+10%", "wire=+50kB", "wait[host=api.example]=+20ms". The sign says that it comes on top of the baseline. */
export function readAllowance(text: string): Reading<Allowance> {
  const head = readHead(text, 'e.g. loaded=+10% or wire=+50kB');
  if (!head.ok) return head;
  const { name, of, value } = head.budget;
  if (!value.startsWith('+'))
    return { ok: false, sentence: `"${text}" says no change: write ${name}=+10%, or how much more is allowed.` };
  const share = /^\+(\d+(?:\.\d+)?)\s*%$/.exec(value)?.[1];
  if (share !== undefined)
    return { ok: true, budget: { name, of, more: { share: Number(share) / 100 }, written: value } };
  const amount = readAmount(text, name, value.slice(1).trim());
  return amount.ok ? { ok: true, budget: { name, of, more: { amount: amount.budget }, written: value } } : amount;
}

/** Name, selection and what stands behind the equals sign. */
function readHead(
  text: string,
  example: string,
): Reading<{ readonly name: BudgetName; readonly of: Selection; readonly value: string }> {
  const match = /^([^[=]*)(?:\[(.*)\])?(?:=([^\]]*))?$/s.exec(text.trim());
  const name = (match?.[1] ?? text.split(/[=[]/)[0] ?? '').trim().toLowerCase();
  if (!isBudgetName(name)) {
    const names = Object.keys(BUDGETS).join(', ');
    return { ok: false, sentence: `"${text}" is not a budget. Write NAME=VALUE, ${example}; names: ${names}.` };
  }
  if (match === null)
    return { ok: false, sentence: `"${text}" has no end of its brackets; write e.g. ${name}[kind=script]=VALUE.` };
  const of = readSelection(text, name, match[2]);
  return of.ok ? { ok: true, budget: { name, of: of.budget, value: (match[3] ?? '').trim() } } : of;
}

function readSelection(text: string, name: BudgetName, inside: string | undefined): Reading<Selection> {
  if (inside === undefined) return { ok: true, budget: {} };
  const of: Partial<Record<Selector, string>> = {};
  for (const part of inside.split(',')) {
    const equals = part.indexOf('=');
    const key = SELECTORS.find((one) => one === part.slice(0, Math.max(0, equals)).trim().toLowerCase());
    const value = part.slice(equals + 1).trim();
    if (key === undefined || value === '')
      return {
        ok: false,
        sentence: `"${text}": "${part.trim()}" selects nothing; write one of ${SELECTORS.join(', ')} with a value, e.g. [kind=script].`,
      };
    if (of[key] !== undefined)
      return { ok: false, sentence: `"${text}": ${key} stands twice: write a budget for each.` };
    const known = KNOWN_VALUES[key];
    if (known !== undefined && !known.includes(value.toLowerCase()))
      return { ok: false, sentence: `"${text}": there is no ${key} "${value}"; use one of ${known.join(', ')}.` };
    of[key] = value;
  }
  const isPart = Object.keys(of).some((key) => key !== 'page');
  if (WHOLE.has(name) && isPart)
    return { ok: false, sentence: `"${text}": ${name} is a page's; only [page=ID] can be selected.` };
  return { ok: true, budget: of };
}

function readAmount(text: string, name: BudgetName, value: string): Reading<number> {
  const [, number = '', unit = ''] = /^(\d+(?:\.\d+)?)\s*([a-z]*)$/i.exec(value) ?? [];
  const units: readonly string[] = UNITS[BUDGETS[name]];
  const [usual = '', next = ''] = units;
  if (number === '')
    return { ok: false, sentence: `"${text}" has no number behind the equals sign; write e.g. ${name}=3${usual}.` };
  if (unit === '' && units.length > 0)
    return {
      ok: false,
      sentence: `"${text}" needs a unit: write ${name}=${number}${usual} or ${name}=${number}${next}.`,
    };
  if (unit !== '' && !units.some((one) => one.toLowerCase() === unit.toLowerCase())) {
    const allowed = units.length === 0 ? 'it is a count, without a unit' : `use one of ${units.join(', ')}`;
    return { ok: false, sentence: `"${text}" has a unit that ${name} is not measured in: ${allowed}.` };
  }
  return { ok: true, budget: Number(number) * (FACTORS[unit.toLowerCase()] ?? 1) };
}

const isBudgetName = (name: string): name is BudgetName => Object.hasOwn(BUDGETS, name);

export const isRule = (text: string): text is RuleId => (RULE_IDS as readonly string[]).includes(text);

/** A budget's name with what it is about: "wire[kind=script]". */
export function nameBudget({ name, of }: Pick<Budget, 'name' | 'of'>): string {
  const parts = Object.entries(of).map(([key, value]) => `${key}=${value}`);
  return parts.length === 0 ? name : `${name}[${parts.join(',')}]`;
}
