/** Compressions that bodies travel in (RFC 9110 8.4.1, RFC 7932, RFC 8878). */
export type Coding = 'gzip' | 'deflate' | 'br' | 'zstd';

/**
 * What core needs of its surroundings to unpack a body: the bytes unpacked, or undefined where they are not in that
 * coding, are longer than `limitBytes` unpacked, or the coding is not to be had here.
 */
export type Inflate = (bytes: Uint8Array, coding: Coding, limitBytes: number) => Uint8Array | undefined;

const MAGIC: Partial<Record<Coding, readonly number[]>> = {
  gzip: [0x1f, 0x8b],
  zstd: [0x28, 0xb5, 0x2f, 0xfd],
};

/**
 * The coding that recorded bytes are still in, although recorders are to store them decoded: what content-encoding
 * names, believed only where the bytes bear its mark. brotli and deflate have no mark, so `inflate` has to try them.
 */
export function findRemainingCoding(contentEncoding: string | undefined, bytes: Uint8Array): Coding | undefined {
  const last = contentEncoding?.split(',').at(-1)?.trim().toLowerCase();
  const coding = last === 'x-gzip' ? 'gzip' : last;
  if (coding !== 'gzip' && coding !== 'deflate' && coding !== 'br' && coding !== 'zstd') return undefined;
  return MAGIC[coding] === undefined || bearsMark(bytes, coding) ? coding : undefined;
}

/** Whether bytes begin as those in a coding do; false for codings without a mark. */
export const bearsMark = (bytes: Uint8Array, coding: Coding): boolean =>
  MAGIC[coding]?.every((byte, at) => bytes[at] === byte) ?? false;
