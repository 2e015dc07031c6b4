import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  jsonPathsAt,
  keyOf,
  nodeAt,
  nodeText,
  pathTo,
  plainValue,
  previewOf,
  readJsonTree,
  visibleNodes,
} from './index';

/** The value that a tree stands for, put together from its nodes alone. */
function standsFor(tree: ReturnType<typeof readJsonTree>, node: number): unknown {
  const kind = tree.kinds[node] ?? 6;
  if (kind > 1) return JSON.parse(nodeText(tree, node));
  const members: [string | number, unknown][] = [];
  for (let at = node + 1; at < (tree.nexts[node] ?? 0); at = tree.nexts[at] ?? 0) {
    members.push([keyOf(tree, at) ?? '', standsFor(tree, at)]);
  }
  expect(members).toHaveLength(tree.sizes[node] ?? -1);
  if (kind === 1) return members.map(([, value]) => value);
  return Object.fromEntries(members.map(([key, value]) => [String(key), value]));
}

/** Walks a value by a path's own reading as a script. */
const follow = (data: unknown, path: string): unknown => new Function('data', `return ${path}`)(data);

describe('a tree of JSON', () => {
  it('holds what JSON.parse gives, however the text is spaced', () => {
    fc.assert(
      fc.property(fc.jsonValue(), fc.constantFrom(undefined, 2, '\t'), (value, indent) => {
        const text = JSON.stringify(value, undefined, indent);
        const tree = readJsonTree(text);
        expect(tree.problem).toBeUndefined();
        expect(JSON.stringify(standsFor(tree, 0))).toBe(JSON.stringify(JSON.parse(text)));
      }),
    );
  });

  it('finds the innermost value at every place, with the path that scanning finds', () => {
    fc.assert(
      fc.property(fc.jsonValue(), (value) => {
        const text = JSON.stringify({ whole: value, 'odd name': [value] });
        const tree = readJsonTree(text);
        for (let node = 0; node < tree.count; node++) {
          const start = tree.starts[node] ?? 0;
          expect(nodeAt(tree, start)).toBe(node);
          expect(pathTo(tree, node, 'jsonpath')).toBe(
            (tree.kinds[node] ?? 6) > 1 ? jsonPathsAt(text, [start])[0] : pathTo(tree, node, 'jsonpath'),
          );
        }
      }),
    );
  });

  it('writes paths that lead a script to the value', () => {
    fc.assert(
      fc.property(fc.jsonValue(), (value) => {
        const data: unknown = JSON.parse(JSON.stringify({ a: [value], 'b c': value, __proto__x: 1 }));
        const tree = readJsonTree(JSON.stringify(data));
        for (let node = 0; node < tree.count; node++) {
          expect(follow(data, pathTo(tree, node, 'javascript'))).toEqual(standsFor(tree, node));
        }
      }),
    );
  });

  it.each([
    ['jsonpath', '$.items[1]["first name"]'],
    ['javascript', 'data.items[1]["first name"]'],
    ['python', 'data["items"][1]["first name"]'],
    ['jq', '.items[1]["first name"]'],
  ] as const)('writes a path for %s', (style, path) => {
    const tree = readJsonTree('{"items":[0,{"first name":"Ana"}]}');
    expect(pathTo(tree, tree.count - 1, style)).toBe(path);
  });

  it.each([
    ['jq', '.'],
    ['jsonpath', '$'],
  ] as const)('names the outermost value for %s', (style, path) => {
    expect(pathTo(readJsonTree('[1]'), 0, style)).toBe(path);
  });

  it.each([
    ['', 0, 'a value'],
    ['{"a":1,}', 7, 'a name in quotes'],
    ['[1 2]', 3, 'a comma or ]'],
    ['{"a" 1}', 5, 'a colon'],
    ['{"a":1}x', 7, 'the end of the text'],
    ['["open', 1, 'the end of a string'],
    ['[1,\n nul]', 5, 'a value'],
  ])('says where %j stops being JSON', (text, offset, expected) => {
    expect(readJsonTree(text).problem).toMatchObject({ offset, expected });
  });

  it('counts the lines before the damage', () => {
    expect(readJsonTree('[1,\n2,\n!').problem?.line).toBe(3);
  });

  it('keeps what came before the damage wherever a text is cut off', () => {
    const text = JSON.stringify({ huts: [{ name: 'Alba "Norte"', beds: [1, 2.5e3, null] }], ok: true });
    for (let length = 1; length < text.length; length++) {
      const tree = readJsonTree(text.slice(0, length));
      expect(tree.problem).toBeDefined();
      for (let node = 0; node < tree.count; node++) {
        expect(tree.ends[node]).toBeLessThanOrEqual(length);
        expect(tree.nexts[node]).toBeLessThanOrEqual(tree.count);
      }
    }
  });

  it.each([")]}',\n", 'for (;;);', 'while(1);', '\uFEFF'])(
    'passes over the guard %j that services put before JSON',
    (guard) => {
      const tree = readJsonTree(`${guard}{"a":1}`);
      expect([tree.problem, tree.count]).toEqual([undefined, 2]);
    },
  );

  it('reads a hundred thousand levels without recursion', () => {
    const tree = readJsonTree(`${'['.repeat(100_000)}${']'.repeat(100_000)}`);
    expect([tree.count, tree.problem]).toEqual([100_000, undefined]);
  });

  it('leaves out what is inside a folded value, and nothing else', () => {
    const tree = readJsonTree('{"a":[1,2],"b":{"c":3}}');
    const shown = (folded: readonly number[]): unknown[] =>
      Array.from(
        visibleNodes(tree, (node) => folded.includes(node)),
        (node) => keyOf(tree, node),
      );
    expect(shown([])).toEqual([undefined, 'a', 0, 1, 'b', 'c']);
    expect(shown([1])).toEqual([undefined, 'a', 'b', 'c']);
    expect(shown([0])).toEqual([undefined]);
  });

  it('is what it is whatever was read before, and stays so whatever is read behind it', () => {
    const others = ['{"a":{"b":[1,{"c":2}]}}', '[[[', `[${'{"x":[7]},'.repeat(2000)}0]`, '"x"'];
    fc.assert(
      fc.property(fc.json(), fc.constantFrom(...others), (text, other) => {
        readJsonTree(other);
        const tree = readJsonTree(text);
        readJsonTree(other);
        expect(JSON.stringify(standsFor(tree, 0))).toBe(JSON.stringify(JSON.parse(text)));
      }),
      { seed: 11, numRuns: 60 },
    );
  });

  it('keeps the very characters of numbers, and unfolds the escapes of strings', () => {
    const tree = readJsonTree('[12345678901234567890, 1.0, "a\\u00e9\\n"]');
    expect([1, 2, 3].map((node) => plainValue(tree, node))).toEqual(['12345678901234567890', '1.0', 'aé\n']);
  });

  it('shows the beginning of a folded value on one line', () => {
    const tree = readJsonTree('{\n  "a": [1,\n 2]\n}');
    expect(previewOf(tree, 0, 80)).toBe('{ "a": [1, 2] }');
    expect(previewOf(tree, 0, 6)).toBe('{ "a":…');
  });
});
