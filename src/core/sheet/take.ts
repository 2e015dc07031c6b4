import { readSetCookie } from '../content';
import { type CarrySource, writtenAs } from '../convert';
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
  { part, place, as }: Omit<TakenFrom, 'draft'>,
): string | undefined {
  const value = foundAt({ headers, text }, part, place);
  return value === undefined ? undefined : writtenAs(value, as ?? 'plain');
}

function foundAt({ headers, text }: TakeableResponse, part: TakenFrom['part'], place: string): string | undefined {
  switch (part) {
    case 'header':
      return findHeader(headers, place);
    case 'cookie':
      return findLines(headers, 'set-cookie')
        .map((line) => readSetCookie(line, undefined))
        .findLast((cookie) => cookie?.name === place)?.value;
    case 'json': {
      const steps = readPath(place);
      if (text === undefined || steps === undefined) return undefined;
      const first = steps.map((step) => (step === EACH ? 0 : step));
      const found = textAt(text, first);
      return found === undefined || NOT_TAKEN.has(found.kind) ? undefined : found.text;
    }
    case 'text':
      return text === undefined ? undefined : textAround(text, place);
    case 'parameter': {
      const pieces = (findHeader(headers, 'location') ?? '').split(/[?&#]/);
      return pieces.find((piece) => piece.startsWith(`${place}=`))?.slice(place.length + 1) || undefined;
    }
    default:
      return part satisfies never;
  }
}

/** Stands in a place for the value between two texts. */
const GAP = '…';

/** What stands where a place has its gap, the first time; undefined where nothing does. */
function textAround(text: string, place: string): string | undefined {
  const gap = place.lastIndexOf(GAP);
  const [before, after] = [place.slice(0, gap), place.slice(gap + GAP.length)];
  const start = gap === -1 ? -1 : text.indexOf(before);
  if (start === -1 || before === '') return undefined;
  const from = start + before.length;
  const end = after === '' ? text.length : text.indexOf(after, from);
  return end > from ? text.slice(from, end) : undefined;
}

/** Where a captured response gave a value, as a place that it can be taken from. */
export function placeOf(source: CarrySource): Pick<TakenFrom, 'part' | 'place'> {
  switch (source.type) {
    case 'json':
      return { part: 'json', place: writePath(source.path) };
    case 'text':
      return { part: 'text', place: source.before + GAP + source.after };
    case 'cookie':
      return { part: 'cookie', place: source.name };
    case 'header':
      return { part: 'header', place: source.name };
    case 'location':
      return { part: 'header', place: 'location' };
    case 'parameter':
      return { part: 'parameter', place: source.name };
    default:
      return source satisfies never;
  }
}

/** A place in words: "$.token", "the header location", "the cookie sid", 'name="key" value="…"'. */
export function tellTaken({ part, place, as }: Omit<TakenFrom, 'draft'>): string {
  const told =
    part === 'json' || part === 'text'
      ? place.replace(/\s+/g, ' ')
      : `the ${part} ${place}${part === 'parameter' ? ' of Location' : ''}`;
  return as === undefined ? told : `${told}, percent-${as}`;
}
