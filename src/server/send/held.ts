import { base64Of, readBody } from '#core/content';
import { findHeader, type ResponsePart } from '#core/model';
import type { HeldResponse } from '#core/trial';
import { inflateWithZlib } from '../inflate';
import type { CameBack } from './heard';

/** A response that came back as a captured one has it. */
export const asResponse = ({ status, statusText, protocol, headers, body }: CameBack): ResponsePart => ({
  status,
  statusText,
  protocol,
  headers,
  redirectUrl: findHeader(headers, 'location'),
  mimeType: findHeader(headers, 'content-type'),
  body: { encoding: 'base64', text: base64Of(body) },
});

/**
 * A response as it is held against another one.
 * @param method of its request: the response to HEAD has no body (RFC 9110 9.3.2)
 */
export function heldOf(response: ResponsePart, method: string): HeldResponse {
  const { kind, text, decoded } = readBody(response, inflateWithZlib);
  const hasNone = method === 'HEAD' || response.status === 204 || response.status === 304;
  const { status, headers } = response;
  if (hasNone || kind === 'empty') return { status, headers, body: { type: 'text', text: '' } };
  if (text !== undefined) return { status, headers, body: { type: 'text', text } };
  return { status, headers, body: decoded === undefined ? undefined : { type: 'bytes', bytes: decoded.bytes } };
}
