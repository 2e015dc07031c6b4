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

/** Every field that a filter asks for. */
export function fieldsOf(filter: Filter): FieldRef[] {
  switch (filter.type) {
    case 'and':
    case 'or':
      return filter.parts.flatMap(fieldsOf);
    case 'not':
      return fieldsOf(filter.part);
    case 'compare':
    case 'in':
      return [filter.field];
    case 'everything':
    case 'address':
    case 'flag':
      return [];
    default:
      return filter satisfies never;
  }
}

/** True where it asks for what is known only once bodies were read. */
export function needsBodies(filter: Filter): boolean {
  switch (filter.type) {
    case 'and':
    case 'or':
      return filter.parts.some(needsBodies);
    case 'not':
      return needsBodies(filter.part);
    case 'compare':
    case 'in':
      return OF_BODIES.has(filter.field.name);
    case 'flag':
      return OF_BODIES.has(filter.flag);
    case 'everything':
    case 'address':
      return false;
    default:
      return filter satisfies never;
  }
}

/** True where a regular expression stands in it: those may take long, and are not run where that would be felt. */
export function hasRegex(filter: Filter): boolean {
  switch (filter.type) {
    case 'and':
    case 'or':
      return filter.parts.some(hasRegex);
    case 'not':
      return hasRegex(filter.part);
    case 'address':
      return filter.pattern.type === 'regex';
    case 'compare':
      return filter.value.type === 'regex';
    case 'in':
      return filter.values.some(({ type }) => type === 'regex');
    case 'everything':
    case 'flag':
      return false;
    default:
      return filter satisfies never;
  }
}
