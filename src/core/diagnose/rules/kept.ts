import type { ExchangeRow } from '../../analysis';
import { DELAYS, nextVisitOf } from '../../cache';
import type { Subject } from '../finding';

/** What changes only with a new release of the site. */
const STATIC: ReadonlySet<string> = new Set(['script', 'style', 'font', 'image']);
/** A hash, a version or a build number in the file's name or query. */
const FINGERPRINT =
  /[.\-_/](?=[0-9a-f]*[a-f])(?=[0-9a-f]*\d)[0-9a-f]{4,}\.[a-z0-9]+(\?|$)|[?&](v|ver|version|hash|rev)=/i;

/** Static files that this visit fetched whole over the network. */
export const staticFetches = ({ rows }: Subject): ExchangeRow[] =>
  rows.filter(
    ({ kind, status, source, method }) =>
      STATIC.has(kind) && status === 200 && source === 'network' && method === 'GET',
  );

export const isFingerprinted = ({ url }: ExchangeRow): boolean => FINGERPRINT.test(url);

/** True where a copy would still be used without asking so long after. */
export const isReusedAfter = (subject: Subject, { index }: ExchangeRow, delay: keyof typeof DELAYS): boolean =>
  nextVisitOf(subject.evidenceOf(index)?.policy, DELAYS[delay]) === 'reused';
