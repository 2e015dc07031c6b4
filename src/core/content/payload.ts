import { essence } from '../har';
import type { Payload, PayloadParam } from '../model';
import { recordedBytes } from './body';
import { bytesFromLatin1, bytesFromText } from './bytes';

/** What is known of a payload: its bytes, or only its parts (multipart forms often have no text recorded). */
export type PayloadContent =
  | { readonly type: 'bytes'; readonly bytes: Uint8Array }
  | { readonly type: 'parts'; readonly parts: readonly PayloadParam[] }
  | { readonly type: 'unrecorded' };

/**
 * The bytes of a request's payload as they were sent.
 * @param wireBytes the payload's recorded length, which tells text from bytes kept one to a character
 */
export function readPayloadContent(payload: Payload, wireBytes: number | undefined): PayloadContent {
  const { recorded, params } = payload;
  if (recorded !== undefined && recorded.text !== '') {
    const bytes = recorded.encoding === 'base64' ? recordedBytes(recorded) : bytesOfText(recorded.text, wireBytes);
    return { type: 'bytes', bytes };
  }
  if (params !== undefined) {
    const isForm = essence(payload.mimeType) === 'application/x-www-form-urlencoded';
    return isForm ? { type: 'bytes', bytes: formBytes(params) } : { type: 'parts', parts: params };
  }
  if (recorded?.text === '' && (wireBytes ?? 0) === 0) return { type: 'bytes', bytes: new Uint8Array() };
  return { type: 'unrecorded' };
}

/** Some recorders keep binary payloads as text of one character a byte; the recorded length gives them away. */
function bytesOfText(text: string, wireBytes: number | undefined): Uint8Array {
  const utf8 = bytesFromText(text);
  if (wireBytes === undefined || utf8.length === wireBytes || text.length !== wireBytes) return utf8;
  return bytesFromLatin1(text) ?? utf8;
}

/** Parameters as application/x-www-form-urlencoded (WHATWG URL 5.2); recorders store them decoded. */
function formBytes(params: readonly PayloadParam[]): Uint8Array {
  const search = new URLSearchParams(params.map(({ name, value }): [string, string] => [name, value]));
  return bytesFromText(search.toString());
}
