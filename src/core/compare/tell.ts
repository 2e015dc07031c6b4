import { type ExchangeRow, nameExchange } from '../analysis';
import { groupBy } from '../collections';
import { setupMs } from '../model';
import { formatBytes, formatCount, formatMs, formatPlural, formatSpan } from '../wording';
import type { Cause, Causes, Played } from './causes';
import { holdsZero } from './chance';
import type { CommonGoal, LedgerDifference, SpentOn } from './difference';
import type { TimePart } from './graph';
import type { GroupComparison } from './group';
import type { ComparedLoad } from './load';
import type { LoadComparison } from './loads';
import type { MatchedBy } from './match';
import type { Pair, PairFact } from './pair';
import type { SidesComparison } from './sides';
import type { FetchedAgain, Visits } from './visits';

// All sentences of a comparison of loads.

const GOAL_WORDS: Record<CommonGoal, string> = {
  loaded: 'Loaded in',
  domReady: 'DOM ready after',
  lastExchange: 'The last exchange ended after',
};

/** Loads that differ by less are as quick as one another, as one says it. */
const FELT_MS = 1;

const less = (ms: number): string => (ms < 0 ? 'less' : 'more');

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
  return [`With 95 % confidence it is between ${formatMs(least)} and ${formatMs(most)} (${counts}).`];
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
  return ` (${formatMs(own)} of that for ${host.of})`;
}

const joined = (parts: readonly string[]): string =>
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
      `Only ${formatCount(matched)} of ${formatCount(a.rows.length)} and ${formatCount(b.rows.length)} exchanges match: these are hardly loads of one page.`,
    );
  else if (Math.max(a.rows.length, b.rows.length) >= LOPSIDED * Math.min(a.rows.length, b.rows.length))
    remarks.push(
      `${formatPlural(a.rows.length, 'exchange')} against ${formatCount(b.rows.length)}: one side may be only a part of a load.`,
    );
  if (compared.goal !== 'loaded') {
    const without = [a, b].filter(({ page }) => page?.loadedMs === undefined).map(({ name }) => `"${name}"`);
    const which = without.length === 0 ? 'One of the loads' : without.join(' and ');
    remarks.push(
      compared.goal === 'domReady'
        ? `${which} ${without.length > 1 ? 'have' : 'has'} no loaded milestone: both are measured to DOM ready.`
        : `${which} ${without.length > 1 ? 'have' : 'has'} no milestone: both are measured to the end of the last exchange that a load waits for.`,
    );
  }
  if (compared.findings === undefined) remarks.push('Bodies are still being read: findings come later.');
  return remarks;
}
const LOPSIDED = 10;

export const PART_WORDS: Record<TimePart, string> = {
  blocked: 'blocked',
  setup: 'connection set-up',
  wait: 'wait',
  receive: 'receive',
  rest: 'time outside of its phases',
};

type RowOf = (index: number | undefined) => ExchangeRow | undefined;

/** What a cause is about: an exchange by its name, both where it changed; or an endpoint. */
export function nameCause({ endpoint, played }: Cause, rowOfA: RowOf, rowOfB: RowOf): string {
  const [only] = played;
  if (endpoint !== undefined) return shortEndpoint(endpoint);
  return only === undefined ? '' : nameBoth(rowOfA(only.a), rowOfB(only.b));
}

/** Names for the causes of one difference: those that would read alike have their hosts with them. */
export function nameCauses(causes: Causes | undefined, rowOfA: RowOf, rowOfB: RowOf): (cause: Cause) => string {
  const counts = new Map<string, number>();
  const nameOf = (cause: Cause): string => nameCause(cause, rowOfA, rowOfB);
  for (const cause of causes?.causes ?? []) counts.set(nameOf(cause), (counts.get(nameOf(cause)) ?? 0) + 1);
  return (cause) => {
    const [only] = cause.played;
    const host = (rowOfA(only?.a) ?? rowOfB(only?.b))?.host;
    const name = nameOf(cause);
    return (counts.get(name) ?? 0) > 1 && host !== undefined ? `${name} (${host})` : name;
  };
}

/** A name for an exchange of either load: both of them where they differ. */
export function nameBoth(a: ExchangeRow | undefined, b: ExchangeRow | undefined): string {
  const [own, other] = [a, b].map((row) => (row === undefined ? undefined : nameExchange(row)));
  if (own === undefined || other === undefined || own === other) return own ?? other ?? '';
  return `${own} → ${other}`;
}

/** An endpoint without its method and host. */
export const shortEndpoint = (endpoint: string): string => {
  const [, ...rest] = endpoint.split('/');
  return `/${rest.join('/')}`;
};

/** Why it made a difference. */
export function tellCause({ endpoint, played }: Cause, rowOfA: RowOf, rowOfB: RowOf): string {
  const [only] = played;
  if (endpoint === undefined && only !== undefined) return tellPlayed(only, rowOfA, rowOfB);
  const gone = played.filter(({ b }) => b === undefined).length;
  const fresh = played.filter(({ a }) => a === undefined).length;
  const both = played.filter(({ a, b }) => a !== undefined && b !== undefined);
  const counts =
    gone === 0 && fresh === 0
      ? []
      : [`${formatCount(played.length - fresh)} → ${formatPlural(played.length - gone, 'exchange')}`];
  return [
    ...counts,
    ...(both.length > 0
      ? [`${formatCount(both.length)} changed: ${tellParts(both, false) || 'requested at another point'}`]
      : []),
  ].join(', ');
}

