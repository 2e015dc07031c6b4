import { diffLines } from 'diff';
import { parseExactJson, writeExactJson, writeStep } from '../json';
import type { NameValue } from '../model';
import { isPage, pageText } from './page-text';
import { looksVolatile } from './volatile';

/** A response as it is held against another one. */
export interface HeldResponse {
  readonly status: number;
  readonly headers: readonly NameValue[];
  /** Its body as text; its bytes where it is none; absent where the capture does not hold it. */
  readonly body:
    | { readonly type: 'text'; readonly text: string }
    | { readonly type: 'bytes'; readonly bytes: Uint8Array }
    | undefined;
}

/** Something that is not the same in both. */
export interface PlaceDifference {
  /** "status", "header retry-after", a path of JSON, "line 7", "body". */
  readonly place: string;
  /** As the measure has it; absent where it has none. */
  readonly was: string | undefined;
  readonly is: string | undefined;
  /** Status before shape (members gone, new, of another type) before values. */
  readonly of: 'status' | 'shape' | 'value';
  /** It changes by itself: that is known from unchanged trials, or looks so. */
  readonly changes: 'known' | 'guessed' | undefined;
}

/** Whether two responses say the same. */
export interface Sameness {
  readonly verdict: 'same' | 'same-but' | 'differs';
  /** Those that count first, then those that change by themselves; both in the order of the response. */
  readonly differences: readonly PlaceDifference[];
  /** The bodies could not be held against each other: one of them is not there. */
  readonly lacksBody: boolean;
}

/** Headers that say when, by whom and how a response came, not what it says (RFC 9110 6.6.1, 8.8; RFC 9111 5). */
const OF_THE_MOMENT =
  /^(?:date|age|expires|etag|server-timing|content-length|content-encoding|transfer-encoding|connection|keep-alive|traceparent|(?:x-)?(?:request|correlation|trace|amz|amzn|b3)-?(?:id|traceid)?)$/i;

/**
 * Holds a response against a measure: status, headers that say something of it, and the body: JSON value by value, pages
 * by their text, other text line by line, bytes as a whole. What is known to change by itself, or looks it, does not make them differ.
 * @param known places that differed between unchanged trials, as `generalPlace` writes them
 */
export function holdAgainst(
  measure: HeldResponse,
  response: HeldResponse,
  known: ReadonlySet<string> = new Set(),
): Sameness {
  const found: Omit<PlaceDifference, 'changes'>[] = [];
  const status = (of: HeldResponse): string => String(of.status);
  if (measure.status !== response.status)
    found.push({ place: 'status', was: status(measure), is: status(response), of: 'status' });
  found.push(...headerDifferences(measure.headers, response.headers));
  const lacksBody = (measure.body === undefined) !== (response.body === undefined);
  if (measure.body !== undefined && response.body !== undefined)
    found.push(...bodyDifferences(measure.body, response.body));
  const told = found.map((one): PlaceDifference => ({ ...one, changes: changeOf(one, known) }));
  const counted = told.filter(({ changes }) => changes === undefined);
  const others = told.filter(({ changes }) => changes !== undefined);
  return {
    verdict: counted.length > 0 ? 'differs' : others.length > 0 ? 'same-but' : 'same',
    differences: [...inOrder(counted), ...others],
    lacksBody,
  };
}

const RANK = { status: 0, shape: 1, value: 2 } as const;
const inOrder = (list: readonly PlaceDifference[]): PlaceDifference[] =>
  [...list].sort((one, other) => RANK[one.of] - RANK[other.of]);

/** The places that differ between responses to the same request, as they are known to change by themselves. */
export function volatilePlaces(responses: readonly HeldResponse[]): ReadonlySet<string> {
  const [first, ...others] = responses;
  const places = others.flatMap((other) => (first === undefined ? [] : holdAgainst(first, other).differences));
  return new Set(places.map(({ place }) => generalPlace(place)));
}

/** A place without its numbers: what changes at one element of an array changes at all of them. */
export const generalPlace = (place: string): string => place.replace(/\[\d+\]/g, '[*]');

