import type { Variable } from '../draft';
import { settledMarks } from '../value';
import { ESCAPED } from './powershell';
import { ScriptMarks } from './script-marks';

/** A value of a script: text in which marks of variables stand, a table, a list; a file; or what cannot be told. */
export type PsValue = string | number | boolean | null | PsTable | readonly PsValue[] | PsFile | PsUnknown;
/** Names as they are written, by their lower case. */
export class PsTable {
  readonly #members = new Map<string, readonly [name: string, value: PsValue]>();

  get entries(): (readonly [name: string, value: PsValue])[] {
    return [...this.#members.values()];
  }

  get(name: string): PsValue | undefined {
    return this.#members.get(name.toLowerCase())?.[1];
  }

  set(name: string, value: PsValue): void {
    this.#members.set(name.toLowerCase(), [name, value]);
  }
}
export class PsFile {
  constructor(readonly path: string) {}
}
export class PsUnknown {
  constructor(readonly source: string) {}
}

interface Read {
  readonly value: PsValue;
  readonly end: number;
}

/** Values within values. */
const MOST_DEPTH = 200;

/** The values of a script's expressions (about_Quoting_Rules, about_Hash_Tables). Nothing is run: what is not known becomes a variable. */
export class PsValues {
  readonly #text: string;
  readonly #named = new Map<string, PsValue>();
  readonly #marks = new ScriptMarks();
  #depth = 0;

  constructor(text: string) {
    this.#text = text;
  }

