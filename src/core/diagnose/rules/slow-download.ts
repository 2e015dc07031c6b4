import { type ExchangeRow, throughputOf } from '../../analysis';
import { groupBy } from '../../collections';
import { formatBytes, formatMs } from '../../wording';
import type { Rule, SubjectPage } from '../finding';
import { called, indexes, most } from '../say';

/** As long as a wait may take before it is felt: what downloads faster is not slow, whatever its speed. */
const SLOW_DOWNLOAD_MS = 200;
/** Of the host's best: less differs from one moment to the next. */
const SLOW_SHARE = 0.5;
/** A download that others came beside for more of its time than this shared the connection with them. */
const SHARED = 0.25;

/** Downloads at less than half of what the same host was seen to send, though they had the connection to themselves. */
export const slowDownload: Rule = function* (subject) {
  for (const page of subject.pages) {
    for (const [host, rows] of groupBy(page.rows, (row) => (row.source === 'network' ? row.host : undefined))) {
      const best = most(rows, throughputOf);
      const slow = rows.filter(
        (row) =>
          subject.queueOf(row.index) === undefined &&
          (row.phases.receiveMs ?? 0) >= SLOW_DOWNLOAD_MS &&
          (throughputOf(row) ?? best) < best * SLOW_SHARE &&
          sharedPart(row, page) <= SHARED,
      );
      const [first] = slow.sort((a, b) => (b.phases.receiveMs ?? 0) - (a.phases.receiveMs ?? 0));
      if (first === undefined) continue;
      yield {
        severity: 'costly',
        claim: `${slow.length === 1 ? called(first) : `${slow.length} downloads from ${host}`} came at ${formatBytes((throughputOf(first) ?? 0) * 1000)}/s, the best from there at ${formatBytes(best * 1000)}/s`,
        detail: `${called(first)}: ${formatBytes(first.wireBytes)} in ${formatMs(first.phases.receiveMs)}, with hardly anything else coming meanwhile.`,
        evidence: indexes(slow),
        changes: slow.map((row) => ({
          type: 'download-share',
          indexes: new Set([row.index]),
          share: (throughputOf(row) ?? best) / best,
        })),
        remedy:
          'See whether the server sends as fast as it makes the response, and whether something on the way slows it.',
        confidence: 'strong',
      };
    }
  }
};

/** The share of a download's time in which others were receiving, too. */
function sharedPart(row: ExchangeRow, { rows }: SubjectPage): number {
  const [fromMs, toMs] = receiveOf(row);
  const others = rows
    .filter(({ index, wireBytes, source }) => index !== row.index && (wireBytes ?? 0) > 0 && source === 'network')
    .map(receiveOf)
    .filter(([from, to]) => to > fromMs && from < toMs)
    .sort((a, b) => a[0] - b[0]);
  let sharedMs = 0;
  let reachedMs = fromMs;
  for (const [from, to] of others) {
    sharedMs += Math.max(0, Math.min(to, toMs) - Math.max(from, reachedMs));
    reachedMs = Math.max(reachedMs, Math.min(to, toMs));
  }
  return toMs <= fromMs ? 0 : sharedMs / (toMs - fromMs);
}

function receiveOf({ startMs = 0, timeMs = 0, phases }: ExchangeRow): readonly [number, number] {
  const endMs = startMs + timeMs;
  return [endMs - Math.min(timeMs, phases.receiveMs ?? 0), endMs];
}
