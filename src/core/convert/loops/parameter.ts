import { jsonPathsAt, parseExactJson, readPath, writeExactJson, writePath } from '../../json';
import type { Draft } from '../draft';
import { joinQuery, readPiece, splitQuery, writePiece } from '../edit';
import { literally } from '../literally';
import { LOOP_VARIABLE, type Loop } from './loop';

/** How a value is written where the loop's variable stands: as a piece of a query or form, as JSON, or as it is. */
export interface Writing {
  readonly as: 'encoded' | 'json' | 'plain';
  /** What stands before it in the variable. */
  readonly before: string;
}

/** A draft with the loop's variable in it. */
export interface Placed {
  readonly draft: Draft;
  /** What the variable's place held, in that place's writing; nothing where the parameter was not there. */
  readonly first: string;
  readonly writing: Writing;
}

const ENCODED: Writing = { as: 'encoded', before: '' };
const MARK = `‹${LOOP_VARIABLE.name}›`;

/**
 * The draft with a variable in the place of a parameter's value: in the query, in a form's or JSON's member (a GraphQL
 * variable is one), in a header, or, of a name like "path.3", in the number of that segment of the path. Where it is
 * nowhere, the query gets it.
 * @param gets numbers, or what responses name: that is text, and at first there may be none
 */
