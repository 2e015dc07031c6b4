import { bytesFromText, joinBytes } from '../../content';
import type { Command, ReadScript } from './command';
import { ShellVariables } from './shell-variables';

/** What ends a word without quotes, and what ends a command (POSIX shell, 2.2 and 2.10). */
const SPACE = /[ \t]/;
const OPERATOR = /[;&|<>()\n]/;
const ANSI: Readonly<Record<string, string>> = {
  n: '\n',
  r: '\r',
  t: '\t',
  a: '\u0007',
  b: '\b',
  e: '\u001b',
  E: '\u001b',
  f: '\f',
  v: '\u000b',
};

/**
 * Takes a POSIX shell's text apart: quotes of every kind, $'...' too, continuations, comments, pipes and here-documents.
 * Nothing is run: a variable becomes `‹name›`, and so does what a command in the words would write, which notes say; that
 * command is read like any other.
 */
export function readPosix(text: string): ReadScript {
  return new PosixReader(text.replaceAll('\r\n', '\n')).read();
}

/** Text that stands in the lines below a command, up to a line that says it is over (POSIX shell, 2.7.4). */
interface HereDocument {
  readonly end: string;
  /** Its end was written with a quote: nothing in it is expanded. */
  readonly isLiteral: boolean;
  readonly dropsTabs: boolean;
}

class PosixReader {
  readonly #text: string;
  readonly #depth: number;
  readonly #commands: Command[] = [];
  readonly #variables = new ShellVariables();
  /** Commands whose output variables stand for. */
  readonly #written = new Map<string, string>();
  readonly #notes: string[] = [];
  readonly #heredocs: HereDocument[] = [];
  #at = 0;
  #words: string[] = [];
  #input: Uint8Array | undefined;

  constructor(text: string, depth = 0) {
    this.#text = text;
    this.#depth = depth;
  }

