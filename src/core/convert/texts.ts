import { bytesFromText, textFromBytes } from '../content';
import type { Draft, DraftPayload } from './draft';

/**
 * A draft with each text of it that is sent changed: its address, the values of its headers, and its payload, a form's
 * fields too. What is no text stays as it is: bytes, and the names of files.
 */
export const mapTexts = (draft: Draft, change: (text: string) => string): Draft => ({
  ...draft,
  url: change(draft.url),
  headers: draft.headers.map((header) => ({ ...header, value: change(header.value) })),
  payload: mapPayload(draft.payload, change),
});

function mapPayload(payload: DraftPayload, change: (text: string) => string): DraftPayload {
  switch (payload.type) {
    case 'text':
      return { type: 'text', text: change(payload.text) };
    case 'parts':
      return { ...payload, parts: payload.parts.map((part) => ({ ...part, bytes: changeBytes(part.bytes, change) })) };
    case 'none':
    case 'unrecorded':
    case 'bytes':
    case 'file':
      return payload;
    default:
      return payload satisfies never;
  }
}

function changeBytes(bytes: Uint8Array | undefined, change: (text: string) => string): Uint8Array | undefined {
  const text = bytes === undefined ? undefined : textFromBytes(bytes);
  if (text === undefined) return bytes;
  const changed = change(text);
  return changed === text ? bytes : bytesFromText(changed);
}
