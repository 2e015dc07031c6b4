import { type ExchangeRow, nameExchange } from '../analysis';
import { groupBy } from '../collections';
import { setupMs } from '../model';
import { formatBytes, formatCount, formatMs, formatPlural } from '../wording';
import type { Cause, Causes, Played } from './causes';
import type { TimePart } from './graph';
import type { MatchedBy } from './match';
import type { Pair, PairFact } from './pair';

// The words about one pair of exchanges, or the pairs that one cause is about.

/** Parts of less than a tenth of what changed are not worth a clause; nor are times of less than 10 ms. */
const WORTH_SHARE = 0.1;
const WORTH_CLAUSE_MS = 10;

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
