import { hostInWords } from '../analysis';
import { formatCount, formatMs, formatPlural } from '../wording';
import { holdsZero, LOADS_FOR_95 } from './chance';
import type { CommonGoal, LedgerDifference, SpentOn } from './difference';
import type { ComparedLoad } from './load';
import type { LoadComparison } from './loads';
import type { SidesComparison } from './sides';

// The sentences of a comparison of two sides.

const GOAL_WORDS: Record<CommonGoal, string> = {
  loaded: 'Loaded in',
  domReady: 'DOM ready after',
  lastExchange: 'The last exchange ended after',
  lastMoment: 'The last moment recorded came after',
};

/** What a load lacks, and what both are measured to for that. */
const MEASURED_TO: Record<Exclude<CommonGoal, 'loaded'>, string> = {
  domReady: 'no loaded milestone: both are measured to DOM ready',
  lastExchange: 'no milestone: both are measured to the end of the last exchange that a load waits for',
  lastMoment:
    'no milestone: both are measured to the last moment recorded of what a load waits for, a start where no times are known',
};

/** Loads that differ by less are as quick as one another, as one says it. */
const FELT_MS = 1;

export const less = (ms: number): string => (ms < 0 ? 'less' : 'more');

/** "1.49 s sooner", "12 ms later". */
const sooner = (ms: number): string => `${formatMs(Math.abs(ms))} ${ms < 0 ? 'sooner' : 'later'}`;

/** What differs, in sentences; the first says by how much. */
export function tellComparison(compared: SidesComparison): readonly [string, ...string[]] {
  const { a, b, drawn, differenceMs } = compared;
  const words = GOAL_WORDS[drawn.goal];
  if (a.medianMs === undefined || b.medianMs === undefined || differenceMs === undefined)
    return ['No exchange of one of the sides has a start: their times cannot be compared.', tellCounts(drawn)];
  const isMany = a.loadsMs.length + b.loadsMs.length > 2;
  const median = isMany ? ' in the median' : '';
  const first =
    Math.abs(differenceMs) < FELT_MS
      ? `${words} ${formatMs(b.medianMs)} in both${median}.`
      : `${words} ${formatMs(b.medianMs)} instead of ${formatMs(a.medianMs)}${median}: ${sooner(differenceMs)}.`;
  return [first, ...tellChance(compared), ...tellLedger(drawn.ledger), tellCounts(drawn)];
}

/** How sure the difference is. */
function tellChance({ interval, differenceMs, a, b }: SidesComparison): string[] {
  const counts = `${formatCount(a.loadsMs.length)} and ${formatPlural(b.loadsMs.length, 'load')}`;
  if (interval === undefined || differenceMs === undefined) return [];
  if (holdsZero(interval)) return [`That cannot be told from chance with ${counts}.`];
  const [least, most] = [interval.fromMs, interval.toMs].map(Math.abs).sort((one, other) => one - other);
  const between = `between ${formatMs(least)} and ${formatMs(most)}`;
  return Math.min(a.loadsMs.length, b.loadsMs.length) < LOADS_FOR_95
    ? [`It is probably ${between}: with ${counts} such a range is right about nine times in ten.`]
    : [`With 95 % confidence it is ${between} (${counts}).`];
}

/** What a comparison of so few loads cannot say; empty where it can. */
export const noiseOf = ({ a, b, interval }: SidesComparison): string =>
  interval !== undefined
    ? ''
    : `${formatPlural(a.loadsMs.length, 'load')} against ${formatCount(b.loadsMs.length)}: how much loads vary by themselves cannot be told`;

const SPENT_WORDS: Record<SpentOn, string> = {
  blockedMs: 'blocked',
  dnsMs: 'DNS',
  connectMs: 'connecting',
  tlsMs: 'setting up TLS',
  sendMs: 'sending',
  waitMs: 'waiting',
  receiveMs: 'receiving',
  gap: 'in gaps',
  pause: 'in pauses before retries',
  unknown: 'in exchanges without phases',
};

/** What takes so much of the difference is worth a clause. */
const WORTH_SHARE = 0.1;
const MOST_CLAUSES = 3;
const WORTH_CLAUSE_MS = 10;
/** A host is named where it makes so much of a difference. */
const NAMED_SHARE = 0.6;

