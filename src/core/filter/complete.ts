import { DELAYS } from '../cache';
import type { Columns } from './columns';
import { FIELD_NAMES, type FieldRef, isCompared, type NumberField, readField, specOf } from './fields';
import { printField, printValue } from './print';
import { OPERATORS, type Token, tokenise } from './tokens';

/** Something that could stand at the caret: its text, what it says, and how many exchanges have it. */
export interface Suggestion {
  readonly text: string;
  readonly says: string | undefined;
  readonly count: number | undefined;
}

export interface Completion {
  /** What of the text a suggestion replaces: [from, to). */
  readonly from: number;
  readonly to: number;
  readonly suggestions: readonly Suggestion[];
}

const MOST = 40;

/** A header or cookie of the capture, as "req.accept", with the number of exchanges that have it. */
export interface KnownName {
  readonly name: string;
  readonly count: number;
}

/** What could stand at the caret: fields, then operators, then the capture's own values, the most frequent first. */
export function completeFilter(text: string, caret: number, columns: Columns, names: readonly KnownName[]): Completion {
  const { tokens } = tokenise(text.slice(0, caret));
  const rest = text.slice(tokens.at(-1)?.to ?? 0, caret);
  const openQuote = rest.trimStart().startsWith('"');
  const last = tokens.at(-1);
  const typed = !openQuote && last !== undefined && last.to === caret && last.type === 'word' ? last : undefined;
  const before = typed === undefined ? tokens : tokens.slice(0, -1);
  const prefix = openQuote ? rest.trimStart().slice(1) : (typed?.text ?? '');
  const from = openQuote ? caret - rest.trimStart().length : (typed?.from ?? caret);
  const give = (suggestions: readonly Suggestion[]): Completion => ({
    from,
    to: caret,
    suggestions: suggestions.slice(0, MOST),
  });

  const compared = findCompared(before);
  if (compared !== undefined) return give(valuesFor(compared, columns, prefix));
  if (openQuote) return give([]);
  const previous = before.at(-1);
  const field = previous?.type === 'word' ? readField(previous.text, previous.key) : undefined;
  if (field !== undefined && typeof field !== 'string') return give(operatorsFor(field, prefix));
  return give([
    ...fieldsFor(
      prefix,
      [...names, ...queryNames(prefix, columns), ...nextNames(columns)],
      previous !== undefined && previous.type !== 'open',
      columns.isCompared,
    ),
  ]);
}

/** The field that the value at the end of these tokens would be compared with. */
function findCompared(before: readonly Token[]): FieldRef | undefined {
  let at = before.length - 1;
  if (before[at]?.type === 'operator') return fieldAt(before, at - 1);
  // In a list: back over its values to "in (".
  if (before[at]?.type !== 'open' && before[at]?.type !== 'comma') return undefined;
  while (at >= 0 && before[at]?.type !== 'open') at--;
  return before[at - 1]?.text.toLowerCase() === 'in' ? fieldAt(before, at - 2) : undefined;
}

function fieldAt(tokens: readonly Token[], at: number): FieldRef | undefined {
  const token = tokens[at];
  const field = token === undefined ? undefined : readField(token.text, token.key);
  return typeof field === 'string' ? undefined : field;
}

function operatorsFor(field: FieldRef, prefix: string): Suggestion[] {
  const isNumber = specOf(field.name).type === 'number';
  const allowed = OPERATORS.filter((one) => (isNumber ? !one.includes('~') : !one.includes('<') && !one.includes('>')));
  return [...allowed, 'in (' as const]
    .filter((operator) => operator.startsWith(prefix.toLowerCase()))
    .map((text) => ({ text, says: OPERATOR_SAYS[text], count: undefined }));
}

const OPERATOR_SAYS: Record<(typeof OPERATORS)[number] | 'in (', string> = {
  '=': 'equals',
  '!=': 'does not equal',
  '<': 'less than',
  '<=': 'at most',
  '>': 'more than',
  '>=': 'at least',
  '~': 'contains',
  '!~': 'does not contain',
  'in (': 'is one of a list',
};

