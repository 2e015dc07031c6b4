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
      claim: `${host} answered ${formatPlural(rows.length, 'request')} by ${rows[0]?.protocol ?? 'HTTP/1.1'}`,
      detail: 'Over it a connection carries one request at a time, and headers go uncompressed.',
      evidence: indexes(rows),
      changes: [{ type: 'unqueued', indexes: those(rows) }],
      remedy: 'Turn HTTP/2 or later on for this host.',
      confidence: 'strong',
    };
  }
};
