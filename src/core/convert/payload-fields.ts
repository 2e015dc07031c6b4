import { textFromBytes } from '../content';
import { formDecoded } from '../http';
import { parseExactJson, writeExactJson, writeStep } from '../json';

/** Deeper values are compared as a whole. */
const DEEPEST = 12;

/**
 * The values of a payload by where they are: of JSON by paths, of a form by names; undefined where it is neither. Those of
 * the same name in a form are told apart by their order.
 */
export function payloadFields(bytes: Uint8Array): ReadonlyMap<string, string> | undefined {
  const text = textFromBytes(bytes);
  if (text === undefined) return undefined;
  const fields = new Map<string, string>();
  const json = parseExactJson(text);
  if (typeof json === 'object' && json !== null) {
    addLeaves(json, '$', fields, 0);
    return fields;
  }
  if (!/^[^=\s&]+=[^\s]*$/.test(text)) return undefined;
  for (const piece of text.split('&')) {
    const at = piece.indexOf('=');
    const name = formDecoded(at === -1 ? piece : piece.slice(0, at));
    let key = name;
    for (let nth = 2; fields.has(key); nth++) key = `${name} (${nth})`;
    fields.set(key, at === -1 ? '' : formDecoded(piece.slice(at + 1)));
  }
  return fields;
}

function addLeaves(value: unknown, path: string, fields: Map<string, string>, depth: number): void {
  if (typeof value !== 'object' || value === null || depth > DEEPEST) {
    fields.set(path, typeof value === 'string' ? value : writeExactJson(value));
    return;
  }
  for (const [key, inner] of Object.entries(value))
    addLeaves(inner, path + (Array.isArray(value) ? `[${key}]` : writeStep(key)), fields, depth + 1);
}
