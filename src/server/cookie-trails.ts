import { type CookieManner, type CookieTrail, type CookieUse, followCookie } from '#core/content';
import { type Exchange, findHeader, findResponse, type NameValue, type Party } from '#core/model';
import { readRows } from './db/captures';
import type { Connection } from './db/connection';
import { eachExchange } from './named-columns';

/** Follows cookies through a capture, from one of its exchanges on. */
export async function readCookieTrails(
  connection: Connection,
  captureId: string,
  names: readonly string[],
  from: number,
): Promise<CookieTrail[]> {
  const parties = new Map<number, Party | undefined>(
    readRows(connection, captureId).map(({ index, party }) => [index, party]),
  );
  const uses: CookieUse[] = [];
  await eachExchange(connection, captureId, (exchange) => uses.push(useOf(exchange, parties.get(exchange.index))));
  // Entries are not always in the order of their starts; those without a start stay where they are.
  uses.sort((a, b) => (a.startedAt ?? 0) - (b.startedAt ?? 0) || a.index - b.index);
  return names.map((name) => followCookie(name, uses, from));
}

const useOf = (exchange: Exchange, party: Party | undefined): CookieUse => ({
  index: exchange.index,
  url: exchange.request.url,
  startedAt: exchange.startedAt,
  isCrossSite: party === 'third' || findHeader(exchange.request.headers, 'sec-fetch-site') === 'cross-site',
  manner: mannerOf(exchange),
  sent: valuesOf(exchange.request.headers, 'cookie'),
  set: valuesOf(findResponse(exchange)?.headers ?? [], 'set-cookie'),
});

/** A frame's document is none that is gone to, nor is one that is asked for by POST (6265bis 5.2, 5.8.3). */
function mannerOf({ isNavigation, request }: Exchange): CookieManner {
  if (!isNavigation) return 'request';
  const destination = findHeader(request.headers, 'sec-fetch-dest') ?? 'document';
  return destination === 'document' && /^(?:GET|HEAD|OPTIONS|TRACE)$/.test(request.method) ? 'visit' : 'document';
}

const valuesOf = (headers: readonly NameValue[], name: string): string[] =>
  headers
    .filter((header) => header.name.length === name.length && header.name.toLowerCase() === name)
    .map(({ value }) => value);
