/** A line of bytes as it is read: where it begins, the bytes in hexadecimal, and what of them are ASCII characters. */
export interface HexLine {
  readonly offset: string;
  readonly hex: string;
  readonly ascii: string;
}

/** As many as fit beside their characters in the dossier's width. */
export const BYTES_PER_LINE = 8;

/** One line of a dump, by its number from 0. */
export function hexLine(bytes: Uint8Array, line: number): HexLine {
  const start = line * BYTES_PER_LINE;
  const row = bytes.subarray(start, start + BYTES_PER_LINE);
  const pairs = Array.from(row, (byte) => byte.toString(16).padStart(2, '0'));
  return {
    offset: start.toString(16).padStart(8, '0'),
    hex: pairs.join(' '),
    ascii: Array.from(row, (byte) => (byte >= 0x20 && byte < 0x7f ? String.fromCharCode(byte) : '·')).join(''),
  };
}
