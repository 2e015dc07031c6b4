import { type FieldRef, type FlagField, OF_BODIES } from './fields';
import type { Operator } from './tokens';

/** A text as it was typed, compared without case; or an expression between slashes. */
export type Pattern =
  | { readonly type: 'text'; readonly text: string }
  | { readonly type: 'regex'; readonly source: string; readonly ignoresCase: boolean };

/** What a field is compared with. "unknown" stands for the absence of a value. */
export type Value =
  | Pattern
  | { readonly type: 'number'; readonly amount: number; readonly unit: string }
  /** 4xx: all statuses of a class. */
  | { readonly type: 'status-class'; readonly hundreds: number }
  | { readonly type: 'unknown' };

/** What a filter means. An empty one lets everything through. */
export type Filter =
  | { readonly type: 'everything' }
  | { readonly type: 'and' | 'or'; readonly parts: readonly Filter[] }
  | { readonly type: 'not'; readonly part: Filter }
  | { readonly type: 'address'; readonly pattern: Pattern }
  | { readonly type: 'flag'; readonly flag: FlagField }
  | { readonly type: 'compare'; readonly field: FieldRef; readonly operator: Operator; readonly value: Value }
  | { readonly type: 'in'; readonly field: FieldRef; readonly values: readonly Value[] };

/** The filter narrowed further by a term; removed again where the term is there already. */
export function toggleTerm(filter: Filter, term: Filter): Filter {
  const parts = filter.type === 'everything' ? [] : filter.type === 'and' ? filter.parts : [filter];
  const key = JSON.stringify(term);
  const without = parts.filter((part) => JSON.stringify(part) !== key);
  return joinTerms(without.length < parts.length ? without : [...parts, term]);
}

function joinTerms(parts: readonly Filter[]): Filter {
  const [only] = parts;
  if (only === undefined) return { type: 'everything' };
  return parts.length === 1 ? only : { type: 'and', parts };
}

type Term = Exclude<Filter, { type: 'and' | 'or' | 'not' }>;

/** The terms of a filter, whatever joins them. */
function* termsOf(filter: Filter): Generator<Term> {
  if (filter.type === 'not') yield* termsOf(filter.part);
  else if ('parts' in filter) for (const part of filter.parts) yield* termsOf(part);
  else yield filter;
}

/** Every field that a filter compares. */
export const fieldsOf = (filter: Filter): FieldRef[] =>
  [...termsOf(filter)].flatMap((term) => (term.type === 'compare' || term.type === 'in' ? term.field : []));

/** True where it asks for what is known only once bodies were read. */
export const needsBodies = (filter: Filter): boolean =>
  fieldsOf(filter).some(({ name }) => OF_BODIES.has(name)) ||
  [...termsOf(filter)].some((term) => term.type === 'flag' && OF_BODIES.has(term.flag));

/** True where a regular expression stands in it: those may take long, and are not run where that would be felt. */
export const hasRegex = (filter: Filter): boolean => [...termsOf(filter)].some(isRegex);

function isRegex(term: Term): boolean {
  switch (term.type) {
    case 'address':
      return term.pattern.type === 'regex';
    case 'compare':
      return term.value.type === 'regex';
    case 'in':
      return term.values.some(({ type }) => type === 'regex');
    case 'everything':
    case 'flag':
      return false;
    default:
      return term satisfies never;
  }
}
