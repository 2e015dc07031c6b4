/**
 * Decodes base64 (RFC 4648 4 and 5), tolerant of white space and of missing or surplus padding. Undefined where it is no
 * base64.
 */
export function bytesFromBase64(text: string): Uint8Array | undefined {
  const plain = withoutPadding(text.replace(/\s+/g, '').replaceAll('-', '+').replaceAll('_', '/'));
  let binary: string;
  try {
    binary = atob(plain);
  } catch {
    return undefined;
  }
  const bytes = new Uint8Array(binary.length);
  for (let at = 0; at < binary.length; at++) bytes[at] = binary.charCodeAt(at);
  return bytes;
}

/** Bytes as base64 (RFC 4648, section 4). */
export function base64Of(bytes: Uint8Array): string {
  let binary = '';
  for (let at = 0; at < bytes.length; at += 8192) binary += String.fromCharCode(...bytes.subarray(at, at + 8192));
  return btoa(binary);
}

/** By hand: an expression that ends in "=*$" looks again at every sign in a long run of them. */
function withoutPadding(text: string): string {
  let end = text.length;
  while (end > 0 && text.charCodeAt(end - 1) === 0x3d) end--;
  return text.slice(0, end);
}

export const bytesFromText = (text: string): Uint8Array => new TextEncoder().encode(text);

/** Bytes one after the other. */
export function joinBytes(chunks: readonly Uint8Array[]): Uint8Array {
  const all = new Uint8Array(chunks.reduce((sum, chunk) => sum + chunk.length, 0));
  let at = 0;
  for (const chunk of chunks) {
    all.set(chunk, at);
    at += chunk.length;
  }
  return all;
}

/** One byte for each character; undefined where a character is beyond U+00FF. */
export function bytesFromLatin1(text: string): Uint8Array | undefined {
  const bytes = new Uint8Array(text.length);
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at);
    if (code > 0xff) return undefined;
    bytes[at] = code;
  }
  return bytes;
}

/** The text that bytes are in UTF-8; undefined where they are none. */
export function textFromBytes(bytes: Uint8Array): string | undefined {
  try {
    return new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(bytes);
  } catch {
    return undefined;
  }
}
