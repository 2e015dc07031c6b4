import type { ExchangeRow } from '../analysis';
import { isRedirectStatus, splitUrl } from '../http';
import type { Subject } from './finding';

/** The document of an exchange's page: the first that is no redirect. */
export const documentOf = (subject: Subject, { pageId }: ExchangeRow): ExchangeRow | undefined =>
  subject.pages
    .find(({ overview }) => overview === undefined || overview.id === pageId)
    ?.rows.find(({ kind, status }) => kind === 'document' && !isRedirectStatus(status));

/** Whether an exchange went to another origin than that of who asked: by the Referer, else the page's document. */
export function goesElsewhere(subject: Subject, row: ExchangeRow): boolean {
  const asker = subject.evidenceOf(row.index)?.requestHeaders.get('referer') ?? documentOf(subject, row)?.url;
  const [from, to] = [asker === undefined ? undefined : splitUrl(asker), splitUrl(row.url)];
  return from !== undefined && to !== undefined && from.origin !== to.origin;
}
