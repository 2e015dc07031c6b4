import type { RouteStop } from '../timing';
import type { ExchangeRow } from './exchange-row';
import { requestKey } from './request-key';

/** Exchanges as the route takes them; those without a start have no place on it. */
export const routeStops = (rows: readonly ExchangeRow[]): RouteStop[] =>
  rows.flatMap((row): RouteStop[] => {
    const { index, kind, startMs, timeMs, parent, namedBy } = row;
    if (startMs === undefined) return [];
    return [{ index, kind, startMs, endMs: startMs + (timeMs ?? 0), parent, namedBy, request: requestKey(row) }];
  });
