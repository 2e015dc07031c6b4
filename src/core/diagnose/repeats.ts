import { type ExchangeRow, requestKey } from '../analysis';
import { groupBy } from '../collections';
import { countUpTo } from '../timing';
import type { Subject } from './finding';

const sameRequest = (row: ExchangeRow): string => `${row.pageId ?? ''} ${requestKey(row)}`;

/** The same request sent later on the same page, soonest first; preflights are no repeats. */
export function laterRepeats({ rows }: Subject): (row: ExchangeRow) => readonly ExchangeRow[] {
  const groups = groupBy(rows, sameRequest);
  for (const group of groups.values()) group.sort((a, b) => startOf(a) - startOf(b));
  return (row) => {
    const group = groups.get(sameRequest(row)) ?? [];
    // Those that begin no sooner than it ended; the millisecond is what recorders round to.
    const from = countUpTo(group, (other) => (startOf(other) < endOf(row) - 1 ? 0 : 1), 0);
    return group.slice(from).filter(({ index }) => index !== row.index);
  };
}

const startOf = ({ startMs = 0 }: ExchangeRow): number => startMs;
const endOf = (row: ExchangeRow): number => startOf(row) + (row.timeMs ?? 0);

/** The first sending of each request, of rows in the order of their starts. */
export function firstSendings(rows: readonly ExchangeRow[]): ExchangeRow[] {
  const seen = new Set<string>();
  return rows.filter((row) => {
    const key = sameRequest(row);
    const isFirst = !seen.has(key);
    seen.add(key);
    return isFirst;
  });
}

/** True where the same request succeeded later. */
export function isRecovered(subject: Subject): (row: ExchangeRow) => boolean {
  const lastSuccess = new Map<string, number>();
  for (const row of subject.rows) {
    if (row.failure !== undefined) continue;
    const key = sameRequest(row);
    lastSuccess.set(key, Math.max(lastSuccess.get(key) ?? Number.NEGATIVE_INFINITY, startOf(row)));
  }
  return (row) =>
    row.failure !== undefined && (lastSuccess.get(sameRequest(row)) ?? Number.NEGATIVE_INFINITY) >= endOf(row) - 1;
}

/** A renewal and its preflight; where more of the route lies between two tries, the page did something else meanwhile. */
const MOST_BETWEEN = 2;

/**
 * Time of the route that would go had each request worked at once, in ms: from a failed try until the one that worked
 * began, with the pauses and with what was renewed between. Without one that worked, the try's own time.
 */
export function lostToTries(
  { rows, routeMsOf }: Subject,
  tries: readonly { readonly failed: ExchangeRow; readonly worked: ExchangeRow | undefined }[],
): number {
  const between = (failed: ExchangeRow, worked: ExchangeRow): number =>
    rows.filter(
      ({ index, pageId, startMs }) =>
        pageId === failed.pageId &&
        routeMsOf(index) > 0 &&
        startMs !== undefined &&
        startMs > (failed.startMs ?? 0) &&
        startMs < (worked.startMs ?? 0),
    ).length;
  const stretches = tries.flatMap(({ failed, worked }) => {
    const ownMs = routeMsOf(failed.index);
    if (ownMs === 0 || failed.startMs === undefined) return [];
    const isWaitedFor =
      worked?.startMs !== undefined && routeMsOf(worked.index) > 0 && between(failed, worked) <= MOST_BETWEEN;
    const toMs = isWaitedFor ? (worked.startMs ?? 0) : failed.startMs + ownMs;
    return [{ page: failed.pageId, fromMs: failed.startMs, toMs }];
  });
  // Tries side by side wait for the same renewal: what they share is lost once.
  let lost = 0;
  for (const own of groupBy(stretches, ({ page }) => page ?? '').values()) {
    let reachedMs = Number.NEGATIVE_INFINITY;
    for (const { fromMs, toMs } of own.toSorted((a, b) => a.fromMs - b.fromMs)) {
      lost += Math.max(0, toMs - Math.max(fromMs, reachedMs));
      reachedMs = Math.max(reachedMs, toMs);
    }
  }
  return lost;
}
