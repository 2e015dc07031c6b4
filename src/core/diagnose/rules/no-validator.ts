import { groupBy } from '../../collections';
import type { Rule } from '../finding';
import { calledAll, indexes, sum } from '../say';
import { isFingerprinted, isReusedAfter, staticFetches } from './kept';

/** Files that can be kept, but once outdated only be fetched anew, since nothing names their version. */
export const noValidator: Rule = function* (subject) {
  const without = staticFetches(subject).filter((row) => {
    const policy = subject.evidenceOf(row.index)?.policy;
    return (
      policy?.isStorable === true &&
      policy.validators.length === 0 &&
      !isReusedAfter(subject, row, 'month') &&
      !isFingerprinted(row)
    );
  });
  for (const [host, rows] of groupBy(without, (row) => row.host)) {
    yield {
      severity: 'wasteful',
      claim: `${calledAll(rows)} from ${host} ${rows.length === 1 ? 'has' : 'have'} neither ETag nor Last-Modified`,
      detail: 'A stale copy cannot be revalidated: it is downloaded whole again.',
      evidence: indexes(rows),
      wireBytes: sum(rows, ({ wireBytes }) => wireBytes),
      remedy: 'Send an ETag or Last-Modified header.',
      confidence: 'strong',
    };
  }
};
