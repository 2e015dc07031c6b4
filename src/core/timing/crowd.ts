import { addTo } from '../collections';
import type { ExchangeIndex, Kind, Phases, Source } from '../model';
import { countUpTo } from './sorted';

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
  /** For so much of it six others to its host had the connections, or, where that was not recorded, six older ones were still open; in ms. */
  readonly ms: number;
  /** Its recorder tells the wait apart (blocked); else it lies in the phases that it wrote down, mostly in receive. */
  readonly isCounted: boolean;
}

interface Held {
  readonly index: ExchangeIndex;
  readonly startMs: number;
  /** When it got its connection. */
  readonly grantMs: number;
  readonly endMs: number;
}

/** Exchanges that waited for a connection: six others to their host had one while they had none yet. O(n log n). */
export function findQueues(stops: Iterable<CrowdStop>): ReadonlyMap<ExchangeIndex, Queue> {
  const byHost = new Map<string, [Held, ...Held[]]>();
  for (const stop of stops) {
    const { index, host, startMs, timeMs, phases } = stop;
    if (!takesConnection(stop) || startMs === undefined || timeMs === undefined) continue;
    const grantMs = startMs + Math.min(timeMs, phases.blockedMs ?? 0);
    addTo(byHost, host, { index, startMs, grantMs, endMs: startMs + timeMs });
  }
  const queues = new Map<ExchangeIndex, Queue>();
  for (const all of byHost.values()) {
    all.sort((a, b) => a.startMs - b.startMs || a.index - b.index);
    const crowded = new CrowdedTime(all);
    // The ends of the six that end last among those begun before: a free connection is there when the first of them ends.
    const lastEnds: number[] = [];
    for (const { index, startMs, grantMs, endMs } of all) {
      const isCounted = grantMs - startMs >= COUNTED_MS;
      const freeMs = lastEnds.length < CONNECTIONS_PER_HOST ? startMs : (lastEnds[0] ?? startMs);
      const ms = isCounted ? crowded.within(startMs, grantMs) : Math.min(freeMs, endMs) - startMs;
      if (ms > 0) queues.set(index, { ms, isCounted });
      lastEnds.push(endMs);
      lastEnds.sort((a, b) => a - b);
      if (lastEnds.length > CONNECTIONS_PER_HOST) lastEnds.shift();
    }
  }
  return queues;
}

/** How much of a time all six connections of a host were in use. */
class CrowdedTime {
  /** The moments at which one more or one fewer is in use, in their order. */
  readonly #moments: readonly number[];
  /** For each the crowded time before it, and whether it is crowded from there on. */
  readonly #before: readonly number[];
  readonly #isCrowded: readonly boolean[];

  constructor(all: readonly Held[]) {
    const changes = all
      .flatMap(({ grantMs, endMs }) => [
        { atMs: grantMs, by: 1 },
        { atMs: endMs, by: -1 },
      ])
      .sort((a, b) => a.atMs - b.atMs || a.by - b.by);
    const before: number[] = [];
    const isCrowded: boolean[] = [];
    let [open, crowdedMs, lastMs] = [0, 0, 0];
    for (const { atMs, by } of changes) {
      if (open >= CONNECTIONS_PER_HOST) crowdedMs += atMs - lastMs;
      open += by;
      lastMs = atMs;
      before.push(crowdedMs);
      isCrowded.push(open >= CONNECTIONS_PER_HOST);
    }
    this.#moments = changes.map(({ atMs }) => atMs);
    this.#before = before;
    this.#isCrowded = isCrowded;
  }

  within = (fromMs: number, toMs: number): number => this.#until(toMs) - this.#until(fromMs);

  #until(ms: number): number {
    const at = countUpTo(this.#moments, (moment) => moment, ms) - 1;
    if (at < 0) return 0;
    const sinceMs = this.#isCrowded[at] === true ? ms - (this.#moments[at] ?? ms) : 0;
    return (this.#before[at] ?? 0) + sinceMs;
  }
}

/**
 * The queues that their recorder has in what it calls received, in ms. Other recorders leave them out altogether: then
 * what was received is much shorter than the wait, and nothing of it can be told to be one.
 * @param queues of these stops, where they are known already
 */
export function findHiddenQueues(
  stops: readonly CrowdStop[],
  queues: ReadonlyMap<ExchangeIndex, Queue> = findQueues(stops),
): ReadonlyMap<ExchangeIndex, number> {
  return new Map(
    stops.flatMap(({ index, phases }) => {
      const queue = queues.get(index);
      const receiveMs = phases.receiveMs ?? 0;
      if (queue === undefined || queue.isCounted || receiveMs < queue.ms * PLAUSIBLE_SHARE) return [];
      return [[index, Math.min(queue.ms, receiveMs)] as const];
    }),
  );
}
/** A queue is measured by the ends of others, and may be longer than what was received by as much as these are off. */
const PLAUSIBLE_SHARE = 0.5;
