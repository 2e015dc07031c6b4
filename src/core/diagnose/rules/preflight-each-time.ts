import type { ExchangeRow } from '../../analysis';
import { permissionSeconds } from '../../cache';
import { groupBy } from '../../collections';
import { formatPlural } from '../../wording';
import type { Rule, Subject } from '../finding';
import { indexes, those } from '../say';

/** Two preflights are soon sent; three to one host are a habit. */
const LEAST_PREFLIGHTS = 3;

/** Permission that is kept no longer is got again and again. */
const HARDLY_KEPT_SECONDS = 5;

/** Hosts whose leave is hardly kept: browsers ask again after a few seconds, or each time. */
export const preflightEachTime: Rule = function* (subject) {
  for (const page of subject.pages) {
    const maxAgeOf = ({ index }: ExchangeRow): string | undefined =>
      subject.evidenceOf(index)?.responseHeaders.get('access-control-max-age');
    const unkept = page.rows.filter(
      (row) =>
        row.kind === 'preflight' &&
        row.source === 'network' &&
        (row.status ?? 0) >= 200 &&
        (row.status ?? 0) < 300 &&
        permissionSeconds(maxAgeOf(row)) <= HARDLY_KEPT_SECONDS,
    );
    for (const [, rows] of groupBy(unkept, (row) => `${row.host} ${permissionSeconds(maxAgeOf(row))}`)) {
      if (rows.length < LEAST_PREFLIGHTS) continue;
      const [first] = rows;
      const seconds = permissionSeconds(maxAgeOf(first));
      const again = againIn(subject, rows);
      yield {
        severity: 'costly',
        claim: `${formatPlural(rows.length, 'preflight')} went to ${first.host}, whose permission browsers ${seconds === 0 ? 'do not keep' : `keep for ${formatPlural(seconds, 'second')} only`}`,
        detail: `${tellMaxAge(rows.map(maxAgeOf))} ${tellAgain(rows.length, again.length)}`,
        evidence: indexes(rows),
        ...(again.length === 0 ? {} : { changes: [{ type: 'leave-out', indexes: those(again) }] as const }),
        remedy: 'Send Access-Control-Max-Age: 7200 with the response to OPTIONS; it counts for each URL by itself.',
        confidence: 'certain',
      };
    }
  }
};

function tellMaxAge(values: readonly (string | undefined)[]): string {
  const written = [...new Set(values)].flatMap((value) => (value === undefined ? [] : `“${value.slice(0, 40)}”`));
  if (written.length === 0) return 'The responses have no Access-Control-Max-Age.';
  const some = values.includes(undefined) ? ', where the responses have one' : '';
  return `Access-Control-Max-Age is ${written.slice(0, 3).join(', ')}${some}.`;
}

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
