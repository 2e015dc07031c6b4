import * as zlib from 'node:zlib';
import { acceptsCoding } from '#core/http';

const { brotliCompressSync, constants, deflateSync, gzipSync } = zlib;
/** Node has it from 22.15 on. */
const { zstdCompressSync } = zlib as typeof zlib & { zstdCompressSync?: (bytes: Uint8Array) => Buffer };

const PACKERS: Readonly<Record<string, ((bytes: Uint8Array) => Buffer) | undefined>> = {
  gzip: (bytes) => gzipSync(bytes),
  'x-gzip': (bytes) => gzipSync(bytes),
  deflate: (bytes) => deflateSync(bytes),
  // As good as servers do it while somebody waits.
  br: (bytes) => brotliCompressSync(bytes, { params: { [constants.BROTLI_PARAM_QUALITY]: 4 } }),
  zstd: zstdCompressSync,
};

/**
 * The content coding in which a response is given (RFC 9110 8.4.1, 12.5.3): the captured one, where the client takes it and it
 * can be made here; undefined where it is given as it is.
 */
export function chooseCoding(captured: string | undefined, acceptEncoding: string | undefined): string | undefined {
  if (captured === undefined || PACKERS[captured] === undefined || acceptEncoding === undefined) return undefined;
  return acceptsCoding(acceptEncoding, [captured]) ? captured : undefined;
}

/** Bytes in a coding that `chooseCoding` gave. */
export function packBytes(bytes: Uint8Array, coding: string): Buffer {
  const pack = PACKERS[coding];
  if (pack === undefined) throw new Error(`nothing packs ${coding}`);
  return pack(bytes);
}