function tellLedger(ledger: LedgerDifference | undefined): string[] {
  if (ledger === undefined) return [];
  const parts = ledger.byPhase.map(({ of, aMs, bMs }) => ({ of, ms: bMs - aMs }));
  const most = parts.reduce((greatest, { ms }) => Math.max(greatest, Math.abs(ms)), 0);
  const clauses = parts
    .filter(({ ms }) => Math.abs(ms) >= Math.max(WORTH_CLAUSE_MS, WORTH_SHARE * most))
    .sort((one, other) => Math.abs(other.ms) - Math.abs(one.ms))
    .slice(0, MOST_CLAUSES)
    .map(({ of, ms }) => {
      const words = `${formatMs(Math.abs(ms))} ${less(ms)} ${SPENT_WORDS[of]}`;
      return of === 'waitMs' ? words + hostWords(ledger, ms) : words;
    });
  return clauses.length === 0 ? [] : [`On the route: ${joined(clauses)}.`];
}

/** For whose responses, where it is one host's mostly. */
function hostWords({ waitByHost }: LedgerDifference, ms: number): string {
  const [host] = waitByHost;
  if (host === undefined || Math.sign(host.bMs - host.aMs) !== Math.sign(ms)) return '';
  const own = Math.abs(host.bMs - host.aMs);
  if (own < NAMED_SHARE * Math.abs(ms)) return '';
  return ` (${formatMs(own)} of that for ${hostInWords(host.of)})`;
}

export const joined = (parts: readonly string[]): string =>
  parts.length < 2 ? parts.join('') : `${parts.slice(0, -1).join(', ')} and ${parts.at(-1)}`;

function tellCounts({ counts, pairs }: LoadComparison): string {
  if (pairs.length === 0) return 'Neither side has exchanges.';
  const { gone, new: fresh, slower, quicker, other } = counts;
  const is = (count: number): string => `${formatCount(count)} ${count === 1 ? 'is' : 'are'}`;
  const clauses = [
    ...(gone > 0 ? [`${is(gone)} gone`] : []),
    ...(fresh > 0 ? [`${is(fresh)} new`] : []),
    ...(slower > 0 ? [`${formatCount(slower)} got slower`] : []),
    ...(quicker > 0 ? [`${formatCount(quicker)} quicker`] : []),
    ...(other > 0 ? [`${formatCount(other)} ${other === 1 ? 'has' : 'have'} another response`] : []),
  ];
  const all = formatPlural(pairs.length, 'exchange');
  return clauses.length === 0 ? `Of ${all} none changed.` : `Of ${all} ${joined(clauses)}.`;
}

/** Of fewer matched exchanges the two are hardly loads of one page. */
const FEW_SHARE = 0.2;

/** What can and cannot be said, where something stands in the way. */
export function remarksOn(a: ComparedLoad, b: ComparedLoad, compared: LoadComparison, isSame: boolean): string[] {
  const remarks: string[] = [];
  if (isSame) remarks.push('Both sides are the same load: nothing can differ.');
  for (const { name, rows } of [a, b]) if (rows.length === 0) remarks.push(`"${name}" contains no exchanges.`);
  if (a.rows.length === 0 || b.rows.length === 0) return remarks;
  const matched = compared.pairs.filter((pair) => pair.a !== undefined && pair.b !== undefined).length;
  const hosts = new Set(a.rows.map(({ host }) => host));
  if (matched === 0 && !b.rows.some(({ host }) => hosts.has(host)))
    remarks.push('The sides have no host in common. Where one site has two names, say which host stands for which.');
  else if (matched < FEW_SHARE * Math.min(a.rows.length, b.rows.length))
    remarks.push(
      `${matched === 0 ? 'None' : `Only ${formatCount(matched)}`} of ${formatCount(a.rows.length)} and ${formatCount(b.rows.length)} exchanges ${matched === 1 ? 'matches' : 'match'}: these are hardly loads of one page.`,
    );
  else if (Math.max(a.rows.length, b.rows.length) >= LOPSIDED * Math.min(a.rows.length, b.rows.length))
    remarks.push(
      `${formatPlural(a.rows.length, 'exchange')} against ${formatCount(b.rows.length)}: one side may be only a part of a load.`,
    );
  if (compared.goal !== 'loaded') {
    const without = [a, b].filter(({ page }) => page?.loadedMs === undefined).map(({ name }) => `"${name}"`);
    const which = without.length === 0 ? 'One of the loads' : without.join(' and ');
    remarks.push(`${which} ${without.length > 1 ? 'have' : 'has'} ${MEASURED_TO[compared.goal]}.`);
  }
  if (compared.findings === undefined) remarks.push('Bodies are still being read: findings come later.');
  return remarks;
}
const LOPSIDED = 10;
