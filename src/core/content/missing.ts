import { isRedirectStatus } from '../http';
import { type Exchange, findHeader, findResponse } from '../model';

/** Why a body is not there, in match order. */
export type MissingBody =
  | 'no-response'
  | 'never-has-one'
  | 'redirect'
  | 'stream'
  | 'not-saved'
  | 'kept-copy'
  | 'empty-or-not-saved';

/** Why no body stands in the capture; what to do about it is for the words to say. */
export function whyNoBody(exchange: Exchange): MissingBody {
  const response = findResponse(exchange);
  if (response === undefined) return 'no-response';
  const { status } = response;
  // RFC 9110 6.4.1: answers to HEAD, 1xx, 204 and 304 have no content.
  if (exchange.request.method.toUpperCase() === 'HEAD' || status < 200 || status === 204 || status === 304) {
    return 'never-has-one';
  }
  if (isRedirectStatus(status)) return 'redirect';
  if (exchange.kind.value === 'stream' || exchange.kind.value === 'socket') return 'stream';
  const declared = Number(findHeader(response.headers, 'content-length') ?? 0);
  if ((exchange.bodyBytes ?? 0) > 0 || declared > 0) return 'not-saved';
  return ['memory', 'disk', 'cache'].includes(exchange.source.value) ? 'kept-copy' : 'empty-or-not-saved';
}
