import { formatJson, readJsonTree } from '../../json';
import { isStruck, type Layout, type SheetProblem } from '../sheet';

/** Around a string of several lines, such as a GraphQL operation. No JSON has three quotes in a row. */
const BLOCK = '"""';

/** A string, with the colon behind it where it names a member. */
const STRING = /"[^"\\\n]*(?:\\.[^"\\\n]*)*"(\s*:)?/g;
const TOKEN = /"""\n[\s\S]*?\n"""|"[^"\\]*(?:\\[\s\S][^"\\]*)*"?|[{}[\],:]|[^\s"{}[\],:]+/g;

/** JSON that is sent in one line, laid out one member to a line; a string of several lines as these lines. */
export const json: Layout = {
  id: 'json',
  label: 'JSON, sent in one line',
  canStrike: true,
  write: (payload) => {
    if (payload.type !== 'text' || !/^[[{]/.test(payload.text)) return undefined;
    const laidOut = withBlocks(formatJson(payload.text).text);
    return sentText(laidOut) === payload.text && !laidOut.split('\n').some(isStruck) ? laidOut : undefined;
  },
  read: (lines) => {
    const hasStruck = lines.some((line) => isStruck(line.text));
    // Lines that are left out become blanks, so that every offset stays what it is.
    const text = lines
      .map((line) => (hasStruck && isStruck(line.text) ? ' '.repeat(line.text.length) : line.text))
      .join('\n');
    const sent = hasStruck ? withoutStrayCommas(tokensOf(text)).map(written).join('') : sentText(text);
    if (sent === '') return { payload: { type: 'none' }, problems: [] };
    // Where it stops is looked for only where it does: large payloads are read at every key.
    const tokens = isJson(sent) ? [] : hasStruck ? withoutStrayCommas(tokensOf(text)) : tokensOf(text);
    const problem = tokens.length === 0 ? undefined : problemOf(text.length, tokens, lines[0]?.from ?? 0);
    return { payload: { type: 'text', text: sent }, problems: problem === undefined ? [] : [problem] };
  },
};

/** Whether a text is JSON; marks of variables count as values. */
function isJson(text: string): boolean {
  try {
    JSON.parse(text.includes('‹') ? text.replace(/‹\w+›/g, '0') : text);
    return true;
  } catch {
    return false;
  }
}

/** What a laid out text sends: blanks between its tokens are only layout. */
function sentText(text: string): string {
  if (text.includes(BLOCK)) return tokensOf(text).map(written).join('');
  let sent = '';
  let copied = 0;
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at);
    if (code === QUOTE) {
      at = endOfString(text, at);
    } else if (code <= BLANK && /\s/.test(text.charAt(at))) {
      sent += text.slice(copied, at);
      copied = at + 1;
    }
  }
  return sent + text.slice(copied);
}
const QUOTE = 0x22;
const BACKSLASH = 0x5c;
const BLANK = 0x20;

/** The place of the quote that ends a string; the text's end where none does. */
function endOfString(text: string, from: number): number {
  for (let at = from + 1; at < text.length; at++) {
    const code = text.charCodeAt(at);
    if (code === BACKSLASH) at++;
    else if (code === QUOTE) return at;
  }
  return text.length;
}

interface Token {
  readonly from: number;
  readonly text: string;
}

const tokensOf = (text: string): Token[] =>
  [...text.matchAll(TOKEN)].map((match) => ({ from: match.index, text: match[0] }));

const isBlock = ({ text }: Token): boolean => text.startsWith(`${BLOCK}\n`);

/** A token as it is sent. */
const written = (token: Token): string =>
  isBlock(token) ? JSON.stringify(token.text.slice(BLOCK.length + 1, -BLOCK.length - 1)) : token.text;

/** Without the commas that parted what is left out from what is not. */
function withoutStrayCommas(tokens: readonly Token[]): Token[] {
  const kept: Token[] = [];
  for (const token of tokens) {
    const last = kept.at(-1)?.text;
    if (token.text === ',' && (last === undefined || ',{['.includes(last))) continue;
    if ('}]'.includes(token.text) && last === ',') kept.pop();
    kept.push(token);
  }
  return kept;
}

/** Each string that holds several lines as these, where writing them back gives the very same string. */
const withBlocks = (text: string): string =>
  text.replace(STRING, (literal, colon?: string) => {
    if (colon !== undefined || !literal.includes('\\n')) return literal;
    const value = JSON.parse(literal) as string;
    const fits = JSON.stringify(value) === literal && !value.includes(BLOCK) && !value.split('\n').some(isStruck);
    return fits ? `${BLOCK}\n${value}\n${BLOCK}` : literal;
  });

/** Where the tokens stop being JSON; marks of variables count as values. Offsets are those of the laid out text. */
function problemOf(length: number, tokens: readonly Token[], from: number): SheetProblem | undefined {
  let text = '';
  for (const token of tokens) {
    const valid = isBlock(token) ? `"${'x'.repeat(token.text.length - 2)}"` : token.text.replace(/‹\w+›/g, digits);
    text += ' '.repeat(token.from - text.length) + valid;
  }
  const { problem } = readJsonTree(text.padEnd(length));
  if (problem === undefined) return undefined;
  const at = Math.min(problem.offset, tokens.at(-1)?.from ?? 0);
  const to = tokens.find((token) => token.from + token.text.length > at);
  return {
    from: from + at,
    to: from + (to === undefined ? length : to.from + to.text.length),
    sentence: `Not JSON: ${problem.expected} is expected here. It is sent as it is.`,
    bars: false,
  };
}

const digits = (mark: string): string => '1'.repeat(mark.length);

/**
 * The lines of a laid out JSON that go with one: a member that opens a bracket goes with all that is in it, a string of
 * several lines goes as a whole. None for what closes a bracket.
 */
export function jsonSpan(lines: readonly string[], at: number): readonly [from: number, to: number] | undefined {
  const block = blocksOf(lines).find(({ from, to }) => at >= from && at <= to);
  if (block !== undefined) return [block.from, block.to];
  const line = lines[at] ?? '';
  if (/^\s*[\]}]/.test(line)) return undefined;
  if (!/[[{]\s*$/.test(line)) return [at, at];
  const indentOf = (text: string): number => text.length - text.trimStart().length;
  const close = lines.findIndex(
    (other, place) => place > at && other.trim() !== '' && indentOf(other) <= indentOf(line),
  );
  return close === -1 ? undefined : [at, close];
}

function blocksOf(lines: readonly string[]): { readonly from: number; readonly to: number }[] {
  const blocks: { from: number; to: number }[] = [];
  let from: number | undefined;
  lines.forEach((line, at) => {
    if (from === undefined && line.endsWith(BLOCK)) from = at;
    else if (from !== undefined && line.startsWith(BLOCK)) {
      blocks.push({ from, to: at });
      from = undefined;
    }
  });
  return blocks;
}
