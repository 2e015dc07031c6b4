import { readQuery } from '../http';
import type { NameValue } from '../model';
import { changesByCall } from './changing';

/** A field that is not the same in both requests. */
export interface FieldDifference {
  readonly name: string;
  readonly captured: string | undefined;
  readonly asked: string | undefined;
  /** It is what a client makes anew each time, or a secret. */
  readonly changes: boolean;
}

/**
 * What differs between two lists of fields, in which names may come more than once and the order does not count. Of a name
 * whose values differ, the captured ones are paired with the asked ones in their order.
 */
export function compareFields(captured: readonly NameValue[], asked: readonly NameValue[]): FieldDifference[] {
  const names = new Map<string, { captured: string[]; asked: string[] }>();
  const valuesOf = (name: string) => {
    const there = names.get(name) ?? { captured: [], asked: [] };
    names.set(name, there);
    return there;
  };
  for (const { name, value } of captured) valuesOf(name).captured.push(value);
  for (const { name, value } of asked) valuesOf(name).asked.push(value);
  const found: FieldDifference[] = [];
  for (const [name, values] of names) {
    const [left, right] = withoutShared(values.captured, values.asked);
    for (let at = 0; at < Math.max(left.length, right.length); at++) {
      const [was, is] = [left[at], right[at]];
      const changes = was !== undefined && is !== undefined && changesByCall(name, was, is);
      found.push({ name, captured: was, asked: is, changes });
    }
  }
  return found;
}

/** Two lists without what both have, each as often as both have it. */
function withoutShared(one: readonly string[], other: readonly string[]): [string[], string[]] {
  const counts = new Map<string, number>();
  for (const value of other) counts.set(value, (counts.get(value) ?? 0) + 1);
  const left = one.filter((value) => {
    const count = counts.get(value) ?? 0;
    if (count > 0) counts.set(value, count - 1);
    return count === 0;
  });
  const right = other.filter((value) => {
    const count = counts.get(value) ?? 0;
    if (count > 0) counts.set(value, count - 1);
    return count > 0;
  });
  return [left, right];
}

/** The parameters of a query, with its question mark or without. */
export const queryFields = (query: string): NameValue[] =>
  readQuery(query.replace(/^\?/, '')).map(({ name, value, form }) => ({ name, value: form === 'bare' ? '' : value }));
