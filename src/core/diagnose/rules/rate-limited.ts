import { groupBy } from '../../collections';
import type { Rule } from '../finding';
import { called, indexes, those } from '../say';

/** Requests that were refused as too many (RFC 6585 4). */
export const rateLimited: Rule = function* (subject) {
  const refused = subject.asked.filter(({ status }) => status === 429);
  for (const [host, rows] of groupBy(refused, (row) => row.host)) {
    const [first] = rows;
    if (first === undefined) continue;
    const wait = subject.evidenceOf(first.index)?.responseHeaders.get('retry-after');
    yield {
      severity: 'broken',
      claim: `${host} refused ${rows.length === 1 ? called(first) : `${rows.length} requests`} (429, too many requests)`,
      detail: wait === undefined ? 'It does not say when to retry.' : `Retry-After: ${wait}.`,
      evidence: indexes(rows),
      changes: [{ type: 'leave-out', indexes: those(rows) }],
      remedy: 'Request more at once, space the requests, and obey Retry-After.',
      confidence: 'certain',
    };
  }
};
