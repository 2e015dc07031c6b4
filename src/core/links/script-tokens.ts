/** A piece of a script, as far as texts in it matter. Comments, white space and regular expressions are none. */
export interface ScriptToken {
  readonly type: 'string' | 'template' | 'name' | 'number' | 'sign' | 'open' | 'close';
  /** Of a string its content as it is written; of a name or sign itself; of a template nothing. */
  readonly text: string;
  /** How many brackets and templates stand around it. */
  readonly depth: number;
  /** Of what opens, the place of what closes it in the list, and the other way round; itself where nothing does. */
  partner: number;
  /** Of a template: its texts, with the place of the token that begins each interpolation between them. */
  readonly parts?: (string | { readonly first: number })[];
}

const NAME = /[\p{ID_Start}$_\\](?:[\p{ID_Continue}$\\]|\u200c|\u200d)*/uy;
const NUMBER = /\.?\d[\w.]*/y;
/** The rest of a string in one line: escapes may hold line ends (ECMAScript 12.9.4). */
const SINGLE = /'((?:[^'\\\n\r]|\\(?:\r\n|[\s\S]))*)'/y;
const DOUBLE = /"((?:[^"\\\n\r]|\\(?:\r\n|[\s\S]))*)"/y;
const REGEX = /\/(?:[^/\\[\n\r]|\\[^\n\r]|\[(?:[^\]\\\n\r]|\\[^\n\r])*\])+\/\w*/y;
const TEMPLATE_TEXT = /(?:[^`\\$]|\\[\s\S]|\$(?!\{))*/y;

/** Words behind which a slash begins a regular expression. */
const BEFORE_REGEX = new Set(
  'return typeof instanceof in of new delete void throw case do else yield await'.split(' '),
);
/** Words whose brackets are followed by a statement. */
const HEADS = new Set(['if', 'while', 'for', 'with']);
/** A regular expression longer than this is rather two divisions. */
const LONGEST_REGEX_CHARS = 2000;

/**
 * Takes a script apart into its tokens (ECMAScript 12), tolerantly and in one walk: what is never closed ends with its line,
 * and nothing is read twice but for a few characters.
 */
export function readScript(source: string): ScriptToken[] {
  return new ScriptReader(source).read();
}

class ScriptReader {
  readonly #source: string;
  readonly #tokens: ScriptToken[] = [];
  readonly #open: number[] = [];
  #at = 0;

  constructor(source: string) {
    this.#source = source;
  }

  read(): ScriptToken[] {
    const source = this.#source;
    while (this.#at < source.length) {
      const code = source.charCodeAt(this.#at);
      if (code <= 0x20 || code === 0xa0 || code === 0x2028 || code === 0x2029) this.#at++;
      else if (code === 0x2f) this.#slash();
      else if (code === 0x22 || code === 0x27) this.#string(code === 0x22 ? DOUBLE : SINGLE);
      else if (code === 0x60) this.#template();
      else if (code === 0x28 || code === 0x5b || code === 0x7b) this.#opening();
      else if (code === 0x29 || code === 0x5d || code === 0x7d) this.#closing(code);
      else if (!this.#word(code)) {
        this.#push('sign', source.charAt(this.#at));
        this.#at++;
      }
    }
    return this.#tokens;
  }

  #push(type: ScriptToken['type'], text: string, parts?: ScriptToken['parts']): ScriptToken {
    const [depth, partner] = [this.#open.length, this.#tokens.length];
    const token: ScriptToken =
      parts === undefined ? { type, text, depth, partner } : { type, text, depth, partner, parts };
    this.#tokens.push(token);
    return token;
  }

  /** What a sticky pattern finds at the current place, which is passed. */
  #take(pattern: RegExp): RegExpExecArray | null {
    pattern.lastIndex = this.#at;
    const match = pattern.exec(this.#source);
    if (match !== null) this.#at = pattern.lastIndex;
    return match;
  }

  #word(code: number): boolean {
    const isDigit = code >= 0x30 && code <= 0x39;
    const isPoint = code === 0x2e && /\d/.test(this.#source.charAt(this.#at + 1));
    const match = isDigit || isPoint ? this.#take(NUMBER) : this.#take(NAME);
    if (match === null) return false;
    this.#push(isDigit || isPoint ? 'number' : 'name', match[0]);
    return true;
  }

  #string(pattern: RegExp): void {
    const match = this.#take(pattern);
    if (match !== null) this.#push('string', match[1] ?? '');
    else this.#at++;
  }

  #slash(): void {
    const next = this.#source.charCodeAt(this.#at + 1);
    if (next === 0x2f) this.#skipPast('\n');
    else if (next === 0x2a) this.#skipPast('*/');
    else if (!this.#mayBeRegex() || !this.#regex()) {
      this.#push('sign', '/');
      this.#at++;
    }
  }

  #skipPast(end: string): void {
    const at = this.#source.indexOf(end, this.#at + 2);
    this.#at = at === -1 ? this.#source.length : at + end.length;
  }

  #regex(): boolean {
    // Looked for in a bounded piece: a slash that ends nowhere must not be followed to the end of the script every time.
    const piece = this.#source.slice(this.#at, this.#at + LONGEST_REGEX_CHARS);
    REGEX.lastIndex = 0;
    const match = REGEX.exec(piece);
    if (match === null) return false;
    this.#at += match[0].length;
    // Its value is no text, but what follows it is no beginning of an expression either.
    this.#push('number', '');
    return true;
  }

  /** By what stands before: a slash behind a value divides. */
  #mayBeRegex(): boolean {
    const last = this.#tokens.at(-1);
    if (last === undefined) return true;
    switch (last.type) {
      case 'sign':
      case 'open':
        return true;
      case 'name':
        return BEFORE_REGEX.has(last.text);
      case 'string':
      case 'number':
      case 'template':
        return false;
      case 'close':
        return this.#endsStatement(last);
      default:
        return last.type satisfies never;
    }
  }

  /** True for brackets behind which a statement begins: the head of an "if", the end of a block. */
  #endsStatement(close: ScriptToken): boolean {
    const before = this.#tokens[close.partner - 1];
    if (close.text === ')') return before?.type === 'name' && HEADS.has(before.text);
    if (close.text !== '}') return false;
    if (before === undefined || before.type === 'close' || before.type === 'open')
      return before?.text !== '(' && before?.text !== '[';
    if (before.type === 'name') return !BEFORE_REGEX.has(before.text) || before.text === 'else' || before.text === 'do';
    return before.text === ';' || before.text === '>';
  }

  #opening(): void {
    this.#push('open', this.#source.charAt(this.#at));
    this.#open.push(this.#tokens.length - 1);
    this.#at++;
  }

  #closing(code: number): void {
    const place = this.#open.at(-1);
    const opener = place === undefined ? undefined : this.#tokens[place];
    this.#at++;
    if (opener?.type === 'template' && code === 0x7d) {
      this.#templateText(opener);
      return;
    }
    // Brackets that do not match are taken as they come: what is told apart by them is only a little less then.
    if (opener?.type === 'open') this.#open.pop();
    const close = this.#push('close', String.fromCharCode(code));
    if (opener?.type !== 'open' || place === undefined) return;
    opener.partner = this.#tokens.length - 1;
    close.partner = place;
  }

  #template(): void {
    this.#at++;
    const token = this.#push('template', '', []);
    this.#open.push(this.#tokens.length - 1);
    this.#templateText(token);
  }

  /** Reads a template's text up to its end or its next interpolation, whose tokens follow. */
  #templateText(template: ScriptToken): void {
    template.parts?.push(this.#take(TEMPLATE_TEXT)?.[0] ?? '');
    if (this.#source.charCodeAt(this.#at) === 0x24) {
      this.#at += 2;
      template.parts?.push({ first: this.#tokens.length });
      return;
    }
    this.#at++;
    this.#open.pop();
    template.partner = this.#tokens.length - 1;
  }
}

/** A string's content with its escapes taken off; in addresses slashes and hexadecimal ones occur. */
export const unescaped = (text: string): string =>
  text.includes('\\')
    ? text
        .replace(/\\x([0-9a-f]{2})|\\u([0-9a-f]{4})/gi, (_, a?: string, b?: string) =>
          String.fromCharCode(Number.parseInt(a ?? b ?? '', 16)),
        )
        .replace(/\\(.)/g, '$1')
    : text;
