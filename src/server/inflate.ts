import { brotliDecompressSync, gunzipSync, inflateRawSync, inflateSync } from 'node:zlib';
import { Decompress } from 'fzstd';
import type { Inflate } from '#core/content';

/** Node's decompressors as core asks for them; zstd, which Node 20 does not have, by a package. */
export const inflateWithZlib: Inflate = (bytes, coding, limitBytes) => {
  const options = { maxOutputLength: limitBytes };
  try {
    switch (coding) {
      case 'gzip':
        return gunzipSync(bytes, options);
      case 'deflate':
        // RFC 9110 8.4.1.2: zlib-wrapped, though some servers send it bare.
        return (bytes[0] ?? 0) % 16 === 8 ? inflateSync(bytes, options) : inflateRawSync(bytes, options);
      case 'br':
        return brotliDecompressSync(bytes, options);
      case 'zstd':
        return inflateZstd(bytes, limitBytes);
      default:
        return coding satisfies never;
    }
  } catch {
    // Not packed after all, damaged, or too long unpacked: the bytes are shown as they are.
    return undefined;
  }
};

/** Piece by piece, so that a bomb is given up once it is longer than allowed. */
function inflateZstd(bytes: Uint8Array, limitBytes: number): Uint8Array | undefined {
  const chunks: Uint8Array[] = [];
  let length = 0;
  const stream = new Decompress((chunk) => {
    length += chunk.length;
    if (length > limitBytes) throw new RangeError('longer than allowed');
    chunks.push(chunk);
  });
  for (let at = 0; at < bytes.length; at += ZSTD_PIECE_BYTES) {
    stream.push(bytes.subarray(at, at + ZSTD_PIECE_BYTES), at + ZSTD_PIECE_BYTES >= bytes.length);
  }
  return length === 0 ? undefined : Buffer.concat(chunks);
}

const ZSTD_PIECE_BYTES = 64 * 1024;
