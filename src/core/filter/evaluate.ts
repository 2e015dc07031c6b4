import type { Columns, TextColumn } from './columns';
import { type FieldRef, type NumberField, specOf, UNITS } from './fields';
import type { Operator } from './tokens';
import type { Filter, Pattern, Value } from './tree';

/**
 * Which rows a filter lets through: 1 or 0 for each row, in their order. Nothing compares with an unknown value but
 * `unknown` itself; `!=` and `!~` are the opposites of `=` and `~`, so unknown values pass them.
 */
export function evaluateFilter(filter: Filter, columns: Columns): Uint8Array {
  const count = columns.rows.length;
  switch (filter.type) {
    case 'everything':
      return new Uint8Array(count).fill(1);
    case 'and':
      return combine(filter.parts, columns, (a, b) => a & b);
    case 'or':
      return combine(filter.parts, columns, (a, b) => a | b);
    case 'not':
      return evaluateFilter(filter.part, columns).map((bit) => 1 - bit);
    case 'flag':
      return columns.flag(filter.flag);
    case 'address':
      return testTexts(columns.text({ name: 'url' }), containing(filter.pattern), 0);
    case 'compare':
      return compare(filter.field, filter.operator, filter.value, columns);
    case 'in':
      return combine(
        filter.values.map((value): Filter => ({ type: 'compare', field: filter.field, operator: '=', value })),
        columns,
        (a, b) => a | b,
      );
    default:
      return filter satisfies never;
  }
}

function combine(parts: readonly Filter[], columns: Columns, by: (a: number, b: number) => number): Uint8Array {
  const [first, ...rest] = parts.map((part) => evaluateFilter(part, columns));
  const mask = Uint8Array.from(first ?? []);
  for (const other of rest) for (let at = 0; at < mask.length; at++) mask[at] = by(mask[at] ?? 0, other[at] ?? 0);
  return mask;
}

function compare(field: FieldRef, operator: Operator, value: Value, columns: Columns): Uint8Array {
  if (operator === '!=' || operator === '!~') {
    const positive = compare(field, operator === '!=' ? '=' : '~', value, columns);
    return positive.map((bit) => 1 - bit);
  }
  if (specOf(field.name).type === 'number')
    return compareNumbers(columns.number(field.name as NumberField), operator, value, field);
  const column = columns.text(field);
  if (value.type === 'unknown') {
    // A source may be "unknown" by name: both are meant.
    return testTexts(column, (text) => text === 'unknown', 1);
  }
  if (value.type === 'number' || value.type === 'status-class') return new Uint8Array(column.codes.length);
  return testTexts(column, operator === '=' ? equalling(value) : containing(value), 0);
}

function compareNumbers(column: Float64Array, operator: Operator, value: Value, field: FieldRef): Uint8Array {
  const mask = new Uint8Array(column.length);
  const test = numberTest(operator, value, field);
  for (let at = 0; at < column.length; at++) mask[at] = test(column[at] ?? Number.NaN) ? 1 : 0;
  return mask;
}

function numberTest(operator: Operator, value: Value, field: FieldRef): (own: number) => boolean {
  if (value.type === 'unknown') return operator === '=' ? Number.isNaN : () => false;
  if (value.type === 'status-class') {
    const [from, to] = [value.hundreds * 100, value.hundreds * 100 + 100];
    switch (operator) {
      case '<':
        return (own) => own < from;
      case '<=':
        return (own) => own < to;
      case '>':
        return (own) => own >= to;
      case '>=':
        return (own) => own >= from;
      default:
        return (own) => own >= from && own < to;
    }
  }
  if (value.type !== 'number') return () => false;
  const amount = value.amount * unitFactor(field, value.unit);
  switch (operator) {
    case '<':
      return (own) => own < amount;
    case '<=':
      return (own) => own <= amount;
    case '>':
      return (own) => own > amount;
    case '>=':
      return (own) => own >= amount;
    default:
      return (own) => own === amount;
  }
}

function unitFactor(field: FieldRef, unit: string): number {
  const spec = specOf(field.name);
  return spec.type === 'number' ? (UNITS[spec.dimension][unit] ?? 1) : 1;
}

/** Tests each distinct text once. */
function testTexts(column: TextColumn, test: (text: string) => boolean, whenAbsent: 0 | 1): Uint8Array {
  const results = Uint8Array.from(column.values, (text) => Number(test(text)));
  const mask = new Uint8Array(column.codes.length);
  for (let at = 0; at < mask.length; at++) {
    const code = column.codes[at] ?? -1;
    mask[at] = code === -1 ? whenAbsent : (results[code] ?? 0);
  }
  return mask;
}

/** Case counts in no text comparison but that of an expression without its i. */
function containing(pattern: Pattern): (text: string) => boolean {
  if (pattern.type === 'regex') return regexTest(pattern);
  const wanted = pattern.text.toLowerCase();
  return (text) => text.toLowerCase().includes(wanted);
}

function equalling(pattern: Pattern): (text: string) => boolean {
  if (pattern.type === 'regex') return regexTest(pattern);
  const wanted = pattern.text.toLowerCase();
  return (text) => {
    const own = text.toLowerCase();
    return own === wanted || (own.includes('\n') && own.split('\n').includes(wanted));
  };
}

function regexTest(pattern: Extract<Pattern, { type: 'regex' }>): (text: string) => boolean {
  const regex = new RegExp(pattern.source, pattern.ignoresCase ? 'iu' : 'u');
  return (text) => regex.test(text);
}
