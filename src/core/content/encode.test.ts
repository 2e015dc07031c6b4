import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type JsonObject, normaliseEntry } from '../har';
import { findResponse } from '../model';
import { encodeText } from './encode';
import { bodyAsSent, readBody, textIn } from './index';

const CHARSETS = [
  'windows-1252',
  'windows-1251',
  'koi8-r',
  'shift_jis',
  'euc-jp',
  'gbk',
  'big5',
  'euc-kr',
  'utf-16le',
  'utf-16be',
  'utf-8',
];

describe('text in a charset', () => {
  it.each(CHARSETS)('in %s is what its decoder reads as the very text, or none', (charset) => {
    const unit = fc.oneof(
      fc.constantFrom(...'aZ 09~\\üñß£½Жя日本語ｱソ表한글中文€'),
      fc.string({ unit: 'binary', minLength: 1, maxLength: 1 }).map((one) => one.toWellFormed()),
    );
    fc.assert(
      fc.property(fc.string({ unit, maxLength: 20 }), (text) => {
        const bytes = encodeText(text, charset);
        if (bytes !== undefined) expect(textIn(charset, bytes, { keepsMark: true })).toBe(text);
      }),
      { numRuns: 30 },
    );
  });

  it.each([
    ['iso-8859-1', 'Grüße', [0x47, 0x72, 0xfc, 0xdf, 0x65]],
    ['iso-8859-1', '“20 €”…', [0x93, 0x32, 0x30, 0x20, 0x80, 0x94, 0x85]],
    ['windows-1252', '\x81\n€', [0x81, 0x0a, 0x80]],
    ['shift_jis', '表ｱ\\', [0x95, 0x5c, 0xb1, 0x5c]],
    ['euc-kr', '갂가', [0x81, 0x41, 0xb0, 0xa1]],
    ['big5', '䏰中', [0x87, 0x40, 0xa4, 0xa4]],
    ['koi8-u', 'ўґ', [0xae, 0xad]],
    ['iso-8859-16', '€', [0xa4]],
    ['gbk', '€〾', [0x80, 0xa9, 0x89]],
    ['utf-16be', 'ä', [0x00, 0xe4]],
  ])('in %s %s is these bytes, as browsers read them', (charset, text, bytes) => {
    expect([...(encodeText(text, charset) ?? [])]).toEqual(bytes);
    expect(textIn(charset, Uint8Array.from(bytes))).toBe(text);
  });

  it('is none in a charset that lacks a character, or that nobody knows', () => {
    expect(encodeText('日', 'iso-8859-1')).toBeUndefined();
    expect(encodeText('a', 'no-such-charset')).toBeUndefined();
  });
});

describe('a body as it was sent', () => {
  const sent = (text: string, type: string, length: number, more: readonly [string, string][] = []) => {
    const entry = {
      request: { method: 'GET', url: 'https://a.example/' },
      response: {
        status: 200,
        headers: [['content-length', String(length)], ...more].map(([name, value]) => ({ name, value })),
        content: { mimeType: type, text },
      },
    } as unknown as JsonObject;
    const response = findResponse(normaliseEntry(entry, 0));
    return response === undefined ? undefined : [...(bodyAsSent(response, () => undefined) ?? [])];
  };

  it.each([
    ['text that was written in an older charset', 'é', 'text/plain; charset=ISO-8859-1', 1, [0xe9]],
    ['text behind a byte order mark', '{}', 'application/json', 5, [0xef, 0xbb, 0xbf, 0x7b, 0x7d]],
    ['UTF-16 with its mark', 'a', 'text/plain; charset=utf-16le', 4, [0xff, 0xfe, 0x61, 0]],
    ['text of the declared length', 'é', 'text/plain; charset=ISO-8859-1', 2, [0xc3, 0xa9]],
    ['text of a length that nothing explains', 'é', 'text/plain; charset=ISO-8859-1', 9, [0xc3, 0xa9]],
  ])('is %s', (_, text, type, length, bytes) => expect(sent(text, type, length)).toEqual(bytes));

  // A reader goes by the charset, and so did the one that made characters of the bytes.
  it.each([
    ['the charset of its type', 'text/plain; charset=ISO-8859-1', 'é', [0xe9]],
    ['UTF-8 where the type says nothing', 'text/plain', 'é', [0xc3, 0xa9]],
    ['UTF-8 where the charset lacks a character', 'text/plain; charset=ISO-8859-1', '日', [0xe6, 0x97, 0xa5]],
    ['UTF-8 for JSON, whatever its type says', 'application/json; charset=ISO-8859-1', '"é"', [0x22, 0xc3, 0xa9, 0x22]],
  ])('is in %s where the length is that of packed bytes', (_, type, text, bytes) => {
    expect(sent(text, type, 1, [['content-encoding', 'gzip']])).toEqual(bytes);
  });

  it('is in the charset that its header names, where its recorder left that out of the type', () => {
    const header: [string, string] = ['content-type', 'text/plain; charset=ISO-8859-1'];
    expect(sent('é', 'text/plain', 7, [['content-encoding', 'gzip'], header])).toEqual([0xe9]);
    const content = { mimeType: 'text/plain', text: '6Q==', encoding: 'base64' };
    const response = { status: 200, headers: [{ name: header[0], value: header[1] }], content };
    const entry = { request: { method: 'GET', url: 'https://a.example/' }, response } as unknown as JsonObject;
    expect(readBody(findResponse(normaliseEntry(entry, 0)), () => undefined).text).toBe('é');
    // By the standard the label is windows-1252's, which has the euro sign and quotes where ISO 8859-1 has control characters.
    response.content.text = 'k0VVUpQggA==';
    expect(readBody(findResponse(normaliseEntry(entry, 0)), () => undefined).text).toBe('“EUR” €');
  });

  it('is in the charset that a page names in its head, where its type names none', () => {
    const page = '<meta charset=iso-8859-2><p>ł';
    expect(sent(page, 'text/html', page.length)?.at(-1)).toBe(0xb3);
    expect(sent(page, 'text/html', 7, [['content-encoding', 'gzip']])?.at(-1)).toBe(0xb3);
  });
});
