// Models of how two Windows shells read a command, written from their documentation and from nothing of the quoters:
// what a command comes to is run by the real curl, so that a mistake in quoting shows on the wire.

/** What a script comes to: files that it writes, and the arguments that curl is started with. */
export interface Understood {
  readonly files: ReadonlyMap<string, Buffer>;
  readonly curl: readonly (readonly string[])[];
}

/** The arguments in a command line, as the C runtime takes it apart (Microsoft, Parsing C command-line arguments). */
export function splitCommandLine(line: string): string[] {
  const args: string[] = [];
  let at = 0;
  while (at < line.length) {
    while (line[at] === ' ' || line[at] === '\t') at++;
    if (at >= line.length) break;
    let arg = '';
    let isQuoted = false;
    for (; at < line.length; at++) {
      const character = line[at] ?? '';
      if (!isQuoted && (character === ' ' || character === '\t')) break;
      if (character === '\\') {
        let count = 0;
        while (line[at] === '\\') {
          count++;
          at++;
        }
        if (line[at] !== '"') {
          arg += '\\'.repeat(count);
          at--;
          continue;
        }
        arg += '\\'.repeat(count >> 1);
        if (count % 2 === 1) {
          arg += '"';
          continue;
        }
        at--;
        continue;
      }
      if (character !== '"') arg += character;
      else if (isQuoted && line[at + 1] === '"') {
        arg += '"';
        at++;
      } else isQuoted = !isQuoted;
    }
    args.push(arg);
  }
  return args;
}

/** A script as cmd.exe reads it at its prompt. Throws where it would run anything but what is understood here. */
export function readCmd(script: string, environment: Readonly<Record<string, string>>): Understood {
  const variables = new Map(Object.entries(environment).map(([name, value]) => [name.toLowerCase(), value]));
  const files = new Map<string, Buffer>();
  const texts = new Map<string, string>();
  const curl: string[][] = [];
  const lines = script.replace(/\n$/, '').split('\n');
  for (let at = 0; at < lines.length; at++) {
    let line = expandPercents(lines[at] ?? '', variables);
    let { text, isOpen, redirect } = readCmdLine(line);
    while (isOpen) {
      at++;
      line = `${line.slice(0, -1)}\u0002${expandPercents(lines[at] ?? '', variables)}`;
      ({ text, isOpen, redirect } = readCmdLine(line));
    }
    const [, word = '', rest = ''] = /^\s*([^\s]*)\s?(.*)$/su.exec(text) ?? [];
    const isAppend = redirect?.startsWith('>>') ?? false;
    const file = redirect?.replace(/^>+/, '');
    if (word === 'curl' && redirect === undefined) curl.push(splitCommandLine(rest));
    else if (word === 'echo' && file !== undefined)
      texts.set(file, `${isAppend ? (texts.get(file) ?? '') : ''}${rest.trim()}`);
    else if (word === 'certutil' && file === 'nul') {
      const [, , from = '', to = ''] = rest.split(' ');
      files.set(to, Buffer.from(texts.get(from) ?? '', 'base64'));
    } else if (word === 'set' && redirect === undefined) {
      const [, name = '', value = ''] = /^"([A-Z0-9_]+)=(.*)"$/s.exec(rest) ?? [];
      if (name === '') throw new Error(`set ${rest}`);
      variables.set(name.toLowerCase(), value);
    } else if (word === 'if' && /^not defined [A-Z0-9_]+ set \/p [A-Z0-9_]+=[A-Z0-9_]+: $/.test(rest)) {
      if (!variables.has((rest.split(' ')[2] ?? '').toLowerCase())) throw new Error(`asks for ${rest}`);
    } else if (word !== 'rem' && line.trim() !== 'del payload.b64 payload.bin')
      throw new Error(`runs ${JSON.stringify(text.slice(0, 80))}`);
  }
  return { files, curl };
}

