import { closeSync, createWriteStream, openSync, readSync, statSync, writeSync } from 'node:fs';
import { basename } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { crc32 } from 'node:zlib';
import { Unzip, UnzipInflate } from 'fflate';
import {
  Z_BUF_ERROR,
  Z_NO_FLUSH,
  Z_OK,
  Z_STREAM_END,
  ZStream,
  zlibInflate,
  zlibInflateInit2,
  zlibInflateReset,
} from 'pako';
import * as yauzl from 'yauzl';
import { harError } from '#core/har';
import type { Completeness } from '#core/model';

// Files as they are sent around: plain, gzip (RFC 1952), or a zip of several. All of it a chunk at a time.

/** What was wrong with an archive that could be unpacked at least in part. */
export type ArchiveDamage = NonNullable<Completeness['archive']>;

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

/** True for the first bytes of a zip file: a local file header, or the end of one that is empty. */
export const isZip = (bytes: Uint8Array): boolean =>
  bytes[0] === 0x50 &&
  bytes[1] === 0x4b &&
  ((bytes[2] === 0x03 && bytes[3] === 0x04) || (bytes[2] === 0x05 && bytes[3] === 0x06));

type Meter = (packed: number, unpacked: number) => void;

/** Keeps watch over how far a file unpacks. */
function meter(): Meter {
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

/** What packs its own packed output is unpacked this often. */
const GZIP_LAYERS = 3;

/**
 * Passes plain bytes on and unpacks gzip, also where it was packed several times. What comes before a damaged place is kept:
 * `onDamage` hears of it. Throws a HarError for a file of which nothing can be unpacked, or that grows without measure.
 */
export function* gunzipped(
  chunks: Iterable<Uint8Array>,
  onDamage: (damage: ArchiveDamage) => void = () => undefined,
  layers = GZIP_LAYERS,
): Generator<Uint8Array> {
  const iterator = chunks[Symbol.iterator]();
  try {
    const first = iterator.next();
    if (first.done === true) return;
    const all = startingWith(first.value, iterator);
    if (layers > 0 && isGzip(first.value)) yield* gunzipped(unpackGzip(all, onDamage), onDamage, layers - 1);
    else yield* all;
  } finally {
    iterator.return?.();
  }
}

function* startingWith(first: Uint8Array, rest: Iterator<Uint8Array>): Generator<Uint8Array> {
  yield first;
  for (let next = rest.next(); next.done !== true; next = rest.next()) yield next.value;
}

const OUTPUT_BYTES = 128 * 1024;
/** zlib's way to say that only gzip is expected, with the largest window. */
const GZIP_WINDOW_BITS = 15 + 16;

/** Unpacks the members of a gzip file one after the other, each held against its checksum (RFC 1952 2.2, 2.3.1). */
function* unpackGzip(chunks: Iterable<Uint8Array>, onDamage: (damage: ArchiveDamage) => void): Generator<Uint8Array> {
  const measure = meter();
  const stream = new ZStream();
  zlibInflateInit2(stream, GZIP_WINDOW_BITS);
  let hasEnded = false;
  let unpackedBytes = 0;
  for (const chunk of chunks) {
    stream.input = chunk;
    stream.next_in = 0;
    stream.avail_in = chunk.length;
    measure(chunk.length, 0);
    while (stream.avail_in > 0) {
      if (hasEnded) {
        // What stands behind the last member, padding mostly, is no part of it.
        if (chunk[stream.next_in] !== 0x1f) return;
        zlibInflateReset(stream);
        hasEnded = false;
      }
      stream.output = new Uint8Array(OUTPUT_BYTES);
      stream.next_out = 0;
      stream.avail_out = OUTPUT_BYTES;
      const status = zlibInflate(stream, Z_NO_FLUSH);
      if (stream.next_out > 0) {
        measure(0, stream.next_out);
        unpackedBytes += stream.next_out;
        yield stream.output.subarray(0, stream.next_out);
      }
      if (status === Z_STREAM_END) hasEnded = true;
      else if (status !== Z_OK && status !== Z_BUF_ERROR) {
        if (unpackedBytes === 0) throw harError({ code: 'damaged-archive', kind: 'gzip' });
        // Only the check at the very end tells of bytes that were altered and unpack all the same.
        onDamage(/(?:data|length) check/.test(stream.msg) ? 'checksum' : 'broken');
        return;
      } else if (status === Z_BUF_ERROR) break;
    }
  }
  if (hasEnded) return;
  if (unpackedBytes === 0) throw harError({ code: 'damaged-archive', kind: 'gzip' });
  onDamage('broken');
}

/** A capture that was in a zip file, unpacked into a file of its own. */
export interface UnpackedMember {
  readonly path: string;
  /** Its name in the zip without folders: a name to show, never a place to write to. */
  readonly name: string;
  readonly bytes: number;
  readonly damage?: ArchiveDamage;
}

const lastPart = (name: string): string => basename(name.replaceAll('\\', '/'));

const memberName = ({ generalPurposeBitFlag, fileNameRaw, extraFields }: yauzl.Entry): string =>
  lastPart(yauzl.getFileNameLowLevel(generalPurposeBitFlag, fileNameRaw, extraFields, false));
const mayBeCapture = (name: string): boolean => /\.(har|json)(\.gz)?$/i.test(name) && !name.startsWith('.');

const STORED = 0;
const DEFLATED = 8;

/**
 * Unpacks the captures of a zip file by its directory, each held against its checksum; of one without a directory, as it is
 * where it was cut off, what can be unpacked in the order of its bytes.
 * @param placeFor the path to write the next one to
 */
export async function unzipCaptures(path: string, placeFor: () => string): Promise<UnpackedMember[]> {
  let zip: yauzl.ZipFile;
  try {
    // Names are only shown, so that those that lead out of a folder need not spoil the whole file.
    zip = await yauzl.openPromise(path, { lazyEntries: true, autoClose: false, decodeStrings: false });
  } catch {
    return salvageZip(readChunks(path), placeFor);
  }
  const measure = meter();
  measure(statSync(path).size, 0);
  const members: UnpackedMember[] = [];
  const refused: yauzl.Entry[] = [];
  let inner: string | undefined;
  try {
    for await (const entry of zip.eachEntry()) {
      const name = memberName(entry);
      if (/\.zip$/i.test(name)) inner ??= name;
      if (!mayBeCapture(name)) continue;
      const isKnown = entry.compressionMethod === STORED || entry.compressionMethod === DEFLATED;
      if (entry.isEncrypted() || !isKnown) refused.push(entry);
      else members.push(await unpackMember(zip, entry, placeFor(), measure));
    }
  } catch (error) {
    if (error instanceof Error && error.name === 'HarError') throw error;
    if (members.length === 0) return salvageZip(readChunks(path), placeFor);
  } finally {
    zip.close();
  }
  const [first] = refused;
  const unpacked = members.filter(({ bytes, damage }) => bytes > 0 || damage === undefined);
  if (unpacked.length > 0) return unpacked;
  if (members.length > 0) throw harError({ code: 'damaged-archive', kind: 'zip' });
  if (first?.isEncrypted() === true) throw harError({ code: 'locked-archive', name: memberName(first) });
  if (first !== undefined) {
    throw harError({ code: 'unknown-packing', name: memberName(first), method: first.compressionMethod });
  }
  throw harError({ code: 'no-capture-inside', inner });
}

async function unpackMember(
  zip: yauzl.ZipFile,
  entry: yauzl.Entry,
  path: string,
  measure: Meter,
): Promise<UnpackedMember> {
  let bytes = 0;
  let sum = 0;
  const check = new Transform({
    transform(chunk: Buffer, _encoding, done) {
      bytes += chunk.length;
      sum = crc32(chunk, sum);
      try {
        measure(0, chunk.length);
        done(null, chunk);
      } catch (error) {
        done(error as Error);
      }
    },
  });
  const name = memberName(entry);
  try {
    await pipeline(await zip.openReadStreamPromise(entry), check, createWriteStream(path));
  } catch (error) {
    const { name: kind, code } = error as NodeJS.ErrnoException;
    if (kind === 'HarError' || code === 'ENOSPC') throw error;
    return { path, name, bytes, damage: 'broken' };
  }
  return { path, name, bytes, ...(sum === entry.crc32 ? {} : { damage: 'checksum' as const }) };
}

/** Unpacks a zip file without its directory, as far as it goes. */
function salvageZip(chunks: Iterable<Uint8Array>, placeFor: () => string): UnpackedMember[] {
  const members: UnpackedMember[] = [];
  const measure = meter();
  let open: { readonly path: string; readonly name: string; readonly file: number; bytes: number } | undefined;
  const end = (): void => {
    if (open === undefined) return;
    closeSync(open.file);
    const { path, name, bytes } = open;
    if (bytes > 0) members.push({ path, name, bytes, damage: 'broken' });
    open = undefined;
  };
  const unzip = new Unzip((member) => {
    const name = lastPart(member.name);
    if (!mayBeCapture(name)) return;
    end();
    const path = placeFor();
    const current = { path, name, file: openSync(path, 'w'), bytes: 0 };
    open = current;
    member.ondata = (error, data, isLast) => {
      if (error !== null) throw error;
      measure(0, data.length);
      current.bytes += data.length;
      writeSync(current.file, data);
      if (isLast) end();
    };
    member.start();
  });
  unzip.register(UnzipInflate);
  try {
    for (const chunk of chunks) {
      measure(chunk.length, 0);
      unzip.push(new Uint8Array(chunk));
    }
  } catch (error) {
    const { name, code } = error as NodeJS.ErrnoException;
    if (name === 'HarError' || code === 'ENOSPC') {
      end();
      throw error;
    }
  }
  end();
  if (members.length === 0) throw harError({ code: 'damaged-archive', kind: 'zip' });
  return members;
}
