import type { CarrySource } from '../convert';
import { EACH, parseJson, readPath, writePath } from '../json';
import { findHeader, findLines, type NameValue } from '../model';
import type { TakenFrom } from './variables';

/** A response as values are taken from it. */
export interface TakeableResponse {
  readonly headers: readonly NameValue[];
  /** Its body as text; absent where it is none. */
  readonly text: string | undefined;
}

/** The value that a response has at a place; undefined where it has none, or one that is no text, number or truth. */
export function takeValue(
  { headers, text }: TakeableResponse,
  { part, place }: Pick<TakenFrom, 'part' | 'place'>,
): string | undefined {
  switch (part) {
    case 'header':
      return findHeader(headers, place);
    case 'cookie':
      return findLines(headers, 'set-cookie')
        .map((line) => /^\s*([^=;]+)=([^;]*)/.exec(line))
        .findLast((match) => match?.[1]?.trim() === place)?.[2];
    case 'json': {
      const steps = readPath(place);
      let value: unknown = text === undefined || steps === undefined ? undefined : parseJson(text);
      for (const step of steps ?? []) {
        const key = step === EACH ? 0 : step;
        value =
          typeof value === 'object' && value !== null && Object.hasOwn(value, key)
            ? Reflect.get(value, key)
            : undefined;
      }
      if (typeof value === 'string') return value;
      return typeof value === 'number' || typeof value === 'boolean' ? String(value) : undefined;
    }
    default:
      return part satisfies never;
  }
}

/** Where a captured response gave a value, as a place that it can be taken from. */
export function placeOf(source: CarrySource): Pick<TakenFrom, 'part' | 'place'> {
  switch (source.type) {
    case 'json':
      return { part: 'json', place: writePath(source.path) };
    case 'cookie':
      return { part: 'cookie', place: source.name };
    case 'location':
      return { part: 'header', place: 'location' };
    default:
      return source satisfies never;
  }
}

/** A place in words: "$.token", "the header location", "the cookie sid". */
export const tellTaken = ({ part, place }: Pick<TakenFrom, 'part' | 'place'>): string =>
  part === 'json' ? place : `the ${part} ${place}`;
