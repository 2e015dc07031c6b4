import type { ExchangeRow } from '../analysis';
import { isRedirectStatus, splitUrl } from '../http';
import type { Subject } from './finding';

/** The document of an exchange's page: the first that is no redirect. */
export function documentOf({ pages }: Subject, { pageId }: ExchangeRow): ExchangeRow | undefined {
  const known = kept.get(pages) ?? documentsOf(pages);
  kept.set(pages, known);
  // A capture without pages is one.
  return known.get(known.has(undefined) ? undefined : pageId);
}

const kept = new WeakMap<Subject['pages'], ReadonlyMap<string | undefined, ExchangeRow | undefined>>();

/** By page: a capture without documents is walked through once, not for each of its exchanges. */
const documentsOf = (pages: Subject['pages']): ReadonlyMap<string | undefined, ExchangeRow | undefined> =>
  new Map(
    pages.map(({ overview, rows }) => [
      overview?.id,
      rows.find(({ kind, status }) => kind === 'document' && !isRedirectStatus(status)),
    ]),
  );

/** Whether an exchange went to another origin than that of who asked: by the Referer, else the page's document. */
export function goesElsewhere(subject: Subject, row: ExchangeRow): boolean {
  const asker = subject.evidenceOf(row.index)?.requestHeaders.get('referer') ?? documentOf(subject, row)?.url;
  const [from, to] = [asker === undefined ? undefined : splitUrl(asker), splitUrl(row.url)];
  return from !== undefined && to !== undefined && from.origin !== to.origin;
}
