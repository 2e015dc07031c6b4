import { groupBy } from '../collections';
import { isSecretName } from '../content';
import { type Entry, HEADER_GROUPS, type HeaderGroup, TOPICS } from './entry';
import { findNetworkError, GLOSSARY } from './glossary';
import { HEADERS } from './headers';
import { DIRECTIVES, METHODS, STATUSES } from './others';

/** Everything that is explained, by topic. */
export const REFERENCE: readonly Entry[] = TOPICS.flatMap((topic) =>
  [...GLOSSARY, ...HEADERS, ...STATUSES, ...DIRECTIVES, ...METHODS].filter((entry) => entry.topic === topic),
);

const byName = <T extends Entry>(entries: readonly T[]): ReadonlyMap<string, T> =>
  new Map(entries.map((entry) => [entry.name, entry]));
const headers = byName(HEADERS);
const statuses = byName(STATUSES);
const methods = byName(METHODS);
const directives = byName(DIRECTIVES);

/** The names of all headers that are explained here. */
export const headerNames = (): string[] => [...headers.values()].map(({ name }) => name);

/** What a header means, by its name whatever its case. */
export const findHeaderEntry = (name: string): Entry | undefined => headers.get(name.toLowerCase());
export const findStatusEntry = (status: number): Entry | undefined => statuses.get(String(status));
export const findMethodEntry = (method: string): Entry | undefined => methods.get(method);

/** What a header is for, known ones by the reference, others by their name. */
export function headerGroup(name: string): HeaderGroup {
  const known = headers.get(name.toLowerCase());
  if (known !== undefined) return known.group;
  const lower = name.toLowerCase();
  if (lower.startsWith(':')) return 'connection';
  if (lower.startsWith('sec-ch-')) return 'hints';
  if (lower.startsWith('sec-')) return 'browser';
  if (lower.startsWith('access-control-')) return 'cross-origin';
  return isSecretName(name) ? 'credentials' : 'own';
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

/** Words of a question that tell nothing of what is asked: "why 304", "what does samesite mean". */
const FILLERS = new Set(
  'why what what’s whats is are was a an the does do did mean means meaning of how in on to my i it this'.split(' '),
);

/** Texts in which words are looked for, best first: a match in an earlier one is listed before any in a later one. */
const LAYERS: readonly ((entry: Entry) => readonly string[])[] = [
  ({ name }) => [name],
  ({ also }) => also ?? [],
  ({ name, topic, says, section, also }) => [[name, topic, says, section, ...(also ?? [])].join(' ')],
];

/**
 * The entries that are meant by what somebody types: the one so named first, then those whose name, other names or
 * explanation contain all the words. Words of a question are left out; an error of a browser that has no entry of its own
 * leads to that of its reason. All entries where nothing is typed.
 */
export function searchReference(typed: string): readonly Entry[] {
  const all = typed.toLowerCase().replace(/[?!"]/g, ' ').replaceAll('net::', '').split(/\s+/).filter(Boolean);
  const telling = all.filter((word) => !FILLERS.has(word));
  // "on", or "error", alone is all there is to go by.
  const words = telling.length > 0 ? telling : all;
  if (words.length === 0) return REFERENCE;
  const contains = (text: string): boolean => words.every((word) => text.toLowerCase().includes(word));
  const is = (text: string): boolean => text.toLowerCase() === words.join(' ');
  const error = words.map(findNetworkError).find((entry) => entry !== undefined);
  const topic = TOPICS.find((one) => is(one) || is(`${one}s`));
  const found = [
    ...REFERENCE.filter((entry) => entry.topic === topic),
    ...LAYERS.slice(0, 2).flatMap((layer) => REFERENCE.filter((entry) => layer(entry).some(is))),
    ...REFERENCE.filter(({ topic, name }) => topic === error?.topic && name === error.name),
    ...LAYERS.flatMap((layer) => REFERENCE.filter((entry) => layer(entry).some(contains))),
  ];
  return [...new Set(found)];
}