  get variables(): readonly Variable[] {
    return [...this.#marks.variables.values()];
  }

  /** Gives a name a value, or a table's member: `$x = 1`, `$x['A'] = 1`, `$x.A = 1`, `$x.Add('A', 1)`. Returns where it ends. */
  assign(name: string, member: string | undefined, at: number): number {
    const read = this.readPipe(at);
    if (read === undefined) {
      this.#named.set(name.toLowerCase(), new PsUnknown(lineAt(this.#text, at)));
      return at;
    }
    const table = this.#named.get(name.toLowerCase());
    if (member === undefined) this.#named.set(name.toLowerCase(), read.value);
    else if (table instanceof PsTable) table.set(member, read.value);
    return read.end;
  }

  valueOf(name: string): PsValue | undefined {
    return this.#named.get(name.toLowerCase());
  }

  /** A value and what it is piped into: JSON, where that is ConvertTo-Json; undefined where none can be read. */
  readPipe(at: number): Read | undefined {
    const first = this.read(at);
    if (first === undefined) return undefined;
    const json = /^[ \t]*\|[ \t\n]*ConvertTo-Json\b([^\n|;)]*)/i.exec(this.#text.slice(first.end, first.end + 300));
    if (json === null) return first;
    return { value: this.#json(first.value, json[1] ?? ''), end: first.end + json[0].length };
  }

  /** An argument of a call: a value, or a word in which variables may stand without quotes (about_Parsing). */
  readArgument(at: number): Read | undefined {
    const word = /^(?:\$\{[^}]*\}|[^\s;|(){}'"@,`])+/.exec(this.#text.slice(at, at + 10_000))?.[0] ?? '';
    const isMixed = /\$/.test(word) && !/^\$(?:\{[^}]*\}|(?:env:)?\w+)(?:\.\w+)*$/i.test(word);
    return isMixed ? { value: this.#expanded(word), end: at + word.length } : this.read(at);
  }

  /** A value from here, with what is added to it. */
  read(at: number): Read | undefined {
    let sum = this.#atDepth(at);
    while (sum !== undefined) {
      const plus = /^[ \t]*\+[ \t\n]*/.exec(this.#text.slice(sum.end, sum.end + 200));
      const next = plus === null ? undefined : this.#atDepth(sum.end + plus[0].length);
      if (next === undefined) return sum;
      sum = { value: this.asText(sum.value) + this.asText(next.value), end: next.end };
    }
    return undefined;
  }

  /** One value, as long as it does not lie in more others than anybody writes. */
  #atDepth(at: number): Read | undefined {
    if (this.#depth >= MOST_DEPTH) return undefined;
    this.#depth++;
    try {
      return this.#one(at);
    } finally {
      this.#depth--;
    }
  }

  /**
   * A value as text; what cannot be told is a variable in it.
   * @param called how that is called where nothing else says it
   */
  asText(value: PsValue, called = 'value'): string {
    if (value instanceof PsUnknown) return this.#marks.of(called, value.source);
    if (value instanceof PsTable) return 'System.Collections.Hashtable';
    if (value instanceof PsFile) return value.path;
    if (Array.isArray(value)) return value.map((one: PsValue) => this.asText(one)).join(' ');
    if (typeof value === 'boolean') return value ? 'True' : 'False';
    return value === null ? '' : String(value as string | number);
  }

  #one(at: number): Read | undefined {
    const rest = this.#text.slice(at, at + 200);
    const cast = /^\[[\w.]+\](?!::)[ \t]*/.exec(rest);
    if (cast !== null && !/^\[char\]/i.test(rest)) return this.#one(at + cast[0].length);
    if (/^@['"][ \t]*\n/.test(rest)) return this.#hereString(at);
    if (rest.startsWith('@{')) return this.#table(at + 2);
    if (rest.startsWith('@(')) return this.#list(at + 2);
    if (rest.startsWith("'")) return this.#single(at);
    if (rest.startsWith('"')) return this.#double(at);
    const bytes = /^\[(?:System\.)?Text\.Encoding\]::UTF8\.GetBytes\(\s*/i.exec(rest);
    if (bytes !== null) return this.#closed(this.readPipe(at + bytes[0].length));
    const char = /^\[char\]\s*(0x[0-9a-f]+|\d+)/i.exec(rest);
    if (char !== null) return { value: String.fromCharCode(Number(char[1])), end: at + char[0].length };
    const file = /^(?:Get-Item|Get-ChildItem|gi)\s+(?:-(?:Literal)?Path\s+)?/i.exec(rest);
    if (file !== null) {
      const path = this.#one(at + file[0].length);
      return path === undefined ? undefined : { value: new PsFile(this.asText(path.value)), end: path.end };
    }
    if (rest.startsWith('(')) return this.#closed(this.readPipe(at + 1 + blanks(this.#text, at + 1)));
    if (rest.startsWith('$')) return this.#variable(at);
    const word = /^[^\s;|(){}'"$@,]+/.exec(this.#text.slice(at));
    if (word === null) return undefined;
    const isNumber = /^-?\d+(?:\.\d+)?$/.test(word[0]);
    return { value: isNumber ? Number(word[0]) : word[0], end: at + word[0].length };
  }

  /** What stands in parentheses, which are closed behind it; what is more in them cannot be told. */
  #closed(inner: Read | undefined): Read | undefined {
    if (inner === undefined) return undefined;
    const close = /^\s*\)/.exec(this.#text.slice(inner.end, inner.end + 200));
    if (close !== null) return { value: inner.value, end: inner.end + close[0].length };
    const end = closingOf(this.#text, inner.end);
    return end === undefined ? undefined : { value: new PsUnknown(this.#text.slice(inner.end, end)), end: end + 1 };
  }

  #hereString(at: number): Read | undefined {
    const quote = this.#text[at + 1] ?? '';
    const from = this.#text.indexOf('\n', at) + 1;
    const end = this.#text.indexOf(`\n${quote}@`, from - 1);
    if (end === -1) return undefined;
    const body = this.#text.slice(from, Math.max(from, end));
    return { value: quote === "'" ? body : this.#expanded(body), end: end + 3 };
  }

  #single(at: number): Read | undefined {
    const match = /'((?:[^']|'')*)'/y;
    match.lastIndex = at;
    const found = match.exec(this.#text);
    return found === null ? undefined : { value: (found[1] ?? '').replaceAll("''", "'"), end: at + found[0].length };
  }

  #double(at: number): Read | undefined {
    const match = /"((?:[^"`]|`[\s\S]|"")*)"/y;
    match.lastIndex = at;
    const found = match.exec(this.#text);
    return found === null
      ? undefined
      : { value: this.#expanded((found[1] ?? '').replaceAll('""', '"')), end: at + found[0].length };
  }

  /** A string with backticks, variables and subexpressions in it (about_Quoting_Rules). */
  #expanded(text: string): string {
    return text.replace(
      /`([\s\S])|\$\(([^()]*(?:\([^()]*\)[^()]*)*)\)|\$(\{[^}]+\}|(?:env:)?\w+)/gi,
      (_, escaped?: string, inner?: string, name?: string) => {
        if (escaped !== undefined) return ESCAPED[escaped] ?? escaped;
        if (inner !== undefined) return this.#subexpression(inner.trim());
        return this.asText(this.#held((name ?? '').replace(/^\{|\}$/g, '')));
      },
    );
  }

  #subexpression(source: string): string {
    const read = new PsValues(source);
    for (const [name, value] of this.#named) read.#named.set(name, value);
    const value = read.readPipe(0);
    const isWhole = value !== undefined && value.end === source.length && read.#marks.variables.size === 0;
    return isWhole
      ? this.asText(value.value)
      : this.#marks.of(/([A-Za-z_]\w*)\W*$/.exec(source)?.[1] ?? 'value', source);
  }

  #variable(at: number): Read | undefined {
    const match = /^\$(?:\{([^}]+)\}|((?:env:)?\w+))((?:\.\w+)*)/i.exec(this.#text.slice(at, at + 300));
    if (match === null) return undefined;
    const name = match[1] ?? match[2] ?? '';
    let value = this.#held(name);
    for (const member of (match[3] ?? '').split('.').filter(Boolean))
      value = (value instanceof PsTable ? value.get(member) : undefined) ?? this.#marks.of(member, match[0]);
    return { value, end: at + match[0].length };
  }

  #held(name: string): PsValue {
    const lower = name.toLowerCase();
    if (lower === 'true' || lower === 'false') return lower === 'true';
    if (lower === 'null') return null;
    const value = this.#named.get(lower);
    return value === undefined || value instanceof PsUnknown
      ? this.#marks.of(name.replace(/^env:/i, ''), value?.source ?? lower)
      : value;
  }

  #table(from: number): Read | undefined {
    const table = new PsTable();
    let at = from;
    for (;;) {
      at += /^[\s;]*/.exec(this.#text.slice(at))?.[0].length ?? 0;
      if (this.#text[at] === '}') return { value: table, end: at + 1 };
      const key = /^(?=['"$])/.test(this.#text.slice(at, at + 1)) ? this.#one(at) : this.#bareKey(at);
      const equals = /^\s*=\s*/.exec(this.#text.slice(key?.end ?? at, (key?.end ?? at) + 200))?.[0].length;
      const value = key === undefined || equals === undefined ? undefined : this.readPipe(key.end + equals);
      if (key === undefined || value === undefined) return undefined;
      table.set(this.asText(key.value), value.value);
      at = value.end;
    }
  }

  #bareKey(at: number): Read | undefined {
    const word = /^[\w-]+/.exec(this.#text.slice(at, at + 200))?.[0];
    return word === undefined ? undefined : { value: word, end: at + word.length };
  }

  #list(from: number): Read | undefined {
    const values: PsValue[] = [];
    let at = from;
    for (;;) {
      at += /^[\s,;]*/.exec(this.#text.slice(at))?.[0].length ?? 0;
      if (this.#text[at] === ')') return { value: values, end: at + 1 };
      const value = this.readPipe(at);
      if (value === undefined) return undefined;
      values.push(value.value);
      at = value.end;
    }
  }

  /** JSON as ConvertTo-Json writes it, on one line with -Compress. */
  #json(value: PsValue, options: string): string {
    const plain = (one: PsValue): unknown => {
      if (one instanceof PsTable) return Object.fromEntries(one.entries.map(([name, inner]) => [name, plain(inner)]));
      if (Array.isArray(one)) return one.map(plain);
      return one instanceof PsUnknown || one instanceof PsFile ? this.asText(one) : one;
    };
    const text = JSON.stringify(plain(value), null, /-Compress\b/i.test(options) ? undefined : 2);
    return settledMarks(text, (one) => JSON.stringify(one).slice(1, -1), this.#marks.variables);
  }
}

const blanks = (text: string, at: number): number => /^\s*/.exec(text.slice(at, at + 200))?.[0].length ?? 0;

export const lineAt = (text: string, at: number): string => text.slice(at, at + 200).split('\n', 1)[0] ?? '';

/** Where the parenthesis ends that is open here. */
function closingOf(text: string, from: number): number | undefined {
  let depth = 1;
  for (let at = from; at < text.length; at++) {
    if (text[at] === '(') depth++;
    if (text[at] === ')' && --depth === 0) return at;
  }
  return undefined;
}
