import { addTo } from '../collections';
import type { ExchangeIndex, Kind, Phases, Source } from '../model';

/** Connections that browsers keep to one host over HTTP/1.1, each with one request at a time. */
export const CONNECTIONS_PER_HOST = 6;
/** Where answers come from over a connection. */
const ON_A_CONNECTION: ReadonlySet<Source> = new Set(['network', 'revalidated', 'none', 'unknown']);
/** A recorder that counts the queue has counted it from here on. */
const COUNTED_MS = 1;

/** What the search for hidden queues needs of an exchange; times in ms on one axis. */
export interface CrowdStop {
  readonly index: ExchangeIndex;
  readonly host: string;
  readonly kind: Kind;
  readonly protocol: string | undefined;
  readonly source: Source;
  readonly startMs: number | undefined;
  readonly timeMs: number | undefined;
  readonly phases: Phases;
}

/** Whether an exchange went over HTTP/1.1, where a connection carries one request at a time. */
export const isOneAtATime = (protocol: string | undefined): boolean => /^http\/1|^h1/i.test(protocol ?? '');

/** Whether an exchange took one of the six: what the browser had itself needs none, and sockets are not among them. */
export const takesConnection = ({ kind, protocol, source }: Pick<CrowdStop, 'kind' | 'protocol' | 'source'>): boolean =>
  kind !== 'socket' && isOneAtATime(protocol) && ON_A_CONNECTION.has(source);

/** The wait of an exchange for a free connection. */
export interface Queue {
  /** So much of it is explained by six older exchanges to its host that were still open, in ms. */
  readonly ms: number;
  /** Its recorder tells the wait apart (blocked); else it lies in the phases that it wrote down, mostly in receive. */
  readonly isCounted: boolean;
}

/** Exchanges that waited for a connection: they began while six older ones to their host were still open. */
export function findQueues(stops: Iterable<CrowdStop>): ReadonlyMap<ExchangeIndex, Queue> {
  type Held = { index: ExchangeIndex; startMs: number; endMs: number; held: number };
  const byHost = new Map<string, [Held, ...Held[]]>();
  for (const stop of stops) {
    const { index, host, startMs, timeMs, phases } = stop;
    if (!takesConnection(stop) || startMs === undefined || timeMs === undefined) continue;
    addTo(byHost, host, { index, startMs, endMs: startMs + timeMs, held: phases.heldMs ?? 0 });
  }
  const queues = new Map<ExchangeIndex, Queue>();
  for (const all of byHost.values()) {
    all.sort((a, b) => a.startMs - b.startMs || a.index - b.index);
    // The ends of the six that end last among those begun before: a free connection is there when the first of them ends.
    const lastEnds: number[] = [];
    for (const { index, startMs, endMs, held } of all) {
      const freeMs = lastEnds.length < CONNECTIONS_PER_HOST ? startMs : (lastEnds[0] ?? startMs);
      const queuedMs = Math.min(freeMs, endMs) - startMs;
      const isCounted = held >= COUNTED_MS;
      if (queuedMs > 0) queues.set(index, { ms: isCounted ? Math.min(held, queuedMs) : queuedMs, isCounted });
      lastEnds.push(endMs);
      lastEnds.sort((a, b) => a - b);
      if (lastEnds.length > CONNECTIONS_PER_HOST) lastEnds.shift();
    }
  }
  return queues;
}

/**
 * The queues that their recorder has in what it calls received, in ms. Other recorders leave them out altogether: then
 * what was received is much shorter than the wait, and nothing of it can be told to be one.
 */
export function findHiddenQueues(stops: readonly CrowdStop[]): ReadonlyMap<ExchangeIndex, number> {
  const queues = findQueues(stops);
  return new Map(
    stops.flatMap(({ index, phases }) => {
      const queue = queues.get(index);
      const receiveMs = phases.downloadMs ?? 0;
      if (queue === undefined || queue.isCounted || receiveMs < queue.ms * PLAUSIBLE_SHARE) return [];
      return [[index, Math.min(queue.ms, receiveMs)] as const];
    }),
  );
}
/** A queue is measured by the ends of others, and may be longer than what was received by as much as these are off. */
const PLAUSIBLE_SHARE = 0.5;
