import { MOST_PERMISSION_SECONDS, permissionSeconds } from '../cache';
import { isRedirectStatus, readHttpDate, splitUrl } from '../http';
import { type Exchange, findField, findHeader, findResponse, isFromCopy, type NameValue } from '../model';
import { formatBytes, formatSpan } from '../wording';

/** What a header is held against to say what it did in this exchange. */
interface Here {
  readonly exchange: Exchange;
  readonly request: readonly NameValue[];
  readonly response: readonly NameValue[];
  readonly status: number | undefined;
}

type Tell = (value: string, here: Here) => string | undefined;

const seconds = (text: string | undefined): number | undefined =>
  text !== undefined && /^\d+$/.test(text.trim()) ? Number(text) * 1000 : undefined;

/** How old the answer was when it came (RFC 9111 4.2.3: Age, else what Date tells), in ms. */
function ageOf({ response, exchange }: Here): number | undefined {
  const age = seconds(findHeader(response, 'age'));
  if (age !== undefined) return age;
  const date = readHttpDate(findHeader(response, 'date'));
  if (date === undefined || exchange.startedAt === undefined) return undefined;
  return Math.max(0, exchange.startedAt - date);
}

/** A recorder may write down the page's 200 where a 304 crossed the wire. */
const wasConfirmed = ({ exchange, status }: Here): boolean => status === 304 || exchange.source.value === 'revalidated';

/** A host that is written as an address. */
const IS_ADDRESS = /^(?:[\d.]+|\[.*\])$/;

const AS_200 = ', which the recorder shows as the page’s 200';