/** The first phase: names between percent signs are variables; at the prompt those that are none stay as they stand. */
function expandPercents(line: string, variables: ReadonlyMap<string, string>): string {
  let out = '';
  for (let at = 0; at < line.length; ) {
    const end = line[at] === '%' ? line.indexOf('%', at + 1) : -1;
    const value =
      end === -1
        ? undefined
        : variables.get(
            line
              .slice(at + 1, end)
              .split(':', 1)[0]
              ?.toLowerCase() ?? '',
          );
    if (value === undefined) {
      out += line[at++];
      continue;
    }
    out += value;
    at = end + 1;
  }
  return out;
}

/** The second phase: quotes, carets, and the characters that end a command or lead it elsewhere. */
function readCmdLine(line: string): {
  readonly text: string;
  readonly isOpen: boolean;
  readonly redirect: string | undefined;
} {
  let text = '';
  let isQuoted = false;
  let redirect: string | undefined;
  for (let at = 0; at < line.length; at++) {
    const character = line[at] ?? '';
    // A caret at a line's end joins the next line, whose first character has no meaning.
    if (character === '\u0002') {
      at++;
      text += line[at] ?? '';
      continue;
    }
    if (isQuoted) {
      if (character === '"') isQuoted = false;
      text += character;
      continue;
    }
    if (character === '^') {
      if (at === line.length - 1) return { text, isOpen: true, redirect };
      at++;
      text += line[at] ?? '';
      continue;
    }
    if (character === '"') isQuoted = true;
    if (/[&|<()\n\r]/.test(character))
      throw new Error(`cmd takes ${character} for its own at ${line.slice(at - 20, at + 20)}`);
    if (character === '>') {
      const match = /^>{1,2}[A-Za-z0-9.]+/.exec(line.slice(at));
      if (match === null) throw new Error(`redirects at ${line.slice(at, at + 20)}`);
      redirect = match[0];
      at += match[0].length - 1;
      continue;
    }
    text += character;
  }
  return { text, isOpen: false, redirect };
}

