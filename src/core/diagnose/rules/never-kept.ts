import { DELAYS, nextVisitOf } from '../../cache';
import { groupBy } from '../../collections';
import type { Rule } from '../finding';
import { called, calledAll, indexes, sum } from '../say';
import { isFingerprinted, isReusedAfter, staticFetches } from './kept';

/** Files whose address changes with their content, and that are nevertheless not used again even after a minute. */
export const neverKept: Rule = function* (subject) {
  const lost = staticFetches(subject).filter((row) => isFingerprinted(row) && !isReusedAfter(subject, row, 'minute'));
  const nextOf = ({ index }: (typeof lost)[number]) => nextVisitOf(subject.evidenceOf(index)?.policy, DELAYS.minute);
  for (const [, rows] of groupBy(lost, (row) => `${row.host} ${nextOf(row)}`)) {
    const [first] = rows;
    if (first === undefined) continue;
    const isAsked = nextOf(first) === 'revalidated';
    const because = subject.evidenceOf(first.index)?.responseHeaders.get('cache-control');
    const verb = rows.length === 1 ? 'is' : 'are';
    yield {
      severity: 'wasteful',
      claim: `${calledAll(rows)} from ${first.host} ${verb} ${isAsked ? 'revalidated on each visit' : 'not cacheable'}, although ${rows.length === 1 ? 'its URL contains' : 'their URLs contain'} a version`,
      detail: `${called(first)}: ${because === undefined ? 'no Cache-Control' : `Cache-Control: ${because}`}. ${isAsked ? `Each visit makes a round trip for ${rows.length === 1 ? 'it' : 'each of them'}.` : 'Each visit downloads it again.'}`,
      evidence: indexes(rows),
      ...(isAsked ? {} : { wireBytes: sum(rows, ({ wireBytes }) => wireBytes) }),
      remedy: 'Send Cache-Control: max-age=31536000, immutable for URLs that contain a version.',
      confidence: 'strong',
    };
  }
};
