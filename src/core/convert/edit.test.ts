import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { bytesFromText } from '../content';
import { type Draft, draftHeaders } from './draft';
import {
  addHeader,
  changeHeader,
  changesOf,
  dropHeader,
  dropVariable,
  EMPTY_DRAFT,
  joinQuery,
  keepAll,
  liftHeader,
  liftText,
  type PackedKeptDraft,
  packKept,
  readPiece,
  renameVariable,
  splitQuery,
  unpackKept,
  withContentType,
  usePreset as withPreset,
  writePiece,
} from './index';
import { CASES } from './testing/cases';
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
const kept = ({ headers }: Draft): string[] => headers.filter((header) => header.kept).map(({ name }) => name);

describe('changes to headers', () => {
  it('follow a preset, but for those that were set by hand', () => {
    expect(kept(withPreset(draft, 'lean'))).toEqual(['Accept', 'Authorization']);
    const byHand = changeHeader(draft, 3, { kept: true });
    expect(kept(withPreset(byHand, 'lean'))).toEqual(['Accept', 'If-None-Match', 'Authorization']);
  });

  it('include all that can be sent by hand, or none', () => {
    expect(kept(keepAll(draft, true))).toEqual(['Accept', 'Referer', 'If-None-Match', 'Authorization']);
    expect(kept(keepAll(draft, false))).toEqual([]);
  });

  it('find out anew what a renamed header is for', () => {
    const renamed = changeHeader(addHeader(draft), 5, { name: 'X-Api-Key', value: 'k' });
    expect(renamed.headers[5]).toMatchObject({ name: 'X-Api-Key', role: 'credential', kept: true });
    expect(dropHeader(renamed, 5).headers).toHaveLength(5);
  });

  it('say the type of a payload once', () => {
    const typed = withContentType(withContentType(draft, 'text/plain'), 'application/json');
    expect(typed.headers.filter(({ name }) => /content-type/i.test(name)).map(({ value }) => value)).toEqual([
      'application/json',
    ]);
    expect(kept(withContentType(typed, undefined))).not.toContain('Content-Type');
  });
});

describe('variables', () => {
  it('take the part of a credential behind its scheme, as a secret, and go back where they came from', () => {
    const lifted = liftHeader(draft, 4);
    expect(lifted.headers[4]?.value).toBe('Bearer {{token}}');
    expect(lifted.variables).toEqual([{ name: 'token', value: 's3cret', isSecret: true }]);
    expect(liftHeader(lifted, 4)).toBe(lifted);
    expect(fillIn(lifted).headers).toEqual(draft.headers);
    expect(dropVariable(lifted, 'token')).toEqual(draft);
  });

  it('are filled in, renamed, inline and masked in every text alike, the fields of a form too', () => {
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
    const variables = [{ name: 'hut', value: 'alba', isSecret: false }];
    const marked = { ...form('{{hut}}'), variables };
    expect(fillIn(marked)).toEqual(form('alba'));
    expect(dropVariable(marked, 'hut')).toEqual(form('alba'));
    expect(renameVariable(marked, 'hut', 'stay')).toEqual({
      ...form('{{stay}}'),
      variables: [{ name: 'stay', value: 'alba', isSecret: false }],
    });
  });

  it('leave a header alone that holds one already', () => {
    const marked = {
      ...draft,
      headers: [own('Cookie', 'sid={{sid}}; theme=dark'), own('X-Mark', '{{none}}')],
      variables: [{ name: 'sid', value: 'x', isSecret: true }],
    };
    expect(liftHeader(marked, 0)).toBe(marked);
    expect(liftHeader(marked, 1).variables.at(-1)).toEqual({ name: 'x_mark', value: '{{none}}', isSecret: false });
  });

  it('never share a name', () => {
    const twice = { ...draft, headers: [own('X-Id', 'a'), own('x id', 'b')] };
    expect(liftHeader(liftHeader(twice, 0), 1).variables.map(({ name }) => name)).toEqual(['x_id', 'x_id_2']);
  });

  it('take a text of the payload wherever it stands', () => {
    const text: Draft = { ...draft, payload: { type: 'text', text: '{"a":"alba","b":"alba"}' } };
    const lifted = liftText(text, 'alba', 'hut');
    expect(lifted.payload).toEqual({ type: 'text', text: '{"a":"{{hut}}","b":"{{hut}}"}' });
    expect(liftText(text, 'jara', 'hut')).toBe(text);
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
    expect(writePiece('a b', '{{hut}}/x')).toBe('a%20b={{hut}}%2Fx');
    expect(readPiece('a=%zz')).toEqual({ name: 'a', value: '%zz' });
  });
});

describe('a kept draft', () => {
  it('comes back from JSON as it was, bytes and all', () => {
    for (const { draft: make } of CASES) {
      const one = { id: 'x', name: 'n', exchange: undefined, draft: make('https://a.example'), spareQuery: ['a=1'] };
      const back = unpackKept(JSON.parse(JSON.stringify(packKept(one))) as PackedKeptDraft);
      expect(JSON.stringify(packKept(back))).toBe(JSON.stringify(packKept(one)));
      if (one.draft.payload.type === 'bytes') expect(back.draft.payload).toEqual(one.draft.payload);
    }
  });

  it('tells what was changed in it', () => {
    const changed: Draft = {
      ...liftHeader(changeHeader(changeHeader(draft, 1, { value: 'c/d' }), 2, { kept: false }), 4),
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
      '{{token}} is a secret variable.',
    ]);
    expect(changesOf(draft, draft)).toEqual([]);
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
