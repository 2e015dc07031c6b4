import type { Rule } from '../finding';
import { calledAll, indexes } from '../say';

const LOOPBACK = /^http:\/\/(localhost|127\.|\[::1\])/i;

/** What an https page fetched over plain http (W3C Mixed Content). */
export const mixedContent: Rule = function* (subject) {
  for (const { rows } of subject.pages) {
    const document = rows.find(({ kind, status }) => kind === 'document' && (status ?? 0) < 300);
    if (document === undefined || !/^https:/i.test(document.url)) continue;
    const plain = rows.filter((row) => /^http:/i.test(row.url) && !LOOPBACK.test(row.url) && row.kind !== 'document');
    if (plain.length === 0) continue;
    yield {
      severity: 'broken',
      claim: `${calledAll(plain)} ${plain.length === 1 ? 'was' : 'were'} fetched over plain http from an https page`,
      detail: `From ${[...new Set(plain.map(({ host }) => host))].slice(0, 3).join(', ')}. Browsers block scripts and styles of this kind.`,
      evidence: indexes(plain),
      cost: {},
      remedy: 'Name them by https, or have the server send Content-Security-Policy: upgrade-insecure-requests.',
      confidence: 'certain',
    };
  }
};
