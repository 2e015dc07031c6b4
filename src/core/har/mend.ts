/** What JSON has no words for and some recorders write all the same; it says as much as null. */
const NO_NUMBER = /^(?:NaN|-?Infinity|undefined)\b/;

/**
 * Makes JSON of a text that is nearly JSON: control characters that stand raw in strings are escaped (RFC 8259 7), numbers
 * that are none become null. What else is wrong is left as it is, for JSON.parse to refuse.
 */
export function mendJson(text: string): string {
  const pieces: string[] = [];
  let from = 0;
  let inString = false;
  const put = (at: number, length: number, instead: string): void => {
    pieces.push(text.slice(from, at), instead);
    from = at + length;
  };
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at);
    if (inString) {
      if (code === 0x5c) at++;
      else if (code === 0x22) inString = false;
      else if (code < 0x20) put(at, 1, `\\u${code.toString(16).padStart(4, '0')}`);
    } else if (code === 0x22) inString = true;
    else if (code === 0x4e || code === 0x49 || code === 0x75 || code === 0x2d) {
      const word = NO_NUMBER.exec(text.slice(at, at + 12))?.[0];
      if (word !== undefined) {
        put(at, word.length, 'null');
        at += word.length - 1;
      }
    }
  }
  pieces.push(text.slice(from));
  return pieces.join('');
}
