import { formatBytes } from '../../wording';
import type { Rule } from '../finding';
import { calledAll, indexes, sum, those } from '../say';

/** The same bytes fetched again on a later page of the capture, although they could have been kept from before. */
export const fetchedAgainUnchanged: Rule = function* (subject) {
  const before = subject.fetchedBefore();
  const again = subject.asked.filter((row) => {
    const first = before.get(row.index);
    return first !== undefined && first.pageId !== row.pageId;
  });
  if (again.length === 0) return;
  yield {
    severity: 'wasteful',
    claim: `${calledAll(again)} ${again.length === 1 ? 'was' : 'were'} downloaded again on a later page, although identical`,
    detail: `${formatBytes(sum(again, ({ wireBytes }) => wireBytes))} that a cached copy would have saved.`,
    evidence: indexes(again),
    changes: [{ type: 'from-cache', indexes: those(again) }],
    wireBytes: sum(again, ({ wireBytes }) => wireBytes),
    remedy: 'Set max-age; check whether the cache was disabled for the recording.',
    confidence: 'certain',
  };
};
