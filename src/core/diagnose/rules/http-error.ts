import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import type { Rule } from '../finding';
import { called, calledAll, indexes, listed, those } from '../say';
import { retriesIn } from '../tries';

/** Responses of 400 and more that were not repaired by another try; a missing icon is no more than a note. */
export const httpError: Rule = function* (subject) {
  const { isRepaired } = retriesIn(subject);
  const failed = subject.rows.filter(
    (row) =>
      row.status !== undefined &&
      row.status >= 400 &&
      row.status !== 429 &&
      row.kind !== 'preflight' &&
      row.kind !== 'socket' &&
      !isRepaired(row),
  );
  for (const [, rows] of groupBy(
    failed,
    ({ endpoint, status, source }) => `${status} ${source === 'worker'} ${endpoint}`,
  )) {
    const [first] = rows;
    const isIcon = /favicon|apple-touch-icon/i.test(first.url);
    const isDocument = rows.some(({ kind }) => kind === 'document');
    yield {
      severity: isIcon ? 'note' : 'broken',
      claim: `${nameOf(rows)} answered ${first.status}`,
      detail: detailOf(rows),
      evidence: indexes(rows),
      // A page that is not there is not a page that loads sooner.
      ...(isDocument ? {} : { changes: [{ type: 'leave-out', indexes: those(rows) }] as const }),
      remedy: remedyOf(first),
      confidence: 'certain',
    };
  }
};

/** One URL however often, or several of them, which are not one several times. */
function nameOf(rows: readonly [ExchangeRow, ...ExchangeRow[]]): string {
  const [first] = rows;
  const urls = new Set(rows.map(({ url }) => url));
  if (urls.size > 1) return `${calledAll(rows)} were`;
  return rows.length === 1 ? `${called(first)} was` : `${called(first)} was ${rows.length} times`;
}

function detailOf(rows: readonly [ExchangeRow, ...ExchangeRow[]]): string {
  const [first] = rows;
  const urls = new Set(rows.map(({ url }) => url));
  const what = urls.size > 1 ? `${listed(rows)}, on ${first.host}` : `${first.method} ${first.url.slice(0, 200)}`;
  return `${what}; no later request succeeded.`;
}

function remedyOf({ status = 0, source }: ExchangeRow): string {
  if (source === 'worker')
    return 'The page’s service worker made this response: look into its code, not into a server’s log.';
  return status >= 500
    ? 'Look into the server’s log for this request.'
    : 'See in its dossier what the response says, then correct the URL, the credentials or the payload.';
}