function changeOf(
  { place, was, is, of }: Omit<PlaceDifference, 'changes'>,
  known: ReadonlySet<string>,
): PlaceDifference['changes'] {
  if (of === 'status') return undefined;
  if (known.has(generalPlace(place))) return 'known';
  return of === 'value' && (place === MARKUP || looksVolatile(place, was, is)) ? 'guessed' : undefined;
}

function headerDifferences(
  measure: readonly NameValue[],
  response: readonly NameValue[],
): Omit<PlaceDifference, 'changes'>[] {
  const group = (headers: readonly NameValue[]): Map<string, string> => {
    const values = new Map<string, string[]>();
    for (const { name, value } of headers) {
      const key = name.toLowerCase();
      if (key.startsWith(':') || OF_THE_MOMENT.test(key)) continue;
      // Of a cookie only that it is set: its value is new each time.
      const said = key === 'set-cookie' ? (value.split('=', 1)[0] ?? '') : value.trim();
      values.set(key, [...(values.get(key) ?? []), said]);
    }
    return new Map(
      [...values].map(([key, list]) => [key, (key === 'set-cookie' ? [...list].sort() : list).join(', ')]),
    );
  };
  const [was, is] = [group(measure), group(response)];
  return [...new Set([...was.keys(), ...is.keys()])].flatMap((name) => {
    if (was.get(name) === is.get(name)) return [];
    const isShape = !was.has(name) || !is.has(name);
    return [
      { place: `header ${name}`, was: was.get(name), is: is.get(name), of: isShape ? 'shape' : 'value' } as const,
    ];
  });
}

type Body = NonNullable<HeldResponse['body']>;

function bodyDifferences(measure: Body, response: Body): Omit<PlaceDifference, 'changes'>[] {
  if (measure.type !== response.type)
    return [{ place: 'body', was: sizeOf(measure), is: sizeOf(response), of: 'shape' }];
  if (measure.type === 'bytes' || response.type === 'bytes') {
    const isSame = measure.type === 'bytes' && response.type === 'bytes' && areSame(measure.bytes, response.bytes);
    return isSame ? [] : [{ place: 'body', was: sizeOf(measure), is: sizeOf(response), of: 'value' }];
  }
  if (measure.text === response.text) return [];
  if (isPage(measure.text) && isPage(response.text)) return pageDifferences(measure.text, response.text);
  const [was, is] = [parseExactJson(measure.text), parseExactJson(response.text)];
  if (was !== undefined && is !== undefined) {
    const found: Omit<PlaceDifference, 'changes'>[] = [];
    try {
      compareJson(was, is, '$', found);
      return found;
    } catch (error) {
      // Nested deeper than a call stack goes: it is held as the text that it is.
      if (!(error instanceof RangeError)) throw error;
    }
  }
  return lineDifferences(measure.text, response.text);
}

/** Pages by what they say; where that is the same, that their markup is not. */
function pageDifferences(measure: string, response: string): Omit<PlaceDifference, 'changes'>[] {
  const [was, is] = [pageText(measure), pageText(response)];
  if (was !== is) return lineDifferences(was, is, 'text line');
  const size = (text: string): string => `markup of ${text.length} characters`;
  return [{ place: MARKUP, was: size(measure), is: size(response), of: 'value' }];
}

/** The markup of pages that say the same holds addresses, nonces and ids that are new each time. */
const MARKUP = 'markup';

const sizeOf = (body: Body): string =>
  body.type === 'text' ? `text of ${body.text.length} characters` : `${body.bytes.length} bytes`;

const areSame = (one: Uint8Array, other: Uint8Array): boolean =>
  one.length === other.length && one.every((byte, at) => byte === other[at]);

type Container = Readonly<Record<string, unknown>>;
const isObject = (value: unknown): value is Container =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
function typeOf(value: unknown): string {
  if (value === null) return 'null';
  if (Array.isArray(value)) return 'array';
  return typeof value === 'bigint' ? 'number' : typeof value;
}
const written = writeExactJson;

