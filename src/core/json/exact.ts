import { compactJson, findNode } from './slices';
import type { JsonSteps } from './steps';
import { kindOf, nodeText, plainValue, readJsonTree } from './tree';

/** What a double may not hold: 2^53 has sixteen digits (IEEE 754). */
const LONG = /\d{16}/;
const STRING_OR_LONG_WHOLE = /"(?:[^"\\]|\\.)*"|(?<![\d.eE+-])-?[1-9]\d{15,}(?![\d.eE])/g;
const MARK = '\uE000';

/**
 * JSON as a value, in which a whole number that a double does not hold is a bigint; undefined where the text is none. Two
 * ids of eighteen digits are one as doubles (RFC 8259 6).
 */
export function parseExactJson(text: string): unknown {
  try {
    if (!LONG.test(text)) return JSON.parse(text);
    const mark = freeMark(text);
    const marked = text.replace(STRING_OR_LONG_WHOLE, (part) =>
      part.startsWith('"') || Number.isSafeInteger(Number(part)) ? part : `"${mark}${part}"`,
    );
    return JSON.parse(marked, (_, value: unknown) =>
      typeof value === 'string' && value.startsWith(mark) ? BigInt(value.slice(mark.length)) : value,
    );
  } catch {
    return undefined;
  }
}

/** A value of `parseExactJson` as JSON, long numbers in their digits. */
export function writeExactJson(value: unknown): string {
  let hasLong = false;
  const plain = JSON.stringify(value, (_, inner: unknown) => {
    if (typeof inner !== 'bigint') return inner;
    hasLong = true;
    return String(inner);
  });
  if (!hasLong) return plain;
  const mark = freeMark(plain);
  const marked = JSON.stringify(value, (_, inner: unknown) => (typeof inner === 'bigint' ? mark + inner : inner));
  return marked.replace(new RegExp(`"${mark}(-?\\d+)"`, 'g'), '$1');
}

/** A text that no string of a JSON text begins with, escaped or not. */
const freeMark = (text: string): string => MARK.repeat((text.match(/\uE000|\\ue000/gi) ?? []).length + 1);

/**
 * What stands at a place of a JSON text, as text: a string without its quotes, a number in its very characters, a list or an
 * object without the blanks in it. Undefined where nothing is there, and where the text is no JSON.
 */
export function textAt(
  text: string,
  steps: JsonSteps,
): { readonly kind: ReturnType<typeof kindOf>; readonly text: string } | undefined {
  const tree = readJsonTree(text);
  const node = tree.problem === undefined ? findNode(tree, steps) : undefined;
  if (node === undefined) return undefined;
  const kind = kindOf(tree, node);
  const isPlain = kind !== 'object' && kind !== 'array';
  return { kind, text: isPlain ? plainValue(tree, node) : compactJson(nodeText(tree, node)) };
}
