import { essence } from '../har';
import { findHeader, hashText, type ResponsePart } from '../model';

/** What an answer's JSON gives away about the request's path: its members, and the words that it holds as values. */
export interface AnswerClue {
  /** The names of its members down to the third level, as sorted paths ("items[].id"), one to a line; at least three. */
  readonly members: string | undefined;
  /** Pairs of numbers: a member's name and a word that stood under it, each by its hash. */
  readonly words: Uint32Array;
}

/** An answer shows its members within so many characters: of a list the first ones are enough. */
const READ_CHARS = 2048;
/** Objects with more names than this are tables by key: their names tell nothing. */
const MOST_MEMBERS = 60;
const LEAST_MEMBERS = 3;
const DEEPEST = 3;
const MOST_WORDS = 200;
const LONGEST_WORD = 65;
/** The name under which the segments of where an answer leads to stand: fixed ones are among them. */
export const LOCATION = hashText('location header');
const WORD = /^[A-Za-z][\w.~-]{1,63}$/;
/** Names of members whose values say what kind of thing something is, not which one. */
const KINDS = /^(type|kind|object|resource|entity|collection|role|rel|status|state|category|method|__typename)$/i;

/**
 * The clue in an answer: in the JSON of a successful one, and in where it leads to (RFC 9110 10.2.2). Undefined where there
 * is neither.
 */
export function readAnswerClue(response: ResponsePart | undefined): AnswerClue | undefined {
  if (response === undefined || response.status < 200 || response.status >= 400) return undefined;
  const leads = response.redirectUrl ?? findHeader(response.headers, 'location') ?? '';
  const isJson = response.status < 300 && /json$/.test(essence(response.mimeType) ?? '');
  const text = isJson && response.body?.encoding === 'text' ? response.body.text.slice(0, READ_CHARS) : '';
  if (leads === '' && text === '') return undefined;
  const { members, words } = scan(text);
  for (const segment of leads.slice(0, READ_CHARS).split(/[/?#]/)) {
    if (WORD.test(segment)) words.push(LOCATION, hashText(segment));
  }
  const isTelling = members.size >= LEAST_MEMBERS && members.size <= MOST_MEMBERS;
  return { members: isTelling ? [...members].sort().join('\n') : undefined, words: Uint32Array.from(words) };
}

interface Frame {
  /** The path of what stands in it. */
  readonly path: string;
  readonly depth: number;
  readonly isObject: boolean;
  /** In an object, the name whose value comes next; in a list, the name that the list has. */
  name: string | undefined;
}

const [QUOTE, COMMA, BACKSLASH] = [0x22, 0x2c, 0x5c];
const [OPEN_OBJECT, CLOSE_OBJECT, OPEN_LIST, CLOSE_LIST] = [0x7b, 0x7d, 0x5b, 0x5d];

/** Reads as much JSON as is there: a text that breaks off has told enough. An import does this for every answer. */
function scan(text: string): { members: Set<string>; words: number[] } {
  const members = new Set<string>();
  const words: number[] = [];
  const stack: Frame[] = [];
  let top: Frame | undefined;
  for (let at = 0; at < text.length; at++) {
    switch (text.charCodeAt(at)) {
      case QUOTE: {
        const end = endOfString(text, at + 1);
        if (end === -1) return { members, words };
        if (top?.isObject === true && top.name === undefined) {
          top.name = text.slice(at + 1, end);
          if (top.depth <= DEEPEST && members.size <= MOST_MEMBERS) members.add(`${top.path}.${top.name}`);
        } else if (end - at <= LONGEST_WORD && words.length < MOST_WORDS * 2) {
          const value = text.slice(at + 1, end);
          const name = top?.name ?? '';
          if (WORD.test(value) && !KINDS.test(name)) words.push(hashText(name), hashText(value));
        }
        at = end;
        break;
      }
      case OPEN_OBJECT:
      case OPEN_LIST: {
        const isObject = text.charCodeAt(at) === OPEN_OBJECT;
        const path: string = top === undefined ? '' : `${top.path}${top.isObject ? `.${top.name ?? ''}` : '[]'}`;
        const depth: number = (top?.depth ?? 0) + (isObject ? 1 : 0);
        top = { path, depth, isObject, name: isObject ? undefined : top?.name };
        stack.push(top);
        break;
      }
      case CLOSE_OBJECT:
      case CLOSE_LIST:
        stack.pop();
        top = stack.at(-1);
        break;
      case COMMA:
        if (top?.isObject === true) top.name = undefined;
        break;
      default:
    }
  }
  return { members, words };
}

function endOfString(text: string, from: number): number {
  let end = text.indexOf('"', from);
  while (end > 0 && text.charCodeAt(end - 1) === BACKSLASH && isEscaped(text, end)) end = text.indexOf('"', end + 1);
  return end;
}

/** An odd number of backslashes before it. */
function isEscaped(text: string, at: number): boolean {
  let from = at;
  while (text.charCodeAt(from - 1) === BACKSLASH) from--;
  return (at - from) % 2 === 1;
}