function* fieldsFor(
  prefix: string,
  names: readonly KnownName[],
  followsTerm: boolean,
  offersCompared: boolean,
): Generator<Suggestion> {
  const wanted = prefix.toLowerCase();
  const starts = (text: string): boolean => text.toLowerCase().startsWith(wanted);
  for (const name of FIELD_NAMES) {
    if (isCompared(name) && !offersCompared) continue;
    const spec = specOf(name);
    const text = spec.type === 'named' ? `${name}.` : name;
    if (starts(text) && !(spec.type === 'named' && wanted.startsWith(text)))
      yield { text, says: spec.says, count: undefined };
  }
  if (wanted.includes('.'))
    for (const { name, count } of names) if (starts(name)) yield { text: name, says: undefined, count };
  const words = followsTerm ? ['and', 'or', 'not'] : ['not'];
  for (const word of words) if (wanted !== '' && starts(word)) yield { text: word, says: undefined, count: undefined };
}

/** After each delay the next visit does something with every exchange. */
const nextNames = ({ rows }: Columns): KnownName[] =>
  Object.keys(DELAYS).map((delay) => ({ name: `forecast.${delay}`, count: rows.length }));

/** What was counted of columns, by what was: the next letter asks for the same again. */
const counted = new WeakMap<Columns, Map<string, unknown>>();

function countedOnce<T>(columns: Columns, what: string, count: () => T): T {
  const known = counted.get(columns) ?? new Map<string, unknown>();
  counted.set(columns, known);
  if (!known.has(what)) known.set(what, count());
  return known.get(what) as T;
}

/** The query parameters of the capture, once they are asked for: "query.page" with the number of addresses that have it. */
function queryNames(prefix: string, columns: Columns): readonly KnownName[] {
  return prefix.startsWith('query.') ? countedOnce(columns, 'query', () => countQueryNames(columns)) : [];
}

function countQueryNames({ rows }: Columns): KnownName[] {
  const counts = new Map<string, number>();
  for (const { url } of rows) {
    const names = new Set(new URLSearchParams(/\?([^#]*)/.exec(url)?.[1] ?? '').keys());
    for (const key of names) counts.set(key, (counts.get(key) ?? 0) + 1);
  }
  return [...counts]
    .filter(([key]) => key !== '')
    .map(([key, count]) => ({ name: printField({ name: 'query', key }), count }))
    .sort((a, b) => b.count - a.count);
}

/** The values of a field with the number of exchanges that have each, the most frequent first. */
const countValues = (field: FieldRef, columns: Columns): readonly Suggestion[] =>
  countedOnce(columns, `= ${printField(field)}`, () => countAnew(field, columns));

function countAnew(field: FieldRef, columns: Columns): Suggestion[] {
  const counts = new Map<string, number>();
  const add = (text: string, count: number): void => void counts.set(text, (counts.get(text) ?? 0) + count);
  if (specOf(field.name).type === 'number') {
    for (const [value, count] of countEach(columns.number(field.name as NumberField)))
      add(Number.isNaN(value) ? 'unknown' : String(value), count);
  } else {
    const { values, codes } = columns.text(field);
    for (const [code, count] of countEach(codes)) {
      if (code === -1) add('unknown', count);
      else for (const line of (values[code] ?? '').split('\n')) add(printValue({ type: 'text', text: line }), count);
    }
  }
  return [...counts]
    .map(([text, count]) => ({ text, says: undefined, count }))
    .sort((a, b) => b.count - a.count || (a.text < b.text ? -1 : 1));
}

function countEach(numbers: Iterable<number>): ReadonlyMap<number, number> {
  const counts = new Map<number, number>();
  for (const number of numbers) counts.set(number, (counts.get(number) ?? 0) + 1);
  return counts;
}

function valuesFor(field: FieldRef, columns: Columns, prefix: string): Suggestion[] {
  const spec = specOf(field.name);
  // Of a measure every value is another one: only counts and codes are worth listing.
  if (spec.type === 'number' && spec.dimension !== 'count') return [];
  const wanted = prefix.toLowerCase();
  const bare = (text: string): string => text.replace(/^"/, '').toLowerCase();
  const all = countValues(field, columns);
  const starting = all.filter(({ text }) => bare(text).startsWith(wanted));
  const containing = all.filter(({ text }) => !bare(text).startsWith(wanted) && bare(text).includes(wanted));
  return [...starting, ...containing];
}
