import { jsonPathsAt } from '../json';
import { type Exchange, findFailure, findResponse, type NameValue } from '../model';
import { wordFailure } from '../wording';
import type { Form } from './query';
import type { Match, Search } from './search';

/** Where in an exchange something can stand. */
export const HIT_PLACES = [
  'address',
  'status',
  'request header',
  'request payload',
  'response header',
  'response body',
  'message',
] as const;
export type HitPlace = (typeof HIT_PLACES)[number];

/** Something found: in which exchange, where in it, and what stands around it. */
export interface Hit {
  readonly index: number;
  readonly place: HitPlace;
  /** The header's name, the path of the JSON value, "line 12", or the message's number. */
  readonly path: string | undefined;
  /** Where it begins in the text of its place, in UTF-16 units from 0. */
  readonly offset: number;
  readonly before: string;
  readonly match: string;
  readonly after: string;
  readonly form: Form;
  /** It is the last one given of its place, where more stand. */
  readonly hasMore?: true;
}

/** Text shown before and after a match. */
const AROUND_CHARS = 48;
const MATCH_CHARS = 300;
/** Matches given for one place; whoever wants more of one body opens it. */
export const MOST_PER_PLACE = 200;

/** The text of a body or payload, for finding in: JSON has paths, other text lines; of what is binary a unit is a byte. */
export interface TextToSearch {
  readonly text: string;
  readonly shape: 'json' | 'text' | 'binary';
}

/** Everything found in an exchange but its response body, in the order of the dossier. */
export function findInExchange(exchange: Exchange, payload: TextToSearch | undefined, search: Search): Hit[] {
  const { index, request } = exchange;
  const response = findResponse(exchange);
  const hits: Hit[] = [];
  const look = (place: HitPlace, path: string | undefined, text: string): void => {
    const { matches, hasMore } = boundedMatches(text, search);
    for (const [at, { offset, length, form }] of matches.entries()) {
      const isLast = hasMore && at === matches.length - 1;
      hits.push({
        index,
        place,
        path,
        offset,
        ...surround(text, offset, length),
        form,
        ...(isLast ? { hasMore: true as const } : {}),
      });
    }
  };
  const lookInHeaders = (place: HitPlace, headers: readonly NameValue[]): void => {
    // Name and value are one text, as they were one line: "name: value" can be looked for.
    for (const { name, value } of headers) look(place, name, `${name}: ${value}`);
  };
  look('address', undefined, `${request.method} ${request.url}`);
  look('status', undefined, statusText(exchange));
  lookInHeaders('request header', request.headers);
  if (payload !== undefined) hits.push(...findInBody(index, 'request payload', payload, search));
  lookInHeaders('response header', response?.headers ?? []);
  for (const [at, { data }] of exchange.messages.entries()) look('message', String(at), data);
  return hits;
}

/** Everything found in a body or payload. */
export function findInBody(
  index: number,
  place: 'request payload' | 'response body',
  { text, shape }: TextToSearch,
  search: Search,
): Hit[] {
  const { matches, hasMore } = boundedMatches(text, search);
  if (matches.length === 0) return [];
  const offsets = matches.map(({ offset }) => offset);
  const paths = pathsAt(text, shape, offsets);
  return matches.map(({ offset, length, form }, at) => ({
    index,
    place,
    path: paths[at],
    offset,
    ...surround(text, offset, length),
    form,
    ...(hasMore && at === matches.length - 1 ? { hasMore: true as const } : {}),
  }));
}

/** The matches of one place, and whether there are more than are given. */
function boundedMatches(
  text: string,
  search: Search,
): { readonly matches: readonly Match[]; readonly hasMore: boolean } {
  const matches = search.inText(text, MOST_PER_PLACE + 1);
  return { matches: matches.slice(0, MOST_PER_PLACE), hasMore: matches.length > MOST_PER_PLACE };
}

/** The sentence that says of which places more stands than was given; undefined where nothing was left out. */
export function wordBound(hits: readonly Hit[]): string | undefined {
  const bounded = hits.filter(({ hasMore }) => hasMore === true);
  const [first] = bounded;
  if (first === undefined) return undefined;
  const elsewhere =
    bounded.length === 1 ? '' : `, and so in ${bounded.length - 1} more ${bounded.length === 2 ? 'place' : 'places'}`;
  return `Only the first ${MOST_PER_PLACE} hits are given of the ${first.place} of #${first.index}, which has more${elsewhere}.`;
}

function pathsAt(text: string, shape: TextToSearch['shape'], offsets: readonly number[]): string[] {
  switch (shape) {
    case 'json':
      return jsonPathsAt(text, offsets);
    case 'text':
      return linesAt(text, offsets).map((line) => `line ${line}`);
    case 'binary':
      return offsets.map((offset) => `byte ${offset}`);
    default:
      return shape satisfies never;
  }
}

/** The text of an exchange's status in which is searched. */
function statusText(exchange: Exchange): string {
  const response = findResponse(exchange);
  const line = response === undefined ? '' : `${response.status} ${response.statusText}`.trim();
  const failure = findFailure(exchange);
  if (failure === undefined) return line;
  const words = wordFailure(failure);
  return words.includes(line) ? words : `${line}: ${words}`;
}

/** The match and what stands around it on one line; never cut inside a surrogate pair. */
function surround(text: string, offset: number, length: number): Pick<Hit, 'before' | 'match' | 'after'> {
  const end = offset + length;
  const oneLine = (part: string): string => part.toWellFormed().replace(/\s+/g, ' ');
  return {
    before: oneLine(text.slice(Math.max(0, offset - AROUND_CHARS), offset)),
    match: text.slice(offset, Math.min(end, offset + MATCH_CHARS)),
    after: oneLine(text.slice(end, end + AROUND_CHARS)),
  };
}

/** Line numbers, from 1, of places in rising order. */
function linesAt(text: string, offsets: readonly number[]): number[] {
  let line = 1;
  let at = 0;
  return offsets.map((offset) => {
    for (let next = text.indexOf('\n', at); next !== -1 && next < offset; next = text.indexOf('\n', at)) {
      line++;
      at = next + 1;
    }
    return line;
  });
}
