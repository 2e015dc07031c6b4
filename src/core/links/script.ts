import { couldBeAddress, type Tell } from './named';
import { readScript, type ScriptToken, unescaped } from './script-tokens';

/** Longer scripts are read so far: what they load at first stands in their beginning or in small scripts. */
const READ_CHARS = 4_000_000;

/**
 * The texts in a script that can be addresses: quoted ones, and those put together by templates and plus signs, with
 * the script's own constants filled in. What is imported is resolved against the script itself, all else against the
 * page (ECMAScript 12.9.4, 12.9.6, 13.8.1, 16.2.2).
 * @param base "page" for a script that stands in a page: what it imports is resolved against that (WHATWG HTML 8.1.5.4)
 */
export function linksInScript(text: string, tell: Tell, base: 'page' | 'self' = 'self'): void {
  if (text.includes('document.write')) tellWritten(text.slice(0, READ_CHARS), tell);
  const tokens = readScript(text.slice(0, READ_CHARS));
  const constants = new Constants(tokens);
  /** Texts that are part of a sum that was told. */
  const told = new Set<number>();
  for (let at = 0; at < tokens.length; at++) {
    const token = tokens[at];
    if (token === undefined) break;
    const isText = token.type === 'string' || token.type === 'template';
    if (told.has(at) || !(isText || token.type === 'name')) continue;
    const isSummed = isSign(tokens[at - 1], '+') || isSign(tokens[token.partner + 1], '+');
    // A constant may be the only known part of a sum.
    if (!isText && !(isSummed && isOperand(tokens, at) && constants.take(token.text) !== undefined)) continue;
    if (token.type === 'string' && !isSummed) tellString(tokens, at, constants, tell, base);
    else tellPieces(sumAround(tokens, at, constants, told), tell);
  }
}

