import { type BodyPart, bodyKind, bodyShape, bytesFromText, decodeText, fileNameOf, languageOf } from '#core/content';
import type { BodyView } from '#core/wire';
import { bodyAddress } from '../state/api';
import type { Content } from './content';

/** The content of a response's body. */
export function contentOfBody(captureId: string, index: number, body: BodyView): Content | undefined {
  if (body.shape === undefined || body.byteLength === undefined) return undefined;
  const { shape, language, mimeType, charsetType, byteLength, text, isCut, fileName } = body;
  const address = bodyAddress(captureId, index);
  return { shape, language, mimeType, charsetType, byteLength, text, isCut, fileName, address, bytes: undefined };
}

/** The content of bytes that the page has. */
export function contentOfBytes(bytes: Uint8Array, mimeType: string | undefined, fileName: string): Content {
  const kind = bodyKind(mimeType, bytes);
  const isText = kind === 'json' || kind === 'text';
  return {
    shape: bodyShape(mimeType, bytes, kind),
    language: languageOf(mimeType) ?? (kind === 'json' ? 'json' : undefined),
    mimeType,
    charsetType: mimeType,
    byteLength: bytes.length,
    text: isText ? decodeText(bytes, mimeType) : undefined,
    isCut: false,
    fileName,
    bytes: new Uint8Array(bytes),
    address: undefined,
  };
}

/** The content of a text, such as a message. */
export const contentOfText = (text: string, mimeType: string | undefined, fileName: string): Content => ({
  ...contentOfBytes(bytesFromText(text), mimeType, fileName),
  charsetType: undefined,
});

export const contentOfPart = (part: BodyPart, at: number): Content =>
  contentOfBytes(
    part.bytes,
    part.contentType,
    part.fileName ?? fileNameOf(`/${part.name ?? `part-${at + 1}`}`, part.contentType, undefined),
  );
