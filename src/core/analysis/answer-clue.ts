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
const READ_CHARS = 8192;
/** Objects with more names than this are tables by key: their names tell nothing. */
const MOST_MEMBERS = 60;
const LEAST_MEMBERS = 3;
const DEEPEST = 3;
const MOST_WORDS = 200;
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

/** Reads as much JSON as is there: a text that breaks off has told enough. */
function scan(text: string): { members: Set<string>; words: number[] } {
  const members = new Set<string>();
  const words: number[] = [];
  const stack: Frame[] = [];
  let at = 0;
  while (at < text.length) {
    const char = text[at];
    const top = stack.at(-1);
    if (char === '"') {
      const end = endOfString(text, at + 1);
      if (end === -1) break;
      take(text.slice(at + 1, end), top);
      at = end;
    } else if (char === '{' || char === '[') {
      const path = top === undefined ? '' : `${top.path}${top.isObject ? `.${top.name ?? ''}` : '[]'}`;
      const depth = (top?.depth ?? 0) + (char === '{' ? 1 : 0);
      stack.push({ path, depth, isObject: char === '{', name: char === '[' ? top?.name : undefined });
    } else if (char === '}' || char === ']') stack.pop();
    else if (char === ',' && top?.isObject === true) top.name = undefined;
    at++;
  }
  return { members, words };

  function take(value: string, top: Frame | undefined): void {
    if (top?.isObject === true && top.name === undefined) {
      top.name = value;
      if (top.depth <= DEEPEST && members.size <= MOST_MEMBERS) members.add(`${top.path}.${value}`);
      return;
    }
    const name = top?.name ?? '';
    if (words.length < MOST_WORDS * 2 && WORD.test(value) && !KINDS.test(name))
      words.push(hashText(name), hashText(value));
  }
}

function endOfString(text: string, from: number): number {
  for (let at = from; at < text.length; at++) {
    if (text[at] === '\\') at++;
    else if (text[at] === '"') return at;
  }
  return -1;
}
