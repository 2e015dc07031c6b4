import { type Draft, payloadBytes, payloadFields, readPiece, splitQuery } from '../convert';
import { parseJson } from '../json';
import type { PlaceDifference } from './same';

/** A value that was changed in a request. */
export interface RequestChange {
  /** What it is called there. */
  readonly name: string;
  readonly was: string | undefined;
  readonly is: string | undefined;
}

/** The values that one request has and the other has not: of its query, its headers and the fields of its payload. */
export function requestChanges(before: Draft, after: Draft): RequestChange[] {
  const [was, is] = [valuesOf(before), valuesOf(after)];
  return [...new Set([...was.keys(), ...is.keys()])].flatMap((name) =>
    was.get(name) === is.get(name) ? [] : [{ name, was: was.get(name), is: is.get(name) }],
  );
}

function valuesOf(draft: Draft): ReadonlyMap<string, string> {
  const values = new Map<string, string>();
  for (const piece of splitQuery(draft.url).pieces) {
    const { name, value } = readPiece(piece);
    values.set(name, value);
  }
  for (const { name, value, kept } of draft.headers) if (kept) values.set(name.toLowerCase(), value);
  for (const [path, value] of payloadFields(payloadBytes(draft.payload) ?? new Uint8Array()) ?? [])
    values.set(nameOf(path), value);
  return values;
}

/** A field's own name, without the way to it. */
const nameOf = (path: string): string =>
  /([A-Za-z0-9_-]+)[^A-Za-z0-9_-]*$/.exec(path.replace(/(?:\[\d+\])+$/, ''))?.[1] ?? path;

/**
 * The change of the request that a difference of the response follows from: the response says the changed value where it
 * said the one before. It may be chance; of the same name it hardly is.
 */
export function followsFrom(
  { place, was, is }: Pick<PlaceDifference, 'place' | 'was' | 'is'>,
  changes: readonly RequestChange[],
): RequestChange | undefined {
  if (was === undefined || is === undefined) return undefined;
  const [before, after] = [plain(was), plain(is)];
  return changes.find((change) => change.was === before && change.is === after && namedAlike(place, change.name));
}

/** A value of JSON as the request has it: a string without its quotes. */
function plain(text: string): string {
  const value = /^".*"$/s.test(text) ? parseJson(text) : undefined;
  return typeof value === 'string' ? value : text;
}

/** Whether a place of a response is called as a value of the request is. */
const namedAlike = (place: string, name: string): boolean => {
  const words = (text: string): string => text.toLowerCase().replace(/[^a-z0-9]+/g, '');
  return words(nameOf(place)) === words(name);
};
