import { formatMs } from '../../wording';
import type { Rule } from '../finding';
import { calledAll, groupBy, indexes, most, sum } from '../say';

/** Shorter waits are the browser's own bookkeeping. */
const HELD_MS = 50;

/** Requests that waited for a free connection: six at a time to a host over HTTP/1.1. */
export const heldInQueue: Rule = function* (subject) {
  const held = subject.rows.filter(
    ({ phases, protocol }) => (phases.heldMs ?? 0) >= HELD_MS && /^http\/1|^h1/i.test(protocol ?? ''),
  );
  for (const [host, rows] of groupBy(held, (row) => row.host)) {
    const longest = most(rows, ({ phases }) => phases.heldMs);
    yield {
      severity: rows.some(({ index }) => subject.routeMsOf(index) > 0) ? 'costly' : 'wasteful',
      claim: `${calledAll(rows)} to ${host} ${rows.length === 1 ? 'was' : 'were'} held back up to ${formatMs(longest)} for want of a connection`,
      detail: 'Over HTTP/1.1 browsers keep six connections to a host, each with one request at a time.',
      evidence: indexes(rows),
      cost: {
        routeMs: sum(rows, ({ index, phases }) => Math.min(subject.routeMsOf(index), phases.heldMs ?? 0)),
        offRouteMs: sum(rows, ({ phases }) => phases.heldMs),
      },
      remedy: 'Serve the host by HTTP/2 or later, or ask it for fewer things at once.',
      confidence: 'strong',
    };
  }
};
