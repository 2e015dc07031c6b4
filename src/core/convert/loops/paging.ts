import { parseJson, writePath } from '../../json';
import type { LoopFields } from './fields';

type Steps = readonly (string | number)[];
type Container = Readonly<Record<string, unknown>>;

/** What an answer tells of the list that it is a page of. */
interface Paging {
  readonly list: Steps | undefined;
  /** Where it says how many there are in all. */
  readonly total: Steps | undefined;
  /** How many pages it says there are. */
  readonly pages: number | undefined;
}

const DEEPEST = 4;
const TOTAL = /^(total|total_?(count|items|results|elements|hits|records)|(item|result|record)s?_?count|count)$/i;
const PAGES = /^(pages|total_?pages|page_?count|last_?page)$/i;

/** The longest list of an answer, and what the answer says of its length; nothing where it holds none, or is no JSON. */
export function findPaging(text: string): Paging {
  const root = parseJson(text);
  const lists: { readonly path: Steps; readonly length: number }[] = [];
  const numbers: { readonly path: Steps; readonly value: number }[] = [];
  const visit = (value: unknown, path: Steps): void => {
    if (Array.isArray(value)) lists.push({ path, length: value.length });
    else if (typeof value === 'number') numbers.push({ path, value });
    else if (typeof value === 'object' && value !== null && path.length < DEEPEST)
      for (const [name, member] of Object.entries(value as Container)) visit(member, [...path, name]);
  };
  visit(root, []);
  // One that is empty may be any of them: the first is as good as the others.
  const list = lists.reduce((longest, one) => (one.length > longest.length ? one : longest), lists[0] ?? NO_LIST);
  const named = (name: RegExp) => numbers.filter(({ path }) => name.test(String(path.at(-1) ?? '')));
  // "count" may be that of the page: only what is more than the page holds is surely the whole.
  const total = named(TOTAL).find(({ value }) => value > list.length);
  return {
    list: list === NO_LIST ? undefined : list.path,
    total: total?.path,
    pages: named(PAGES).find(({ value }) => Number.isInteger(value) && value >= 1)?.value,
  };
}

const NO_LIST = { path: [], length: 0 };

/**
 * The fields of a loop as an answer and the values that a parameter had suggest them.
 * @param answer the text of an answer; undefined where none was recorded
 * @param first the first value of the parameter that counts
 */
export function suggestLoop(answer: string | undefined, first = 0, step = 1): Partial<LoopFields> {
  const { list, total, pages } = answer === undefined ? findPaging('') : findPaging(answer);
  // A parameter that counts pages ends with them; one that counts things by the total.
  const last = pages === undefined || step !== 1 ? undefined : first === 0 ? pages - 1 : pages;
  return {
    ...(list === undefined ? {} : { list: writePath(list) }),
    ...(total === undefined ? {} : { total: writePath(total) }),
    ...(last === undefined ? {} : { to: String(last) }),
  };
}
