import { setImmediate } from 'node:timers/promises';
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
  const forecasts: [DelayName, VisitForecast][] = [];
  for (const name of Object.keys(DELAYS) as DelayName[]) {
    forecasts.push([name, forecastVisit(items, DELAYS[name])]);
    // With very many exchanges each takes a while: other requests are answered in between.
    await setImmediate();
  }
  return Object.fromEntries(forecasts) as Record<DelayName, VisitForecast>;
}