export function placeParameter(draft: Draft, parameter: string, gets: 'numbers' | 'texts'): Placed {
  const found = findParameter(draft, parameter, gets);
  if (found !== undefined) return found;
  const { base, pieces } = splitQuery(draft.url.replace(/#.*$/s, ''));
  const kept = pieces.filter((piece) => piece !== '');
  const name = writePiece(parameter, '');
  if (gets === 'numbers') return placed({ ...draft, url: joinQuery(base, [...kept, name + MARK]) }, '', ENCODED);
  const before = `${kept.length === 0 ? '?' : '&'}${name}`;
  return placed({ ...draft, url: joinQuery(base, kept) + MARK }, '', { as: 'encoded', before });
}

/** Whether a request has a parameter of a name. */
export const holdsParameter = (draft: Draft, parameter: string): boolean =>
  findParameter(draft, parameter, 'texts') !== undefined;

const findParameter = (draft: Draft, parameter: string, gets: 'numbers' | 'texts'): Placed | undefined =>
  inQuery(draft, parameter) ??
  inPayload(draft, parameter, gets) ??
  inHeader(draft, parameter) ??
  inPath(draft, parameter);

/** The draft with the variable in the place of all that stands behind its host's slash. */
export function placeTarget(draft: Draft): Placed {
  const [, origin = '', first = ''] = /^([a-z][a-z0-9+.-]*:\/\/[^/?#]*)?\/?([^#]*)/i.exec(draft.url) ?? [];
  return placed({ ...draft, url: `${origin}/${MARK}` }, first, { as: 'plain', before: '' });
}

/**
 * The draft of a loop with its variable in it, and how a value is written there. A number stays one where the member of
 * JSON held one.
 */
export function placeLoop(
  draft: Draft,
  loop: Extract<Loop, { readonly type: 'pages' | 'follow' | 'values' }>,
): Placed & {
  /** A value in the place's writing. */
  readonly write: (value: unknown) => string;
  /** What was written there, as people read it. */
  readonly read: (written: string) => string;
} {
  const found =
    loop.type === 'pages'
      ? placeParameter(draft, loop.parameter, 'numbers')
      : loop.parameter === undefined
        ? placeTarget(draft)
        : placeParameter(draft, loop.parameter, 'texts');
  const { writing, first } = found;
  const isNumber = loop.type === 'values' && NUMBER.test(first);
  return {
    ...found,
    write: (value) => written(value, writing, isNumber),
    read: (text) => readBack(text, writing),
  };
}

const NUMBER = /^-?\d+(?:\.\d+)?$/;

function written(value: unknown, { as, before }: Writing, isNumber: boolean): string {
  const plain = typeof value === 'string' ? value : writeExactJson(value);
  if (as === 'plain') return before + plain;
  if (as === 'json') return before + (isNumber && NUMBER.test(plain) ? plain : writeExactJson(value));
  return before + encodeURIComponent(plain.toWellFormed());
}

function readBack(text: string, { as, before }: Writing): string {
  const plain = text.startsWith(before) ? text.slice(before.length) : text;
  if (as === 'plain') return plain;
  if (as === 'encoded') return readPiece(`=${plain}`).value;
  const value = parseExactJson(plain);
  return typeof value === 'string' ? value : plain;
}

function placed(draft: Draft, first: string, writing: Writing): Placed {
  const others = draft.variables.filter(({ name }) => name !== LOOP_VARIABLE.name);
  return { draft: { ...draft, variables: [...others, { ...LOOP_VARIABLE, value: first }] }, first, writing };
}

function inQuery(draft: Draft, parameter: string): Placed | undefined {
  const { base, pieces } = splitQuery(draft.url);
  const isIt = (piece: string): boolean => readPiece(piece).name === parameter;
  const piece = pieces.find(isIt);
  if (piece === undefined) return undefined;
  const name = piece.split('=', 1)[0] ?? '';
  const put = pieces.map((one) => (isIt(one) ? `${name}=${MARK}` : one));
  return placed({ ...draft, url: joinQuery(base, put) }, piece.slice(name.length + 1), ENCODED);
}

function inPayload(draft: Draft, parameter: string, gets: 'numbers' | 'texts'): Placed | undefined {
  const { payload } = draft;
  if (payload.type !== 'text') return undefined;
  const isJson = /^\s*[[{]/.test(payload.text);
  const found = isJson ? memberIn(payload.text, parameter) : fieldIn(payload.text, parameter);
  if (found === undefined) return undefined;
  const { start, value } = found;
  // A number that is written as a text stays one.
  const mark = isJson && gets === 'numbers' && value.startsWith('"') ? `"${MARK}"` : MARK;
  const text = payload.text.slice(0, start) + mark + payload.text.slice(start + value.length);
  return placed({ ...draft, payload: { type: 'text', text } }, value, isJson ? { as: 'json', before: '' } : ENCODED);
}

interface Span {
  readonly start: number;
  readonly value: string;
}

/** A field of a form. */
function fieldIn(text: string, name: string): Span | undefined {
  const match = new RegExp(`((?:^|&)${literally(encodeURIComponent(name))}=)([^&]*)`).exec(text);
  const [, before = '', value = ''] = match ?? [];
  return match === null ? undefined : { start: match.index + before.length, value };
}

/** A member of JSON that holds a number, a text or null, by its name or by its path, as in $.variables.page. */
function memberIn(text: string, parameter: string): Span | undefined {
  const path = parameter.startsWith('$') ? readPath(parameter) : undefined;
  const name = path?.at(-1) ?? parameter;
  if (typeof name !== 'string') return undefined;
  const member = new RegExp(
    `(${literally(JSON.stringify(name))}\\s*:\\s*)(-?\\d+(?:\\.\\d+)?|null|"(?:[^"\\\\]|\\\\.)*")(?=\\s*[,}])`,
    'g',
  );
  for (const match of text.matchAll(member)) {
    const [, before = '', value = ''] = match;
    const start = match.index + before.length;
    if (path === undefined || jsonPathsAt(text, [start])[0] === writePath(path)) return { start, value };
  }
  return undefined;
}

function inHeader(draft: Draft, parameter: string): Placed | undefined {
  const header = draft.headers.find(({ name, kept }) => kept && name.toLowerCase() === parameter.toLowerCase());
  if (header === undefined) return undefined;
  const headers = draft.headers.map((one) => (one === header ? { ...one, value: MARK } : one));
  return placed({ ...draft, headers }, header.value, { as: 'plain', before: '' });
}

function inPath(draft: Draft, parameter: string): Placed | undefined {
  const [, place] = /^path\.(\d+)$/.exec(parameter) ?? [];
  if (place === undefined) return undefined;
  const [, origin = '', path = '', rest = ''] = /^([a-z][a-z0-9+.-]*:\/\/[^/?#]*)([^?#]*)(.*)$/is.exec(draft.url) ?? [];
  const segments = path.split('/');
  const segment = segments[Number(place)];
  if (segment === undefined || Number(place) === 0) return undefined;
  const [, head = '', number = segment, tail = ''] = /^(\D*)(\d+)(.*)$/s.exec(segment) ?? [];
  segments[Number(place)] = `${number === segment ? '' : head}${MARK}${number === segment ? '' : tail}`;
  return placed({ ...draft, url: `${origin}${segments.join('/')}${rest}` }, number, { as: 'plain', before: '' });
}
