import { bytesFromBase64, bytesFromText } from '../../content';
import type { Command, ReadScript } from './command';
import { ShellVariables } from './shell-variables';
import { splitArguments } from './windows';

const SINGLE = /['\u2018-\u201b]/;
const DOUBLE = /["\u201c-\u201e]/;
/** What a letter behind a backtick stands for (about_Special_Characters). */
export const ESCAPED: Readonly<Record<string, string>> = {
  n: '\n',
  r: '\r',
  t: '\t',
  '0': '\0',
  a: '\u0007',
  b: '\b',
  f: '\f',
  v: '\u000b',
  e: '\u001b',
};

const JOINED_PIECE =
  /\[Text\.Encoding\]::UTF8\.GetString\(\[Convert\]::FromBase64String\('([A-Za-z0-9+/=]*)'\)\)|\$(\w+)/g;
const JOINED = /^\[IO\.File\]::WriteAllBytes\(\$(\w+), \[Text\.Encoding\]::UTF8\.GetBytes\(-join \(([^\n]*)\)\)\)/;

/**
 * Takes a text for PowerShell apart: both kinds of quotes, backticks, lines that a backtick joins, comments. Arguments
 * with a backslash before a quote are read as shells before 7.3 pass them on, since only those need it.
 */
export function readPowerShell(text: string): ReadScript {
  return new PowerShellReader(text.replaceAll('\r\n', '\n')).read();
}

class PowerShellReader {
  readonly #text: string;
  readonly #commands: Command[] = [];
  readonly #variables = new ShellVariables();
  /** The name that the statement at hand gives a value. */
  #assigned: string | undefined;
  /** The marks of what is taken from the environment, with the names of their variables. */
  readonly #fromEnvironment = new Map<string, string>();
  readonly #files = new Map<string, Uint8Array>();
  readonly #notes: string[] = [];
  #at = 0;

  constructor(text: string) {
    this.#text = text;
  }

  read(): ReadScript {
    let words: string[] = [];
    const end = (): void => {
      this.#take(words);
      words = [];
    };
    while (this.#at < this.#text.length) {
      const character = this.#text[this.#at] ?? '';
      if (character === '`' && this.#text[this.#at + 1] === '\n') this.#at += 2;
      else if (/[ \t]/.test(character)) this.#at++;
      else if (/[\n;|{}]/.test(character)) {
        this.#at++;
        end();
      } else if (character === '#') {
        while (this.#at < this.#text.length && this.#text[this.#at] !== '\n') this.#at++;
      } else if (this.#readFile()) end();
      else if (words.length === 0 && this.#readAssignment()) continue;
      else words.push(this.#word());
    }
    end();
    this.#forgetUnused();
    return { commands: this.#commands, variables: this.#variables.all, files: this.#files, notes: this.#notes };
  }

  #take(words: readonly string[]): void {
    const [first = ''] = words;
    const name = this.#assigned;
    this.#assigned = undefined;
    if (name !== undefined) {
      if (name === 'PSNativeCommandArgumentPassing' || name === 'payloadFile') return;
      if (this.#fromEnvironment.has(first)) this.#variables.all.set(name, { value: '', isSecret: true });
      else this.#variables.assign(name, first);
      return;
    }
    const isCall = first === '&';
    const [program = '', ...args] = isCall ? words.slice(1) : words;
    if (program === '' || program === 'function' || /^[A-Z][a-z]+-[A-Z]/.test(program)) return;
    const isOld = args.some((arg) => arg.includes('\\"') || /^"[\s\S]*"$/.test(arg));
    this.#commands.push({
      words: [program, ...(isOld ? splitArguments(args.map(passedOn).join(' ')) : args)],
      input: undefined,
    });
  }

  /** `$name =` at the start of a statement. */
  #readAssignment(): boolean {
    const match = /^\$([A-Za-z_][A-Za-z0-9_]*)[ \t]*=(?!=)/.exec(this.#text.slice(this.#at, this.#at + 200));
    if (match === null) return false;
    this.#assigned = match[1];
    this.#at += match[0].length;
    return true;
  }

  /** The statement that writes a payload's bytes to a file. */
  #readFile(): boolean {
    const match = /^\[IO\.File\]::WriteAllBytes\(\$(\w+), \[Convert\]::FromBase64String\('([A-Za-z0-9+/=]*)'\)\)/.exec(
      this.#text.slice(this.#at),
    );
    if (match === null) return this.#readJoined();
    this.#files.set(`‹${match[1]}›`, bytesFromBase64(match[2] ?? '') ?? new Uint8Array());
    this.#variables.all.delete(match[1] ?? '');
    this.#at += match[0].length;
    return true;
  }

  /** The same of text with variables in it. */
  #readJoined(): boolean {
    const match = JOINED.exec(this.#text.slice(this.#at));
    if (match === null) return false;
    const pieces = [...(match[2] ?? '').matchAll(JOINED_PIECE)].map(([, base64, variable]) =>
      variable === undefined ? new TextDecoder().decode(bytesFromBase64(base64 ?? '')) : `‹${variable}›`,
    );
    this.#files.set(`‹${match[1]}›`, bytesFromText(pieces.join('')));
    this.#variables.all.delete(match[1] ?? '');
    this.#at += match[0].length;
    return true;
  }

  #word(): string {
    let word = '';
    let depth = 0;
    while (this.#at < this.#text.length) {
      const character = this.#text[this.#at] ?? '';
      if (depth === 0 && /[ \t\n;|]/.test(character)) break;
      if (character === '`' && this.#text[this.#at + 1] === '\n') break;
      this.#at++;
      if (SINGLE.test(character)) word += this.#singleQuoted();
      else if (DOUBLE.test(character)) word += this.#doubleQuoted();
      else if (character === '`') word += this.#text[this.#at++] ?? '';
      else if (character === '$') word += this.#dollar();
      else if (character === '(') depth++;
      else if (character === ')') depth = Math.max(0, depth - 1);
      // Within parentheses strings are put together: what stands between them is no part of the word.
      else if (depth === 0) word += character;
      else if (this.#text.startsWith('-replace', this.#at - 1)) this.#skipReplace();
    }
    return word;
  }

  #skipReplace(): void {
    const match = /^replace '(?:[^']|'')*', '(?:[^']|'')*'/.exec(this.#text.slice(this.#at));
    this.#at += match?.[0].length ?? 0;
  }

  #singleQuoted(): string {
    let text = '';
    while (this.#at < this.#text.length) {
      const character = this.#text[this.#at++] ?? '';
      if (!SINGLE.test(character)) text += character;
      else if (SINGLE.test(this.#text[this.#at] ?? '')) text += this.#text[this.#at++];
      else return text;
    }
    this.#notes.push("A quote ' is never closed.");
    return text;
  }

  #doubleQuoted(): string {
    let text = '';
    while (this.#at < this.#text.length) {
      const character = this.#text[this.#at++] ?? '';
      if (character === '`') {
        const next = this.#text[this.#at++] ?? '';
        text += ESCAPED[next] ?? next;
      } else if (DOUBLE.test(character)) {
        if (!DOUBLE.test(this.#text[this.#at] ?? '')) return text;
        text += this.#text[this.#at++];
      } else if (character === '$') text += this.#dollar();
      else text += character;
    }
    this.#notes.push('A quote " is never closed.');
    return text;
  }

  #dollar(): string {
    const rest = this.#text.slice(this.#at);
    const name =
      /^(?:env:)?([A-Za-z_][A-Za-z0-9_]*)/i.exec(rest) ?? /^\{(?:env:)?([A-Za-z_][A-Za-z0-9_]*)\}/i.exec(rest);
    if (name === null) {
      if (rest.startsWith('(')) this.#notes.push('An expression is left as text: nothing is run here.');
      return '$';
    }
    this.#at += name[0].length;
    const [whole, variable = ''] = name;
    if (/^\{?env:/i.test(whole)) return this.#environment(variable);
    return this.#variables.refer(variable);
  }

  /** A value of the environment is a secret; one of the script's own may bear the same name. */
  #environment(name: string): string {
    const variable = this.#variables.all.get(name)?.isSecret === false ? `${name}_env` : name;
    const mark = `‹${variable}›`;
    this.#variables.all.set(variable, { value: '', isSecret: true });
    this.#fromEnvironment.set(mark, variable);
    return mark;
  }

  /** What was but read into a variable of the script is known by that variable's name. */
  #forgetUnused(): void {
    const used = this.#commands.flatMap(({ words }) => words).join('\n');
    for (const [mark, variable] of this.#fromEnvironment)
      if (!used.includes(mark)) this.#variables.all.delete(variable);
  }
}

/** How an argument was put on the command line before PowerShell 7.3: in quotes where blanks stand outside of quotes. */
function passedOn(arg: string): string {
  let isInside = false;
  let needsQuotes = arg === '';
  for (let at = 0; at < arg.length; at++) {
    if (arg[at] === '"' && arg[at - 1] !== '\\') isInside = !isInside;
    else if (!isInside && /\s/.test(arg[at] ?? '')) needsQuotes = true;
  }
  return needsQuotes ? `"${arg}"` : arg;
}
