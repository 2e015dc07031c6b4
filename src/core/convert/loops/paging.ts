import { parseJson, writePath } from '../../json';
import type { Draft } from '../draft';
import type { LoopFields } from './fields';
import { holdsParameter } from './parameter';

type Steps = readonly (string | number)[];
type Container = Readonly<Record<string, unknown>>;

/** A captured response, as far as it tells of the list that it is a page of. */
export interface CapturedPage {
  /** Its body; absent where none was recorded. */
  readonly text?: string | undefined;
  readonly headers?: readonly { readonly name: string; readonly value: string }[] | undefined;
}

interface Found<T> {
  readonly path: Steps;
  readonly value: T;
}

/** What a response tells of the list that it is a page of. */
interface Paging {
  readonly list: Steps | undefined;
  /** Where it says how many there are in all, as it is typed. */
  readonly total: string | undefined;
  /** Where it says how many pages there are. */
  readonly pages: string | undefined;
  /** Where it names the page behind it: the address of one, or what a parameter gets. */
  readonly next: { readonly place: string; readonly name: string; readonly isAddress: boolean } | undefined;
}

const DEEPEST = 4;
const TOTAL = /^(total|total_?(count|items|results|elements|hits|records)|(item|result|record)s?_?count|count)$/i;
const PAGES = /^(pages|total_?pages|page_?count)$/i;
const NEXT =
  /^(next|next_?(page|cursor|url|uri|link|href|token|page_?token)|(end_?)?cursor|continuation(_?token)?|page_?token|after)$/i;
/** Members of an object called "next" that hold its address. */
const HREF = /^(href|url|uri)$/i;
const TOTAL_HEADERS = ['x-total-count', 'x-total', 'total-count', 'content-range'];
const PAGES_HEADERS = ['x-total-pages', 'x-pages', 'x-page-count'];

/** The longest list of a response, what it says of its length, and what it names as next. */
export function findPaging({ text = '', headers = [] }: CapturedPage): Paging {
  const lists: Found<number>[] = [];
  const numbers: Found<number>[] = [];
  const texts: Found<string>[] = [];
  const visit = (value: unknown, path: Steps): void => {
    if (Array.isArray(value)) lists.push({ path, value: value.length });
    else if (typeof value === 'number') numbers.push({ path, value });
    else if (typeof value === 'string') texts.push({ path, value });
    else if (typeof value === 'object' && value !== null && path.length < DEEPEST)
      for (const [name, member] of Object.entries(value as Container)) visit(member, [...path, name]);
  };
  visit(parseJson(text), []);
  // One that is empty may be any of them: the first is as good as the others.
  const list = lists.reduce((longest, one) => (one.value > longest.value ? one : longest), lists[0] ?? NO_LIST);
  const named = (name: RegExp) => numbers.filter(({ path }) => name.test(String(path.at(-1) ?? '')));
  // "count" may be that of the page: only what is more than the page holds is surely the whole.
  const total = named(TOTAL).find(({ value }) => value > list.value);
  const pages = named(PAGES).find(({ value }) => Number.isInteger(value) && value >= 1);
  const headerOf = (names: readonly string[], least: number): string | undefined => {
    const header = headers.find(({ name, value }) => names.includes(name.toLowerCase()) && lastNumber(value) >= least);
    return header === undefined ? undefined : `header ${header.name}`;
  };
  return {
    list: list === NO_LIST ? undefined : list.path,
    total: total === undefined ? headerOf(TOTAL_HEADERS, list.value + 1) : writePath(total.path),
    pages: pages === undefined ? headerOf(PAGES_HEADERS, 1) : writePath(pages.path),
    next: nextOf(texts, headers),
  };
}

const NO_LIST = { path: [], value: 0 };

/** The number that a header ends in: of "items 0-24/319" the 319 (RFC 9110 14.4), of "items 0-24/*" none. */
const lastNumber = (value: string): number => Number(/(\d+)\s*$/.exec(value)?.[1] ?? Number.NaN);

function nextOf(texts: readonly Found<string>[], headers: CapturedPage['headers'] = []): Paging['next'] {
  const nameOf = ({ path }: Found<string>): string => {
    const [last, before] = [String(path.at(-1) ?? ''), String(path.at(-2) ?? '')];
    return HREF.test(last) ? before : last;
  };
  const found = texts.filter((one) => one.value !== '' && NEXT.test(nameOf(one)));
  const isAddress = ({ path, value }: Found<string>): boolean =>
    /^(https?:\/\/|\/|\?)/i.test(value) || HREF.test(String(path.at(-1)));
  // An address is the whole of it; of two other texts, one that says "next" is the surer.
  const best = found.find(isAddress) ?? found.find((one) => /next|continuation|end/i.test(nameOf(one))) ?? found[0];
  if (best !== undefined) return { place: writePath(best.path), name: nameOf(best), isAddress: isAddress(best) };
  const hasLink = headers.some(
    ({ name, value }) => name.toLowerCase() === 'link' && /;\s*rel\s*=\s*"?next\b/i.test(value),
  );
  return hasLink ? { place: 'header Link', name: 'next', isAddress: true } : undefined;
}

/** Parameters that take what a response names, as services call them beside that name itself. */
const CURSORS = ['cursor', 'after', 'page_token', 'pageToken', 'continuation', 'continuationToken', 'next', 'start'];

/** The parameter that gets what a response calls by a name: one that the request has, else as the name has it. */
function parameterFor(name: string, draft: Draft): string {
  const bare = name.replace(/^(next|end)_?(?=.)/i, '');
  const own = bare.charAt(0).toLowerCase() + bare.slice(1);
  return [own, name, ...CURSORS].find((one) => holdsParameter(draft, one)) ?? own;
}

/**
 * The fields of a loop as a captured response and the values that a parameter had suggest them.
 * @param draft the request; where there is one, the parameter for what the response names is looked for in it
 */
export function suggestLoop(page: CapturedPage, draft?: Draft): Partial<LoopFields> {
  const { list, total, pages, next } = findPaging(page);
  return {
    ...(list === undefined ? {} : { list: writePath(list) }),
    ...(total === undefined ? {} : { total }),
    ...(pages === undefined ? {} : { pages }),
    ...(next === undefined
      ? {}
      : {
          next: next.place,
          cursor: next.isAddress || draft === undefined ? '' : parameterFor(next.name, draft),
        }),
  };
}
