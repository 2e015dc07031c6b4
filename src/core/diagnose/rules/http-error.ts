import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import type { Evidence } from '../evidence';
import type { Rule } from '../finding';
import { isRecovered } from '../repeats';
import { called, indexes, sum } from '../say';

/** Answers of 400 and more that were not repaired by another try; a missing icon is no more than a note. */
export const httpError: Rule = function* (subject) {
  const recovered = isRecovered(subject);
  const failed = subject.rows.filter(
    (row) =>
      row.status !== undefined &&
      row.status >= 400 &&
      row.status !== 429 &&
      !isPreflight(subject.evidenceOf(row.index), row) &&
      !recovered(row),
  );
  for (const [, rows] of groupBy(failed, ({ endpoint, status }) => `${status} ${endpoint}`)) {
    const [first] = rows;
    if (first === undefined) continue;
    const isIcon = /favicon|apple-touch-icon/i.test(first.url);
    const times = rows.length === 1 ? '' : ` ${rows.length} times`;
    yield {
      severity: isIcon ? 'note' : 'broken',
      claim: `${called(first)} was answered ${first.status}${times}`,
      detail: `${first.method} ${first.url.slice(0, 200)} on ${first.host}; it was not asked for again with success.`,
      evidence: indexes(rows),
      cost: { routeMs: sum(rows, ({ index }) => subject.routeMsOf(index)) },
      remedy:
        first.status !== undefined && first.status >= 500
          ? 'Look into the server’s log for this request; nothing in the request explains it.'
          : 'See in its dossier what the answer says, then correct the address, the credentials or the payload.',
      confidence: 'certain',
    };
  }
};

/** A preflight that fails is told of as that. */
const isPreflight = (evidence: Evidence | undefined, { method }: ExchangeRow): boolean =>
  method === 'OPTIONS' && evidence?.requestHeaders.has('access-control-request-method') === true;
