import { parseFilter } from './parse';
import type { FilterProblem } from './problem';
import type { Filter } from './tree';

/** A filter, the beginning of one, or a text that can be none. */
export type Reading = 'filter' | 'begun' | 'text';

/** What somebody has typed so far, as a filter. */
export interface TypedFilter {
  readonly filter: Filter;
  readonly reading: Reading;
  /** So much of the text is a filter. */
  readonly whole: string;
  /** What keeps the text from being one. */
  readonly problem: FilterProblem | undefined;
}

/** The beginning of one of a field's values, at the end of what is typed so far. */
const isBegun = (problem: FilterProblem, text: string): boolean =>
  problem.code === 'unknown-value' &&
  problem.to === text.length &&
  problem.values.some((value) => value.startsWith(problem.found.toLowerCase()));

/**
 * What a text filters by while it is typed. The beginning of a filter filters by what of it is whole, up to its last "and"
 * or "or"; what can be none is searched for in URLs as it stands.
 */
export function readTyped(text: string): TypedFilter {
  const parsed = parseFilter(text);
  if (parsed.ok) return { filter: parsed.filter, reading: 'filter', whole: text, problem: undefined };
  const { problem } = parsed;
  if (problem.from < text.trimEnd().length && !isBegun(problem, text)) {
    const filter: Filter = { type: 'address', pattern: { type: 'text', text: text.trim() } };
    return { filter, reading: 'text', whole: '', problem };
  }
  const joints = [...text.matchAll(/\s(?:and|or)\s/g)];
  const whole = text.slice(0, joints.at(-1)?.index ?? 0);
  const begun = parseFilter(whole);
  return { filter: begun.ok ? begun.filter : { type: 'everything' }, reading: 'begun', whole, problem };
}
