import { DELAYS, type DelayName, forecastVisit, takeVisitItem, type VisitForecast } from '#core/cache';
import { readRows } from './db/captures';
import type { Connection } from './db/connection';
import { eachExchange } from './named-columns';

/** What a page's exchanges come to on the next visit, after each delay. */
export async function readForecast(
  connection: Connection,
  captureId: string,
  page: string | undefined,
): Promise<Record<DelayName, VisitForecast>> {
  const own = readRows(connection, captureId).filter(({ pageId }) => page === undefined || pageId === page);
  const rows = new Map(own.map((row) => [row.index, row]));
  const items: Parameters<typeof forecastVisit>[0][number][] = [];
  await eachExchange(connection, captureId, (exchange) => {
    const row = rows.get(exchange.index);
    if (row === undefined) return;
    const { wireBytes, bodyBytes, preflightFor } = row;
    items.push({ ...takeVisitItem(exchange, preflightFor), wireBytes, bodyBytes });
  });
  const names = Object.keys(DELAYS) as DelayName[];
  return Object.fromEntries(names.map((name) => [name, forecastVisit(items, DELAYS[name])])) as Record<
    DelayName,
    VisitForecast
  >;
}
