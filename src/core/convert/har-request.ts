import { base64Of, textFromBytes } from '../content';
import type { Json } from '../har';
import type { NameValue } from '../model';

const UNKNOWN = -1;

/** A request that is sent, as the `request` of an entry (HAR 1.2). */
export function harRequest(request: {
  readonly method: string;
  readonly url: string;
  readonly httpVersion: string;
  readonly headers: readonly NameValue[];
  readonly body: Uint8Array | undefined;
}): Json {
  const { method, url, httpVersion, headers, body } = request;
  const mimeType = headers.find(({ name }) => name.toLowerCase() === 'content-type')?.value ?? '';
  const text = body === undefined ? undefined : textFromBytes(body);
  const query = url.includes('?') ? new URLSearchParams(url.slice(url.indexOf('?') + 1)) : [];
  return {
    method,
    url,
    httpVersion,
    headers: headers.map(({ name, value }) => ({ name, value })),
    queryString: [...query].map(([name, value]) => ({ name, value })),
    cookies: [],
    headersSize: UNKNOWN,
    bodySize: body?.length ?? 0,
    ...(body === undefined || body.length === 0
      ? {}
      : { postData: text === undefined ? { mimeType, text: base64Of(body), encoding: 'base64' } : { mimeType, text } }),
  } as unknown as Json;
}
