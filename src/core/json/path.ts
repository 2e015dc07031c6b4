import { writePath } from './steps';

/**
 * The paths, as in `$.items[3].price`, of the values in which places of a JSON text lie (RFC 9535's normalised reading,
 * written short where a name allows). A place in a member's name belongs to that member. The text need not be whole or
 * even valid: it is scanned for its strings and brackets only, once. `offsets` are in rising order.
 */
export function jsonPathsAt(text: string, offsets: readonly number[]): string[] {
  const paths: string[] = [];
  const stack: Level[] = [];
  let at = 0;
  for (const offset of offsets) {
    while (at < text.length) {
      const next = nextToken(text, at);
      // A string is passed as a whole only when the place lies behind it.
      if (next.end > offset) {
        if (next.type === 'string' && next.start <= offset) nameMember(text, stack, next);
        break;
      }
      take(text, stack, next);
      at = next.end;
    }
    paths.push(pathOf(stack));
  }
  return paths;
}

interface Level {
  /** Of an array the place of the value at hand; of an object undefined. */
  index: number | undefined;
  name: string | undefined;
  /** True in an object where a name comes next, not a value. */
  awaitsName: boolean;
}

interface JsonToken {
  readonly type: 'string' | 'mark' | 'rest';
  readonly start: number;
  readonly end: number;
}

const QUOTE = 0x22;
const BACKSLASH = 0x5c;
const isMark = (unit: number): boolean =>
  unit === 0x7b || unit === 0x7d || unit === 0x5b || unit === 0x5d || unit === 0x2c || unit === 0x3a;

/** The next string, bracket, comma or colon, or a run of anything else. */
function nextToken(text: string, start: number): JsonToken {
  const first = text.charCodeAt(start);
  if (isMark(first)) return { type: 'mark', start, end: start + 1 };
  let end = start + 1;
  if (first === QUOTE) {
    while (end < text.length && text.charCodeAt(end) !== QUOTE) end += text.charCodeAt(end) === BACKSLASH ? 2 : 1;
    return { type: 'string', start, end: Math.min(text.length, end + 1) };
  }
  while (end < text.length) {
    const unit = text.charCodeAt(end);
    if (unit === QUOTE || isMark(unit)) break;
    end++;
  }
  return { type: 'rest', start, end };
}

function take(text: string, stack: Level[], token: JsonToken): void {
  if (token.type === 'string') nameMember(text, stack, token);
  if (token.type !== 'mark') return;
  const level = stack.at(-1);
  switch (text.charAt(token.start)) {
    case '{':
      stack.push({ index: undefined, name: undefined, awaitsName: true });
      break;
    case '[':
      stack.push({ index: 0, name: undefined, awaitsName: false });
      break;
    case ',':
      if (level === undefined) break;
      if (level.index === undefined) level.awaitsName = true;
      else level.index++;
      break;
    case ':':
      if (level !== undefined) level.awaitsName = false;
      break;
    default:
      stack.pop();
  }
}

function nameMember(text: string, stack: readonly Level[], { start, end }: JsonToken): void {
  const level = stack.at(-1);
  if (level === undefined || level.index !== undefined || !level.awaitsName) return;
  level.name = nameOf(text.slice(start, end));
}

function nameOf(quoted: string): string {
  try {
    return JSON.parse(quoted) as string;
  } catch {
    return quoted.replaceAll('"', '');
  }
}

function pathOf(stack: readonly Level[]): string {
  return writePath(stack.flatMap(({ index, name }) => index ?? name ?? []));
}
