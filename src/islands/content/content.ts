import { decodeText, type Language, type Shape } from '#core/content';
import { type Answer, fetchBytes } from '../state/api';

/** Something that an exchange carried, as it is shown: its text where it is text, and where its bytes come from. */
export interface Content {
  readonly shape: Shape;
  readonly language: Language | undefined;
  readonly mimeType: string | undefined;
  /** The type whose charset the bytes have; absent where they are UTF-8. */
  readonly charsetType: string | undefined;
  readonly byteLength: number;
  /** All of its text, or its beginning; absent where it is no text. */
  readonly text: string | undefined;
  /** True where `text` stops before the content does. */
  readonly isCut: boolean;
  /** The name that it is saved under. */
  readonly fileName: string;
  /** Its bytes, where the page has them already. */
  readonly bytes: Uint8Array<ArrayBuffer> | undefined;
  /** Where its bytes are to be had; absent for what is only in the page. */
  readonly address: string | undefined;
}

/** All of a content's bytes. */
export async function bytesOf(content: Content): Promise<Answer<Uint8Array<ArrayBuffer>>> {
  if (content.bytes !== undefined) return { ok: true, value: content.bytes };
  if (content.address === undefined) {
    return { ok: true, value: new TextEncoder().encode(content.text ?? '') };
  }
  return fetchBytes(content.address);
}

/** All of a content's text. */
export async function textOf(content: Content): Promise<Answer<string>> {
  if (content.text !== undefined && !content.isCut) return { ok: true, value: content.text };
  const answer = await bytesOf(content);
  return answer.ok ? { ok: true, value: decodeText(answer.value, content.charsetType) } : answer;
}
