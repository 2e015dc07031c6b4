import { type FieldRef, readField } from './fields';
import { type Token, tokenise } from './tokens';
import type { Filter, Pattern, Value } from './tree';

/** Writes a filter as text that reads back as the same tree. */
export function printFilter(filter: Filter): string {
  switch (filter.type) {
    case 'everything':
      return '';
    case 'and':
    case 'or':
      return filter.parts.map((part) => printInside(part, filter.type)).join(` ${filter.type} `);
    case 'not':
      return `not ${printInside(filter.part, 'not')}`;
    case 'address':
      return printPattern(filter.pattern, isPlainTerm);
    case 'flag':
      return filter.flag;
    case 'compare':
      return `${printField(filter.field)} ${filter.operator} ${printValue(filter.value)}`;
    case 'in':
      return `${printField(filter.field)} in (${filter.values.map(printValue).join(', ')})`;
    default:
      return filter satisfies never;
  }
}

/** In parentheses where it binds no tighter than what it stands in. */
function printInside(part: Filter, within: 'and' | 'or' | 'not'): string {
  const text = printFilter(part);
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