const QUOTES = /['\u2018-\u201b]/;

/** A script as PowerShell reads it, its arguments passed on in the old way. Throws at all that is not understood here. */
export function readPowerShell(script: string, environment: Readonly<Record<string, string>>): Understood {
  const reader = new PowerShellReader(script, environment);
  reader.run();
  return reader;
}

class PowerShellReader implements Understood {
  readonly files = new Map<string, Buffer>();
  readonly curl: string[][] = [];
  readonly #text: string;
  readonly #environment: Readonly<Record<string, string>>;
  readonly #variables = new Map<string, string>();
  #at = 0;
  #isLegacy = false;

  constructor(text: string, environment: Readonly<Record<string, string>>) {
    this.#text = text;
    this.#environment = environment;
  }

  run(): void {
    for (;;) {
      while (/[\s]/.test(this.#peek()) || this.#peek() === '}') this.#at++;
      if (this.#at >= this.#text.length) return;
      if (this.#take(/#[^\n\r]*/y) !== undefined) continue;
      if (this.#take(/Remove-Item \$payloadFile/y) !== undefined) continue;
      if (this.#take(/^function Send-Request \{|Send-Request$/my) !== undefined) continue;
      if (this.#take(/\$PSNativeCommandArgumentPassing = 'Legacy'/y) !== undefined) this.#isLegacy = true;
      else if (this.#take(/curl\.exe(?= )/y) !== undefined) this.#curl();
      else if (
        this.#take(/\[IO\.File\]::WriteAllBytes\(\$payloadFile, \[Convert\]::FromBase64String\(/y) !== undefined
      ) {
        this.files.set(this.#variables.get('payloadfile') ?? '', Buffer.from(this.#string(), 'base64'));
        if (this.#take(/\)\)/y) === undefined) throw this.#fail();
      } else if (
        this.#take(/\[IO\.File\]::WriteAllBytes\(\$payloadFile, \[Text\.Encoding\]::UTF8\.GetBytes\(-join \(/y) !==
        undefined
      ) {
        this.files.set(this.#variables.get('payloadfile') ?? '', Buffer.from(this.#joined()));
        if (this.#take(/\)\)\)/y) === undefined) throw this.#fail();
      } else {
        const name = this.#take(/\$([A-Za-z0-9_]+) = /y)?.[1];
        if (name === undefined) throw this.#fail();
        this.#variables.set(name.toLowerCase(), this.#value());
      }
    }
  }

  #value(): string {
    if (this.#take(/\[IO\.Path\]::GetTempFileName\(\)/y) !== undefined) return 'payload.tmp';
    const secret = this.#take(/\$env:([A-Z0-9_]+)/y)?.[1];
    return secret === undefined ? this.#string() : (this.#environment[secret] ?? '');
  }

  #curl(): void {
    if (!this.#isLegacy) throw new Error('arguments are passed on in the new way');
    let line = '';
    for (;;) {
      if (this.#take(/ `\n {2}/y) === undefined && this.#take(/ +/y) === undefined) break;
      const word =
        this.#take(/[A-Za-z0-9_./:+=-]+/y)?.[0] ?? (QUOTES.test(this.#peek()) ? this.#string() : this.#expression());
      line += ` ${passedOn(word)}`;
    }
    if (this.#peek() !== '\n' && this.#peek() !== '') throw this.#fail();
    this.curl.push(splitCommandLine(line));
  }

  /** Texts one behind the other: decoded ones, and what variables hold. */
  #joined(): string {
    let text = '';
    do {
      const name = this.#take(/\$([A-Za-z0-9_]+)/y)?.[1];
      if (name !== undefined) text += this.#variables.get(name.toLowerCase()) ?? '';
      else if (this.#take(/\[Text\.Encoding\]::UTF8\.GetString\(\[Convert\]::FromBase64String\(/y) !== undefined) {
        text += Buffer.from(this.#string(), 'base64').toString();
        if (this.#take(/\)\)/y) === undefined) throw this.#fail();
      } else throw this.#fail();
    } while (this.#take(/, /y) !== undefined);
    return text;
  }

  /** A sum of strings in parentheses, some of them variables whose quotes get a backslash. */
  #expression(): string {
    if (this.#take(/\(/y) === undefined) throw this.#fail();
    let text = '';
    for (;;) {
      const name = this.#take(/\(\$([A-Za-z0-9_]+) -replace '\(\\\\\*\)"', '\$1\$1\\"'\)/y)?.[1];
      text +=
        name === undefined
          ? this.#string()
          : (this.#variables.get(name.toLowerCase()) ?? '').replace(/(\\*)"/g, '$1$1\\"');
      if (this.#take(/ \+ /y) === undefined) break;
    }
    if (this.#take(/\)/y) === undefined) throw this.#fail();
    return text;
  }

  /** A string in single quotes: two of them stand for the second. */
  #string(): string {
    if (!QUOTES.test(this.#peek())) throw this.#fail();
    let text = '';
    for (this.#at++; ; this.#at++) {
      const character = this.#peek();
      if (character === '') throw this.#fail();
      if (!QUOTES.test(character)) {
        text += character;
        continue;
      }
      this.#at++;
      if (!QUOTES.test(this.#peek())) return text;
      text += this.#peek();
    }
  }

  #peek(): string {
    return this.#text[this.#at] ?? '';
  }

  #take(pattern: RegExp): RegExpExecArray | undefined {
    pattern.lastIndex = this.#at;
    const match = pattern.exec(this.#text);
    if (match === null || match.index !== this.#at) return undefined;
    this.#at += match[0].length;
    return match;
  }

  #fail(): Error {
    return new Error(`runs ${JSON.stringify(this.#text.slice(this.#at, this.#at + 60))}`);
  }
}

/** How an argument was put on the command line before PowerShell 7.3: in quotes where blanks stand outside of quotes. */
function passedOn(arg: string): string {
  let quotes = 0;
  let isAfterSlash = false;
  let needsQuotes = false;
  for (const character of arg) {
    if (character === '"' && !isAfterSlash) quotes++;
    else if (/\s/.test(character) && quotes % 2 === 0) needsQuotes = true;
    isAfterSlash = character === '\\';
  }
  return needsQuotes ? `"${arg}"` : arg;
}
