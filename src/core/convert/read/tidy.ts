import { unescapeMarkup } from '../../wording';

// What chats, web pages and terminals put around or into a command that is copied from them, taken away again and said.

/** A text as it was meant, and what was mended in it. */
export interface Tidied {
  readonly text: string;
  readonly notes: readonly string[];
}

const PROGRAM = /\b(?:curl(?:\.exe)?|wget2?|https?|fetch|Invoke-(?:WebRequest|RestMethod)|iwr|irm)\b/;
/** The same where a command begins, with its path: bounded, so that no text makes it slow. */
const COMMAND = `(?:[\\w./\\\\:-]{0,200}[/\\\\])?${PROGRAM.source}`;
const BEFORE = /(?:sudo|time|env|nohup|exec|command|watch|export|set|\$env:\w+|[A-Za-z_]\w*=\S*)/;
/** What stands before a command in a terminal, where a command does follow. */
const PROMPT = new RegExp(
  `^[ \\t]*(?:PS [A-Za-z]:\\\\[^>\\n]*>|[A-Za-z]:\\\\[^>\\n]*>|(?:\\[[^\\]\\n]*\\]|[\\w.-]+@[\\w.-]+(?::[^$#%\\n]*)?)?[ \\t]*[$%❯➜>])[ \\t]+(?=${BEFORE.source}|${COMMAND})`,
  'gm',
);
const ROOT_PROMPT = new RegExp(`^[ \\t]*#[ \\t]+(?=${BEFORE.source}|${COMMAND})`, 'm');
const CONTINUATION = /([\\^`][ \t]*\n)[ \t]*>>?[ \t]+/g;
const FENCE = /^[ \t]*(?:```|~~~)[^\n]*\n?/gm;
/** A paste as the command or code that it was before it was pasted. In code no quote or dash is taken for another. */
export function tidyPaste(pasted: string, isCommand = true): Tidied {
  const notes: string[] = [];
  let text = pasted.replaceAll('\r\n', '\n').replace(/^\ufeff/, '');
  const mend = (mended: string, note?: string): void => {
    if (mended !== text && note !== undefined) notes.push(note);
    text = mended;
  };
  mend(text.replace(FENCE, ''));
  mend(text.replace(/^\s*`([^`\n]+)`\s*$/, '$1'));
  if (/&quot;/.test(text) && !text.includes('"') && PROGRAM.test(text))
    mend(unescapeMarkup(text), 'HTML entities such as &quot; were read as the characters that they stand for.');
  if (!isCommand) return { text, notes };
  mend(text.replace(CONTINUATION, '$1'));
  mend(text.replace(PROMPT, ''));
  // A hash is the prompt of root only where nothing but it stands before commands: else it begins a comment.
  if (!text.split('\n').some((line) => /^(?!\s*#)/.test(line) && PROGRAM.test(line)))
    mend(text.replace(ROOT_PROMPT, ''));
  if (!PROGRAM.test(text)) return { text, notes };
  mend(
    outsideQuotes(text, (piece) => piece.replace(/[\u00a0\u2007\u202f]/g, ' ').replace(/[\u200b\u2060\ufeff]/g, '')),
  );
  if (/(?:^|[\s=@(,])[“”„‟]/.test(text) && !text.includes('"'))
    mend(
      outsideQuotes(text, (piece) => piece.replace(/[“”„‟]/g, '"')),
      'Curly quotes were read as straight ones.',
    );
  if (/(?:^|[\s=@(,])[‘’‚‛]/.test(text) && !text.includes("'"))
    mend(
      outsideQuotes(text, (piece) => piece.replace(/[‘’‚‛]/g, "'")),
      'Curly quotes were read as straight ones.',
    );
  mend(
    outsideQuotes(text, (piece) =>
      piece.replace(
        /(^|\s)[–—]([A-Za-z][\w-]*)/g,
        (_, before: string, name: string) => `${before}${name.length === 1 ? '-' : '--'}${name}`,
      ),
    ),
    'Long dashes were read as the hyphens of options.',
  );
  return { text, notes };
}

/** A text with what stands outside of straight quotes changed. */
function outsideQuotes(text: string, change: (piece: string) => string): string {
  return text.replace(/"(?:[^"\\]|\\[\s\S])*"|'[^']*'|[^"']+|["']/g, (piece) =>
    /^["']/.test(piece) ? piece : change(piece),
  );
}

/** What may stand before a command, each with the words of its own that may follow it. */
const RUNNERS: ReadonlyMap<string, RegExp> = new Map([
  ...['sudo', 'time'].map((name) => [name, /^-/] as const),
  ...['if', 'while', 'until'].map((name) => [name, /^!$/] as const),
  ...['nohup', 'exec', 'command', 'then', 'else', 'do'].map((name) => [name, /(?!)/] as const),
  ['env', /^(?:-|[A-Za-z_]\w*=)/],
  ['watch', /^(?:-|\d+(?:\.\d+)?$)/],
]);

/** The words of a command without what runs it: "sudo", "time", "env A=b", "NAME=value". */
export function withoutRunners(words: readonly string[]): readonly string[] {
  let rest = words;
  for (;;) {
    const [first = ''] = rest;
    if (/^[A-Za-z_]\w*=/.test(first)) {
      rest = rest.slice(1);
      continue;
    }
    const own = RUNNERS.get(first);
    if (own === undefined || rest.length < 2) return rest;
    rest = rest.slice(1);
    while (own.test(rest[0] ?? '')) rest = rest.slice(1);
  }
}
