import { brotliCompressSync, deflateRawSync, deflateSync, gzipSync } from 'node:zlib';
import { describe, expect, it } from 'vitest';
import { unpackContent } from './unpacked';

const TEXT = JSON.stringify({ hut: 'Alba Norte', token: 'Zq8-kkT5w_vR33', note: 'refugio '.repeat(20) });
const contentOf = (bytes: Uint8Array) => ({ encoding: 'base64', text: Buffer.from(bytes).toString('base64') });

describe('what the proof reads of a body', () => {
  it.each([
    ['gzip', gzipSync(TEXT)],
    ['deflate', deflateSync(TEXT)],
    ['bare deflate', deflateRawSync(TEXT)],
    ['brotli', brotliCompressSync(TEXT)],
    ['UTF-16', Buffer.from(TEXT, 'utf16le')],
    ['UTF-16', Buffer.from(`\ufeff${TEXT}`, 'utf16le').swap16()],
  ])('is its text, whatever no header says of it: %s', (as, bytes) => {
    const { texts, isText } = unpackContent(contentOf(bytes));
    expect(isText).toBe(true);
    expect(texts.filter((one) => one.as === as).map(({ text }) => text.replace(/^\ufeff/, ''))).toEqual([TEXT]);
  });

  it('is nothing more where the file holds its text already', () => {
    for (const content of [
      undefined,
      {},
      { text: TEXT },
      { encoding: 'base64', text: '' },
      contentOf(Buffer.from(TEXT)),
    ])
      expect(unpackContent(content)).toEqual({ texts: [], isText: true });
  });

  it('is only bytes where those are no text, packed or not', () => {
    const picture = Uint8Array.from({ length: 900 }, (_, at) => (at * 197 + (at >> 3)) & 255);
    for (const bytes of [picture, gzipSync(picture)]) expect(unpackContent(contentOf(bytes)).isText).toBe(false);
  });
});
