import type { CarrySource } from '../convert';
import { EACH, readPath, textAt, writePath } from '../json';
import { findHeader, findLines, type NameValue } from '../model';
import type { TakenFrom } from './variables';

/** A response as values are taken from it. */
export interface TakeableResponse {
  readonly headers: readonly NameValue[];
  /** Its body as text; absent where it is none. */
  readonly text: string | undefined;
}

const NOT_TAKEN: ReadonlySet<string> = new Set(['object', 'array', 'null']);

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
      if (text === undefined || steps === undefined) return undefined;
      const first = steps.map((step) => (step === EACH ? 0 : step));
      const found = textAt(text, first);
      return found === undefined || NOT_TAKEN.has(found.kind) ? undefined : found.text;
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
