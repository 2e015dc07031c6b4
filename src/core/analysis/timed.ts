import type { ExchangeRow } from './exchange-row';

/** How many of the exchanges that were answered have a time that tells when they ended. */
export type Timed = 'none' | 'some' | 'most';

/** Whether how long something took is known of any exchange. */
export const hasAnyTime = (rows: Iterable<ExchangeRow>): boolean => {
  for (const { timeMs } of rows) if (timeMs !== undefined) return true;
  return false;
};

/**
 * Whether the times of exchanges tell what a load waited for: where most of those that were answered have none, what looks
 * like a gap may be all of theirs. Sockets and streams have no end to wait for.
 */
export function howTimed(rows: Iterable<ExchangeRow>): Timed {
  let answered = 0;
  let timed = 0;
  let hasTime = false;
  for (const { status, kind, timeMs } of rows) {
    if ((timeMs ?? 0) > 0) hasTime = true;
    if (status === undefined || kind === 'socket' || kind === 'stream') continue;
    answered++;
    if (timeMs !== undefined) timed++;
  }
  if (!hasTime) return 'none';
  return timed * 2 >= answered ? 'most' : 'some';
}
