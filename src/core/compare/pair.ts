import type { ExchangeRow } from '../analysis';
import { type ExchangeIndex, type PhaseName, setupMs, sparesTheNetwork } from '../model';
import { withoutFingerprints } from './fingerprint';
import { BY_PRESENCE, type ExchangeTraits, MATTERING } from './load';
import type { MatchedBy } from './match';

/** What became of an exchange, as the filter's `change` has it. Several may hold. */
export const PAIR_CHANGES = ['gone', 'new', 'slower', 'quicker', 'other', 'same'] as const;
export type PairChange = (typeof PAIR_CHANGES)[number];

/** Measures whose differences are told, in ms or bytes: B's less A's. */
export const DELTAS = ['start', 'time', 'blocked', 'setup', 'wait', 'receive', 'wire', 'body'] as const;
export type DeltaName = (typeof DELTAS)[number];

/** Something that is not the same in both, in the words of the trade. */
export interface PairFact {
  readonly of: 'status' | 'source' | 'protocol' | 'connection' | 'priority' | 'header' | 'body' | 'failure';
  /** Of a header its name; else empty. */
  readonly name: string;
  readonly a: string | undefined;
  readonly b: string | undefined;
}

/** An exchange of either load, or of both. */
export interface Pair {
  readonly a: ExchangeIndex | undefined;
  readonly b: ExchangeIndex | undefined;
  readonly by: MatchedBy | undefined;
  readonly changes: readonly PairChange[];
  readonly facts: readonly PairFact[];
  /** The endpoint as both sides know it. */
  readonly endpoint: string;
  /** What it did to the load, in ms; absent where it did nothing that is worth naming. */
  readonly didMs: number | undefined;
}

/** Exchanges that differ by less are about as quick: recordings of one page do. */
export const FELT_MS = 10;
export const FELT_SHARE = 0.1;

const MEASURE_OF: Record<DeltaName, (row: ExchangeRow) => number | undefined> = {
  start: ({ startMs }) => startMs,
  time: ({ timeMs }) => timeMs,
  blocked: phase('blockedMs'),
  setup: ({ phases }) => setupMs(phases),
  wait: phase('waitMs'),
  receive: phase('receiveMs'),
  wire: ({ wireBytes }) => wireBytes,
  body: ({ bodyBytes }) => bodyBytes,
};

function phase(name: PhaseName): (row: ExchangeRow) => number | undefined {
  return ({ phases }) => phases[name];
}

/** Phases that a recorder leaves out where they did not happen. */
const ABSENT_IS_NONE: ReadonlySet<DeltaName> = new Set(['blocked', 'setup', 'wait', 'receive']);

/** B's measure less A's; undefined where one of them is not known, or one of the exchanges is not there. */
export function deltaOf(name: DeltaName, a: ExchangeRow | undefined, b: ExchangeRow | undefined): number | undefined {
  if (a === undefined || b === undefined) return undefined;
  const [own, other] = [MEASURE_OF[name](a), MEASURE_OF[name](b)];
  if (own !== undefined && other !== undefined) return other - own;
  // What was set up in one of the two only has no such phase in the other.
  const isKnown = ABSENT_IS_NONE.has(name) && a.timeMs !== undefined && b.timeMs !== undefined;
  return isKnown && (own ?? other) !== undefined ? (other ?? 0) - (own ?? 0) : undefined;
}

/** What became of an exchange. */
export function changesOf(
  a: ExchangeRow | undefined,
  b: ExchangeRow | undefined,
  by: MatchedBy | undefined,
  facts: readonly PairFact[],
): PairChange[] {
  if (a === undefined || b === undefined) return [b === undefined ? 'gone' : 'new'];
  const deltaMs = deltaOf('time', a, b) ?? 0;
  const isFelt = Math.abs(deltaMs) >= Math.max(FELT_MS, FELT_SHARE * Math.max(a.timeMs ?? 0, b.timeMs ?? 0));
  // Where the address is another, so is the response: that tells nothing.
  const isOther = by !== 'place' && by !== 'numbers' && facts.some(({ of }) => OF_RESPONSE.has(of));
  const changes: PairChange[] = [
    ...(isFelt ? [deltaMs > 0 ? ('slower' as const) : ('quicker' as const)] : []),
    ...(isOther ? ['other' as const] : []),
  ];
  return changes.length === 0 ? ['same'] : changes;
}

/** What makes a response another: not how it came. */
const OF_RESPONSE: ReadonlySet<PairFact['of']> = new Set<PairFact['of']>(['status', 'failure', 'header', 'body']);

/** What is not the same in two exchanges, but for their times and sizes. */
export function factsOf(
  a: ExchangeRow,
  b: ExchangeRow,
  traitsA: ExchangeTraits | undefined,
  traitsB: ExchangeTraits | undefined,
): PairFact[] {
  const facts: PairFact[] = [];
  const add = (of: PairFact['of'], own: string | undefined, other: string | undefined, name = ''): void => {
    if (own !== other) facts.push({ of, name, a: own, b: other });
  };
  const isConfirmed = a.source === 'revalidated' || b.source === 'revalidated';
  // A copy that was confirmed came with a 304, or, as some recorders write it, with the status of the copy.
  if (!isConfirmed) add('status', statusOf(a), statusOf(b));
  add('failure', a.failure?.type, b.failure?.type);
  add('source', a.source, b.source);
  // What did not cross the network has none of these.
  const bothCrossed = [a, b].every(({ source }) => source === 'network' || source === 'revalidated');
  if (bothCrossed) {
    add('protocol', a.protocol, b.protocol);
    add('connection', openedFor(a), openedFor(b));
  }
  if (traitsA === undefined || traitsB === undefined) return facts;
  // A 304 has but those headers that change; a copy has those of its first fetching.
  const sparing = [a, b].some(({ source }) => sparesTheNetwork(source));
  for (const [at, name] of MATTERING.entries()) {
    const [own, other] = [traitsA.headers[at], traitsB.headers[at]];
    if (sparing && (own === undefined || other === undefined)) continue;
    if (BY_PRESENCE.has(name) && own !== undefined && other !== undefined) continue;
    if (name === 'location' && comparable(own) === comparable(other)) continue;
    add('header', own, other, name);
  }
  if (traitsA.bodyHash !== undefined && traitsB.bodyHash !== undefined && traitsA.bodyHash !== traitsB.bodyHash)
    facts.push({ of: 'body', name: '', a: undefined, b: undefined });
  if (traitsA.priority !== undefined && traitsB.priority !== undefined)
    add('priority', traitsA.priority, traitsB.priority);
  return facts;
}

/** Where a redirect leads may carry a nonce. */
const comparable = (address: string | undefined): string | undefined =>
  address === undefined ? undefined : withoutFingerprints(address, false);

const statusOf = ({ status }: ExchangeRow): string => (status === undefined ? 'none' : String(status));
const openedFor = ({ phases }: ExchangeRow): string => ((setupMs(phases) ?? 0) > 0 ? 'opened for it' : 'open already');
