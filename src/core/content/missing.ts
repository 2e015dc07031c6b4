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

/** Why there is none, and how to record it where it could have been. */
export const MISSING_WORDS: Record<MissingBody, string> = {
  'no-response': 'No response was recorded, and so no body.',
  'never-has-one': 'No body: responses to HEAD and those with status 1xx, 204 and 304 never have one.',
  redirect: 'The body of this redirect was not recorded, as is usual; see the redirect’s target.',
  stream: 'Nothing of the stream was recorded. Record again with the recorder running before the page opens it.',
  'not-saved':
    'The body was received but not saved: the recorder left bodies out, or had discarded this one. Record again, save with content, and save before leaving the page.',
  'kept-copy': 'From cache, and its body was not saved, as recorders often do. Record again with the cache disabled.',
  'empty-or-not-saved':
    'No body was recorded: there was none, or it was not saved. Record again and save with content to be sure.',
};
