import { brotliDecompressSync, gunzipSync, inflateRawSync, inflateSync } from 'node:zlib';
import type { Inflate } from '#core/content';

/** Node's decompressors as core asks for them; zstd is not among those of Node 20, so such bodies stay packed. */
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
        return undefined;
      default:
        return coding satisfies never;
    }
  } catch {
    // Not packed after all, damaged, or too long unpacked: the bytes are shown as they are.
    return undefined;
  }
};
