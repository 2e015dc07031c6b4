import type { ExchangeRow } from '../../analysis';
import { DELAYS, nextVisitOf } from '../../cache';
import type { Subject } from '../finding';
import { once } from '../once';

/** What changes only with a new release of the site. */
const STATIC: ReadonlySet<string> = new Set(['script', 'style', 'font', 'image']);
/** A version or a build number in the query. */
const VERSION = /[?&](v|ver|version|hash|rev)=/i;
/** What stands behind a sign before the extension, where a hash would stand: "app-DIW9gTd0.js", "main.8c4f2d10.css". */
const LAST_PART = /[.\-_/]([A-Za-z0-9_-]{4,})\.[a-z0-9]+(?:[?#]|$)/;
/** Words put together as names are, of which each is at least three letters: no hash is read out of them. */
const WORDS = /^[A-Za-z]?[a-z]*(?:[A-Z][a-z]{2,})*\d*$/;

/** As long as bundlers make their hashes in base64url. */
const HASH_CHARS = 8;
/** So many consonants in a row stand in no name of two words: "DiwrgTda". */
const UNSPEAKABLE = /[bcdfghjklmnpqrstvwxz]{5}/i;

/** A hash in hexadecimal has digits, more than a name's number, among its letters; one in base64url mixes its cases. */
function isHash(part: string): boolean {
  if (/^[0-9a-f]+$/i.test(part)) return /[a-f]/i.test(part) && (part.match(/\d/g) ?? []).length >= 2;
  if (part.length === HASH_CHARS && /.[A-Z]/.test(part) && UNSPEAKABLE.test(part)) return true;
  if (part.length < HASH_CHARS || WORDS.test(part)) return false;
  const turns = part.match(/[a-z](?=[A-Z0-9])|[A-Z](?=[a-z0-9])|\d(?=[A-Za-z])/g) ?? [];
  return /[a-z]/.test(part) && /[A-Z]/.test(part) && turns.length >= (/\d/.test(part) ? 3 : 4);
}

/** Static files that this visit fetched whole over the network. */
export const staticFetches = once(({ rows }): readonly ExchangeRow[] =>
  rows.filter(
    ({ kind, status, source, method }) =>
      STATIC.has(kind) && status === 200 && source === 'network' && method === 'GET',
  ),
);

export function isFingerprinted({ url }: Pick<ExchangeRow, 'url'>): boolean {
  if (VERSION.test(url)) return true;
  const last = LAST_PART.exec(url)?.[1] ?? '';
  // A hash in base64url may itself hold the sign that it stands behind: it is eight long then, as bundlers have it.
  const [, eight = ''] = /(?:^|[-_])([A-Za-z0-9_-]{8})$/.exec(last) ?? [];
  return isHash(last.split(/[-_]/).at(-1) ?? '') || isHash(eight);
}

/** True where a copy would still be used without asking so long after. */
export const isReusedAfter = (subject: Subject, { index }: ExchangeRow, delay: keyof typeof DELAYS): boolean =>
  nextVisitOf(subject.evidenceOf(index)?.policy, DELAYS[delay]) === 'reused';
