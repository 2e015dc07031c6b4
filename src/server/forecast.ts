import { DELAYS, type DelayName, forecastVisit, readPolicy, type VisitForecast } from '#core/cache';
import { readRows } from './db/captures';
import type { Connection } from './db/connection';
import { eachExchange } from './named-columns';

/** What a page's exchanges come to on the next visit, after each delay. */
export async function readForecast(
  connection: Connection,
  captureId: string,
  page: string | undefined,
): Promise<Record<DelayName, VisitForecast>> {
  const rows = new Map<number, { wireBytes: number | undefined; bodyBytes: number | undefined }>();
  for (const { index, pageId, wireBytes, bodyBytes } of readRows(connection, captureId)) {
    if (page === undefined || pageId === page) rows.set(index, { wireBytes, bodyBytes });
  }
  const items: Parameters<typeof forecastVisit>[0][number][] = [];
  await eachExchange(connection, captureId, (exchange) => {
    const row = rows.get(exchange.index);
    if (row !== undefined) items.push({ policy: readPolicy(exchange), ...row });
  });
  const names = Object.keys(DELAYS) as DelayName[];
  return Object.fromEntries(names.map((name) => [name, forecastVisit(items, DELAYS[name])])) as Record<
    DelayName,
    VisitForecast
  >;
}
