import { groupBy } from '../../collections';
import { formatPlural } from '../../wording';
import type { Rule } from '../finding';
import { indexes, those } from '../say';

/** From so many requests on, one connection for all of them would pay. */
const LEAST_REQUESTS = 6;

/** Hosts that answer many requests by HTTP/1.1 or older. */
export const oldProtocol: Rule = function* (subject) {
  const old = subject.rows.filter(
    ({ protocol, source, url }) =>
      /^http\/(0|1)|^h1/i.test(protocol ?? '') && source === 'network' && /^https:/i.test(url),
  );
  for (const [host, rows] of groupBy(old, (row) => row.host)) {
    if (rows.length < LEAST_REQUESTS) continue;
    yield {
      severity: 'wasteful',
      claim: `${host} served ${formatPlural(rows.length, 'request')} over ${rows[0]?.protocol ?? 'HTTP/1.1'}`,
      detail: 'HTTP/1.1 sends one request at a time per connection and does not compress headers.',
      evidence: indexes(rows),
      changes: [{ type: 'unqueued', indexes: those(rows) }],
      remedy: 'Enable HTTP/2 or later for this host.',
      confidence: 'strong',
    };
  }
};
