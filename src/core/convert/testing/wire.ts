import { boundaryOf, readMultipart } from '../../content';
import type { Draft } from '../draft';
import { encodeParts, payloadBytes } from '../index';
import { mapTexts } from '../texts';
import type { Arrived } from './echo';

/** Headers that clients add by themselves, or that only the connection needs: told apart only where a command sets them. */
const OWN = new Set([
  'host',
  'user-agent',
  'accept',
  'accept-encoding',
  'accept-language',
  'content-length',
  'connection',
  'te',
  'expect',
  'sec-fetch-mode',
]);

/** What of a request counts: its line, its headers but for those of the client that `read` does not name, and its payload. */
export function wireOf({ requestLine, headers, body }: Arrived, read: Arrived): unknown {
  const set = new Set(read.headers.map(({ name }) => name.toLowerCase()));
  const type = headers.find(({ name }) => /^content-type$/i.test(name))?.value;
  const boundary = boundaryOf(type);
  return {
    line: requestLine.replace(/%[0-9a-f]{2}/gi, (one) => one.toUpperCase()).replace(/ HTTP\/1\.[01]$/, ''),
    headers: headers
      .map(({ name, value }) => `${name.toLowerCase()}: ${value}`)
      .filter((line) => set.has(line.split(':')[0] ?? '') || !OWN.has(line.split(':')[0] ?? ''))
      .filter((line) => boundary === undefined || !line.startsWith('content-type:'))
      .sort(),
    body: boundary === undefined ? body.toString() : partsOf(body, boundary),
  };
}

const partsOf = (body: Uint8Array, boundary: string) =>
  readMultipart(body, boundary).map(({ name, fileName, contentType, bytes }) => ({
    name,
    fileName,
    contentType,
    text: new TextDecoder().decode(bytes),
  }));

/** The draft as it would arrive, its variables filled in. */
export function arrivedAs(draft: Draft): Arrived {
  const { method, url, headers, payload } = mapTexts(draft, (text) =>
    draft.variables.reduce((whole, { name, value }) => whole.replaceAll(`‹${name}›`, value), text),
  );
  const isForm = payload.type === 'parts';
  const target = url.replace(/^http:\/\/[^/?]*/, '').replace(/^(?=\?|$)/, '/');
  const bytes = isForm ? encodeParts(payload.parts, 'b') : (payloadBytes(payload) ?? new Uint8Array());
  return {
    requestLine: `${method} ${target} HTTP/1.1`,
    headers: [
      ...headers.filter(({ kept }) => kept).map(({ name, value }) => ({ name, value })),
      ...(isForm ? [{ name: 'Content-Type', value: 'multipart/form-data; boundary=b' }] : []),
    ],
    body: Buffer.from(bytes),
  };
}
