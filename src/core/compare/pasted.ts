import { fillIn, guessSource, payloadBytes, readBack } from '../convert';
import { type JsonObject, normaliseEntry } from '../har';
import { readPasted } from '../trial';
import type { ComparedSide } from './exchanges';

/**
 * What somebody pastes as an exchange: a response as an HTTP message (RFC 9112 2.1), or a request in any way that requests
 * are read: as a curl command, an HTTP message, a fetch call, a URL. Undefined where it is none of these.
 */
export function readPastedExchange(text: string): ComparedSide | undefined {
  return /^\s*HTTP\/[\d.]+ \d{3}/.test(text) ? pastedResponse(text) : pastedRequest(text);
}

function pastedResponse(text: string): ComparedSide {
  const { status, headers, body } = readPasted(text, { status: 0, headers: [], body: undefined });
  const exchange = normaliseEntry(
    { request: { method: 'GET', url: '' }, response: { status, headers: [...headers] } } as unknown as JsonObject,
    0,
  );
  return { exchange, payload: undefined, body: body?.type === 'text' ? body.text : undefined, has: ['response'] };
}

function pastedRequest(text: string): ComparedSide | undefined {
  const source = guessSource(text);
  const [draft] = source === undefined ? [] : readBack(text, source).drafts;
  if (draft === undefined) return undefined;
  const { method, url, headers, payload } = fillIn(draft);
  const bytes = payloadBytes(payload);
  const sent = bytes === undefined ? undefined : new TextDecoder().decode(bytes);
  const kept = headers.filter((header) => header.kept).map(({ name, value }) => ({ name, value }));
  const postData = sent === undefined ? {} : { postData: { mimeType: '', text: sent } };
  const exchange = normaliseEntry({ request: { method, url, headers: kept, ...postData } } as unknown as JsonObject, 0);
  return { exchange, payload: sent, body: undefined, has: ['request'] };
}
