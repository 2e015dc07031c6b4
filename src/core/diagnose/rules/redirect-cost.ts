import { isRedirectStatus } from '../../http';
import { formatMs } from '../../wording';
import type { Rule } from '../finding';
import { called, indexes, sum, those } from '../say';
import { findLoop } from './redirect-loop';

/** Shorter redirects cost less than a round trip. */
const WORTH_MS = 20;

/** Redirects on the route: time before anything of the page is asked for. */
export const redirectCost: Rule = function* (subject) {
  for (const page of subject.pages) {
    const { rows } = page;
    // Those that go round are told as that.
    const loop = new Set(findLoop(page).redirects);
    // A form is rightly answered with where to go on (RFC 9110 15.4.4): no link could lead there at once.
    const hops = rows.filter(
      (row) =>
        !loop.has(row) &&
        (row.method === 'GET' || row.method === 'HEAD') &&
        isRedirectStatus(row.status) &&
        subject.routeMsOf(row.index) > 0,
    );
    const cost = sum(hops, ({ index }) => subject.routeMsOf(index));
    const [first] = hops;
    if (first === undefined || cost < WORTH_MS) continue;
    yield {
      severity: 'costly',
      claim: `${hops.length === 1 ? 'A redirect' : `${hops.length} redirects`} delayed the load by ${formatMs(cost)}`,
      detail: hops.map((row) => `${called(row)} on ${row.host} (${row.status})`).join(', then '),
      evidence: indexes(hops),
      changes: [{ type: 'leave-out', indexes: those(hops) }],
      remedy: 'Link to the final URL; if people type the old one, redirect once, from the server nearest to them.',
      confidence: 'certain',
    };
  }
};
