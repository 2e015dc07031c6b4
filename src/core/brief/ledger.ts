import type { ExchangeRow } from '../analysis';
import { groupBy } from '../collections';
import { type ExchangeIndex, type Party, PHASES, type PhaseName } from '../model';
import { findHiddenQueues, findQueues, findRoundTrips, type Queue, type RoundTrip, serverMsOf } from '../timing';
import type { PlottedLeg } from './plotted-leg';

/** The exchange that time went to where that is one alone, and the one that most of it went to where it is not. */
interface About {
  readonly only: ExchangeIndex | undefined;
  readonly mostly: ExchangeIndex | undefined;
}

/** What time of a load went to. */
export type Spending =
  /** Of it so much with nothing at all in flight. */
  | { readonly what: 'gap'; readonly idleMs: number }
  | { readonly what: 'pause'; readonly again: ExchangeIndex | undefined }
  | ({ readonly what: 'cache' | 'worker' } & About)
  | ({
      readonly what: 'held' | 'connecting' | 'wait' | 'receive' | 'send' | 'unknown';
      readonly host: string;
      /** Of what was held or is received, so much was a wait for a connection, in ms; of what is received, one that its recorder did not tell apart. */
      readonly queuedMs?: number;
      /** Of a wait, about so much is the way there and back, in ms. */
      readonly wayMs?: number;
    } & About);

export interface Spender {
  readonly spending: Spending;
  readonly ms: number;
}

/** Where a load's time passed, as far as a capture can tell it apart. In ms; they add up to the route's length. */
export interface Sides {
  readonly gapMs: number;
  readonly pauseMs: number;
  /** In the browser itself: its caches and the page's service worker. */
  readonly browserMs: number;
  /** Waiting for a connection, setting it up, sending and receiving, and of each wait one round trip: about so much. */
  readonly connectionMs: number;
  /** What is left of the waits: about so much. */
  readonly serverMs: number;
  readonly unknownMs: number;
}

/** Where the time went, in ms; all of it together is exactly the route's length. */
export interface Ledger {
  readonly phases: Readonly<Record<PhaseName, number>>;
  readonly gapMs: number;
  /** Pauses before a request that had failed was sent again. */
  readonly retryPauseMs: number;
  /** Time in exchanges whose phases are not known. */
  readonly unknownMs: number;
  readonly byParty: Readonly<Record<Party | 'unknown', number>>;
  /** By host, most first. */
  readonly byHost: readonly { readonly host: string; readonly ms: number; readonly waitMs: number }[];
  /** The same time by what it went to, most first. */
  readonly spent: readonly Spender[];
  readonly sides: Sides;
}

const IN_BROWSER: ReadonlySet<string> = new Set(['cache', 'memory', 'disk', 'prefetched']);

/** Splits a route's legs by phase, party, host, and what they went to. */
export function addUp(legs: readonly PlottedLeg[], byIndex: ReadonlyMap<ExchangeIndex, ExchangeRow>): Ledger {
  const phases = Object.fromEntries(PHASES.map((phase) => [phase, 0])) as Record<PhaseName, number>;
  const byParty = { first: 0, third: 0, unknown: 0 };
  const hosts = new Map<string, { ms: number; waitMs: number }>();
  const trips = findRoundTrips(byIndex.values());
  const sides = { gapMs: 0, pauseMs: 0, browserMs: 0, connectionMs: 0, serverMs: 0, unknownMs: 0 };
  for (const leg of legs) {
    const ms = leg.endMs - leg.startMs;
    if (leg.type === 'gap') {
      sides[leg.isPause ? 'pauseMs' : 'gapMs'] += ms;
      continue;
    }
    let known = 0;
    for (const phase of PHASES) {
      phases[phase] += leg.phases[phase] ?? 0;
      known += leg.phases[phase] ?? 0;
    }
    const row = byIndex.get(leg.index);
    const { waitMs = 0 } = leg.phases;
    const serverMs = serverMsOf(waitMs, trips.get(row?.host ?? ''));
    sides.unknownMs += ms - known;
    if (row !== undefined && (IN_BROWSER.has(row.source) || row.source === 'worker')) sides.browserMs += known;
    else {
      sides.serverMs += serverMs;
      sides.connectionMs += known - serverMs;
    }
    byParty[row?.party ?? 'unknown'] += ms;
    const host = hosts.get(row?.host ?? '') ?? { ms: 0, waitMs: 0 };
    hosts.set(row?.host ?? '', { ms: host.ms + ms, waitMs: host.waitMs + waitMs });
  }
  const unknownMs = undusted(sides.unknownMs);
  return {
    phases,
    gapMs: sides.gapMs,
    retryPauseMs: sides.pauseMs,
    unknownMs,
    byParty,
    byHost: [...hosts].map(([host, sums]) => ({ host, ...sums })).sort((a, b) => b.ms - a.ms),
    spent: spendersOf(legs, byIndex, trips),
    sides: { ...sides, unknownMs },
  };
}

/** Sums of fractions leave a dust of a billionth behind. */
const undusted = (ms: number): number => (Math.abs(ms) < 1e-6 ? 0 : ms);

