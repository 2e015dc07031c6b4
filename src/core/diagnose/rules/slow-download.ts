import { type ExchangeRow, throughputOf } from '../../analysis';
import { groupBy } from '../../collections';
import { formatBytes, formatMs } from '../../wording';
import type { Rule } from '../finding';
import { called, indexes, lastOf, most, timeCost } from '../say';

/** As long as a wait may take before it is felt: what downloads faster is not slow, whatever its speed. */
const SLOW_DOWNLOAD_MS = 200;
/** What queued so long in truth is counted by its recorder as download: nothing is known of its speed. */
const QUEUED_MS = 20;
/** Of the host's best: lines share their speed among what comes at once, which halves it easily. */
const SLOW_SHARE = 0.5;

/** Downloads at less than half of what the same host was seen to send. */
export const slowDownload: Rule = function* (subject) {
  for (const [host, rows] of groupBy(subject.rows, (row) => (row.source === 'network' ? row.host : undefined))) {
    const best = most(rows, throughputOf);
    const slow = rows.filter(
      (row) =>
        subject.queuedMsOf(row.index) < QUEUED_MS &&
        (row.phases.downloadMs ?? 0) >= SLOW_DOWNLOAD_MS &&
        (throughputOf(row) ?? best) < best * SLOW_SHARE,
    );
    const [first] = slow.sort((a, b) => (b.phases.downloadMs ?? 0) - (a.phases.downloadMs ?? 0));
    if (first === undefined) continue;
    const lost = ({ wireBytes, phases }: ExchangeRow): number => (phases.downloadMs ?? 0) - (wireBytes ?? 0) / best;
    yield {
      severity: slow.some(({ index }) => subject.routeMsOf(index) > 0) ? 'costly' : 'wasteful',
      claim: `${slow.length === 1 ? called(first) : `${slow.length} downloads from ${host}`} came at ${formatBytes((throughputOf(first) ?? 0) * 1000)}/s, the best from there at ${formatBytes(best * 1000)}/s`,
      detail: `${called(first)}: ${formatBytes(first.wireBytes)} in ${formatMs(first.phases.downloadMs)}.`,
      evidence: indexes(slow),
      cost: timeCost(
        slow,
        (row) => lastOf(row, lost(row)),
        ({ index }) => subject.routeMsOf(index),
      ),
      remedy: 'See what shares the line at that time, and whether the server sends as fast as it makes the answer.',
      confidence: 'strong',
    };
  }
};
