import { quoteAutoHotkey } from '../quoting/autohotkey';
import { quoteCSharp } from '../quoting/csharp';
import { quoteDart } from '../quoting/dart';
import { quoteKotlin } from '../quoting/kotlin';
import { quotePowerM } from '../quoting/power-m';
import { quotePowerShell } from '../quoting/powershell';
import { quoteRust, quoteRustRaw } from '../quoting/rust';
import { quoteSwift } from '../quoting/swift';
import { quoteVba } from '../quoting/vba';
import type { TargetId } from '../target';

// Readers of string literals of languages that do not run here, written from their specifications.

/** A literal's text, and what stands behind the literal. */
export interface ReadLiteral {
  readonly text: string;
  readonly rest: string;
}

interface Rules {
  readonly open: string;
  readonly mark: string;
  /** What stands behind the escape character, in the order of trial. */
  readonly escapes: readonly (readonly [RegExp, (match: RegExpExecArray) => string])[];
  /** What begins something else than text. */
  readonly forbidden: RegExp;
}

const SIMPLE: Readonly<Record<string, string>> = { n: '\n', r: '\r', t: '\t', '0': '\0' };
const simple = (characters: string): Rules['escapes'][number] => [
  new RegExp(`[${characters}]`, 'y'),
  ([one = '']) => SIMPLE[one] ?? one,
];
const UTF16: Rules['escapes'][number] = [
  /u([0-9a-f]{4})/y,
  ([, code = '']) => String.fromCharCode(Number.parseInt(code, 16)),
];
const BRACED: Rules['escapes'][number] = [
  /u\{([0-9a-f]{1,6})\}/y,
  ([, code = '']) => String.fromCodePoint(Number.parseInt(code, 16)),
];

const readBy =
  ({ open, mark, escapes, forbidden }: Rules) =>
  (source: string): ReadLiteral => {
    if (!source.startsWith(open)) throw new Error(`no literal: ${source}`);
    let text = '';
    for (let at = open.length; at < source.length; ) {
      const character = String.fromCodePoint(source.codePointAt(at) ?? 0);
      if (character === open) return { text, rest: source.slice(at + 1) };
      if (character === mark) {
        const found = escapes.find(([pattern]) => {
          pattern.lastIndex = at + 1;
          return pattern.test(source);
        });
        if (found === undefined) throw new Error(`no escape at ${source.slice(at)}`);
        const [pattern, meaning] = found;
        pattern.lastIndex = at + 1;
        const match = pattern.exec(source) as RegExpExecArray;
        text += meaning(match);
        at += 1 + match[0].length;
        continue;
      }
      if (forbidden.test(source.slice(at))) throw new Error(`something else than text at ${source.slice(at)}`);
      text += character;
      at += character.length;
    }
    throw new Error(`never ends: ${source}`);
  };

