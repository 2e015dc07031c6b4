import { DELAYS } from '../../cache';
import { groupBy } from '../../collections';
import { formatBytes, formatSpan } from '../../wording';
import type { Rule } from '../finding';
import { calledAll, indexes, most, sum } from '../say';
import { isFingerprinted, isReusedAfter, staticFetches } from './kept';

/** Files that are kept for less than a day. */
export const keptTooShort: Rule = function* (subject) {
  const short = staticFetches(subject).filter((row) => {
    const policy = subject.evidenceOf(row.index)?.policy;
    const isKept =
      policy?.isStorable === true && !policy.mustAsk && (policy.freshSeconds ?? 0) > 0 && policy.basis !== 'heuristic';
    return (
      isKept &&
      (policy?.freshSeconds ?? 0) < DELAYS.day &&
      !(isFingerprinted(row) && !isReusedAfter(subject, row, 'minute'))
    );
  });
  for (const [host, rows] of groupBy(short, (row) => row.host)) {
    const longest = most(rows, ({ index }) => subject.evidenceOf(index)?.policy?.freshSeconds);
    yield {
      severity: 'wasteful',
      claim: `${calledAll(rows)} from ${host} ${rows.length === 1 ? 'is' : 'are'} cacheable for at most ${formatSpan(longest * 1000)}`,
      detail: `A visit the next day downloads or revalidates ${formatBytes(sum(rows, ({ wireBytes }) => wireBytes))} again.`,
      evidence: indexes(rows),
      wireBytes: sum(rows, ({ wireBytes }) => wireBytes),
      remedy: 'Version the URL and set max-age to a year; otherwise to a day at least.',
      confidence: 'strong',
    };
  }
};
