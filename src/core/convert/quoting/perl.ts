import { hex, quoteBy } from './escape';

const double = quoteBy({
  open: '"',
  close: '"',
  slashed: /[\\"$@]/g,
  coded: (codePoint) => `\\x{${hex(codePoint, 2)}}`,
});

/** A Perl string literal of bytes, as HTTP::Tiny sends them: what is not ASCII is written as its bytes in UTF-8 (perlop). */
export function quotePerl(text: string): string {
  const isPlain = /^[\x20-\x7e]*$/.test(text);
  if (isPlain) return `'${text.replace(/[\\']/g, '\\$&')}'`;
  const bytes = new TextEncoder().encode(text);
  return double(Array.from(bytes, (byte) => String.fromCharCode(byte)).join('')).replace(
    /[^\0-\x7f]/g,
    (character) => `\\x{${hex(character.charCodeAt(0), 2)}}`,
  );
}