function tellPlayed(one: Played, rowOfA: RowOf, rowOfB: RowOf): string {
  const [a, b] = [rowOfA(one.a), rowOfB(one.b)];
  if (b === undefined) return 'gone';
  if (a === undefined) return 'new';
  const asked =
    one.asked === undefined
      ? []
      : [`requested ${afterWords(rowOfB(one.asked.b))}, not ${afterWords(rowOfA(one.asked.a))}`];
  const held =
    one.held === undefined
      ? []
      : [one.held === 'in-a' ? 'the load no longer waits for it' : 'the load waits for it now'];
  const parts = tellParts([one], true);
  return [...asked, ...(parts === '' ? [] : [parts]), ...held].join('; ');
}

const afterWords = (row: ExchangeRow | undefined): string =>
  row === undefined ? 'from the start' : `after ${nameExchange(row)}`;

/** Parts of the time that make up a tenth and more of what changed. */
function tellParts(played: readonly Played[], isOne: boolean): string {
  const sums = new Map<TimePart, number>();
  for (const { parts } of played)
    for (const [part, ms] of Object.entries(parts) as [TimePart, number][]) sums.set(part, (sums.get(part) ?? 0) + ms);
  const whole = [...sums.values()].reduce((sum, ms) => sum + Math.abs(ms), 0);
  return [...sums]
    .filter(([, ms]) => Math.abs(ms) >= Math.max(1, WORTH_SHARE * whole))
    .sort(([, one], [, other]) => Math.abs(other) - Math.abs(one))
    .map(
      ([part, ms]) =>
        `${PART_WORDS[part]} ${formatMs(Math.abs(ms))} ${ms < 0 ? 'shorter' : 'longer'}${isOne ? '' : ' in all'}`,
    )
    .join(', ');
}

export const MATCHED_WORDS: Record<MatchedBy, string> = {
  hand: 'matched by hand',
  request: 'the same request',
  fingerprint: 'the same but for a fingerprint in its address',
  endpoint: 'the same address, another payload',
  numbers: 'the same but for numbers in its address',
  place: 'the same endpoint, by its place among the calls',
};

/** What is not the same in a pair, in a few words; the most telling first. */
export function tellFacts({ facts }: Pair, a: ExchangeRow | undefined, b: ExchangeRow | undefined): string {
  const words = [...groupBy(facts, ({ of }) => of).values()].flatMap((own) => own.map((fact) => tellFact(fact, a, b)));
  return words.filter((word) => word !== '').join('; ');
}

/** A header's value may be a policy of a thousand characters. */
const SHOWN_CHARS = 60;
const short = (text: string | undefined): string =>
  text === undefined ? 'none' : text.length > SHOWN_CHARS ? `${text.slice(0, SHOWN_CHARS - 1)}…` : text;

export function tellFact(
  { of, name, a, b }: PairFact,
  rowA: ExchangeRow | undefined,
  rowB: ExchangeRow | undefined,
): string {
  switch (of) {
    case 'status':
      return `status ${a} → ${b}`;
    case 'failure':
      return b === undefined ? 'no longer fails' : a === undefined ? 'fails now' : 'fails in another way';
    case 'source':
      return `${a} → ${b}`;
    case 'protocol':
      return `${a ?? 'unknown'} → ${b ?? 'unknown'}`;
    case 'connection':
      return b === 'open already' ? 'on a connection that was open' : 'on a connection of its own';
    case 'priority':
      return `priority ${a} → ${b}`;
    case 'header':
      return name === 'content-encoding'
        ? `${b ?? 'no compression'} instead of ${a ?? 'none'}: ${formatBytes(rowA?.wireBytes)} → ${formatBytes(rowB?.wireBytes)} on the wire`
        : `${name}: ${short(a)} → ${short(b)}`;
    case 'body':
      return rowA?.bodyBytes === rowB?.bodyBytes
        ? 'another body'
        : `another body: ${formatBytes(rowA?.bodyBytes)} → ${formatBytes(rowB?.bodyBytes)} decoded`;
    default:
      return of satisfies never;
  }
}

/** How its time changed, phase by phase; empty where that is not felt. */
export function tellTimes(a: ExchangeRow | undefined, b: ExchangeRow | undefined): string {
  if (a === undefined || b === undefined) return '';
  const measures: readonly (readonly [string, number | undefined, number | undefined])[] = [
    ['blocked', a.phases.blockedMs, b.phases.blockedMs],
    ['connection set-up', setupMs(a.phases), setupMs(b.phases)],
    ['wait', a.phases.waitMs, b.phases.waitMs],
    ['receive', a.phases.receiveMs, b.phases.receiveMs],
  ];
  const changed = measures
    .map(([name, own, other]) => ({ name, own: own ?? 0, other: other ?? 0 }))
    .filter(({ own, other }) => Math.abs(own - other) >= WORTH_CLAUSE_MS)
    .sort((one, two) => Math.abs(two.own - two.other) - Math.abs(one.own - one.other));
  return changed.map(({ name, own, other }) => `${name} ${formatMs(own)} → ${formatMs(other)}`).join(', ');
}

