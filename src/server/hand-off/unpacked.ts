import { isUtf8 } from 'node:buffer';
import { brotliDecompressSync, gunzipSync, inflateRawSync, inflateSync } from 'node:zlib';
import { Decompress } from 'fzstd';
import { isObject, type Json, member } from '#core/har';

// What the proof makes of bodies that are bytes: every way of unpacking is tried, whatever the headers say. It shares nothing
// with what replaces.

/** What a body is beside what stands in the file. */
export interface Unpacked {
  /** What it says, and how it is packed or written. */
  readonly texts: readonly { readonly text: string; readonly as: string }[];
  /** Whether any of it is text: of what is none only bytes can be looked through. */
  readonly isText: boolean;
}

const NOTHING: Unpacked = { texts: [], isText: true };
/** Longer ones are bombs. */
const LIMIT = { maxOutputLength: 64 * 1024 * 1024 };

const WAYS: readonly (readonly [string, (bytes: Buffer) => Uint8Array])[] = [
  ['gzip', (bytes) => gunzipSync(bytes, LIMIT)],
  ['deflate', (bytes) => inflateSync(bytes, LIMIT)],
  ['bare deflate', (bytes) => inflateRawSync(bytes, LIMIT)],
  ['brotli', (bytes) => brotliDecompressSync(bytes, LIMIT)],
  ['zstd', inflateZstd],
];

/** What the body or payload of one message says (HAR 1.2, content and postData). */
export function unpackContent(content: Json | undefined): Unpacked {
  const text = isObject(content ?? null) ? member(content ?? null, 'text') : undefined;
  if (typeof text !== 'string' || text === '' || member(content ?? null, 'encoding') !== 'base64') return NOTHING;
  const bytes = Buffer.from(text, 'base64');
  const own = textIn(bytes);
  // Text in UTF-8 stands in the file in base64, and is found in that.
  if (own !== undefined) return { texts: own.as === 'UTF-8' ? [] : [own], isText: true };
  const unpacked = WAYS.flatMap(([as, unpack]) => {
    const inner = tried(() => unpack(bytes));
    if (inner === undefined || inner.length === 0) return [];
    const buffer = Buffer.from(inner);
    const said = textIn(buffer);
    return [{ text: said?.text ?? buffer.toString('latin1'), as, isText: said !== undefined }];
  });
  return { texts: unpacked, isText: unpacked.some(({ isText }) => isText) };
}

/** UTF-16 has a mark, or a zero in every other byte of what is written in Latin letters. */
function textIn(bytes: Buffer): { readonly text: string; readonly as: string } | undefined {
  const [even, odd] = [0, 1].map((from) => zerosIn(bytes, from));
  const isLittle = (bytes[0] === 0xff && bytes[1] === 0xfe) || (odd ?? 0) > 0.5;
  const isBig = (bytes[0] === 0xfe && bytes[1] === 0xff) || (even ?? 0) > 0.5;
  if (bytes.length % 2 === 0 && isLittle !== isBig) {
    const little = isLittle ? bytes : Buffer.from(bytes).swap16();
    return { text: little.toString('utf16le'), as: 'UTF-16' };
  }
  return isUtf8(bytes) ? { text: bytes.toString('utf8'), as: 'UTF-8' } : undefined;
}

const LOOKED_AT = 2000;

/** The share of zeros among the first bytes at even or at odd places. */
function zerosIn(bytes: Buffer, from: number): number {
  const end = Math.min(bytes.length, LOOKED_AT);
  let zeros = 0;
  for (let at = from; at < end; at += 2) if (bytes[at] === 0) zeros++;
  return end === 0 ? 0 : zeros / Math.ceil(end / 2);
}

function tried<T>(unpack: () => T): T | undefined {
  try {
    return unpack();
  } catch {
    // Not packed in that way, or longer than is unpacked.
    return undefined;
  }
}

function inflateZstd(bytes: Buffer): Uint8Array {
  if (bytes.readUInt32LE(0) !== 0xfd2fb528) throw new RangeError('no mark of zstd');
  const chunks: Uint8Array[] = [];
  let length = 0;
  const stream = new Decompress((chunk) => {
    length += chunk.length;
    if (length > LIMIT.maxOutputLength) throw new RangeError('longer than allowed');
    chunks.push(chunk);
  });
  for (let at = 0; at < bytes.length; at += PIECE_BYTES)
    stream.push(bytes.subarray(at, at + PIECE_BYTES), at + PIECE_BYTES >= bytes.length);
  return Buffer.concat(chunks);
}
const PIECE_BYTES = 64 * 1024;
