const encoder = new TextEncoder();

/** Percent-encoding undone, as UTF-8 (RFC 3986 2.1); what is none stays as it stands, such as the sign in "100 %". */
export function percentDecoded(text: string): string {
  return decoded(text) ?? text.replace(/(?:%[0-9a-f]{2})+/gi, (run) => decoded(run) ?? run);
}

function decoded(text: string): string | undefined {
  try {
    return decodeURIComponent(text);
  } catch {
    return undefined;
  }
}

/** A name or value of application/x-www-form-urlencoded as what it says (WHATWG URL 5.1). */
export const formDecoded = (text: string): string => percentDecoded(text.replaceAll('+', ' '));

/** Every byte of a text in UTF-8 percent-encoded, whatever it is. */
export const percentEncoded = (text: string): string =>
  Array.from(encoder.encode(text), (byte) => `%${byte.toString(16).padStart(2, '0').toUpperCase()}`).join('');
