import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { bytesFromText } from '../content';
import { draftHeaders } from './draft';
import { changesOf, type Draft, EMPTY_DRAFT, freeName, joinQuery, readPiece, splitQuery, writePiece } from './index';
import { own } from './testing/odd-texts';
import { fillIn } from './value';

const HEADERS = [
  { name: ':method', value: 'GET' },
  { name: 'Accept', value: 'a/b' },
  { name: 'Referer', value: 'https://a.example/' },
  { name: 'If-None-Match', value: '"x"' },
  { name: 'Authorization', value: 'Bearer s3cret' },
];
const draft: Draft = {
  ...EMPTY_DRAFT,
  url: 'https://a.example/huts?page=1',
  headers: draftHeaders(HEADERS, { url: 'https://a.example/', method: 'GET' }, 'faithful'),
};
describe('variables', () => {
  it('are filled in in every text alike, the fields of a form too', () => {
    const bytes = (one: string) => ({
      name: 'f',
      fileName: undefined,
      contentType: undefined,
      bytes: bytesFromText(one),
    });
    const odd = { ...bytes(''), bytes: Uint8Array.of(0xff, 0x7b) };
    const form = (one: string): Draft => ({
      ...draft,
      url: `https://a.example/${one}?q=${one}`,
      headers: [own('X-Hut', `a ${one}`)],
      payload: { type: 'parts', boundary: 'b', parts: [bytes(`${one} ü`), odd, { ...odd, bytes: undefined }] },
    });
    const marked = { ...form('‹hut›'), variables: [{ name: 'hut', value: 'alba', isSecret: false }] };
    expect(fillIn(marked)).toEqual(form('alba'));
  });

  it('never share a name, with one another or with what stands in a text already', () => {
    const text: Draft = {
      ...draft,
      headers: [own('X-Mark', '‹x_id_2›')],
      variables: [{ name: 'x_id', value: '', isSecret: false }],
    };
    expect(freeName(text, 'X-Id')).toBe('x_id_3');
    expect(freeName(text, '-?-')).toBe('value');
  });
});

describe('the pieces of a query', () => {
  it('come back as they stood, whatever they are', () => {
    fc.assert(
      fc.property(fc.string({ unit: fc.constantFrom('?', '&', '=', 'a', '%2', '%20', '+', '#', 'ü') }), (query) => {
        const { base, pieces } = splitQuery(`https://a.example/x${query}`);
        expect(joinQuery(base, pieces)).toBe(`https://a.example/x${query}`);
      }),
    );
  });

  it('begin no fragment', () => {
    expect(splitQuery('https://a.example/x#/huts?a=1')).toEqual({ base: 'https://a.example/x#/huts?a=1', pieces: [] });
    expect(splitQuery('https://a.example/x?a=1#b?c').pieces).toEqual(['a=1#b?c']);
  });

  it('are written as what they say, marks of variables left alone', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), fc.string({ unit: 'grapheme' }), (name, value) => {
        expect(readPiece(writePiece(name, value))).toEqual({ name: name.toWellFormed(), value: value.toWellFormed() });
      }),
    );
    expect(writePiece('a b', '‹hut›/x')).toBe('a%20b=‹hut›%2Fx');
    expect(readPiece('a=%zz')).toEqual({ name: 'a', value: '%zz' });
  });
});

const CHANGES: Readonly<Record<string, object>> = {
  Accept: { value: 'c/d' },
  Referer: { kept: false },
  Authorization: { value: 'Bearer ‹token›' },
};

describe('a draft', () => {
  it('tells what was changed in it', () => {
    const changed: Draft = {
      ...draft,
      headers: draft.headers.map((header) => ({ ...header, ...CHANGES[header.name] })),
      variables: [{ name: 'token', value: 's3cret', isSecret: true }],
      method: 'POST',
      url: 'https://a.example/huts?page=2',
      payload: { type: 'text', text: 'x' },
    };
    expect(changesOf(draft, changed)).toEqual([
      'Method GET became POST.',
      'Query page was 1, now 2.',
      'accept was a/b, now c/d.',
      'referer is left out now.',
      'authorization has changed.',
      'The payload was changed: 0 bytes, now 1.',
      '‹token› is a secret variable.',
    ]);
    expect(changesOf(draft, draft)).toEqual([]);
    const paying = (text: string): Draft => ({ ...draft, payload: { type: 'text', text } });
    expect(changesOf(paying('{"a":1,"b":["x"]}'), paying('{"a":2,"b":[],"c":{}}'))).toEqual([
      '$.a was 1, now 2.',
      '$.b[0] is left out now.',
    ]);
    expect(changesOf(paying('a=1&a=2&b=%20'), paying('a=1&a=3&b=+'))).toEqual(['a (2) was 2, now 3.']);
  });

  it.each([
    [
      'http://a.example:81/x',
      'https://b.example/y',
      ['Scheme was http, now https.', 'Host was a.example:81, now b.example.', 'Path was /x, now /y.'],
    ],
    [
      'https://a.example/?a=1&b=&a=2',
      'https://a.example/?a=1&a=3&c=4',
      ['Query b is left out now.', 'Query a was 2, now 3.', 'Query c is sent now: 4.'],
    ],
    ['https://a.example/?a=1', 'https://a.example/?a=', ['Query a was 1, now nothing.']],
    // What is decoded alike is not written alike, and an order is no parameter's own.
    [
      'https://a.example/?a=%20',
      'https://a.example/?a=+',
      ['The address was https://a.example/?a=%20, now https://a.example/?a=+.'],
    ],
    [
      'https://a.example/?a&b',
      'https://a.example/?b&a',
      ['The address was https://a.example/?a&b, now https://a.example/?b&a.'],
    ],
    ['about:blank', 'https://a.example/', ['The address was about:blank, now https://a.example/.']],
    ['https://a.example/', `https://a.example/${'x'.repeat(90)}`, [`Path was /, now /${'x'.repeat(59)}….`]],
  ])('tells of %s and %s what differs', (before, after, changes) =>
    expect(changesOf({ ...draft, url: before }, { ...draft, url: after })).toEqual(changes),
  );
});
