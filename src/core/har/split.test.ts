import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { HarError } from './problem';
import type { HarSpan } from './span';
import { HarSplitter } from './split';

const bytesOf = (text: string): Uint8Array => new TextEncoder().encode(text);

interface Piece {
  readonly type: string;
  readonly key: string | undefined;
  readonly text: string | undefined;
  readonly atByte: number | undefined;
}

/** The spans of a text that arrives in chunks of the given sizes, over and over. */
function split(text: string, sizes: readonly number[] = [1_000_000]): { pieces: Piece[]; whole: boolean } {
  const pieces: Piece[] = [];
  const splitter = new HarSplitter((span: HarSpan) => {
    pieces.push({
      type: span.type,
      key: 'key' in span ? span.key : undefined,
      text: 'bytes' in span ? new TextDecoder().decode(span.bytes) : undefined,
      atByte: 'atByte' in span ? span.atByte : undefined,
    });
    return true;
  });
  const bytes = bytesOf(text);
  for (let at = 0, turn = 0; at < bytes.length; turn++) {
    const size = sizes[turn % sizes.length] ?? 1;
    splitter.push(bytes.subarray(at, at + size));
    at += size;
  }
  return { pieces, whole: splitter.end().whole };
}

const problemOf = (text: string): unknown => {
  try {
    split(text);
  } catch (error) {
    if (error instanceof HarError) return error.problem;
    throw error;
  }
  return undefined;
};

describe('HarSplitter', () => {
  it('finds fields, pages and entries, each with its place in the file', () => {
    const text = '{"log": {"version": "1.2", "pages": [{"id":"a"}], "entries": [{"time":1}, {"time":2}]}, "x": 5}';
    const { pieces, whole } = split(text);
    expect(whole).toBe(true);
    expect(pieces.map(({ type, text: found }) => [type, found])).toEqual([
      ['log', undefined],
      ['field', '"1.2"'],
      ['list', undefined],
      ['page', '{"id":"a"}'],
      ['list', undefined],
      ['entry', '{"time":1}'],
      ['entry', '{"time":2}'],
      ['field', '5'],
    ]);
    for (const piece of pieces) {
      if (piece.text === undefined || piece.atByte === undefined) continue;
      expect(text.slice(piece.atByte, piece.atByte + piece.text.length)).toBe(piece.text);
    }
  });

  it('gives the same spans however the bytes are cut into chunks', () => {
    const strings = fc.oneof(
      fc.string({ unit: 'binary' }),
      fc.constantFrom('"', '\\', '\\"', '\\\\', '}]', 'log', '"'.repeat(40)),
    );
    const json = fc.jsonValue({ maxDepth: 3 });
    const har = fc.record({
      creator: fc.dictionary(strings, json),
      pages: fc.array(fc.dictionary(strings, strings), { maxLength: 3 }),
      entries: fc.array(fc.dictionary(strings, fc.oneof(strings, json)), { maxLength: 5 }),
    });
    fc.assert(
      fc.property(har, fc.array(fc.integer({ min: 1, max: 50 }), { minLength: 1, maxLength: 6 }), (log, sizes) => {
        const text = JSON.stringify({ log });
        const { pieces, whole } = split(text, sizes);
        expect(whole).toBe(true);
        expect({ pieces }).toEqual({ pieces: split(text).pieces });
        const entries = pieces.filter(({ type }) => type === 'entry').map((piece) => JSON.parse(piece.text ?? ''));
        expect(entries).toEqual(JSON.parse(text).log.entries);
      }),
    );
  });

  it('reads a bare list of entries', () => {
    expect(split('[{"a":1},{"b":2}]').pieces.map(({ text }) => text)).toEqual(['{"a":1}', '{"b":2}']);
  });

  it('finds escaped quotes at the end of long strings', () => {
    const entry = JSON.stringify({ text: `${'x'.repeat(500)}\\"\\\\`, more: '"}]' });
    expect(split(`[${entry},{}]`, [7]).pieces.map(({ text }) => text)).toEqual([entry, '{}']);
  });

  it('says what was expected where, and what was found', () => {
    expect(problemOf('<!doctype html>')).toEqual({ code: 'not-json', atByte: 0, expected: 'a value', found: '"<"' });
    expect(problemOf('{"log" 1}')).toEqual({ code: 'not-json', atByte: 7, expected: 'a colon', found: '"1"' });
    expect(problemOf('{"log":{"version":"1.2" "entries":[]}}')).toEqual({
      code: 'not-json',
      atByte: 24,
      expected: 'a comma or the end of the list',
      found: '"""',
    });
    expect(problemOf('{"log":{"entries":[}]}}')).toMatchObject({ code: 'not-json', atByte: 19 });
    expect(problemOf('"just text"')).toMatchObject({ code: 'not-har', where: 'its outermost value' });
  });

  it('gives up on a member too large to belong to a capture instead of filling memory with it', () => {
    const splitter = new HarSplitter(() => true);
    splitter.push(bytesOf('{"rows":["'));
    const block = new Uint8Array(8 * 1024 * 1024).fill(0x61);
    expect(() => {
      for (let count = 0; count < 10; count++) splitter.push(block);
    }).toThrow(/"rows" should be under 64 MB/);
  });

  it('leaves out an entry that nests without end, and reads on', () => {
    const deep = `{"request":{},"x":${'['.repeat(200_000)}${']'.repeat(200_000)}}`;
    const { pieces } = split(`{"log":{"entries":[{"a":1},${deep},{"b":2}]}}`, [9999]);
    expect(pieces.filter(({ type }) => type === 'entry').map(({ text }) => text)).toEqual(['{"a":1}', '{"b":2}']);
  });

  it('tells a file that stops early from a whole one', () => {
    expect(split('{"log":{"entries":[{"a":1},{"b"').whole).toBe(false);
    expect(split('{"log":{"entries":[{"a":1}]}').whole).toBe(false);
    expect(split('{"log":{"entries":[{"a":1}]}}').whole).toBe(true);
  });
});

it('reads what was lost again only so often: a hostile file ends, and one that is damaged here and there is read', () => {
  const entry = '{"request":{"url":"https://a.example/"}}';
  // Each of these begins as an entry does, never ends, and swallows all that follow it.
  const text = (lost: number): string => `{"log":{"entries":[${entry}${',{"time":'.repeat(lost)},${entry}`;
  const entriesOf = (lost: number, rescanFreeBytes: number): number => {
    let count = 0;
    const splitter = new HarSplitter(
      ({ type }) => {
        if (type === 'entry') count++;
        return true;
      },
      0,
      false,
      rescanFreeBytes,
    );
    splitter.push(bytesOf(text(lost)));
    splitter.end();
    return count;
  };
  expect(entriesOf(3, 0)).toBe(2);
  expect(entriesOf(200, 0)).toBe(1);
  expect(entriesOf(200, 1_000_000)).toBe(2);
});