function compareJson(was: unknown, is: unknown, path: string, found: Omit<PlaceDifference, 'changes'>[]): void {
  if (typeOf(was) !== typeOf(is)) {
    found.push({ place: path, was: written(was), is: written(is), of: 'shape' });
  } else if (isObject(was) && isObject(is)) {
    for (const name of new Set([...Object.keys(was), ...Object.keys(is)]))
      compareMember(was, is, name, path + writeStep(name), found);
  } else if (Array.isArray(was) && Array.isArray(is)) compareLists(was, is, path, found);
  else if (written(was) !== written(is)) found.push({ place: path, was: written(was), is: written(is), of: 'value' });
}

function compareMember(
  was: Container,
  is: Container,
  name: string,
  path: string,
  found: Omit<PlaceDifference, 'changes'>[],
): void {
  const [before, after] = [Object.hasOwn(was, name), Object.hasOwn(is, name)];
  if (before && after) compareJson(was[name], is[name], path, found);
  else
    found.push({
      place: path,
      was: before ? written(was[name]) : undefined,
      is: after ? written(is[name]) : undefined,
      of: 'shape',
    });
}

/** Elements by what identifies them in both, where something does; else by their places. */
function compareLists(
  was: readonly unknown[],
  is: readonly unknown[],
  path: string,
  found: Omit<PlaceDifference, 'changes'>[],
): void {
  const name = identityOf(was, is);
  const keyOf = (value: unknown, at: number): string =>
    name === undefined ? String(at) : written((value as Container)[name]);
  const before = new Map(was.map((value, at) => [keyOf(value, at), { value, at }]));
  const after = new Map(is.map((value, at) => [keyOf(value, at), { value, at }]));
  for (const [key, one] of before) {
    const other = after.get(key);
    const place = path + writeStep(one.at);
    if (other === undefined) found.push({ place, was: written(one.value), is: undefined, of: 'shape' });
    else compareJson(one.value, other.value, place, found);
  }
  for (const [key, { value, at }] of after)
    if (!before.has(key)) found.push({ place: path + writeStep(at), was: undefined, is: written(value), of: 'shape' });
}

const IDENTITY = /^(?:_?id|uuid|guid|key|code|slug|name)$/i;

/** A member that all elements of both lists have, each with a value of its own. */
function identityOf(was: readonly unknown[], is: readonly unknown[]): string | undefined {
  const [first] = was;
  if (!isObject(first) || ![...was, ...is].every(isObject)) return undefined;
  const isUnique = (list: readonly unknown[], name: string): boolean => {
    const values = list.map((value) => (value as Container)[name]);
    return (
      values.every((value) => ['string', 'number', 'bigint'].includes(typeof value)) &&
      new Set(values).size === values.length
    );
  };
  const names = Object.keys(first).filter((name) => IDENTITY.test(name));
  const fit = names.filter((name) => isUnique(was, name) && isUnique(is, name));
  // Where none of them is in both, these are new each time: places tell more.
  return fit.find((name) => {
    const values = new Set(is.map((value) => (value as Container)[name]));
    return was.some((value) => values.has((value as Container)[name]));
  });
}

function lineDifferences(was: string, is: string, name = 'line'): Omit<PlaceDifference, 'changes'>[] {
  const changes = diffLines(ended(was), ended(is), { maxEditLength: 2000 });
  if (changes === undefined)
    return [
      { place: 'body', was: sizeOf({ type: 'text', text: was }), is: sizeOf({ type: 'text', text: is }), of: 'value' },
    ];
  const found: Omit<PlaceDifference, 'changes'>[] = [];
  let line = 1;
  for (const [at, change] of changes.entries()) {
    const next = changes[at + 1];
    if (change.removed && next?.added === true) {
      found.push({ place: `${name} ${line}`, was: change.value.trimEnd(), is: next.value.trimEnd(), of: 'value' });
    } else if (change.removed) {
      found.push({ place: `${name} ${line}`, was: change.value.trimEnd(), is: undefined, of: 'value' });
    } else if (change.added && changes[at - 1]?.removed !== true) {
      found.push({ place: `${name} ${line}`, was: undefined, is: change.value.trimEnd(), of: 'value' });
    }
    if (!change.added) line += change.count ?? 0;
  }
  return found;
}

/** A last line without its end is the same line. */
const ended = (text: string): string => (text.endsWith('\n') ? text : `${text}\n`);
