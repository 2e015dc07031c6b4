/** JSON formatted for reading, with the way from places of the text as it was received to those of the formatted one. */
export interface FormattedJson {
  readonly text: string;
  /** Where a unit of the received text stands now. White space that was left out leads to what follows it. */
  readonly placeOf: (offset: number) => number;
}

const INDENT = '  ';
/** Deeper levels are not indented further: hostile nesting would make a text of nothing but spaces. */
const MOST_INDENTED = 60;

/**
 * Lays JSON out one member to a line. Every number, string and name keeps its very characters, which reading and writing
 * it again would not do: 1.0, long integers and escapes stay as they were sent. Damaged JSON is laid out as far as its
 * brackets go.
 */
export function formatJson(text: string): FormattedJson {
  const parts: string[] = [];
  /** Where pieces of the text begin, before and after. */
  const from: number[] = [];
  const to: number[] = [];
  let length = 0;
  let depth = 0;
  const write = (part: string): void => {
    parts.push(part);
    length += part.length;
  };
  const keep = (start: number, end: number): void => {
    from.push(start);
    to.push(length);
    write(text.slice(start, end));
  };
  const breakLine = (): void => write(`\n${INDENT.repeat(Math.min(depth, MOST_INDENTED))}`);
  for (let at = 0; at < text.length; ) {
    const char = text.charAt(at);
    if (isSpace(char)) {
      at++;
      continue;
    }
    const end = endOfToken(text, at);
    if (char === '{' || char === '[') {
      const next = skipSpace(text, end);
      const close = char === '{' ? '}' : ']';
      keep(at, end);
      if (text.charAt(next) === close) {
        keep(next, next + 1);
        at = next + 1;
        continue;
      }
      depth++;
      breakLine();
    } else if (char === '}' || char === ']') {
      depth = Math.max(0, depth - 1);
      breakLine();
      keep(at, end);
    } else {
      keep(at, end);
      if (char === ',') breakLine();
      else if (char === ':') write(' ');
    }
    at = end;
  }
  return { text: parts.join(''), placeOf: (offset) => mapPlace(offset, from, to) };
}

const isSpace = (char: string): boolean => char === ' ' || char === '\n' || char === '\r' || char === '\t';

function skipSpace(text: string, start: number): number {
  let at = start;
  while (at < text.length && isSpace(text.charAt(at))) at++;
  return at;
}

function endOfToken(text: string, start: number): number {
  const first = text.charAt(start);
  if ('{}[],:'.includes(first)) return start + 1;
  let at = start + 1;
  if (first === '"') {
    while (at < text.length && text.charAt(at) !== '"') at += text.charAt(at) === '\\' ? 2 : 1;
    return Math.min(text.length, at + 1);
  }
  while (at < text.length && !'{}[],:"'.includes(text.charAt(at)) && !isSpace(text.charAt(at))) at++;
  return at;
}

/** The last piece that begins at or before the offset holds it. */
function mapPlace(offset: number, from: readonly number[], to: readonly number[]): number {
  let low = 0;
  let high = from.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if ((from[middle] ?? 0) <= offset) low = middle;
    else high = middle - 1;
  }
  return (to[low] ?? 0) + Math.max(0, offset - (from[low] ?? 0));
}
