import { groupBy } from '../collections';
import { type Entry, HEADER_GROUPS, type HeaderGroup } from './entry';
import { HEADERS } from './headers';
import { DIRECTIVES, METHODS, STATUSES } from './others';

/** Everything that is explained, by topic. */
export const REFERENCE: readonly Entry[] = [...HEADERS, ...STATUSES, ...DIRECTIVES, ...METHODS];

const byName = <T extends Entry>(entries: readonly T[]): ReadonlyMap<string, T> =>
  new Map(entries.map((entry) => [entry.name, entry]));
const headers = byName(HEADERS);
const statuses = byName(STATUSES);
const methods = byName(METHODS);
const directives = byName(DIRECTIVES);

/** What a header means, by its name whatever its case. */
export const findHeaderEntry = (name: string): Entry | undefined => headers.get(name.toLowerCase());
export const findStatusEntry = (status: number): Entry | undefined => statuses.get(String(status));
export const findMethodEntry = (method: string): Entry | undefined => methods.get(method);

const CREDENTIAL = /(^|[-_])(token|key|secret|csrf|xsrf|session|auth|password)$|^x-(csrf|xsrf)/;

/** What a header is for, known ones by the reference, others by their name. */
export function headerGroup(name: string): HeaderGroup {
  const known = headers.get(name.toLowerCase());
  if (known !== undefined) return known.group;
  const lower = name.toLowerCase();
  if (lower.startsWith(':')) return 'connection';
  if (lower.startsWith('sec-ch-')) return 'hints';
  if (lower.startsWith('sec-')) return 'browser';
  if (lower.startsWith('access-control-')) return 'cross-origin';
  return CREDENTIAL.test(lower) ? 'credentials' : 'own';
}

/** Items with a header's name, by what the headers are for, in the order of the groups; within each as they came. */
export function groupHeaders<T extends { readonly name: string }>(
  items: readonly T[],
): { readonly group: HeaderGroup; readonly items: readonly T[] }[] {
  const groups = groupBy(items, ({ name }) => headerGroup(name));
  return HEADER_GROUPS.flatMap((group) => {
    const own = groups.get(group);
    return own === undefined ? [] : { group, items: own };
  });
}

/** The cache directives of a Cache-Control value that are explained, each with what it was set to. */
export function explainDirectives(value: string): { readonly entry: Entry; readonly setTo: string | undefined }[] {
  return value.split(',').flatMap((part) => {
    const [name = '', setTo] = part.trim().split('=', 2);
    const entry = directives.get(name.toLowerCase());
    return entry === undefined ? [] : { entry, setTo: setTo?.replace(/^"(.*)"$/, '$1') };
  });
}

/** The entries whose name or explanation holds all the words, those whose name does first. */
export function searchReference(words: string): Entry[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const holds = (text: string): boolean => wanted.every((word) => text.toLowerCase().includes(word));
  const named = REFERENCE.filter(({ name }) => holds(name));
  const told = REFERENCE.filter(
    (entry) => !named.includes(entry) && holds(`${entry.name} ${entry.topic} ${entry.says} ${entry.section}`),
  );
  return [...named, ...told];
}