/** A raw literal of Rust: as many marks as it begins with end it behind a quote. Any other is read with its escapes. */
function readRustRaw(source: string): ReadLiteral {
  const open = /^r(#+)"/.exec(source);
  if (open === null) return readRust(source);
  const end = `"${open[1] ?? ''}`;
  const at = source.indexOf(end, open[0].length);
  if (at === -1) throw new Error('never ends');
  return { text: source.slice(open[0].length, at), rest: source.slice(at + end.length) };
}

/** PowerShell: four quotes that all open and close, two of them stand for the second (language specification, 2.3.5.2). */
function readPowerShellLiteral(source: string): ReadLiteral {
  let text = '';
  for (let at = 1; at < source.length; at++) {
    const character = source[at] ?? '';
    if (!/['\u2018-\u201b]/.test(character)) {
      text += character;
      continue;
    }
    if (!/['\u2018-\u201b]/.test(source[at + 1] ?? '')) return { text, rest: source.slice(at + 1) };
    text += source[++at];
  }
  throw new Error('never ends');
}

const NAMED_VBA: Readonly<Record<string, string>> = { vbCrLf: '\r\n', vbLf: '\n', vbCr: '\r', vbTab: '\t' };

/** VBA: literals, characters by their code and constants, joined by ampersands (VBA language specification, 3.3.4, 5.6). */
function readVbaText(source: string): ReadLiteral {
  let text = '';
  let rest = source;
  for (;;) {
    const [whole = '', literal, code, name] =
      /^(?:"((?:[^"\r\n\u2028\u2029]|"")*)"|ChrW\((\d+)\)|(vb[A-Z]\w*))/.exec(rest) ?? [];
    if (whole === '') throw new Error(`no term at ${rest.slice(0, 40)}`);
    if (/[^\x20-\x7e]/.test(whole)) throw new Error('not in every code page');
    text +=
      literal?.replaceAll('""', '"') ??
      (code === undefined ? NAMED_VBA[name ?? ''] : String.fromCharCode(Number(code)));
    rest = rest.slice(whole.length);
    if (!/^ & (?:"|ChrW\(|vb[A-Z])/.test(rest)) return { text, rest };
    rest = rest.slice(3);
  }
}

const NAMED_M: Readonly<Record<string, string>> = { lf: '\n', cr: '\r', tab: '\t', '#': '#' };

/** M: a quote is doubled; "#(...)" holds names or codes (Power Query M specification, Character escape sequences). */
function readPowerMText(source: string): ReadLiteral {
  const [whole = '', inner = ''] = /^"((?:[^"]|"")*)"/.exec(source) ?? [];
  if (whole === '' || /[\r\n]/.test(whole)) throw new Error('never ends');
  const text = inner.replaceAll('""', '"').replace(/#\(([^)]*)\)/g, (_, names: string) =>
    names
      .split(',')
      .map((name) => NAMED_M[name] ?? String.fromCodePoint(Number.parseInt(name, 16)))
      .join(''),
  );
  return { text, rest: source.slice(whole.length) };
}

const readRust = readBy({ open: '"', mark: '\\', escapes: [BRACED, simple('nrt"\\\\')], forbidden: /^\r/ });

interface LiteralCheck {
  readonly quote: (text: string) => string;
  readonly read: (source: string) => ReadLiteral;
}

export const LITERALS = {
  'C#': {
    quote: quoteCSharp,
    read: readBy({
      open: '"',
      mark: '\\',
      escapes: [UTF16, simple('nrt"\\\\')],
      forbidden: /^[\n\r\u0085\u2028\u2029]/,
    }),
  },
  Kotlin: {
    quote: quoteKotlin,
    read: readBy({
      open: '"',
      mark: '\\',
      escapes: [UTF16, simple('nrt"\\\\$')],
      forbidden: /^[\n\r]|^\$[A-Za-z_{]/,
    }),
  },
  Swift: {
    quote: quoteSwift,
    read: readBy({ open: '"', mark: '\\', escapes: [BRACED, simple('nrt"\\\\')], forbidden: /^[\n\r]/ }),
  },
  Rust: { quote: quoteRust, read: readRust },
  'Rust, raw': { quote: quoteRustRaw, read: readRustRaw },
  Dart: {
    quote: quoteDart,
    read: readBy({
      open: "'",
      mark: '\\',
      escapes: [BRACED, simple("nrt'\\\\$")],
      forbidden: /^[\n\r]|^\$[A-Za-z_{]/,
    }),
  },
  PowerShell: { quote: quotePowerShell, read: readPowerShellLiteral },
  VBA: { quote: quoteVba, read: readVbaText },
  M: { quote: quotePowerM, read: readPowerMText },
  AutoHotkey: {
    quote: quoteAutoHotkey,
    read: readBy({ open: '"', mark: '`', escapes: [simple('nrt";`')], forbidden: /^[\n\r]|^\s;/ }),
  },
} as const satisfies Readonly<Record<string, LiteralCheck>>;

/** The targets that nothing here runs: their strings are read back by their languages' rules, under these names. */
export const READ_BACK = {
  csharp: 'C#',
  'kotlin-okhttp': 'Kotlin',
  swift: 'Swift',
  'rust-reqwest': 'Rust',
  dart: 'Dart',
  powershell: 'PowerShell',
  vba: 'VBA',
  'power-m': 'M',
  autohotkey: 'AutoHotkey',
} as const satisfies Partial<Record<TargetId, keyof typeof LITERALS>>;
