import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Utf8Stream } from './encoding';
import { findEntryStart } from './entry-start';

function through(bytes: Uint8Array, sizes: readonly number[]): string {
  const decoder = new TextDecoder('utf-8', { ignoreBOM: true });
  let text = '';
  const stream = new Utf8Stream((chunk) => {
    text += decoder.decode(chunk, { stream: true });
  });
  for (let at = 0, turn = 0; at < bytes.length; turn++) {
    const size = sizes[turn % sizes.length] ?? 1;
    stream.push(bytes.subarray(at, at + size));
    at += size;
  }
  stream.end();
  return text + decoder.decode();
}

const sizes = fc.array(fc.integer({ min: 1, max: 9 }), { minLength: 1, maxLength: 4 });
const texts = fc.string({ unit: 'binary' }).filter((text) => text.isWellFormed());

describe('Utf8Stream', () => {
  it('gives UTF-8 and both orders of UTF-16 back as the same text, however they are cut', () => {
    fc.assert(
      fc.property(texts, sizes, (inner, cut) => {
        const text = `{"x":${JSON.stringify(inner)}}`;
        const little = Buffer.from(text, 'utf16le');
        for (const bytes of [Buffer.from(text), little, Buffer.from(little).swap16()])
          expect(through(bytes, cut)).toBe(text);
      }),
    );
  });

  it('passes on what is shorter than it takes to tell', () => {
    expect(through(new Uint8Array([0x5b]), [1])).toBe('[');
    expect(through(new Uint8Array(), [1])).toBe('');
  });
});

describe('findEntryStart', () => {
  const find = (text: string, from = 0): number => findEntryStart(new TextEncoder().encode(text), from);
  it('finds the brace of what begins like an entry, in compact and in laid-out JSON', () => {
    expect(find('},{"startedDateTime":')).toBe(2);
    expect(find('],\n      {\n        "pageref": "x"')).toBe(9);
    expect(find('x,{"_recorderOwn":1')).toBe(2);
    expect(find(',{"name":"x"},{"time":5')).toBe(14);
  });
  it('finds none in values, in keys that only begin alike, or where the bytes end', () => {
    for (const text of ['', ',', ',{', ',{"', ',{"tim', ',{"timely":1}', '{"time":1}', ',["time"]', ',{\\"time\\"'])
      expect(find(text)).toBe(-1);
    expect(find(',{"time":1}', 1)).toBe(-1);
  });
});
