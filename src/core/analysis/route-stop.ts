import type { ExchangeIndex } from '../model';
import type { RouteStop } from '../timing';
import type { ExchangeRow } from './exchange-row';
import { isOfExtension } from './naming';
import { requestKey } from './request-key';

/** What stands in its own URL, or in the browser: nothing is waited for. */
const AT_ONCE = /^(?:data|about|javascript):/i;

/** The exchanges of a site: without those of browser extensions, unless the page itself is one's. */
export function ofSite<Of extends Pick<ExchangeRow, 'url' | 'kind' | 'pageId'>>(rows: readonly Of[]): Of[] {
  const documents = new Map<Of['pageId'], string>();
  for (const { kind, url, pageId } of rows)
    if (kind === 'document' && !documents.has(pageId)) documents.set(pageId, url);
  return rows.filter(({ url, pageId }) => !isOfExtension(url) || isOfExtension(documents.get(pageId) ?? ''));
}

/**
 * The exchanges that a page's load can have waited for: those of its site, without the tunnels of a proxy, whose requests
 * are recorded themselves.
 * @param asked one that is taken whatever it is
 */
export function ofLoad(rows: readonly ExchangeRow[], asked?: ExchangeIndex): readonly ExchangeRow[] {
  const own = ofSite(rows).filter(({ url, method }) => !AT_ONCE.test(url) && method !== 'CONNECT');
  if (asked === undefined || own.some(({ index }) => index === asked)) return own;
  const taken = new Set(own);
  return rows.filter((row) => row.index === asked || taken.has(row));
}

/** Exchanges as the route takes them; those without a start have no place on it. */
export const routeStops = (rows: readonly ExchangeRow[]): RouteStop[] =>
  rows.flatMap((row): RouteStop[] => {
    const { index, kind, party, holds, startMs, timeMs = 0, phases, parent, namedBy } = row;
    if (startMs === undefined) return [];
    const endMs = startMs + timeMs;
    // A load waits for media until they can begin (WHATWG HTML 4.8.11.5, delaying-the-load-event flag).
    const heldUntilMs = kind === 'media' ? endMs - Math.min(timeMs, phases.receiveMs ?? 0) : endMs;
    const request = requestKey(row);
    const hasFailed = row.failure !== undefined;
    return [{ index, kind, party, startMs, endMs, holds, heldUntilMs, parent, namedBy, request, hasFailed }];
  });
