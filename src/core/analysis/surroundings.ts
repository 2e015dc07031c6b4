import type { ExchangeRow } from './exchange-row';
import { requestKey } from './request-key';
import { type Spread, spreadOf } from './spread';

/** An exchange among the others of its capture: what it has to do with which of them. Lists are in order of time. */
export interface Surroundings {
  readonly parent: ExchangeRow | undefined;
  /** What it asked for in turn, preflights and redirects left out. */
  readonly children: readonly ExchangeRow[];
  /** The hops that led to it, the first one first. */
  readonly redirectedFrom: readonly ExchangeRow[];
  /** Where its own redirect led. */
  readonly redirectedTo: ExchangeRow | undefined;
  /** The preflight that was sent for it. */
  readonly preflight: ExchangeRow | undefined;
  /** What this preflight was sent for. */
  readonly preflightFor: ExchangeRow | undefined;
  /** The same request later, after this one failed. */
  readonly retriedAs: ExchangeRow | undefined;
  /** The same request earlier, which had failed. */
  readonly retryOf: ExchangeRow | undefined;
  /** The same address, fetched over the network before with success. */
  readonly fetchedBefore: ExchangeRow | undefined;
  /** Other calls to its endpoint, and how their durations spread. */
  readonly sameEndpoint: readonly ExchangeRow[];
  readonly endpointSpread: Spread;
  /** Others that the recorder saw on the same connection. */
  readonly sameConnection: readonly ExchangeRow[];
}

/** Redirects go round in circles on bad days. */
const MOST_HOPS = 30;

/** What an exchange has to do with the others. O(n), and only what is related is sorted: it is asked for whenever one is opened. */
export function findSurroundings(row: ExchangeRow, rows: readonly ExchangeRow[]): Surroundings {
  // Most captures' rows stand at their numbers.
  const at = (index: number | undefined): ExchangeRow | undefined =>
    index === undefined
      ? undefined
      : rows[index]?.index === index
        ? rows[index]
        : rows.find((one) => one.index === index);
  const key = requestKey(row);
  const inTime = (isRelated: (one: ExchangeRow) => boolean): ExchangeRow[] =>
    rows.filter((one) => one.index !== row.index && isRelated(one)).sort(byStart);
  // The address alone tells most apart, and costs no key.
  const same = inTime((one) => one.url === row.url && one.pageId === row.pageId && requestKey(one) === key);
  const earlier = same.filter((one) => byStart(one, row) < 0);
  const later = same.filter((one) => byStart(one, row) > 0);
  const sameEndpoint = inTime(({ endpoint }) => endpoint === row.endpoint);
  const asked = inTime(({ parent }) => parent === row.index);
  const retryOf = earlier.findLast(({ failure }) => failure !== undefined);
  return {
    parent: at(row.parent),
    children: asked.filter(({ parentEvidence }) => parentEvidence !== 'redirect' && parentEvidence !== 'preflight'),
    redirectedFrom: findHops(row, at),
    redirectedTo: asked.find(({ parentEvidence }) => parentEvidence === 'redirect'),
    preflight: inTime(({ preflightFor }) => preflightFor === row.index)[0],
    preflightFor: at(row.preflightFor),
    retriedAs: row.failure === undefined ? undefined : later[0],
    retryOf,
    fetchedBefore: earlier.findLast(
      ({ source, status, failure }) => source === 'network' && status === 200 && failure === undefined,
    ),
    sameEndpoint,
    endpointSpread: spreadOf(sameEndpoint.map(({ timeMs }) => timeMs)),
    sameConnection:
      row.connection === undefined
        ? []
        : inTime(({ connection, host }) => connection === row.connection && host === row.host),
  };
}

/** Whether nothing is known that an exchange has to do with another one. */
export const isAlone = ({ endpointSpread: _, ...related }: Surroundings): boolean =>
  Object.values(related).every((one) => one === undefined || (Array.isArray(one) && one.length === 0));

function findHops(row: ExchangeRow, at: (index: number | undefined) => ExchangeRow | undefined): ExchangeRow[] {
  const hops: ExchangeRow[] = [];
  let hop = row;
  while (hop.parentEvidence === 'redirect' && hops.length < MOST_HOPS) {
    const before = at(hop.parent);
    if (before === undefined) break;
    hops.unshift(before);
    hop = before;
  }
  return hops;
}

const byStart = (a: ExchangeRow, b: ExchangeRow): number =>
  (a.startedAt ?? Number.POSITIVE_INFINITY) === (b.startedAt ?? Number.POSITIVE_INFINITY)
    ? a.index - b.index
    : (a.startedAt ?? Number.POSITIVE_INFINITY) - (b.startedAt ?? Number.POSITIVE_INFINITY);
