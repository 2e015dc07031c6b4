import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import { formatPlural } from '../../wording';
import type { Rule, Subject } from '../finding';
import { indexes, those } from '../say';

/** Two preflights are soon sent; three to one host are a habit. */
const LEAST_PREFLIGHTS = 3;

/** Hosts whose leave is hardly kept: without Access-Control-Max-Age browsers ask again after five seconds (Fetch 4.9). */
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
      const again = againIn(subject, rows);
      yield {
        severity: 'costly',
        claim: `${formatPlural(rows.length, 'preflight')} went to ${host}, whose permission browsers keep for five seconds only`,
        detail: `The responses have no Access-Control-Max-Age. ${tellAgain(rows.length, again.length)}`,
        evidence: indexes(rows),
        ...(again.length === 0 ? {} : { changes: [{ type: 'leave-out', indexes: those(again) }] as const }),
        remedy: 'Send Access-Control-Max-Age: 7200 with the response to OPTIONS; it counts for each URL by itself.',
        confidence: 'certain',
      };
    }
  }
};

/** Those that asked for what an earlier one had got already: the same URL, method and headers. */
function againIn(subject: Subject, rows: readonly ExchangeRow[]): ExchangeRow[] {
  const got = new Set<string>();
  return rows.filter(({ url, index }) => {
    const headers = subject.evidenceOf(index)?.requestHeaders;
    const key = JSON.stringify([
      url,
      headers?.get('origin'),
      headers?.get('access-control-request-method'),
      headers?.get('access-control-request-headers'),
    ]);
    const isAgain = got.has(key);
    got.add(key);
    return isAgain;
  });
}

const tellAgain = (all: number, again: number): string =>
  again === 0
    ? 'Each asked for something else: kept longer, the permission spares them on later visits.'
    : `${again} of the ${all} asked for what had been granted before.`;