  read(): ReadScript {
    while (this.#at < this.#text.length) this.#step();
    this.#end();
    const written = [...this.#written].map(
      ([name, source]) => `‹${name}› stands for what ${source.slice(0, 60)} writes: nothing is run here.`,
    );
    const notes = [...new Set([...this.#notes, ...written])];
    return { commands: this.#commands, variables: this.#variables.all, files: new Map(), notes };
  }

  #step(): void {
    const character = this.#text[this.#at] ?? '';
    if (SPACE.test(character)) this.#at++;
    else if (character === '\\' && this.#text[this.#at + 1] === '\n') this.#at += 2;
    else if (character === '#') this.#skipLine();
    else if (character === '\n') {
      this.#at++;
      for (const heredoc of this.#heredocs.splice(0)) this.#readHeredoc(heredoc);
      this.#end();
    } else if (character === '<') this.#redirectIn();
    else if (character === '>') {
      this.#at++;
      while (/[>&|]/.test(this.#text[this.#at] ?? '')) this.#at++;
      while (SPACE.test(this.#text[this.#at] ?? '')) this.#at++;
      this.#word();
    } else if (OPERATOR.test(character)) this.#operator(character);
    else this.#takeWord();
  }

  #takeWord(): void {
    const from = this.#at;
    const word = this.#word();
    // The number of what is redirected: "2>&1" (POSIX shell, 2.7).
    const isNumber = /^\d+$/.test(this.#text.slice(from, this.#at)) && /[<>]/.test(this.#text[this.#at] ?? '');
    if (!isNumber) this.#words.push(word);
  }

  #skipLine(): void {
    while (this.#at < this.#text.length && this.#text[this.#at] !== '\n') this.#at++;
  }

  #operator(character: string): void {
    this.#at++;
    const isDouble = this.#text[this.#at] === character;
    if (isDouble) this.#at++;
    if (character === '|' && !isDouble) {
      const written = writtenBy(this.#words);
      if (written === undefined) this.#end();
      this.#words = [];
      this.#input = written;
      return;
    }
    this.#end();
  }

  #redirectIn(): void {
    if (!this.#text.startsWith('<<', this.#at)) {
      this.#at++;
      while (SPACE.test(this.#text[this.#at] ?? '')) this.#at++;
      this.#notes.push(`The file "${this.#word()}" that is read in is not here.`);
      return;
    }
    if (this.#text.startsWith('<<<', this.#at)) {
      this.#at += 3;
      while (SPACE.test(this.#text[this.#at] ?? '')) this.#at++;
      this.#input = bytesFromText(`${this.#word()}\n`);
      return;
    }
    const dropsTabs = this.#text[this.#at + 2] === '-';
    this.#at += dropsTabs ? 3 : 2;
    while (SPACE.test(this.#text[this.#at] ?? '')) this.#at++;
    const from = this.#at;
    const end = this.#word();
    this.#heredocs.push({ end, isLiteral: /['"\\]/.test(this.#text.slice(from, this.#at)), dropsTabs });
  }

  #readHeredoc({ end, isLiteral, dropsTabs }: HereDocument): void {
    const lines: string[] = [];
    while (this.#at < this.#text.length) {
      const next = this.#text.indexOf('\n', this.#at);
      const written = this.#text.slice(this.#at, next === -1 ? undefined : next);
      const line = dropsTabs ? written.replace(/^\t+/, '') : written;
      this.#at = next === -1 ? this.#text.length : next + 1;
      if (line === end) break;
      lines.push(`${line}\n`);
    }
    const text = lines.join('');
    this.#input = bytesFromText(isLiteral ? text : this.#expanded(text));
  }

  /** Text without quotes in which variables and escapes are still read. */
  #expanded(text: string): string {
    const inner = new PosixReader(text);
    const expanded = inner.#expanding(undefined);
    this.#variables.take(inner.#variables.all);
    this.#notes.push(...inner.#notes);
    return expanded;
  }

  #end(): void {
    const words = this.#words;
    this.#words = [];
    const input = this.#input;
    this.#input = undefined;
    if (words.length === 0) return;
    const [first = ''] = words;
    const isDeclared = /^(?:export|readonly|local|declare|typeset)$/.test(first);
    const given = (isDeclared ? words.slice(1).filter((word) => !word.startsWith('-')) : words).map((word) =>
      /^([A-Za-z_][A-Za-z0-9_]*)=([\s\S]*)$/.exec(word),
    );
    // Before a command they are its environment, and no variables of what stands in its words (POSIX shell, 2.9.1).
    if (isDeclared || given.every((one) => one !== null))
      for (const one of given) this.#assign(one?.[1] ?? '', one?.[2] ?? '');
    else if (first !== ':') this.#commands.push({ words, input });
  }

  #assign(name: string, value: string): void {
    if (name === '') return;
    const alone = /^‹(\w+)›$/.exec(value)?.[1] ?? '';
    const source = this.#written.get(alone);
    if (source !== undefined && !this.#variables.all.has(name)) {
      // What a command writes goes by the name that it is given.
      this.#variables.all.delete(alone);
      this.#written.delete(alone);
      this.#variables.all.set(name, { value: '', isSecret: true });
      this.#written.set(name, source);
      return;
    }
    this.#variables.assign(name, value);
  }

  /** A word from here to where it ends, its quotes removed. */
  #word(): string {
    let word = '';
    while (this.#at < this.#text.length) {
      const character = this.#text[this.#at] ?? '';
      if (SPACE.test(character) || OPERATOR.test(character)) break;
      this.#at++;
      if (character === "'") word += this.#until("'");
      else if (character === '"') word += this.#expanding('"');
      else if (character === '\\') {
        const next = this.#text[this.#at++] ?? '';
        word += next === '\n' ? '' : next;
      } else if (character === '$' && this.#text[this.#at] === "'") {
        this.#at++;
        word += this.#ansiQuoted();
      } else if (character === '$') word += this.#dollar();
      else if (character === '`') word += this.#backticks();
      else word += character;
    }
    return word;
  }

  #until(end: string): string {
    const next = this.#text.indexOf(end, this.#at);
    const text = this.#text.slice(this.#at, next === -1 ? undefined : next);
    if (next === -1) this.#notes.push(`A quote ${end} is never closed.`);
    this.#at = next === -1 ? this.#text.length : next + 1;
    return text;
  }

  /** Text up to the quote that ends it, or to the end of a here-document, which knows no quotes. */
  #expanding(quote: '"' | undefined): string {
    let text = '';
    while (this.#at < this.#text.length) {
      const character = this.#text[this.#at++] ?? '';
      if (character === quote) return text;
      if (character === '\\') {
        const next = this.#text[this.#at] ?? '';
        if (next === '' || (next !== quote && !/[$`\\\n]/.test(next))) text += character;
        else {
          this.#at++;
          text += next === '\n' ? '' : next;
        }
      } else if (character === '$') text += this.#dollar();
      else if (character === '`') text += this.#backticks();
      else text += character;
    }
    if (quote !== undefined) this.#notes.push('A quote " is never closed.');
    return text;
  }

  /** $'...' (POSIX.1-2024, 2.2.4): bytes by their numbers, read as UTF-8 together. */
  #ansiQuoted(): string {
    const chunks: Uint8Array[] = [];
    const put = (text: string): void => {
      chunks.push(bytesFromText(text));
    };
    const plain = /[^'\\]+/y;
    while (this.#at < this.#text.length) {
      plain.lastIndex = this.#at;
      const run = plain.exec(this.#text)?.[0] ?? '';
      put(run);
      this.#at += run.length + 1;
      if (this.#text[this.#at - 1] !== '\\') break;
      const rest = this.#text.slice(this.#at, this.#at + 10);
      const hex = /^x([0-9A-Fa-f]{1,2})/.exec(rest);
      const octal = /^[0-7]{1,3}/.exec(rest);
      const code = /^u([0-9A-Fa-f]{1,4})|^U([0-9A-Fa-f]{1,8})/.exec(rest);
      this.#at += (hex ?? octal ?? code)?.[0].length ?? 1;
      if (hex !== null) chunks.push(Uint8Array.of(Number.parseInt(hex[1] ?? '', 16)));
      else if (octal !== null) chunks.push(Uint8Array.of(Number.parseInt(octal[0], 8) & 255));
      else if (code !== null) put(codeText(code[1] ?? code[2] ?? ''));
      else put(ANSI[rest[0] ?? ''] ?? (/[\\'"?]/.test(rest[0] ?? '') ? (rest[0] ?? '') : `\\${rest[0] ?? ''}`));
    }
    return new TextDecoder('utf-8', { ignoreBOM: true }).decode(joinBytes(chunks));
  }

  /** What follows a dollar sign: a variable becomes a mark, what printf writes that text; anything else stays. */
  #dollar(): string {
    const rest = this.#text.slice(this.#at);
    const name =
      /^([A-Za-z_][A-Za-z0-9_]*)/.exec(rest) ??
      /^\{([A-Za-z_][A-Za-z0-9_]*)(?::?([-=])([^}]*)|[:?+#%/][^}]*)?\}/.exec(rest);
    if (name === null) {
      const written = /^\(printf '([^']*)'\)/.exec(rest);
      const bytes = written === null ? undefined : printed(written[1] ?? '');
      if (written !== null && bytes !== undefined) {
        this.#at += written[0].length;
        return new TextDecoder('utf-8', { ignoreBOM: true }).decode(bytes).replace(/\n+$/, '');
      }
      const argument = /^[1-9@*]/.exec(rest)?.[0];
      if (argument !== undefined) {
        this.#at++;
        return this.#variables.refer(/\d/.test(argument) ? `arg${argument}` : 'args');
      }
      return rest.startsWith('(') ? this.#substituted(closingOf(this.#text, this.#at + 1)) : '$';
    }
    this.#at += name[0].length;
    const [, variable = '', sign, otherwise = ''] = name;
    // "${NAME:-value}" says what it is where nobody says otherwise (POSIX shell, 2.6.2).
    return this.#variables.refer(variable, sign === undefined ? undefined : otherwise);
  }

  #backticks(): string {
    let end = this.#at;
    while (end < this.#text.length && this.#text[end] !== '`') end += this.#text[end] === '\\' ? 2 : 1;
    return this.#substituted(end, '`');
  }

  /** What stands from here to `end` is a command, in whose place its output goes (POSIX shell, 2.6.3); or a sum (2.6.4). */
  #substituted(end: number | undefined, sign: '`' | '$' = '$'): string {
    const close = end ?? this.#text.length;
    const inner = this.#text.slice(sign === '$' ? this.#at + 1 : this.#at, close);
    const source = sign === '$' ? `$(${inner})` : `\`${inner}\``;
    this.#at = Math.min(this.#text.length, close + 1);
    const isSum = sign === '$' && inner.startsWith('(');
    const read = isSum || this.#depth >= MOST_DEPTH ? undefined : new PosixReader(inner, this.#depth + 1).read();
    // Of others than those that send a request nothing more is to be said.
    this.#commands.push(...(read?.commands.filter(({ words }) => SENDS.test(words[0] ?? '')) ?? []));
    this.#variables.take(read?.variables ?? []);
    const [first = ''] = read?.commands.at(-1)?.words ?? [];
    const base = isSum ? 'number' : first.replace(/^[^A-Za-z]+|[^A-Za-z0-9_]/g, '').slice(0, 40) || 'output';
    const name = this.#variables.addUnknown(base);
    this.#written.set(name, source);
    return `‹${name}›`;
  }
}

const SENDS = /(?:^|\/)(?:curl|wget2?|https?)$/;

/** Commands within commands. */
const MOST_DEPTH = 20;

/** Where the parenthesis is closed that is open here, quotes passed over; undefined where it is not. */
function closingOf(text: string, from: number): number | undefined {
  let depth = 1;
  for (let at = from; at < text.length; at++) {
    const character = text[at];
    if (character === '\\') at++;
    else if (character === "'" || character === '"') {
      at++;
      while (at < text.length && text[at] !== character) at += character === '"' && text[at] === '\\' ? 2 : 1;
    } else if (character === '(') depth++;
    else if (character === ')' && --depth === 0) return at;
  }
  return undefined;
}

const codeText = (hex: string): string => {
  const code = Number.parseInt(hex, 16);
  return code <= 0x10ffff ? String.fromCodePoint(code) : '\ufffd';
};

/** What a command writes, for the few that write what stands in them. */
function writtenBy(words: readonly string[]): Uint8Array | undefined {
  const [name, ...args] = words;
  if (name === 'printf' && args.length > 0) return printed(args[0] ?? '', args.slice(1));
  if (name !== 'echo') return undefined;
  const isBare = args[0] === '-n';
  return bytesFromText(args.slice(isBare ? 1 : 0).join(' ') + (isBare ? '' : '\n'));
}

/** What printf writes, as bytes: its format once, or as often as there are arguments left for it (POSIX printf). */
function printed(format: string, args: readonly string[] = []): Uint8Array | undefined {
  const bytes: number[] = [];
  const left = [...args];
  do {
    const before = left.length;
    if (!printOnce(format, left, bytes)) return undefined;
    if (left.length === before) break;
  } while (left.length > 0);
  return Uint8Array.from(bytes);
}

/** Writes a format once, and takes the arguments that it asks for; false where it asks for what is no text. */
function printOnce(format: string, args: string[], bytes: number[]): boolean {
  const token = /\\([0-7]{1,3})|\\x([0-9A-Fa-f]{1,2})|\\(.)|(%%)|(%s?)|([^\\%]+|\\$)/gsu;
  for (const [, octal, hex, escaped, percents, percent, text] of format.matchAll(token)) {
    if (percent === '%') return false;
    if (percent !== undefined) {
      for (const byte of bytesFromText(args.shift() ?? '')) bytes.push(byte);
      continue;
    }
    if (octal !== undefined) bytes.push(Number.parseInt(octal, 8) & 255);
    else if (hex !== undefined) bytes.push(Number.parseInt(hex, 16));
    else if (escaped !== undefined) for (const byte of bytesFromText(ANSI[escaped] ?? escaped)) bytes.push(byte);
    else if (percents !== undefined) bytes.push(0x25);
    else for (const byte of bytesFromText(text ?? '')) bytes.push(byte);
  }
  return true;
}
