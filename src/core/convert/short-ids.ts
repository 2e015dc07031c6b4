import { addTo } from '../collections';
import { keyOf, kindOf, plainValue, readJsonTree } from '../json';
import type { Draft } from './draft';
import { joinQuery, readPiece, splitQuery } from './edit';

/** A short value that an answer gave under a name like an id's. */
export interface ShortId {
  readonly value: string;
  /** The names on the way to it, the last one its own. */
  readonly names: readonly string[];
  /** The path that was asked for it. */
  readonly path: string;
}

/** Names of what identifies something, as services write them: id, order_id, orderId, X-Order-Id, ref, number. */
const ID_NAME =
  /(?:^|[_.-])(?:id|uid|uuid|guid|key|code|no|nr|number|ref|reference|token|nonce|handle|cursor|ticket|csrf|xsrf)$/;
const isIdName = (name: string): boolean => ID_NAME.test(snake(name));
const snake = (name: string): string => name.replace(/([a-z0-9])([A-Z])/g, '$1_$2').toLowerCase();
/** Numbers of a page, a size or a price are round. */
const ROUND = /^\d0+$/;
const LEAST_CHARS = 2;
/** As long ones hardly are another's by chance, whatever they are called. */
const TELLING_CHARS = 5;

/** Whether a value that is too short to be told by itself is an id: by its name, and the digits in it. */
export const isShortId = (value: string, name: string | undefined): boolean =>
  name !== undefined && isIdName(name) && value.length >= LEAST_CHARS && /\d/.test(value) && /^[\w.~-]+$/.test(value);

/** A place of a request that holds one value as a whole: a segment of the path, a parameter, a member of JSON, a header. */
interface Place {
  /** What its name says that it is of; of a segment of the path the segment before it. */
  readonly name: string;
  readonly value: string;
}

/** Which requests hold a value as a whole at a place that is called like it. */
export class ShortIdUses {
  readonly #byValue = new Map<string, [{ at: number; name: string }, ...{ at: number; name: string }[]]>();

  constructor(drafts: readonly Draft[]) {
    for (const [at, draft] of drafts.entries())
      for (const { value, name } of placesOf(draft)) addTo(this.#byValue, value, { at, name });
  }

  /** The places of the requests that use an id, in their order; none where one before the answer held its value. */
  of(id: ShortId, answeredAt: number): number[] {
    const uses = this.#byValue.get(id.value) ?? [];
    if (uses.some(({ at }) => at <= answeredAt)) return [];
    return [...new Set(uses.filter(({ name }) => isNamedLike(id, name)).map(({ at }) => at))];
  }
}

/** A request with ids at such places replaced. @param put what stands in the place of an id; undefined where it stays */
export function replaceShortIds(draft: Draft, put: (place: Place) => string | undefined): Draft {
  const { base, pieces } = splitQuery(draft.url);
  const { before, segments } = segmentsOf(base);
  const path = segments.map((value, at) => put({ name: segments[at - 1] ?? '', value }) ?? value);
  // What is called "id" and no more is the id of what the path is about.
  const about = segments.findLast((segment) => /^[a-z][a-z_-]*$/i.test(segment)) ?? '';
  const putNamed = ({ name, value }: Place): string | undefined => put({ name: stemOf(name) || about, value });
  const query = pieces.map((piece) => replacePiece(piece, putNamed));
  const url = joinQuery([before, ...path].join('/'), query);
  const headers = draft.headers.map((header) =>
    isIdName(header.name) ? { ...header, value: putNamed(header) ?? header.value } : header,
  );
  if (draft.payload.type !== 'text') return { ...draft, url, headers };
  const { text } = draft.payload;
  const changed = replaceInJson(text, putNamed) ?? (isForm(text) ? replaceInForm(text, putNamed) : text);
  return { ...draft, url, headers, payload: { type: 'text', text: changed } };
}

function placesOf(draft: Draft): Place[] {
  const places: Place[] = [];
  replaceShortIds(draft, (place) => {
    if (/\d/.test(place.value)) places.push(place);
    return undefined;
  });
  return places;
}

/** A URL's segments behind its authority. */
function segmentsOf(base: string): { readonly before: string; readonly segments: readonly string[] } {
  const [, before = base, path] = /^([a-z][a-z0-9+.-]*:\/\/[^/]*)\/(.*)$/is.exec(base) ?? [];
  return { before, segments: path === undefined ? [] : path.split('/') };
}

function replacePiece(piece: string, put: (place: Place) => string | undefined): string {
  const { name, value } = readPiece(piece);
  const is = put({ name, value });
  return is === undefined ? piece : `${piece.slice(0, piece.indexOf('=') + 1)}${is}`;
}

const isForm = (text: string): boolean => /^[^=\s&]+=\S*$/.test(text);
const replaceInForm = (text: string, put: (place: Place) => string | undefined): string =>
  text
    .split('&')
    .map((piece) => replacePiece(piece, put))
    .join('&');

/** The plain values of JSON, each by its member's name; by that of what it is in where it is in a list, or called "id". */
function replaceInJson(text: string, put: (place: Place) => string | undefined): string | undefined {
  if (!/^\s*[[{]/.test(text)) return undefined;
  const tree = readJsonTree(text);
  if (tree.problem !== undefined) return undefined;
  let written = '';
  let end = 0;
  for (let node = 0; node < tree.count; node++) {
    const kind = kindOf(tree, node);
    if (kind !== 'string' && kind !== 'number') continue;
    let named = node;
    while (named > 0 && stemOf(String(keyOf(tree, named)).replace(/^\d+$/, '')) === '')
      named = tree.parents[named] ?? 0;
    const is = put({ name: String(keyOf(tree, named) ?? ''), value: plainValue(tree, node) });
    if (is === undefined) continue;
    const start = tree.starts[node] ?? 0;
    written += text.slice(end, start) + (kind === 'string' ? `"${is}"` : is);
    end = tree.ends[node] ?? 0;
  }
  return written + text.slice(end);
}

/** Whether a place is called as what an id is of: /orders/17 and {"order": 17} for the id of an order. */
export function isNamedLike({ value, names, path }: ShortId, name: string): boolean {
  if (value.length >= TELLING_CHARS && !ROUND.test(value)) return true;
  const own = stemOf(name);
  return own !== '' && [...names, ...path.split('/')].some((called) => stemOf(called) === own);
}

/** What a name is about: "order" of orders, orderId and order_ids; nothing of id. */
const stemOf = (name: string): string =>
  snake(name)
    .replace(/^x-/, '')
    .replace(/(?:^|[_.-])(?:id|uid|uuid|guid)s?$/, '')
    .replace(/s$/, '');
