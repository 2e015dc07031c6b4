const encoder = new TextEncoder();

/** Percent-encoding undone, as UTF-8 (RFC 3986 2.1); the text itself where it is none. */
export function percentDecoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

/** A name or value of application/x-www-form-urlencoded as what it says (WHATWG URL 5.1). */
export const formDecoded = (text: string): string => percentDecoded(text.replaceAll('+', ' '));

/** Every byte of a text in UTF-8 percent-encoded, whatever it is. */
export const percentEncoded = (text: string): string =>
  Array.from(encoder.encode(text), (byte) => `%${byte.toString(16).padStart(2, '0').toUpperCase()}`).join('');
