import type { ExchangeRow } from '../../analysis';
import { DELAYS, type NextVisit, nextVisitOf } from '../../cache';
import { groupBy } from '../../collections';
import { formatSpan } from '../../wording';
import type { Rule, Subject } from '../finding';
import { called, calledAll, indexes, most, sum } from '../say';
import { isFingerprinted, isReusedAfter, staticFetches } from './kept';

/** Files whose address changes with their content, and that are nevertheless not used again even after a minute. */
export const neverKept: Rule = function* (subject) {
  const lost = staticFetches(subject).filter((row) => isFingerprinted(row) && !isReusedAfter(subject, row, 'minute'));
  for (const [, rows] of groupBy(lost, (row) => `${row.host} ${fateOf(subject, row)}`)) {
    const [first] = rows;
    const fate = fateOf(subject, first);
    const isOne = rows.length === 1;
    const because = subject.evidenceOf(first.index)?.responseHeaders.get('cache-control');
    const longest = most(rows, ({ index }) => subject.evidenceOf(index)?.policy?.freshSeconds);
    const what = {
      brief: `${isOne ? 'is' : 'are'} cacheable for at most ${formatSpan(longest * 1000)}`,
      asked: `${isOne ? 'is' : 'are'} revalidated on each visit`,
      'kept in vain': `${isOne ? 'is' : 'are'} downloaded again on each visit`,
      'not kept': `${isOne ? 'is' : 'are'} not cacheable`,
    }[fate];
    const visit = fate === 'brief' ? 'A visit after that' : 'Each visit';
    const goes = nextOf(subject, first) === 'revalidated' ? 'makes a round trip for' : 'downloads';
    yield {
      severity: 'wasteful',
      claim: `${calledAll(rows)} from ${first.host} ${what}, although ${isOne ? 'its URL contains' : 'their URLs contain'} a version`,
      detail: `${called(first)}: ${because === undefined ? 'no Cache-Control' : `Cache-Control: ${because}`}. ${visit} ${goes} ${isOne ? 'it' : 'each of them'} again.`,
      evidence: indexes(rows),
      ...(goes === 'downloads' ? { wireBytes: sum(rows, ({ wireBytes }) => wireBytes) } : {}),
      remedy: 'Send Cache-Control: max-age=31536000, immutable for URLs that contain a version.',
      confidence: 'strong',
    };
  }
};

type Fate = 'brief' | 'asked' | 'kept in vain' | 'not kept';

const nextOf = (subject: Subject, { index }: ExchangeRow): NextVisit =>
  nextVisitOf(subject.evidenceOf(index)?.policy, DELAYS.minute);

/** What becomes of a copy: used for less than a minute, checked each time, kept without a use, or not kept. */
function fateOf(subject: Subject, row: ExchangeRow): Fate {
  const policy = subject.evidenceOf(row.index)?.policy;
  if (policy?.isStorable !== true) return 'not kept';
  if (!policy.mustAsk && (policy.freshSeconds ?? 0) > policy.ageSeconds) return 'brief';
  return nextOf(subject, row) === 'revalidated' ? 'asked' : 'kept in vain';
}
