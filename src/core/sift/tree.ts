import type { FieldRef, FlagField } from './fields';
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

/** What a sift means. An empty one lets everything through. */
export type Sift =
  | { readonly type: 'everything' }
  | { readonly type: 'and' | 'or'; readonly parts: readonly Sift[] }
  | { readonly type: 'not'; readonly part: Sift }
  | { readonly type: 'address'; readonly pattern: Pattern }
  | { readonly type: 'flag'; readonly flag: FlagField }
  | { readonly type: 'compare'; readonly field: FieldRef; readonly operator: Operator; readonly value: Value }
  | { readonly type: 'in'; readonly field: FieldRef; readonly values: readonly Value[] };

/** The sift narrowed further by a term; taken away again where the term is there already. */
export function toggleTerm(sift: Sift, term: Sift): Sift {
  const parts = sift.type === 'everything' ? [] : sift.type === 'and' ? sift.parts : [sift];
  const key = JSON.stringify(term);
  const without = parts.filter((part) => JSON.stringify(part) !== key);
  return joinTerms(without.length < parts.length ? without : [...parts, term]);
}

function joinTerms(parts: readonly Sift[]): Sift {
  const [only] = parts;
  if (only === undefined) return { type: 'everything' };
  return parts.length === 1 ? only : { type: 'and', parts };
}

/** Every field that a sift asks for. */
export function fieldsOf(sift: Sift): FieldRef[] {
  switch (sift.type) {
    case 'and':
    case 'or':
      return sift.parts.flatMap(fieldsOf);
    case 'not':
      return fieldsOf(sift.part);
    case 'compare':
    case 'in':
      return [sift.field];
    case 'everything':
    case 'address':
    case 'flag':
      return [];
    default:
      return sift satisfies never;
  }
}

/** True where a regular expression stands in it: those may take long, and are not run where that would be felt. */
export function hasRegex(sift: Sift): boolean {
  switch (sift.type) {
    case 'and':
    case 'or':
      return sift.parts.some(hasRegex);
    case 'not':
      return hasRegex(sift.part);
    case 'address':
      return sift.pattern.type === 'regex';
    case 'compare':
      return sift.value.type === 'regex';
    case 'in':
      return sift.values.some(({ type }) => type === 'regex');
    case 'everything':
    case 'flag':
      return false;
    default:
      return sift satisfies never;
  }
}
