import { closeSync, openSync, readSync, writeSync } from 'node:fs';
import { basename } from 'node:path';
import { Gunzip, Unzip, UnzipInflate } from 'fflate';
import { harError } from '#core/har';

// Files as they are sent around: plain, gzip (RFC 1952), or a zip of several. All of it a chunk at a time.

const CHUNK_BYTES = 1024 * 1024;
/** Text packs to a twentieth, at the very best to a hundredth; beyond this a file was made to fill the disk. */
const UNPACKED_RATIO_LIMIT = 300;
/** Small files may pack as well as they like. */
const UNPACKED_FREE_BYTES = 64 * 1024 * 1024;

/** The bytes of a file as they lie on disk. Each chunk is gone when the next one is asked for. */
export function* readChunks(path: string): Generator<Uint8Array> {
  const file = openSync(path, 'r');
  const chunk = Buffer.allocUnsafe(CHUNK_BYTES);
  try {
    for (;;) {
      const length = readSync(file, chunk, 0, CHUNK_BYTES, null);
      if (length === 0) return;
      yield chunk.subarray(0, length);
    }
  } finally {
    closeSync(file);
  }
}

const isGzip = (bytes: Uint8Array): boolean => bytes[0] === 0x1f && bytes[1] === 0x8b;

/** True for the first bytes of a zip file (a local file header). */
export const isZip = (bytes: Uint8Array): boolean =>
  bytes[0] === 0x50 && bytes[1] === 0x4b && bytes[2] === 0x03 && bytes[3] === 0x04;

/** Keeps watch over how far a file unpacks. */
function meter(): (packed: number, unpacked: number) => void {
  let packedBytes = 0;
  let unpackedBytes = 0;
  return (packed, unpacked) => {
    packedBytes += packed;
    unpackedBytes += unpacked;
    if (unpackedBytes > UNPACKED_FREE_BYTES && unpackedBytes > packedBytes * UNPACKED_RATIO_LIMIT) {
      throw harError({ code: 'unpacks-too-large', packedBytes, unpackedBytes });
    }
  };
}

/** Passes plain bytes on and unpacks gzip. Throws a HarError for a damaged file or one that grows without measure. */
export function* gunzipped(chunks: Iterable<Uint8Array>): Generator<Uint8Array> {
  let isPacked: boolean | undefined;
  const ready: Uint8Array[] = [];
  const measure = meter();
  const gunzip = new Gunzip((chunk) => {
    measure(0, chunk.length);
    ready.push(chunk);
  });
  for (const chunk of chunks) {
    isPacked ??= isGzip(chunk);
    if (!isPacked) {
      yield chunk;
      continue;
    }
    measure(chunk.length, 0);
    // The unpacker keeps what it cannot use yet, and the chunk is not ours to keep.
    unpackWith('gzip', () => gunzip.push(new Uint8Array(chunk)));
    yield* ready.splice(0);
  }
}

/** A HarError passes through; the unpacker's own complaints become one. */
function unpackWith(kind: 'gzip' | 'zip', run: () => void): void {
  try {
    run();
  } catch (error) {
    if (error instanceof Error && error.name === 'HarError') throw error;
    throw harError({ code: 'damaged-archive', kind });
  }
}

/** A capture that was in a zip file, unpacked into a file of its own. */
export interface UnpackedMember {
  readonly path: string;
  /** Its name in the zip without folders: a name to show, never a place to write to. */
  readonly name: string;
  readonly bytes: number;
}

/**
 * Unpacks the captures of a zip file.
 * @param placeFor the path to write the next one to
 */
export function unzipCaptures(chunks: Iterable<Uint8Array>, placeFor: () => string): UnpackedMember[] {
  const members: UnpackedMember[] = [];
  const measure = meter();
  const unzip = new Unzip((member) => {
    const name = basename(member.name.replaceAll('\\', '/'));
    if (!/\.(har|json)$/i.test(name) || name.startsWith('.')) return;
    const path = placeFor();
    const file = openSync(path, 'w');
    let bytes = 0;
    member.ondata = (error, data, isLast) => {
      if (error !== null) throw error;
      measure(0, data.length);
      bytes += data.length;
      writeSync(file, data);
      if (!isLast) return;
      closeSync(file);
      members.push({ path, name, bytes });
    };
    member.start();
  });
  unzip.register(UnzipInflate);
  for (const chunk of chunks) {
    measure(chunk.length, 0);
    unpackWith('zip', () => unzip.push(new Uint8Array(chunk)));
  }
  unpackWith('zip', () => unzip.push(new Uint8Array(), true));
  if (members.length === 0) throw harError({ code: 'no-capture-inside' });
  return members;
}
