import type { Rule } from '../finding';
import { called, calledAll, groupBy, indexes, sum } from '../say';
import { isFingerprinted, isReusedAfter, staticFetches } from './kept';

/** Files whose address changes with their content, and that are nevertheless not kept even for a minute. */
export const neverKept: Rule = function* (subject) {
  const lost = staticFetches(subject).filter((row) => isFingerprinted(row) && !isReusedAfter(subject, row, 'minute'));
  for (const [host, rows] of groupBy(lost, (row) => row.host)) {
    const [first] = rows;
    if (first === undefined) continue;
    const because = subject.evidenceOf(first.index)?.responseHeaders.get('cache-control');
    yield {
      severity: 'wasteful',
      claim: `${calledAll(rows)} from ${host} ${rows.length === 1 ? 'is' : 'are'} not kept, though the address names the version`,
      detail: `${called(first)}: ${because === undefined ? 'no Cache-Control' : `Cache-Control: ${because}`}. Each visit pays for it again.`,
      evidence: indexes(rows),
      cost: { wireBytes: sum(rows, ({ wireBytes }) => wireBytes) },
      remedy: 'Send Cache-Control: max-age=31536000, immutable for addresses that carry a version.',
      confidence: 'strong',
    };
  }
};
