import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import type { Kind } from '../../model';
import type { Rule } from '../finding';
import { called, calledAll, indexes, listed, those } from '../say';
import { laterSuccesses, retriesIn, tellLater } from '../tries';

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
  const laterOf = laterSuccesses(subject, failed);
  // Files that are missing are one matter of a host's, calls that fail one of each endpoint.
  const matterOf = (row: ExchangeRow): string =>
    FILES.has(row.kind) ? `${row.host} ${row.kind} ${isIcon(row)}` : row.endpoint;
  for (const [, rows] of groupBy(failed, (row) => `${row.status} ${isWorkersOwn(row)} ${matterOf(row)}`)) {
    const [first] = rows;
    const isDocument = rows.some(({ kind }) => kind === 'document');
    yield {
      severity: isIcon(first) ? 'note' : 'broken',
      claim: `${nameOf(rows)} returned ${first.status}${timesOf(rows)}`,
      detail: `${detailOf(rows)}; ${tellLater(rows, laterOf)}`,
      evidence: indexes(rows),
      // A page that is not there is not a page that loads sooner.
      ...(isDocument ? {} : { changes: [{ type: 'leave-out', indexes: those(rows) }] as const }),
      remedy: remedyOf(first, (subject.evidenceOf(first.index)?.recordedBytes ?? 0) > 0),
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
  return what;
}

/** Made up by a service worker, or from its store: no server was asked. */
const isWorkersOwn = ({ source, fetchedAs }: ExchangeRow): boolean => source === 'worker' && fetchedAs === undefined;

function remedyOf(row: ExchangeRow, hasBody: boolean): string {
  const { status = 0 } = row;
  if (isWorkersOwn(row)) return 'The page’s service worker made this response: check its code, not a server’s log.';
  if (status >= 500) return 'Check the server’s log for this request.';
  const asked = ASKED[status] ?? 'Find out what the server does not accept in the request.';
  return hasBody ? `Read its body, which may say what is wrong. ${asked}` : asked;
}

/** What a status asks of who sent the request (RFC 9110, section 15.5; RFC 6585). */
const ASKED: Readonly<Record<number, string>> = {
  400: 'Correct the parameters or the payload.',
  401: 'Sign in, or send credentials that are still valid.',
  403: 'Check what these credentials allow, and whether something before the server refuses the request.',
  404: 'Correct the URL, or provide what it names.',
  405: 'Use a method that this URL allows; the response’s Allow header should list them.',
  406: 'Accept a type that the server has.',
  407: 'Send the proxy the credentials that it asks for.',
  408: 'Send it again: the server did not get the whole request in time.',
  409: 'Fetch the present state, and make the change to that.',
  410: 'Remove what leads to it: the server says that it is gone.',
  411: 'Send a Content-Length.',
  412: 'Fetch the present state, and make the change to that.',
  413: 'Send a smaller payload, or have the server accept larger ones.',
  414: 'Send a shorter URL, for example with the parameters in a payload.',
  415: 'Send the payload as a type that the server accepts.',
  416: 'Request a range that lies within the resource.',
  422: 'Correct the parameters or the payload.',
  428: 'Send the request with If-Match, so that no change of somebody else is lost.',
  431: 'Send fewer or shorter headers; cookies are often the longest.',
};