const AGAIN_WORDS: Record<FetchedAgain, string> = {
  'not-storable': 'its response forbids storing it',
  'no-lifetime': 'its response says neither how long it is fresh nor what to ask by',
  expired: 'it had expired',
  'all-the-same': 'it could have been reused or asked about: the visit reloaded it, or the cache had dropped it',
};
export const whyFetchedAgain = (why: FetchedAgain): string => AGAIN_WORDS[why];

/** What the cache did for the later visit, in sentences. */
export function tellVisits({ spared, asked, fetchedAgain, afterMs, forecast }: Visits): string[] {
  const bytes = fetchedAgain.reduce((sum, { wireBytes }) => sum + (wireBytes ?? 0), 0);
  return [
    `The later visit began ${formatSpan(Math.round(afterMs / 1000) * 1000)} after the earlier one: ${formatPlural(spared.exchanges, 'response')} came from its cache (${formatBytes(spared.wireBytes)} that the earlier visit had on the wire), ${formatCount(asked)} ${asked === 1 ? 'was' : 'were'} asked about and confirmed.`,
    ...(fetchedAgain.length === 0
      ? []
      : [
          `${formatPlural(fetchedAgain.length, 'response')} with the very same bytes ${fetchedAgain.length === 1 ? 'was' : 'were'} fetched again: ${formatBytes(bytes)} on the wire.`,
        ]),
    ...(forecast === undefined
      ? []
      : [
          `The forecast of the earlier visit was right for ${formatCount(forecast.agreed)} of ${formatPlural(forecast.agreed + forecast.differing.length, 'response')}.`,
        ]),
  ];
}

/** What the connections to the network make of the difference; nothing where they hardly differ. */
export function tellConnections({ connections, ledger }: LoadComparison): string[] {
  const { isFarther, isNarrower, aloneMs, trips, rate } = connections;
  const [far] = [...trips].sort((one, other) => Math.abs(other.bMs - other.aMs) - Math.abs(one.bMs - one.aMs));
  const differences = [
    ...(isFarther && far !== undefined
      ? [`the way to ${far.host} and back takes ${formatMs(far.bMs)} instead of ${formatMs(far.aMs)}`]
      : []),
    ...(isNarrower && rate.a !== undefined && rate.b !== undefined
      ? [`at the best ${formatBytes(rate.b * 1000)} came in a second instead of ${formatBytes(rate.a * 1000)}`]
      : []),
  ];
  if (differences.length === 0) return [];
  const said = `The connections differ: ${joined(differences)}.`;
  if (aloneMs === undefined || ledger === undefined) return [said];
  const wholeMs = ledger.bMs - ledger.aMs;
  return [
    said,
    `With nothing but the other connection the load would have taken about ${formatMs(Math.abs(aloneMs))} ${less(aloneMs)}, of a difference of ${formatMs(Math.abs(wholeMs))}.`,
  ];
}

/** What the slow loads of a group share, in sentences. */
export function tellGroup(group: GroupComparison): readonly [string, ...string[]] {
  const { summary, slow, isApart, differenceMs, shared, goal } = group;
  const all = formatPlural(summary.loadsMs.length, 'load');
  const told = isApart
    ? `${formatCount(slow.length)} of ${all} ${slow.length === 1 ? 'is' : 'are'} slow: ${formatMs(differenceMs)} more than the others in the median.`
    : `The ${all} are not two groups by how long they take; the slowest ${formatCount(slow.length)} ${slow.length === 1 ? 'takes' : 'take'} ${formatMs(differenceMs)} more than the others in the median.`;
  const measured =
    goal === 'loaded'
      ? []
      : [
          goal === 'domReady'
            ? 'Not all have a loaded milestone: they are measured to DOM ready.'
            : 'Not all have a milestone: they are measured to the end of the last exchange that a load waits for.',
        ];
  const [most] = shared;
  if (most === undefined)
    return [told, ...measured, 'No endpoint, host, phase, source or status alone explains a tenth of it.'];
  const spread =
    slow.length === 1 ? '' : `, and a tenth or more in ${formatCount(most.inLoads)} of the ${formatCount(slow.length)}`;
  return [
    told,
    ...measured,
    `Most of it comes with ${nameShared(most)}: it alone makes ${formatMs(most.ms)} of that${spread}.`,
  ];
}

/** A dimension with its value in words. */
export function nameShared({ dimension, value }: GroupComparison['shared'][number]): string {
  switch (dimension) {
    case 'endpoint':
      return `the endpoint ${value}`;
    case 'host':
      return `the host ${value}`;
    case 'phase':
      return `the phase "${PART_WORDS[value as TimePart]}"`;
    case 'source':
      return `the source ${value}`;
    case 'status':
      return `the status ${value}`;
    default:
      return dimension satisfies never;
  }
}
