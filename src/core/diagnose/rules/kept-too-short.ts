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
    // What can be revalidated comes again only where it has changed.
    const whole = rows.filter(({ index }) => subject.evidenceOf(index)?.policy?.isAskable === false);
    const wireBytes = sum(whole, (row) => row.wireBytes);
    const asked = rows.length - whole.length;
    const which = rows.length === 1 ? 'it' : asked === rows.length ? 'all of them' : `${asked} of them`;
    const visit = [
      ...(whole.length > 0 ? [`downloads ${formatBytes(wireBytes)} again`] : []),
      ...(asked > 0 ? [`revalidates ${which}`] : []),
    ];
    const longest = most(rows, ({ index }) => subject.evidenceOf(index)?.policy?.freshSeconds);
    yield {
      severity: 'wasteful',
      claim: `${calledAll(rows)} from ${host} ${rows.length === 1 ? 'is' : 'are'} cacheable for at most ${formatSpan(longest * 1000)}`,
      detail: `A visit the next day ${visit.join(', and ')}.`,
      evidence: indexes(rows),
      ...(whole.length > 0 ? { wireBytes } : {}),
      remedy: 'Version the URL and set max-age to a year; otherwise to a day at least.',
      confidence: 'strong',
    };
  }
};
