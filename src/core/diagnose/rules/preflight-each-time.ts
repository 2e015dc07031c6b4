import { groupBy } from '../../collections';
import { formatPlural } from '../../wording';
import type { Rule } from '../finding';
import { indexes, those } from '../say';

/** Two preflights are soon sent; three to one host are a habit. */
const LEAST_PREFLIGHTS = 3;

/** Hosts whose leave is not kept: without Access-Control-Max-Age browsers ask again after five seconds (Fetch 4.9). */
export const preflightEachTime: Rule = function* (subject) {
  for (const page of subject.pages) {
    const unkept = page.rows.filter(
      ({ kind, status = 0, index, source }) =>
        kind === 'preflight' &&
        source === 'network' &&
        status >= 200 &&
        status < 300 &&
        !subject.evidenceOf(index)?.responseHeaders.has('access-control-max-age'),
    );
    for (const [host, rows] of groupBy(unkept, (row) => row.host)) {
      if (rows.length < LEAST_PREFLIGHTS) continue;
      yield {
        severity: 'costly',
        claim: `${formatPlural(rows.length, 'preflight')} went to ${host}, which lets none of them be cached`,
        detail:
          'Their responses have no Access-Control-Max-Age: browsers send a new preflight for each URL after five seconds.',
        evidence: indexes(rows),
        changes: [{ type: 'leave-out', indexes: those(rows) }],
        remedy: 'Send Access-Control-Max-Age: 7200 with the response to OPTIONS; it counts for each URL by itself.',
        confidence: 'certain',
      };
    }
  }
};
