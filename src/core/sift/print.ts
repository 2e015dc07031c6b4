import { type FieldRef, readField } from './fields';
import { type Token, tokenise } from './tokens';
import type { Pattern, Sift, Value } from './tree';

/** Writes a sift as text that reads back as the same tree. */
export function printSift(sift: Sift): string {
  switch (sift.type) {
    case 'everything':
      return '';
    case 'and':
    case 'or':
      return sift.parts.map((part) => printInside(part, sift.type)).join(` ${sift.type} `);
    case 'not':
      return `not ${printInside(sift.part, 'not')}`;
    case 'address':
      return printPattern(sift.pattern, isPlainTerm);
    case 'flag':
      return sift.flag;
    case 'compare':
      return `${printField(sift.field)} ${sift.operator} ${printValue(sift.value)}`;
    case 'in':
      return `${printField(sift.field)} in (${sift.values.map(printValue).join(', ')})`;
    default:
      return sift satisfies never;
  }
}

/** In parentheses where it binds no tighter than what it stands in. */
function printInside(part: Sift, within: 'and' | 'or' | 'not'): string {
  const text = printSift(part);
  const isLoose = part.type === 'or' || (part.type === 'and' && within !== 'or');
  return isLoose ? `(${text})` : text;
}

/** A field as it is written: "host", "query.page", or query."odd name". */
export function printField(field: FieldRef): string {
  if (!('key' in field)) return field.name;
  const plain = `${field.name}.${field.key}`;
  return isOneWord(plain) ? plain : `${field.name}.${quote(field.key)}`;
}

/** A value as it is written after an operator. */
export function printValue(value: Value): string {
  switch (value.type) {
    case 'number':
      return value.unit === '' ? String(value.amount) : `${value.amount} ${value.unit}`;
    case 'status-class':
      return `${value.hundreds}xx`;
    case 'unknown':
      return 'unknown';
    case 'text':
    case 'regex':
      return printPattern(value, isPlainValue);
    default:
      return value satisfies never;
  }
}

const printPattern = (pattern: Pattern, isPlain: (text: string) => boolean): string =>
  pattern.type === 'regex'
    ? `/${pattern.source}/${pattern.ignoresCase ? 'i' : ''}`
    : isPlain(pattern.text)
      ? pattern.text
      : quote(pattern.text);

const quote = (text: string): string => `"${text.replace(/["\\]/g, '\\$&')}"`;

const wordOf = (text: string): Token | undefined => {
  const read = tokenise(text);
  const [only] = read.tokens;
  return read.ok && read.tokens.length === 1 && only?.type === 'word' && only.key === undefined ? only : undefined;
};
const isOneWord = (text: string): boolean => wordOf(text)?.text === text && !text.endsWith('.');
const isPlainValue = (text: string): boolean => text !== 'unknown' && isOneWord(text);
const isPlainTerm = (text: string): boolean =>
  isOneWord(text) && !/^(and|or|not|in)$/i.test(text) && typeof readField(text) !== 'string';