/** What the time went to: gaps as a whole; of each host its waits, its downloads, its connections, what it held back. */
function spendersOf(
  legs: readonly PlottedLeg[],
  rows: ReadonlyMap<ExchangeIndex, ExchangeRow>,
  trips: ReadonlyMap<string, RoundTrip>,
): Spender[] {
  // What went to other hosts tells nothing of their queues.
  const hosts = new Set(legs.map((leg) => (leg.type === 'exchange' ? rows.get(leg.index)?.host : undefined)));
  const all = [...rows.values()].filter(({ host }) => hosts.has(host));
  const counted = findQueues(all);
  const queues = { counted, hidden: findHiddenQueues(all, counted) };
  const spent = legs.flatMap((leg) => spentOn(leg, rows, queues, trips));
  const ofKind = groupBy(
    spent.filter(({ ms }) => undusted(ms) > 0),
    (one) => JSON.stringify({ ...one.spending, ...UNTOLD, isQueue: isMostlyQueue(one) }),
  );
  return [...ofKind.values()].map((own) => mergeSpenders(own)).sort((a, b) => b.ms - a.ms);
}

interface RouteQueues {
  readonly counted: ReadonlyMap<ExchangeIndex, Queue>;
  readonly hidden: ReadonlyMap<ExchangeIndex, number>;
}

function spentOn(
  leg: PlottedLeg,
  rows: ReadonlyMap<ExchangeIndex, ExchangeRow>,
  queues: RouteQueues,
  trips: ReadonlyMap<string, RoundTrip>,
): Spender[] {
  const ms = leg.endMs - leg.startMs;
  if (leg.type === 'gap') {
    const { isPause, before, idleMs } = leg;
    return [{ spending: isPause ? { what: 'pause', again: before } : { what: 'gap', idleMs }, ms }];
  }
  const row = rows.get(leg.index);
  const known = Object.values(leg.phases).reduce((sum, own) => sum + own, 0);
  const about: About = { only: leg.index, mostly: undefined };
  const host = row?.host ?? '';
  const unknown: Spender = { spending: { what: 'unknown', host, ...about }, ms: ms - known };
  if (row !== undefined && IN_BROWSER.has(row.source))
    return [{ spending: { what: 'cache', ...about }, ms: known }, unknown];
  if (row?.source === 'worker') return [{ spending: { what: 'worker', ...about }, ms: known }, unknown];
  const { blockedMs = 0, dnsMs = 0, connectMs = 0, tlsMs = 0, sendMs = 0, waitMs = 0, receiveMs = 0 } = leg.phases;
  const counted = queues.counted.get(leg.index);
  const queuedMs = Math.min(queues.hidden.get(leg.index) ?? 0, receiveMs);
  const heldQueuedMs = counted?.isCounted === true ? Math.min(counted.ms, blockedMs) : 0;
  return [
    { spending: { what: 'held', host, ...about, queuedMs: heldQueuedMs }, ms: blockedMs },
    { spending: { what: 'connecting', host, ...about }, ms: dnsMs + connectMs + tlsMs },
    { spending: { what: 'send', host, ...about }, ms: sendMs },
    { spending: { what: 'wait', host, ...about, wayMs: wayIn(waitMs, trips.get(host)) }, ms: waitMs },
    { spending: { what: 'receive', host, ...about, queuedMs }, ms: receiveMs },
    unknown,
  ];
}

/** What of a wait was the way there and back for certain: where a connect showed it. */
const wayIn = (waitMs: number, trip: RoundTrip | undefined): number =>
  trip?.from === 'connect' ? Math.min(waitMs, trip.ms) : 0;

/** From this share of a part on a reason for it is told. */
const LARGE_SHARE = 0.5;

/** Whether what was held or is received was rather a wait for one of six connections. */
export const isMostlyQueue = ({ spending, ms }: Spender): boolean =>
  (spending.what === 'held' || spending.what === 'receive') && (spending.queuedMs ?? 0) >= ms * LARGE_SHARE;

/** By these, what went to one thing does not differ. */
const UNTOLD = { only: undefined, mostly: undefined, queuedMs: undefined, wayMs: undefined, idleMs: undefined };

/** What went to one thing as one: for one exchange alone where it was the only one. */
function mergeSpenders([first, ...more]: readonly [Spender, ...Spender[]]): Spender {
  if (more.length === 0) return first;
  const all = [first, ...more];
  const ms = all.reduce((sum, one) => sum + one.ms, 0);
  const sumOf = (name: 'queuedMs' | 'wayMs' | 'idleMs'): number =>
    all.reduce((sum, { spending: own }) => sum + ((own as Partial<Record<typeof name, number>>)[name] ?? 0), 0);
  const { spending } = first;
  if (spending.what === 'gap') return { spending: { ...spending, idleMs: sumOf('idleMs') }, ms };
  if (spending.what === 'pause') return { spending, ms };
  const most = all.reduce((greatest, one) => (one.ms > greatest.ms ? one : greatest));
  const isMost = most.ms / ms > MOST_SHARE && 'only' in most.spending;
  const about: About = { only: undefined, mostly: isMost ? most.spending.only : undefined };
  if (spending.what === 'receive') return { spending: { ...spending, ...about, queuedMs: sumOf('queuedMs') }, ms };
  if (spending.what === 'wait') return { spending: { ...spending, ...about, wayMs: sumOf('wayMs') }, ms };
  return { spending: { ...spending, ...about }, ms };
}
/** Of several exchanges one is named where it makes up more than half. */
const MOST_SHARE = 0.5;