/** Tags are the same but for the mark of a weak one (RFC 9110 8.8.3.2). */
const isSameTag = (tag: string, asked: string): boolean => {
  const strong = (text: string): string => text.trim().replace(/^W\//, '');
  return asked.split(',').some((one) => strong(one) === strong(tag));
};

function tellTag(tag: string, here: Here): string | undefined {
  const asked = findHeader(here.request, 'if-none-match');
  if (asked === undefined) {
    const isWhole =
      here.status === 200 && here.exchange.request.method === 'GET' && !isFromCopy(here.exchange.source.value);
    return isWhole ? 'This request sent no If-None-Match, so the full response came.' : undefined;
  }
  if (wasConfirmed(here)) return `Unchanged: the server returned 304${here.status === 304 ? '' : AS_200}.`;
  if (here.status !== 200) return undefined;
  return isSameTag(tag, asked)
    ? 'The server returned the full body although the ETag is unchanged.'
    : 'Changed: the request’s If-None-Match named another version.';
}

function tellCondition(_value: string, here: Here): string | undefined {
  const { status } = here;
  if (wasConfirmed(here)) {
    return `The server returned 304${status === 304 ? '' : AS_200}: the stored copy is still valid.`;
  }
  if (status === undefined) return undefined;
  return status === 200
    ? 'The server returned 200 with a full response.'
    : `The server returned ${status}, which says nothing about the stored copy.`;
}

/** What response headers did. */
const RESPONSE: Readonly<Record<string, Tell>> = {
  age: (value) => {
    const age = seconds(value);
    return age === undefined ? undefined : `A shared cache had stored it for ${formatSpan(age)}.`;
  },
  date: (value, { exchange }) => {
    const at = readHttpDate(value);
    if (at === undefined || exchange.startedAt === undefined) return undefined;
    const apart = at - exchange.startedAt;
    if (Math.abs(apart) < 2000) return 'The server’s clock and the recording computer’s agree.';
    return `${formatSpan(Math.abs(apart))} ${apart < 0 ? 'before' : 'after'} the request started: an older response, or the clocks differ.`;
  },
  expires: (value, { exchange, response }) => {
    const at = readHttpDate(value);
    // RFC 9111 5.3.
    if (/(?:^|[\s,])max-age\s*=\s*"?\d/i.test(findField(response, 'cache-control') ?? ''))
      return 'Passed over: max-age in Cache-Control says how long.';
    if (at === undefined) return 'Not a valid date: caches treat the response as stale.';
    if (exchange.startedAt === undefined) return undefined;
    // By the server's own clock, where it tells that.
    const left = at - (readHttpDate(findHeader(response, 'date')) ?? exchange.startedAt);
    return left <= 0 ? 'Already stale on arrival.' : `Fresh for ${formatSpan(left)} more.`;
  },
  'last-modified': (value, { exchange }) => {
    const at = readHttpDate(value);
    if (at === undefined || exchange.startedAt === undefined) return undefined;
    return at > exchange.startedAt
      ? `${formatSpan(at - exchange.startedAt)} after this request: the clocks differ.`
      : `Last changed before this request by ${formatSpan(exchange.startedAt - at)}.`;
  },
  etag: tellTag,
  'content-length': (value, { exchange }) => {
    const declared = Number(value);
    if (!Number.isFinite(declared)) return 'Not a number.';
    return `${formatBytes(declared)} were announced${exchange.outcome.type === 'cut' ? ', but the transfer was cut off' : ''}.`;
  },
  'content-encoding': (value, { exchange }) => {
    const { wireBytes, bodyBytes } = exchange;
    if (wireBytes === undefined || bodyBytes === undefined || bodyBytes === 0 || wireBytes === 0) return undefined;
    return `${formatBytes(bodyBytes)} were sent as ${formatBytes(wireBytes)}, headers included, compressed with ${value}.`;
  },
  vary: (value, { request }) => {
    const named = value
      .split(',')
      .map((name) => name.trim())
      .filter((name) => name !== '');
    if (named.includes('*')) return 'A stored copy can never be reused for another request.';
    const sent = named.filter((name) => findHeader(request, name) !== undefined);
    const others = named.filter((name) => !sent.includes(name));
    if (sent.length === 0) return named.length === 0 ? undefined : `This request sent none of ${named.join(', ')}.`;
    const without = others.length === 0 ? '' : `, and without ${others.join(', ')}`;
    return `A stored copy is reused only for requests with the same ${sent.join(', ')} as this one${without}.`;
  },
  location: (value, { status }) => (isRedirectStatus(status) ? `It leads on to ${value}.` : undefined),
  'retry-after': (value) => {
    const wait = seconds(value);
    return wait === undefined ? undefined : `Try again ${formatSpan(wait)} later.`;
  },
  'access-control-allow-origin': (value, { request, response }) => {
    const origin = findHeader(request, 'origin');
    if (origin === undefined) return 'The request named no Origin, so it had nothing to allow.';
    if (value === '*') return `Any origin may read the response, ${origin} too, but not with credentials.`;
    if (value !== origin) return `${origin} may not read the response.`;
    const isLetWithCookies = findHeader(response, 'access-control-allow-credentials') === 'true';
    return findHeader(request, 'cookie') === undefined || isLetWithCookies
      ? `${origin} may read the response.`
      : `${origin} may read the response, but not with the cookies that were sent: Access-Control-Allow-Credentials is not true.`;
  },
  'access-control-max-age': (value) => {
    const kept = permissionSeconds(value);
    const said = formatSpan(Math.min(kept, MOST_PERMISSION_SECONDS) * 1000);
    if (kept === 0) return 'Browsers keep no permission: each request needs a preflight of its own.';
    if (!/^\s*[-+]?\d+\s*$/.test(value)) return `No number of seconds: browsers keep the permission for ${said}.`;
    return kept > MOST_PERMISSION_SECONDS
      ? `Browsers need no new preflight for ${said} at least; some keep permission no longer.`
      : `Browsers need no new preflight for ${said}.`;
  },
  'strict-transport-security': (value, { exchange }) => {
    const { scheme = '', host = '' } = splitUrl(exchange.request.url) ?? {};
    // RFC 6797 8.1.
    if (!/^https$/i.test(scheme)) return 'Passed over: it counts over https only.';
    if (IS_ADDRESS.test(host)) return 'Passed over: it counts for host names, not for addresses.';
    const kept = seconds(/(?:^|;)\s*max-age\s*=\s*"?(\d+)"?\s*(?:;|$)/i.exec(value)?.[1]);
    if (kept === undefined) return 'Passed over: it says no max-age.';
    if (kept === 0) return 'Browsers forget that this host is to be reached over https alone.';
    const hosts = /(?:^|;)\s*includeSubDomains\s*(?:;|$)/i.test(value) ? 'this host and all below it' : 'this host';
    return `Browsers use https alone for ${hosts} for ${formatSpan(kept)}.`;
  },
  'content-type': (value, { exchange }) =>
    exchange.kind.value === 'document' && !/html|xml/i.test(value) ? 'A document that is not HTML.' : undefined,
};

/** What request headers did. */
const REQUEST: Readonly<Record<string, Tell>> = {
  'if-none-match': tellCondition,
  'if-modified-since': tellCondition,
  'accept-encoding': (_value, { response, status }) => {
    const coding = findHeader(response, 'content-encoding');
    if (status === undefined) return undefined;
    return coding === undefined ? 'The response came uncompressed.' : `The response came compressed with ${coding}.`;
  },
  range: (_value, { status }) =>
    status === 206 ? 'The server sent that part.' : status === 200 ? 'The server sent all of it instead.' : undefined,
  origin: (value, { exchange, response, status }) => {
    // Pages that are gone to, and sockets, are opened without anybody's leave (Fetch 4.10).
    if (status === undefined || exchange.kind.value === 'document' || exchange.kind.value === 'socket')
      return undefined;
    if (splitUrl(exchange.request.url)?.origin === value) return 'Its own origin, which needs no permission.';
    const allowed = findHeader(response, 'access-control-allow-origin');
    return allowed === undefined
      ? 'The response has no Access-Control-Allow-Origin: a page of another origin may not read it.'
      : `The response allows ${allowed === '*' ? 'any origin' : allowed === value ? 'it' : `${allowed}, not it`}.`;
  },
  'cache-control': (value) => {
    if (/no-cache|no-store/i.test(value))
      return 'Asked caches to be bypassed: a reload, a disabled cache, or the page’s own fetch option.';
    return /max-age\s*=\s*0\b/i.test(value)
      ? 'Asked that stored copies be checked with the server: a reload, or the page’s own fetch option.'
      : undefined;
  },
  pragma: (value) => (/no-cache/i.test(value) ? 'Asked caches to be bypassed.' : undefined),
};

/** What a header did in this very exchange, in a sentence; undefined where there is nothing to say. */
export function tellHeaderHere(
  name: string,
  value: string,
  side: 'request' | 'response',
  exchange: Exchange,
): string | undefined {
  const table = side === 'request' ? REQUEST : RESPONSE;
  const key = name.toLowerCase();
  return Object.hasOwn(table, key) ? table[key]?.(value, hereOf(exchange)) : undefined;
}

/** What a cache directive of the response did in this very exchange (RFC 9111 5.2.2). */
export function tellDirectiveHere(name: string, setTo: string | undefined, exchange: Exchange): string | undefined {
  const here = hereOf(exchange);
  const age = ageOf(here);
  const wasOld = age === undefined ? '' : `; it was ${formatSpan(age)} old on arrival`;
  const kept = seconds(setTo);
  switch (name.toLowerCase()) {
    case 'max-age':
      if (kept === undefined) return undefined;
      return kept === 0
        ? 'Must be revalidated each time.'
        : `Fresh for ${formatSpan(kept)} from when it was generated${wasOld}.`;
    case 's-maxage':
      return kept === undefined ? undefined : `Fresh in shared caches for ${formatSpan(kept)}${wasOld}.`;
    case 'no-store':
      return 'Must not be stored; the next visit should download it again.';
    case 'no-cache':
      // With a field it asks that of the field alone (RFC 9111 5.2.2.4), and browsers nothing at all.
      if (setTo !== undefined) return undefined;
      return (findHeader(here.response, 'etag') ?? findHeader(here.response, 'last-modified'))
        ? 'Revalidated on the next visit, which can get a 304.'
        : 'Revalidated on the next visit; without ETag or Last-Modified the full body is sent again.';
    case 'private':
      return setTo === undefined ? 'Only this browser may store it, no shared cache.' : undefined;
    case 'public':
      return 'Any shared cache may store it, even if the request had credentials.';
    case 'immutable':
      return 'While it is fresh some browsers do not revalidate it on a reload either.';
    case 'must-revalidate':
      return 'When stale it is never used without revalidation.';
    case 'stale-while-revalidate':
      return kept === undefined
        ? undefined
        : `For ${formatSpan(kept)} after that it may be used while it is revalidated in the background.`;
    case 'stale-if-error':
      return kept === undefined
        ? undefined
        : `For ${formatSpan(kept)} after that it may be used when the server fails.`;
    default:
      return undefined;
  }
}

function hereOf(exchange: Exchange): Here {
  const response = findResponse(exchange);
  return {
    exchange,
    request: exchange.request.headers,
    response: response?.headers ?? [],
    status: response?.status,
  };
}
