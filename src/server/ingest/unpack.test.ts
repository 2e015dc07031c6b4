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

describe('gzip that is damaged', () => {
  const text = JSON.stringify({ log: { entries: Array.from({ length: 400 }, (_, at) => ({ at, x: Math.sin(at) })) } });
  const packed = gzipSync(text);
  const unpack = (bytes: Uint8Array): { text: string; damage: string | undefined } => {
    let damage: string | undefined;
    const out = join8(
      gunzipped(chunked(bytes, [700, 64]), (found) => {
        damage = found;
      }),
    );
    return { text: out.toString('latin1'), damage };
  };

  it('never passes altered bytes on without a word, whichever bit is flipped', () => {
    fc.assert(
      fc.property(fc.integer({ min: 10 * 8, max: packed.length * 8 - 1 }), (bit) => {
        const damaged = Buffer.from(packed);
        damaged[bit >> 3] = (damaged[bit >> 3] ?? 0) ^ (1 << (bit & 7));
        const code = problemOf(() => {
          const { text: out, damage } = unpack(damaged);
          if (damage === undefined) expect(out).toBe(text);
        });
        expect([undefined, 'damaged-archive']).toContain(code);
      }),
      { numRuns: 400 },
    );
  });

  it('passes on what comes before the place where it is cut', () => {
    for (const cut of [packed.length - 1, packed.length - 9, packed.length >> 1]) {
      const { text: out, damage } = unpack(packed.subarray(0, cut));
      expect(text.startsWith(out)).toBe(true);
      expect({ damage, isLong: out.length > 1000 }).toEqual({ damage: 'broken', isLong: true });
    }
  });

  it('does not mind padding or text behind its end, several members, or gzip in gzip', () => {
    for (const tail of [Buffer.alloc(5000), Buffer.from('-- padding'), Buffer.alloc(0)]) {
      expect(unpack(Buffer.concat([packed, tail]))).toEqual({ text, damage: undefined });
    }
    for (const size of [1, 63, 64, 700]) {
      const two = Buffer.concat([gzipSync(text.slice(0, size)), gzipSync(text.slice(size))]);
      expect(unpack(two)).toEqual({ text, damage: undefined });
    }
    expect(unpack(gzipSync(gzipSync(packed)))).toEqual({ text, damage: undefined });
  });
});

describe('unzipCaptures', () => {
  const unzip = async (bytes: Uint8Array) => {
    const folder = mkdtempSync(join(tmpdir(), 'trazado-zip-'));
    writeFileSync(join(folder, 'zip'), bytes);
    let count = 0;
    const members = await unzipCaptures(join(folder, 'zip'), () => join(folder, `member-${count++}`));
    return { folder, members, texts: members.map(({ path }) => readFileSync(path, 'latin1')) };
  };
  const codeOf = (bytes: Uint8Array): Promise<unknown> =>
    unzip(bytes).then(
      () => 'unpacked',
      (error: unknown) => (error instanceof HarError ? error.problem.code : error),
    );
  const text = 'the lamps are lit '.repeat(4000);

  it('unpacks captures alone, to places of its own, whatever the members call themselves', async () => {
    const zip = zipSync({
      '../../etc/x.har': strToU8('up'),
      'C:\\captures\\y.HAR': strToU8('back slashes'),
      '__MACOSX/._z.har': strToU8('resource fork'),
      'image.png': strToU8('no'),
      'deep/er/z.json': strToU8('z'.repeat(70_000)),
      'packed.har.gz': gzipSync('in gzip'),
    });
    const { folder, members, texts } = await unzip(zip);
    expect(members.map(({ name, damage }) => [name, damage])).toEqual([
      ['x.har', undefined],
      ['y.HAR', undefined],
      ['z.json', undefined],
      ['packed.har.gz', undefined],
    ]);
    expect(members.map(({ bytes }) => bytes).slice(0, 3)).toEqual([2, 12, 70_000]);
    expect(readdirSync(folder).sort()).toEqual(['member-0', 'member-1', 'member-2', 'member-3', 'zip']);
    expect(texts[1]).toBe('back slashes');
  });

  it('says so where there is none, and where another zip is inside', async () => {
    expect(await codeOf(zipSync({ 'a.txt': strToU8('x') }))).toBe('no-capture-inside');
    expect(await codeOf(zipSync({}))).toBe('no-capture-inside');
    const inner = zipSync({ 'a.har': strToU8('x') });
    await expect(unzip(zipSync({ 'inner.zip': inner }))).rejects.toThrow(/inner\.zip: unpack that one/);
  });

  it('tells what is encrypted and what is packed by a method that is not known here from what is damaged', async () => {
    const zip = zipSync({ 'a.har': strToU8(text) });
    const directory = Buffer.from(zip).indexOf('PK\x01\x02', 0, 'latin1');
    const encrypted = Buffer.from(zip);
    encrypted[6] = (encrypted[6] ?? 0) | 1;
    encrypted[directory + 8] = (encrypted[directory + 8] ?? 0) | 1;
    expect(await codeOf(encrypted)).toBe('locked-archive');
    const odd = Buffer.from(zip);
    odd[8] = 12;
    odd[directory + 10] = 12;
    expect(await codeOf(odd)).toBe('unknown-packing');
  });

  it('never passes altered bytes on without a word, and keeps what comes before the damage', async () => {
    const zip = zipSync({ 'a.har': strToU8(text) });
    const from = 35;
    const to = Buffer.from(zip).indexOf('PK\x01\x02', 0, 'latin1');
    let unpacked = 0;
    for (let at = from; at < to; at += 5) {
      const damaged = Buffer.from(zip);
      damaged[at] = (damaged[at] ?? 0) ^ 0x10;
      const result = await unzip(damaged).catch((error: unknown) => error);
      if (result instanceof HarError) continue;
      const { members, texts } = result as Awaited<ReturnType<typeof unzip>>;
      unpacked++;
      if (members[0]?.damage === undefined) expect(texts[0]).toBe(text);
    }
    expect(unpacked).toBeGreaterThan(0);
  });

  it('unpacks what it can of a zip that is cut off', async () => {
    const zip = zipSync({ 'a.har': [strToU8(text), { level: 0 }], 'b.har': strToU8('never reached') });
    const { members, texts } = await unzip(zip.subarray(0, 60_000));
    expect(members).toMatchObject([{ name: 'a.har', damage: 'broken' }]);
    expect(text.startsWith(texts[0] ?? '?')).toBe(true);
    expect(texts[0]?.length).toBeGreaterThan(50_000);
    expect(await codeOf(zip.subarray(0, 20))).toBe('damaged-archive');
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
