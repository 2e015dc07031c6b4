import type { ExchangeIndex } from '../model';
import { type CrowdStop, type Queue, takesConnection } from './crowd';
import type { Holds } from './waits';

/** What the search needs of an exchange; times in ms on one axis. */
export interface HeldStop extends CrowdStop {
  readonly holds: Holds | undefined;
}

/** A wait of an image that had a free connection: the browser kept it back for what the page needs first. */
export interface HeldBack {
  /** So much of its wait lay before the last of these had come and was not for a connection, in ms. */
  readonly ms: number;
  /** The scripts and styles that the parser waited for meanwhile, the one that ended last first. */
  readonly behind: readonly [ExchangeIndex, ...ExchangeIndex[]];
}

/** Shorter waits are the browser's own bookkeeping. */
const LEAST_MS = 50;
/** Others that ended before them release nothing. */
const MOST_BEHIND = 5;
/** With more of its wait after the last script than before, something else held it. */
const LEAST_SHARE = 0.5;

/**
 * Images that their browser held back behind scripts and styles that the parser waited for: over HTTP/1.1 browsers ask
 * for what stops the parser first, and let few images through beside it, however many connections are free. Only a
 * recorder that counts the wait (blocked) shows it. O(n * m) for n such waits and m scripts and styles.
 * @param queues those of these exchanges for connections
 */
export function findHeldBack(
  stops: readonly HeldStop[],
  queues: ReadonlyMap<ExchangeIndex, Queue>,
): ReadonlyMap<ExchangeIndex, HeldBack> {
  const blockers = stops
    .flatMap(({ index, kind, holds, startMs, timeMs, phases }) =>
      (kind !== 'script' && kind !== 'style') || holds !== 'ready' || startMs === undefined || timeMs === undefined
        ? []
        : [{ index, grantMs: startMs + (phases.blockedMs ?? 0), endMs: startMs + timeMs }],
    )
    .sort((a, b) => b.endMs - a.endMs || a.index - b.index);
  const found = new Map<ExchangeIndex, HeldBack>();
  for (const stop of stops) {
    const { index, kind, startMs, phases } = stop;
    const blockedMs = phases.blockedMs ?? 0;
    const freeMs = blockedMs - (queues.get(index)?.ms ?? 0);
    if (kind !== 'image' || startMs === undefined || freeMs < LEAST_MS || !takesConnection(stop)) continue;
    const behind = blockers.filter(({ grantMs, endMs }) => grantMs < startMs + blockedMs && endMs > startMs);
    const [last, ...others] = behind.slice(0, MOST_BEHIND);
    if (last === undefined) continue;
    const ms = Math.min(freeMs, last.endMs - startMs);
    if (ms < LEAST_MS || ms < freeMs * LEAST_SHARE) continue;
    found.set(index, { ms, behind: [last.index, ...others.map((one) => one.index)] });
  }
  return found;
}
