import { splitUrl } from '../http';
import { type Exchange, findResponse } from '../model';

/** Names under which servers number requests, in the trade's usual spellings. */
const ID_NAME = /(^|-)(request|correlation|trace|transaction)-?id$/i;

/**
 * What a server's log is searched with for an exchange: its instant in a zone to the millisecond (RFC 3339), method, path
 * with its query, and the ids that the request or the response carries (W3C Trace Context's trace id among them).
 */
export function logLine(exchange: Exchange, utcOffsetMinutes: number): string {
  const { request, startedAt } = exchange;
  const parts = splitUrl(request.url);
  const path =
    parts === undefined ? request.url : request.url.slice(request.url.indexOf(parts.origin) + parts.origin.length);
  const when = startedAt === undefined ? [] : [instantIn(startedAt, utcOffsetMinutes)];
  return [...when, request.method, path.split('#', 1)[0] || '/', ...idsOf(exchange)].join(' ');
}

function instantIn(epoch: number, utcOffsetMinutes: number): string {
  const local = new Date(epoch + utcOffsetMinutes * 60_000).toISOString().replace('Z', '');
  if (utcOffsetMinutes === 0) return `${local}Z`;
  const minutes = Math.abs(utcOffsetMinutes);
  const two = (value: number): string => String(value).padStart(2, '0');
  return `${local}${utcOffsetMinutes < 0 ? '-' : '+'}${two(Math.floor(minutes / 60))}:${two(minutes % 60)}`;
}

/** The ids, the response's first: a server that is given none makes its own. Each once. */
function idsOf(exchange: Exchange): string[] {
  const headers = [...(findResponse(exchange)?.headers ?? []), ...exchange.request.headers];
  const ids = headers.flatMap(({ name, value }) => {
    if (/^traceparent$/i.test(name)) return /^[0-9a-f]{2}-([0-9a-f]{32})-/i.exec(value.trim())?.[1] ?? [];
    return ID_NAME.test(name) ? value.trim() : [];
  });
  return [...new Set(ids.filter((id) => id !== ''))];
}
