import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { jsonPathsAt } from './path';

describe('the path of a place in JSON', () => {
  const text = '{"items": [{"price": 48}, {"price": "4\\"8", "a b": [[], [true]]}], "n": null}';
  const at = (part: string, from = 0) => jsonPathsAt(text, [text.indexOf(part, from)])[0];

  it('names every member and place on the way, and a member by its name too', () => {
    expect(at('48')).toBe('$.items[0].price');
    expect(at('4\\"8')).toBe('$.items[1].price');
    expect(at('true')).toBe('$.items[1]["a b"][1][0]');
    expect(at('a b')).toBe('$.items[1]["a b"]');
    expect(at('null')).toBe('$.n');
    expect(at('{')).toBe('$');
  });

  it('is found however damaged the text is', () => {
    expect(jsonPathsAt('{"a": {"b": [1, 2, "unfinished', [18])).toEqual(['$.a.b[2]']);
    expect(jsonPathsAt(']]]}{"a":1', [9])).toEqual(['$.a']);
    expect(jsonPathsAt('', [0])).toEqual(['$']);
  });

  it('of any value leads to that value', () => {
    fc.assert(
      fc.property(fc.jsonValue({ maxDepth: 4 }), fc.integer({ min: 0, max: 8 }), (value, indent) => {
        const marked = JSON.stringify(
          { before: value, target: ['x', { 'deep one': 'MARK' }], after: value },
          null,
          indent,
        );
        const [path] = jsonPathsAt(marked, [
          marked.lastIndexOf('"MARK"', marked.indexOf('"after"', marked.lastIndexOf('deep one'))) + 1,
        ]);
        expect(path).toBe('$.target[1]["deep one"]');
      }),
    );
  });
});
