import type { FilterProblem } from './problem';

// Text to tokens with their places: [from, to) in UTF-16 units.

export type TokenType = 'word' | 'phrase' | 'regex' | 'operator' | 'open' | 'close' | 'comma';

export interface Token {
  readonly type: TokenType;
  /** What it means: a phrase without its quotes and escapes, an expression without its slashes, else the text itself. */
  readonly text: string;
  /** Of an expression between slashes: whether it ends with an i, and so leaves case aside. */
  readonly ignoresCase: boolean;
  /** Of a word with a name in quotes after its dot, as in query."a b": that name. */
  readonly key: string | undefined;
  readonly from: number;
  readonly to: number;
}

export const OPERATORS = ['=', '!=', '<=', '<', '>=', '>', '~', '!~'] as const;
export type Operator = (typeof OPERATORS)[number];

const SPACE = /\s/;
/** Characters that end a bare word. An exclamation mark ends it only before = or ~. */
const ENDS_WORD = /[\s()",=<>~]/;

export type Tokens =
  | { readonly ok: true; readonly tokens: readonly Token[] }
  | { readonly ok: false; readonly problem: FilterProblem; readonly tokens: readonly Token[] };

export function tokenise(text: string): Tokens {
  const tokens: Token[] = [];
  let at = 0;
  while (at < text.length) {
    if (SPACE.test(text.charAt(at))) {
      at++;
      continue;
    }
    const token = readToken(text, at);
    if (token === undefined) {
      return { ok: false, problem: { code: 'open-quote', from: at, to: text.length }, tokens };
    }
    tokens.push(token);
    at = token.to;
  }
  return { ok: true, tokens };
}

/** The token that starts at a place; undefined where a quote is never closed. */
function readToken(text: string, from: number): Token | undefined {
  const char = text.charAt(from);
  const plain = (type: TokenType, to: number): Token => ({
    type,
    text: text.slice(from, to),
    ignoresCase: false,
    key: undefined,
    from,
    to,
  });
  if (char === '(') return plain('open', from + 1);
  if (char === ')') return plain('close', from + 1);
  if (char === ',') return plain('comma', from + 1);
  if (char === '"') {
    const phrase = readQuoted(text, from);
    return phrase === undefined ? undefined : { ...plain('phrase', phrase.to), text: phrase.text };
  }
  const operator = OPERATORS.find((one) => text.startsWith(one, from));
  if (operator !== undefined) return plain('operator', from + operator.length);
  return (char === '/' ? readRegex(text, from) : undefined) ?? readWord(text, from);
}

/** "..." with \" and \\ inside. */
function readQuoted(text: string, from: number): { readonly text: string; readonly to: number } | undefined {
  let content = '';
  for (let at = from + 1; at < text.length; at++) {
    const char = text.charAt(at);
    if (char === '"') return { text: content, to: at + 1 };
    const next = text.charAt(at + 1);
    if (char === '\\' && (next === '"' || next === '\\')) {
      content += next;
      at++;
    } else content += char;
  }
  return undefined;
}

/** /.../ or /.../i, where the next slash that is not escaped ends it; a path like /huts/alba is a word. */
function readRegex(text: string, from: number): Token | undefined {
  let inClass = false;
  for (let at = from + 1; at < text.length; at++) {
    const char = text.charAt(at);
    if (char === '\\') at++;
    else if (char === '[') inClass = true;
    else if (char === ']') inClass = false;
    else if (char === '/' && !inClass) {
      const ignoresCase = text.charAt(at + 1) === 'i';
      const to = at + (ignoresCase ? 2 : 1);
      const ends = to >= text.length || /[\s(),]/.test(text.charAt(to));
      const source = text.slice(from + 1, at);
      return ends && source !== '' ? { type: 'regex', text: source, ignoresCase, key: undefined, from, to } : undefined;
    }
  }
  return undefined;
}

/** Before an operator a field may stand. What can be none, as in huts?page=0, goes on through its equals signs. */
const MAY_BE_FIELD = /^[a-z]*(\.|$)/i;

function endsWord(text: string, from: number, at: number): boolean {
  const char = text.charAt(at);
  if (char === '=') return at === from || MAY_BE_FIELD.test(text.slice(from, at));
  return ENDS_WORD.test(char) || /^![=~]/.test(text.slice(at, at + 2));
}

function readWord(text: string, from: number): Token | undefined {
  let to = from;
  while (to < text.length && !endsWord(text, from, to)) to++;
  const word: Token = { type: 'word', text: text.slice(from, to), ignoresCase: false, key: undefined, from, to };
  if (text.charAt(to) !== '"' || !word.text.endsWith('.')) return word;
  const name = readQuoted(text, to);
  return name === undefined ? undefined : { ...word, text: word.text.slice(0, -1), key: name.text, to: name.to };
}