/** Scripts and styles that a script writes into the page: the parser waits for them as for its own (HTML 8.4.3). */
function tellWritten(text: string, tell: Tell): void {
  const elements = /<(script|link)\b[^<]{0,500}?\b(?:src|href)\s*=\s*\\?["']?([^"'\\\s>]+)/gi;
  for (const [element, , url = ''] of text.matchAll(elements)) {
    if (!/\basync\b|\brel\s*=\s*\\?["']?(?!stylesheet)/i.test(element))
      tell({ type: 'link', url, base: 'page', manner: 'parsed' });
  }
}

const isSign = (token: ScriptToken | undefined, sign: string): boolean => token?.type === 'sign' && token.text === sign;
const isName = (token: ScriptToken | undefined, name: string): boolean => token?.type === 'name' && token.text === name;

function tellString(
  tokens: readonly ScriptToken[],
  at: number,
  constants: Constants,
  tell: Tell,
  base: 'page' | 'self',
): void {
  const value = unescaped(tokens[at]?.text ?? '');
  // A constant that is put into other texts tells more where they are put together.
  if (!couldBeAddress(value) || constants.isUsedAt(at)) return;
  const before = tokens[at - 1];
  const isImported = isName(before, 'from') || isName(before, 'import');
  const isOnDemand = before?.text === '(' && isName(tokens[at - 2], 'import');
  if (isImported || isOnDemand) tell({ type: 'link', url: value, base, manner: isImported ? 'imported' : 'on-demand' });
  else tell({ type: 'quoted', text: value });
}

function tellPieces(pieces: readonly string[], tell: Tell): void {
  const [only] = pieces;
  if (pieces.length > 1) tell({ type: 'pattern', pieces });
  else if (only !== undefined && couldBeAddress(only)) tell({ type: 'quoted', text: only });
}

const DECLARES: ReadonlySet<string> = new Set(['const', 'let', 'var']);
const NO_PARTS: NonNullable<ScriptToken['parts']> = [];

/** Texts that a script gives a name to once and for all, and whether sums or templates use them. */
class Constants {
  readonly #values = new Map<string, { readonly value: string; readonly at: number } | 'several'>();
  readonly #used = new Set<number>();

  constructor(tokens: readonly ScriptToken[]) {
    for (let at = 0; at < tokens.length; at++) {
      const token = tokens[at];
      if (token?.depth === 0 && token.type === 'name' && DECLARES.has(token.text)) this.#declare(tokens, at + 1);
    }
    if (this.#values.size === 0) return;
    // Uses mostly come later than the name is given.
    for (let at = 0; at < tokens.length; at++) {
      const token = tokens[at];
      if (token?.type === 'name') {
        const isSummed = isSign(tokens[at - 1], '+') || isSign(tokens[at + 1], '+');
        if (isSummed && isOperand(tokens, at)) this.take(token.text);
      }
      for (const part of token?.parts ?? NO_PARTS) {
        const inner = typeof part === 'string' ? undefined : tokens[part.first];
        if (inner?.type === 'name') this.take(inner.text);
      }
    }
  }

  /** The value of a name, remembered as one that is put into another text. */
  take(name: string): string | undefined {
    const found = this.#values.get(name);
    if (found === undefined || found === 'several') return undefined;
    this.#used.add(found.at);
    return found.value;
  }

  /** True for the text that is given a name which sums and templates use. */
  isUsedAt = (at: number): boolean => this.#used.has(at);

  /** Reads `name = 'text', other = 'text'`: anything else ends it. */
  #declare(tokens: readonly ScriptToken[], from: number): void {
    for (let at = from; ; at += 4) {
      const [name, equals, value, next] = [tokens[at], tokens[at + 1], tokens[at + 2], tokens[at + 3]];
      if (name?.type !== 'name' || !isSign(equals, '=') || value?.type !== 'string') return;
      // Whatever goes on with the text makes another one of it; a name or a bracket begins something new.
      if (next?.type === 'sign' && next.text !== ',' && next.text !== ';') return;
      const known = this.#values.has(name.text);
      this.#values.set(name.text, known ? 'several' : { value: unescaped(value.text), at: at + 2 });
      if (!isSign(next, ',')) return;
    }
  }
}

/** True for a name that stands for its value by itself: nothing is taken of it or called on it. */
function isOperand(tokens: readonly ScriptToken[], at: number): boolean {
  const [before, after] = [tokens[at - 1], tokens[at + 1]];
  if (isSign(before, '.') || isSign(after, '.') || isSign(after, '?')) return false;
  return !(after?.type === 'template' || (after?.type === 'open' && after.text !== '{'));
}

/** Collects what a text is put together of: known pieces, with unknown ones between them. */
class Pieces {
  readonly list = [''];

  add(text: string | undefined): void {
    if (text === undefined) this.list.push('');
    else this.list.push((this.list.pop() ?? '') + text);
  }
}

/** How many operands of a sum are looked at to the left of its first text: what is further away is unknown anyway. */
const MOST_LEFT = 8;

/** The pieces of the sum that a text is part of, of which it is the first text; the others are noted as told. */
function sumAround(
  tokens: readonly ScriptToken[],
  at: number,
  constants: Constants,
  told: Set<number>,
): readonly string[] {
  const left: (string | undefined)[] = [];
  for (let place = at; isSign(tokens[place - 1], '+') && left.length < MOST_LEFT; place -= 2) {
    const before = tokens[place - 2];
    const isPlain = before?.type === 'name' && !isSign(tokens[place - 3], '.');
    left.unshift(isPlain ? constants.take(before.text) : undefined);
    if (!isPlain) break;
  }
  const pieces = new Pieces();
  for (const text of left) pieces.add(text);
  let end = at;
  for (;;) {
    told.add(end);
    end = addOperand(tokens, end, constants, pieces);
    if (!isSign(tokens[end], '+') || isSign(tokens[end + 1], '+') || isSign(tokens[end + 1], '=')) break;
    end++;
  }
  return pieces.list;
}

/** Adds what an operand that begins at a place comes to; returns the place behind it. */
function addOperand(tokens: readonly ScriptToken[], at: number, constants: Constants, pieces: Pieces): number {
  const token = tokens[at];
  if (token === undefined) return at;
  const behind = token.partner > at ? token.partner + 1 : at + 1;
  const goesOn = isSign(tokens[behind], '.') || (tokens[behind]?.type === 'open' && tokens[behind]?.text !== '{');
  if (goesOn || (token.type !== 'string' && token.type !== 'template' && token.type !== 'name')) {
    pieces.add(undefined);
    return skipOperand(tokens, behind);
  }
  if (token.type === 'string') pieces.add(unescaped(token.text));
  else if (token.type === 'name') pieces.add(constants.take(token.text));
  else {
    for (const part of token.parts ?? []) {
      if (typeof part === 'string') pieces.add(part);
      else pieces.add(constantIn(tokens, part.first, constants));
    }
  }
  return behind;
}

/** The value of an interpolation that is a constant's name and nothing else. */
function constantIn(tokens: readonly ScriptToken[], first: number, constants: Constants): string | undefined {
  const [inner, after] = [tokens[first], tokens[first + 1]];
  if (inner?.type !== 'name') return undefined;
  const isAlone = after === undefined || after.depth < inner.depth || !(after.type === 'sign' || after.type === 'open');
  return isAlone ? constants.take(inner.text) : undefined;
}

/** Behind the members and calls that follow a value. */
function skipOperand(tokens: readonly ScriptToken[], from: number): number {
  for (let at = from; ; ) {
    const token = tokens[at];
    if (isSign(token, '.') || isSign(token, '?')) at++;
    else if (token?.type === 'name' && (isSign(tokens[at - 1], '.') || at === from)) at++;
    else if (token?.type === 'open' && token.text !== '{' && token.partner > at) at = token.partner + 1;
    else return at;
  }
}
