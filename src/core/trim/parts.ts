import { type HeaderRole, readPiece } from '../convert';
import { parseJson } from '../json';
import { type KeptDraft, readSheet, type Sheet, type SheetLine, STRUCK, spanOfLine } from '../sheet';

/** Something of a request that may be left out by itself: lines of its sheet, or one cookie of a line. */
export interface Part {
  readonly key: string;
  readonly what: 'header' | 'cookie' | 'parameter' | 'field';
  readonly name: string;
  /** Places of its first and last line on the sheet, from 0. */
  readonly from: number;
  readonly to: number;
  /** Which of the line's cookies it is, from 0; absent for what is whole lines. */
  readonly cookie?: number;
  /** What a header is for; what else there is, is the request itself. */
  readonly role: HeaderRole;
  /** Members that an object holds, which may be left out of it one by one. */
  readonly inside: readonly Part[];
}

/** What is left out of a request, and what is not, in words of the sheet. */
const WORD: Readonly<Record<Part['what'], string>> = {
  header: 'header',
  cookie: 'cookie',
  parameter: 'parameter',
  field: 'field',
};

/** "header accept", "cookie sid", "parameter page". */
export const partName = ({ what, name }: Pick<Part, 'what' | 'name'>): string => `${WORD[what]} ${name}`;

/**
 * The parts of a draft that are sent and can be left out one by one: headers, cookies, parameters of the query, fields of
 * a form, parts of a multipart form, and members of a JSON object, those of objects in it inside of these. Headers that
 * any client computes are none: they are sent however the request is made.
 */
export function partsOf({ sheet, draft }: Pick<KeptDraft, 'sheet' | 'draft'>): Part[] {
  const { lines, draft: read } = readSheet(sheet, draft);
  const named = new Map<string, number>();
  const add = (part: Omit<Part, 'key' | 'inside'>, inside: readonly Part[] = []): Part => {
    const name = partName(part).toLowerCase();
    const count = named.get(name) ?? 0;
    named.set(name, count + 1);
    return { ...part, key: `${name} ${count}`, inside };
  };
  const ofHead = lines.flatMap((line, at): Part[] => {
    if (line.isStruck) return [];
    if (line.kind === 'query') {
      const { name } = readPiece(line.text.trimStart().slice(1));
      return name === '' ? [] : [add({ what: 'parameter', name, from: at, to: at, role: 'own' })];
    }
    const header = read.headers[line.header ?? -1];
    if (header === undefined || header.role === 'computed') return [];
    const { name, value, role } = header;
    if (name.toLowerCase() !== 'cookie') return [add({ what: 'header', name, from: at, to: at, role })];
    return pairsOf(value).map((pair, cookie) =>
      add({ what: 'cookie', name: pair.split('=', 1)[0] ?? '', from: at, to: at, role, cookie }),
    );
  });
  return [...ofHead, ...fieldsOf(lines, sheet, add)];
}

type AddPart = (part: Omit<Part, 'key' | 'inside'>, inside?: readonly Part[]) => Part;

/** Cookies as a line has them (RFC 6265 4.2.1). */
const pairsOf = (value: string): string[] =>
  value
    .split(';')
    .map((pair) => pair.trim())
    .filter((pair) => pair !== '');

/** How deep a layout of JSON sets a member of the root in. */
const INDENT = 2;

function fieldsOf(lines: readonly SheetLine[], { layout }: Sheet, add: AddPart): Part[] {
  const field = (name: string, [from, to]: readonly [number, number], inside: readonly Part[] = []): Part =>
    add({ what: 'field', name, from, to, role: 'own' }, inside);
  const membersAt = (
    indent: number,
    first: number,
    last: number,
    inside: (span: readonly [number, number]) => Part[],
  ) => {
    const found: Part[] = [];
    for (let at = first; at <= last; at++) {
      const line = lines[at];
      const span = line === undefined || line.isStruck ? undefined : spanOfLine(lines, at, layout);
      if (span === undefined) continue;
      const name = memberName(lines[at]?.text ?? '', indent);
      if (name === undefined) continue;
      found.push(field(name, span, inside(span)));
      at = span[1];
    }
    return found;
  };
  const first = lines.findIndex(({ kind }) => kind === 'payload');
  if (first === -1) return [];
  const last = lines.length - 1;
  switch (layout) {
    case 'json':
      if (lines[first]?.text !== '{') return [];
      return membersAt(INDENT, first + 1, last, ([from, to]) =>
        /\{\s*$/.test(lines[from]?.text ?? '') ? membersAt(2 * INDENT, from + 1, to - 1, () => []) : [],
      );
    case 'fields':
      return lines.flatMap((line, at) => {
        const name = line.kind !== 'payload' || line.isStruck ? '' : readPiece(line.text.replace(/^&/, '')).name;
        return name === '' ? [] : [field(name, [at, at])];
      });
    case 'parts':
      return lines.flatMap((line, at) => {
        const [, name] = /^content-disposition:.*[; ]name="([^"]*)"/i.exec(line.text) ?? [];
        const span = name === undefined || line.isStruck ? undefined : spanOfLine(lines, at, layout);
        return name === undefined || span === undefined ? [] : [field(name, span)];
      });
    default:
      return [];
  }
}

/** The name of the member that a line of laid out JSON begins; none where it begins none at that depth. */
function memberName(line: string, indent: number): string | undefined {
  const [, blanks = '', literal] = /^( *)("(?:[^"\\]|\\.)*"):/.exec(line) ?? [];
  if (literal === undefined || blanks.length !== indent) return undefined;
  const name = parseJson(literal);
  return typeof name === 'string' ? name : undefined;
}

/** The sheet with parts left out: their lines are struck through, their cookies taken out of the line. */
export function withoutParts(sheet: Sheet, parts: readonly Part[]): Sheet {
  const lines = sheet.text.split('\n');
  const strike = (at: number): void => {
    const line = lines[at];
    if (line !== undefined && line !== '' && !line.startsWith(STRUCK)) lines[at] = STRUCK + line;
  };
  const cookies = new Map<number, Set<number>>();
  for (const { from, to, cookie } of parts) {
    if (cookie === undefined) for (let at = from; at <= to; at++) strike(at);
    else cookies.set(from, (cookies.get(from) ?? new Set()).add(cookie));
  }
  for (const [at, gone] of cookies) {
    const line = lines[at] ?? '';
    const colon = line.indexOf(':');
    const kept = pairsOf(line.slice(colon + 1)).filter((_, nth) => !gone.has(nth));
    if (kept.length === 0) strike(at);
    else lines[at] = `${line.slice(0, colon)}: ${kept.join('; ')}`;
  }
  return { ...sheet, text: lines.join('\n') };
}
