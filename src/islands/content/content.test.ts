import { describe, expect, it } from 'vitest';
import { bytesFromText } from '#core/content';
import { readJsonTree } from '#core/json';
import { contentOfBytes, contentOfPart, contentOfText } from './content-of';
import { openFirst, revealNode } from './fold';
import { readingsFor } from './reading';

describe('the readings of a content', () => {
  it.each([
    ['application/json', '{"a":1}', ['tree', 'raw', 'bytes']],
    ['application/json', '{"a":[{"b":1}]}', ['tree', 'table', 'raw', 'bytes']],
    ['application/x-www-form-urlencoded', 'a=1', ['fields', 'raw', 'bytes']],
    ['multipart/form-data; boundary=b', '--b', ['parts', 'raw', 'bytes']],
    ['multipart/mixed; boundary=b', '--b', ['parts', 'merged', 'raw', 'bytes']],
    ['text/javascript', 'a()', ['source', 'formatted', 'bytes']],
    // A picture is drawn of what the server has, not of what is only in the page.
    ['text/html', '<p>', ['source', 'formatted', 'bytes']],
    ['text/plain', 'words', ['raw', 'bytes']],
  ])('%s %s: %j', (type, text, readings) => {
    expect(readingsFor(contentOfText(text, type, 'x'))).toEqual(readings);
  });

  it('of bytes that are no text are only the bytes', () => {
    const content = contentOfBytes(Uint8Array.of(0, 1, 2), undefined, 'x');
    expect([content.text, readingsFor(content)]).toEqual([undefined, ['bytes']]);
  });

  it('leave laying out aside where it would take too long', () => {
    const long = { ...contentOfText('a()', 'text/javascript', 'x'), byteLength: 4_000_000 };
    expect(readingsFor(long)).toEqual(['source', 'bytes']);
  });

  it('offer a table of a text that is known in part only, since one may come', () => {
    expect(readingsFor({ ...contentOfText('{"a":1', 'application/json', 'x'), isCut: true })).toContain('table');
  });

  it('name a part’s file by itself, by its field, or by its place', () => {
    const part = {
      headers: [],
      name: undefined,
      fileName: undefined,
      contentType: 'application/json',
      bytes: bytesFromText('{}'),
    };
    expect(contentOfPart({ ...part, fileName: 'beds.json' }, 0).fileName).toBe('beds.json');
    expect(contentOfPart({ ...part, name: 'list' }, 0).fileName).toBe('list.json');
    expect(contentOfPart(part, 2).fileName).toBe('part-3.json');
  });
});

describe('folding a tree', () => {
  it('opens level by level as long as all that is shown stays a screenful', () => {
    const small = readJsonTree('{"a":{"b":{"c":1}}}');
    expect([...openFirst(small)]).toEqual([0, 1, 2]);
    const wide = readJsonTree(JSON.stringify({ a: [1], rows: Array.from({ length: 90 }, () => 1) }));
    expect([...openFirst(wide)]).toEqual([0]);
  });

  it('opens all that a value lies in, and leaves the set alone where that is open already', () => {
    const tree = readJsonTree('{"a":{"b":{"c":1}}}');
    const closed = new Set<number>();
    expect([...revealNode(tree, closed, 3)].sort()).toEqual([0, 1, 2]);
    const open = new Set([0, 1, 2]);
    expect(revealNode(tree, open, 3)).toBe(open);
  });
});
