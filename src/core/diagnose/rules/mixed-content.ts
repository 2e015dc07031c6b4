import type { ExchangeRow } from '../../analysis';
import { isLoopback, isRedirectStatus } from '../../http';
import type { Rule } from '../finding';
import { calledAll, indexes } from '../say';

/** What an https page fetched over plain http (W3C Mixed Content). */
export const mixedContent: Rule = function* (subject) {
  for (const { rows } of subject.pages) {
    const document = rows.find(({ kind, status }) => kind === 'document' && (status ?? 0) < 300);
    if (document === undefined || !/^https:/i.test(document.url)) continue;
    const upgraded = new Set(rows.filter((row) => isUpgraded(row, rows)).map(({ index }) => index));
    // What got no response is told with its reason: mostly it was blocked, and not fetched at all.
    const plain = rows.filter(
      (row) =>
        /^http:/i.test(row.url) &&
        !isLoopback(row.url) &&
        row.kind !== 'document' &&
        row.status !== undefined &&
        !upgraded.has(row.index),
    );
    if (plain.length === 0) continue;
    yield {
      severity: 'broken',
      claim: `${calledAll(plain)} ${plain.length === 1 ? 'was' : 'were'} fetched over plain http from an https page`,
      detail: `From ${[...new Set(plain.map(({ host }) => host))].slice(0, 3).join(', ')}. Browsers block scripts and styles of this kind.`,
      evidence: indexes(plain),
      remedy: 'Request them over https, or send Content-Security-Policy: upgrade-insecure-requests.',
      confidence: 'certain',
    };
  }
};

/** The browser itself led it to https: the host had asked for that (RFC 6797), and nothing went out over http. */
const isUpgraded = (row: ExchangeRow, rows: readonly ExchangeRow[]): boolean =>
  row.status === 307 &&
  isRedirectStatus(row.status) &&
  (row.wireBytes ?? 0) === 0 &&
  rows.some(
    ({ parent, parentEvidence, url }) =>
      parent === row.index && parentEvidence === 'redirect' && url === row.url.replace(/^http:/i, 'https:'),
  );
