import { queryOf, splitUrl } from '../http';
import { type Exchange, findHeader, type NameValue } from '../model';
import { originOf } from './addresses';
import { type Asked, normalPath } from './asked';
import { changesByCall } from './changing';
import { compareFields, queryFields } from './fit';
import { arrivedFields, capturedFields } from './payload-fields';

/** The parts of a request, in the order in which they are told. */
export const REQUEST_PARTS = ['method', 'host', 'path', 'query', 'payload', 'header', 'order'] as const;

/**
 * Why a difference does not count: a secret, or what is new each time ("changing"); what belongs to the connection; what the
 * client can unpack; what its cache knows; the order of headers.
 */
export type Excuse = 'changing' | 'connection' | 'coding' | 'cache' | 'order';

/** Something that a request has otherwise than the captured one. */
export interface RequestDifference {
  readonly part: (typeof REQUEST_PARTS)[number];
  readonly name: string;
  readonly captured: string | undefined;
  readonly asked: string | undefined;
  /** Absent where it counts. */
  readonly excuse: Excuse | undefined;
}

/** "captured": the same in every part; "excused": but for what does not count. */
export type RequestVerdict = 'captured' | 'excused' | 'differs';

export function verdictOf(differences: readonly RequestDifference[]): RequestVerdict {
  if (differences.length === 0) return 'captured';
  return differences.every(({ excuse }) => excuse !== undefined) ? 'excused' : 'differs';
}

/** Longer values are told by their beginnings. */
const SHOWN_CHARS = 500;
const MOST_DIFFERENCES = 300;

/** What a request has otherwise than a captured one, part by part; what does not count is told with the reason. */
export function compareRequests({ request }: Exchange, asked: Asked): RequestDifference[] {
  const path = splitUrl(request.url)?.path ?? '/';
  const own = capturedFields(request);
  const type = findHeader(asked.headers, 'content-type');
  const origin = originOf(request.url);
  const found: RequestDifference[] = [];
  const put = (
    part: RequestDifference['part'],
    name: string,
    values: { readonly captured: string | undefined; readonly asked: string | undefined },
    excuse?: Excuse,
  ): void => void found.push({ part, name, captured: short(values.captured), asked: short(values.asked), excuse });

  if (request.method !== asked.method) put('method', 'method', { captured: request.method, asked: asked.method });
  if (asked.origin !== undefined && origin !== asked.origin)
    put('host', 'host', { captured: origin, asked: asked.origin });
  if (normalPath(path) !== normalPath(asked.path)) put('path', 'path', { captured: path, asked: asked.path });
  const parameters = compareFields(queryFields(queryOf(request.url)), queryFields(asked.query));
  for (const one of parameters) put('query', one.name, one, one.changes ? 'changing' : undefined);
  if (own !== undefined) {
    const fields = compareFields(own.fields, arrivedFields(asked.path + asked.query, type, asked.body).fields);
    for (const one of fields) put('payload', one.name, one, one.changes ? 'changing' : undefined);
  }
  found.push(...headerDifferences(request, asked.headers));
  const rank = ({ part, excuse }: RequestDifference): number =>
    (excuse === undefined ? 0 : REQUEST_PARTS.length) + REQUEST_PARTS.indexOf(part);
  return found.sort((one, other) => rank(one) - rank(other)).slice(0, MOST_DIFFERENCES);
}

/** Headers of one connection, and those that say how long a payload is (RFC 9110 7.6.1, 8.6; RFC 9112 6). */
const OF_CONNECTION =
  /^(?:host|connection|keep-alive|proxy-connection|transfer-encoding|content-length|te|trailer|upgrade|expect|http2-settings|priority|via|sec-websocket-(?:key|version|extensions))$/;
const OF_CACHE = /^(?:if-none-match|if-modified-since|cache-control|pragma)$/;

function headerDifferences(
  { headers, cookies }: Exchange['request'],
  asked: readonly NameValue[],
): RequestDifference[] {
  const [own, arrived] = [fieldsOf(headers, cookies), fieldsOf(asked)];
  const found = compareFields(own, arrived).map(
    ({ name, captured, asked: is }): RequestDifference => ({
      part: 'header',
      name,
      captured: short(captured),
      asked: short(is),
      excuse: excuseOf(name, captured, is),
    }),
  );
  const order = orderDifference(headers, asked);
  return order === undefined ? found : [...found, order];
}

function excuseOf(name: string, captured: string | undefined, asked: string | undefined): Excuse | undefined {
  if (OF_CONNECTION.test(name)) return 'connection';
  if (name === 'accept-encoding') return 'coding';
  if (OF_CACHE.test(name)) return 'cache';
  if (/^(?:cookie |(?:proxy-)?authorization$)/.test(name)) return 'changing';
  const isBoundary = name === 'content-type' && [captured, asked].every((value) => /^multipart\//i.test(value ?? ''));
  if (isBoundary) return 'changing';
  return captured !== undefined && asked !== undefined && changesByCall(name, captured, asked) ? 'changing' : undefined;
}

/** Headers by their names in small letters, each cookie apart. */
function fieldsOf(headers: readonly NameValue[], cookies: readonly NameValue[] = []): NameValue[] {
  const apart = (value: string): NameValue[] =>
    value
      .split(';')
      .map((pair) => pair.trim())
      .filter(Boolean)
      .map((pair) => {
        const equals = pair.indexOf('=');
        return { name: `cookie ${equals === -1 ? '' : pair.slice(0, equals)}`, value: pair.slice(equals + 1) };
      });
  const isThere = headers.some(({ name }) => name.toLowerCase() === 'cookie');
  return [
    ...headers.flatMap(({ name, value }) => {
      const key = name.toLowerCase();
      if (key.startsWith(':')) return [];
      return key === 'cookie' ? apart(value) : [{ name: key, value: value.trim() }];
    }),
    ...(isThere ? [] : cookies.map(({ name, value }) => ({ name: `cookie ${name}`, value }))),
  ];
}

/** Recorders sort headers, and HTTP/2 has none of the connection's: what both have is compared. */
function orderDifference(captured: readonly NameValue[], asked: readonly NameValue[]): RequestDifference | undefined {
  const names = (headers: readonly NameValue[]): string[] =>
    headers.map(({ name }) => name.toLowerCase()).filter((name) => !name.startsWith(':') && !OF_CONNECTION.test(name));
  const [own, arrived] = [names(captured), names(asked)];
  const shared = (list: readonly string[], other: readonly string[]): string =>
    [...new Set(list)].filter((name) => other.includes(name)).join(', ');
  const [was, is] = [shared(own, arrived), shared(arrived, own)];
  if (was === is) return undefined;
  return { part: 'order', name: 'order of headers', captured: was, asked: is, excuse: 'order' };
}

const short = (value: string | undefined): string | undefined =>
  value === undefined || value.length <= SHOWN_CHARS ? value : `${value.slice(0, SHOWN_CHARS)}…`;
