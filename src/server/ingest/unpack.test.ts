import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { brotliCompressSync, deflateRawSync, deflateSync, gzipSync } from 'node:zlib';
import fc from 'fast-check';
import { strToU8, zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { HarError } from '#core/har';
import { inflateWithZlib } from '../inflate';
import { gunzipped, readChunks, unzipCaptures } from './unpack';

/** Bytes in chunks of the given sizes, in one buffer that is used over and over, as a file is read. */
function* chunked(bytes: Uint8Array, sizes: readonly number[]): Generator<Uint8Array> {
  const reused = new Uint8Array(Math.max(...sizes));
  for (let at = 0, turn = 0; at < bytes.length; turn++) {
    const part = bytes.subarray(at, at + (sizes[turn % sizes.length] ?? 1));
    reused.set(part);
    yield reused.subarray(0, part.length);
    at += part.length;
  }
}

const join8 = (chunks: Iterable<Uint8Array>): Buffer => Buffer.concat([...chunks].map((chunk) => Buffer.from(chunk)));
const sizes = fc.array(fc.integer({ min: 1, max: 300 }), { minLength: 1, maxLength: 5 });
const problemOf = (run: () => unknown): string | undefined => {
  try {
    run();
  } catch (error) {
    return error instanceof HarError ? error.problem.code : 'another error';
  }
  return undefined;
};

describe('gunzipped', () => {
  it('passes plain bytes on and unpacks gzip, however they are cut into chunks', () => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 3, maxLength: 2000 }), sizes, (bytes, cut) => {
        expect(
          join8(
            gunzipped(
              chunked(
                gzipSync(bytes),
                cut.map((size) => size + 1),
              ),
            ),
          ),
        ).toEqual(Buffer.from(bytes));
        const plain = bytes[0] === 0x1f ? bytes.subarray(1) : bytes;
        const passed: number[] = [];
        for (const chunk of gunzipped(chunked(plain, cut))) passed.push(...chunk);
        expect(passed).toEqual([...plain]);
      }),
      { numRuns: 60 },
    );
  });

  it('stops at what grows without measure, before it has filled anything', () => {
    const bomb = gzipSync(Buffer.alloc(100_000_000));
    let unpacked = 0;
    const code = problemOf(() => {
      for (const chunk of gunzipped([bomb])) unpacked += chunk.length;
    });
    expect(code).toBe('unpacks-too-large');
    expect(unpacked).toBeLessThan(100_000_000);
  });
});

describe('unzipCaptures', () => {
  const places = () => {
    const folder = mkdtempSync(join(tmpdir(), 'trazado-zip-'));
    let count = 0;
    return { folder, placeFor: () => join(folder, `member-${count++}`) };
  };

  it('unpacks captures alone, to places of its own, whatever the members call themselves', () => {
    const zip = zipSync({
      '../../etc/x.har': strToU8('up'),
      'C:\\captures\\y.HAR': strToU8('back slashes'),
      '__MACOSX/._z.har': strToU8('resource fork'),
      'image.png': strToU8('no'),
      'deep/er/z.json': strToU8('z'.repeat(70_000)),
    });
    const { folder, placeFor } = places();
    const members = unzipCaptures(chunked(zip, [1, 500, 33]), placeFor);
    expect(members.map(({ name, bytes }) => [name, bytes])).toEqual([
      ['x.har', 2],
      ['y.HAR', 12],
      ['z.json', 70_000],
    ]);
    expect(readdirSync(folder).sort()).toEqual(['member-0', 'member-1', 'member-2']);
    expect(readFileSync(members[1]?.path ?? '', 'utf8')).toBe('back slashes');
  });

  it('says so where there is none', () => {
    expect(problemOf(() => unzipCaptures([zipSync({ 'a.txt': strToU8('x') })], places().placeFor))).toBe(
      'no-capture-inside',
    );
  });
});

describe('readChunks', () => {
  it('gives a file in the order of its bytes', () => {
    const path = join(mkdtempSync(join(tmpdir(), 'trazado-read-')), 'file');
    const bytes = Buffer.from(Array.from({ length: 2_500_000 }, (_, at) => at % 251));
    writeFileSync(path, bytes);
    let at = 0;
    for (const chunk of readChunks(path)) {
      expect(Buffer.compare(Buffer.from(chunk), bytes.subarray(at, at + chunk.length))).toBe(0);
      at += chunk.length;
    }
    expect(at).toBe(bytes.length);
  });
});

describe('inflateWithZlib', () => {
  const bytes = Buffer.from('the lamps are lit '.repeat(20));
  it.each([
    ['gzip', gzipSync(bytes)],
    ['deflate', deflateSync(bytes)],
    ['deflate', deflateRawSync(bytes)],
    ['br', brotliCompressSync(bytes)],
  ] as const)('unpacks %s', (coding, packed) => {
    expect(Buffer.from(inflateWithZlib(packed, coding, 1000) ?? [])).toEqual(bytes);
    expect(inflateWithZlib(packed, coding, 10)).toBeUndefined();
  });

  it('leaves alone what is not packed in that way', () => {
    for (const coding of ['gzip', 'deflate', 'br', 'zstd'] as const)
      expect(inflateWithZlib(bytes, coding, 1000)).toBeUndefined();
  });
});
