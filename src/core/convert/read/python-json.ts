import { keyOf, kindOf, membersOf, plainValue, readJsonTree } from '../../json';
import { encodedAround, type KnownValues } from '../value';

/** A value as it is to be written: containers, and plain values in the characters that Python's json module gives them. */
export type WrittenJson = string | WrittenJson[] | Map<string, WrittenJson>;

/** JSON as Python's json module writes it: a blank behind commas and colons, nothing beyond ASCII. Marks stay. */
export function pythonJson(value: WrittenJson, values: KnownValues): string {
  const write = (inner: WrittenJson): string => pythonJson(inner, values);
  if (typeof value === 'string') return value;
  if (Array.isArray(value)) return `[${value.map(write).join(', ')}]`;
  return `{${[...value].map(([name, member]) => `${pythonString(name, values)}: ${write(member)}`).join(', ')}}`;
}

/** A JSON text as the value that Python reads it to; undefined where it is none. */
export function readAsPython(text: string, values: KnownValues): WrittenJson | undefined {
  const tree = readJsonTree(text);
  if (tree.problem !== undefined || tree.count === 0) return undefined;
  const read = (node: number): WrittenJson => {
    const kind = kindOf(tree, node);
    const members = [...membersOf(tree, node)];
    if (kind === 'array') return members.map(read);
    if (kind === 'object') return new Map(members.map((member) => [String(keyOf(tree, member)), read(member)]));
    const plain = plainValue(tree, node);
    return kind === 'string' ? pythonString(plain, values) : kind === 'number' ? pythonNumber(plain) : plain;
  };
  return read(0);
}

/** A text as Python's json module writes it. */
export const pythonString = (text: string, values: KnownValues): string =>
  `"${encodedAround(
    text,
    (piece) =>
      JSON.stringify(piece)
        .slice(1, -1)
        .replace(/[\u0080-\uffff]/g, (unit) => `\\u${unit.charCodeAt(0).toString(16).padStart(4, '0')}`),
    values,
  )}"`;

/** A number of JSON as Python writes it again: whole numbers in all their digits, others as the shortest that is the same double. */
function pythonNumber(text: string): string {
  if (/^-?\d+$/.test(text)) return text === '-0' ? '0' : text;
  const value = Number(text);
  if (!Number.isFinite(value)) return value > 0 ? 'Infinity' : '-Infinity';
  const [digits = '', power = '0'] = value.toExponential().split('e');
  const exponent = Number(power);
  if (exponent < -4 || exponent >= 16)
    return `${digits}e${exponent < 0 ? '-' : '+'}${String(Math.abs(exponent)).padStart(2, '0')}`;
  const plain = Object.is(value, -0) ? '-0' : String(value);
  return plain.includes('.') ? plain : `${plain}.0`;
}
