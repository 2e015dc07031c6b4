import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import type { Kind } from '../../model';
import type { Rule } from '../finding';
import { called, calledAll, indexes, listed, those } from '../say';
import { retriesIn } from '../tries';

/** Responses of 400 and more that were not repaired by another try; a missing icon is no more than a note. */
export const httpError: Rule = function* (subject) {
  const { isRepaired } = retriesIn(subject);
  const failed = subject.asked.filter(
    (row) =>
      row.status !== undefined &&
      row.status >= 400 &&
      row.status !== 429 &&
      row.kind !== 'preflight' &&
      row.kind !== 'socket' &&
      !isRepaired(row),
  );
  // Files that are missing are one matter of a host's, calls that fail one of each endpoint.
  const matterOf = (row: ExchangeRow): string =>
    FILES.has(row.kind) ? `${row.host} ${row.kind} ${isIcon(row)}` : row.endpoint;
  for (const [, rows] of groupBy(failed, (row) => `${row.status} ${isWorkersOwn(row)} ${matterOf(row)}`)) {
    const [first] = rows;
    const isDocument = rows.some(({ kind }) => kind === 'document');
    yield {
      severity: isIcon(first) ? 'note' : 'broken',
      claim: `${nameOf(rows)} returned ${first.status}${timesOf(rows)}`,
      detail: detailOf(rows),
      evidence: indexes(rows),
      // A page that is not there is not a page that loads sooner.
      ...(isDocument ? {} : { changes: [{ type: 'leave-out', indexes: those(rows) }] as const }),
      remedy: remedyOf(first),
      confidence: 'certain',
    };
  }
};

const FILES: ReadonlySet<Kind> = new Set<Kind>(['image', 'script', 'style', 'font', 'media']);
const isIcon = ({ url }: ExchangeRow): boolean => /favicon|apple-touch-icon/i.test(url);

/** One URL however often, or several of them, which are not one several times. */
function nameOf(rows: readonly [ExchangeRow, ...ExchangeRow[]]): string {
  const [first] = rows;
  const urls = new Set(rows.map(({ url }) => url));
  if (urls.size > 1) return calledAll(rows);
  return called(first);
}

/** How often, where it was one URL again and again. */
function timesOf(rows: readonly ExchangeRow[]): string {
  const isOne = new Set(rows.map(({ url }) => url)).size === 1;
  return isOne && rows.length > 1 ? ` ${rows.length} times` : '';
}

function detailOf(rows: readonly [ExchangeRow, ...ExchangeRow[]]): string {
  const [first] = rows;
  const urls = new Set(rows.map(({ url }) => url));
  const what = urls.size > 1 ? `${listed(rows)}, on ${first.host}` : `${first.method} ${first.url.slice(0, 200)}`;
  return `${what}; no later request succeeded.`;
}

/** Made up by a service worker, or from its store: no server was asked. */
const isWorkersOwn = ({ source, fetchedAs }: ExchangeRow): boolean => source === 'worker' && fetchedAs === undefined;

function remedyOf(row: ExchangeRow): string {
  const { status = 0 } = row;
  if (isWorkersOwn(row)) return 'The page’s service worker made this response: check its code, not a server’s log.';
  return status >= 500
    ? 'Check the server’s log for this request.'
    : 'Read the response body in its dossier, then correct the URL, the credentials or the payload.';
}
