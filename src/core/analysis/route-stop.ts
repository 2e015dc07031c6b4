import type { ExchangeIndex } from '../model';
import type { RouteStop } from '../timing';
import type { ExchangeRow } from './exchange-row';
import { isOfExtension } from './naming';
import { requestKey } from './request-key';

/** What stands in its own URL, or in the browser: nothing is waited for. */
const AT_ONCE = /^(?:data|about|javascript):/i;

/**
 * The exchanges that a page's load can have waited for: not those of a browser extension, and no tunnel of a proxy, whose
 * requests are recorded themselves.
 * @param asked one that is taken whatever it is
 */
export const ofLoad = (rows: readonly ExchangeRow[], asked?: ExchangeIndex): readonly ExchangeRow[] =>
  rows.filter(
    ({ url, method, index }) => index === asked || !(AT_ONCE.test(url) || isOfExtension(url) || method === 'CONNECT'),
  );

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
