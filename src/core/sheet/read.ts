import {
  type Draft,
  type DraftHeader,
  headerRole,
  joinQuery,
  VARIABLE_MARK,
  type Variable,
  withAsciiHost,
} from '../convert';
import { layoutOf } from './layouts';
import { isStruck, type PlacedLine, type Sheet, type SheetProblem, unstruck } from './sheet';
import { LINE_END } from './write';

/** What a line of a sheet is. */
export type LineKind = 'start' | 'path' | 'query' | 'gap' | 'header' | 'payload';

export interface SheetLine extends PlacedLine {
  readonly kind: LineKind;
  readonly isStruck: boolean;
  /** The header that the line is, by its place in the draft. */
  readonly header: number | undefined;
}

export interface SheetRead {
  readonly draft: Draft;
  readonly lines: readonly SheetLine[];
  /** In the order of the text. */
  readonly problems: readonly SheetProblem[];
}

/**
 * The draft that a sheet says. What no line of it says stays as it was in `before`: variables, what is expected back, and
 * the roles and reasons of headers that have not changed.
 */
export function readSheet(sheet: Sheet, before: Draft, variables: readonly Variable[] = before.variables): SheetRead {
  const lines = splitSheet(sheet);
  const problems: SheetProblem[] = [];
  const { method, url } = readAddress(lines, problems);
  const headers = readHeaders(lines, { method, url }, before, problems);
  const layout = layoutOf(sheet.layout);
  const { payload, problems: ofPayload } = layout.read(
    lines.filter(({ kind }) => kind === 'payload'),
    sheet.attachments,
  );
  problems.push(...ofPayload, ...unknownVariables(lines, variables));
  const draft = { ...before, method, url, headers, payload, variables };
  return { draft, lines, problems: problems.sort((one, other) => one.from - other.from) };
}

/** The lines of a sheet, each as what it is: the address, headers behind a blank line, the payload behind another one. */
export function splitSheet({ text, layout }: Pick<Sheet, 'text' | 'layout'>): SheetLine[] {
  const { canStrike } = layoutOf(layout);
  let part: 'address' | 'headers' | 'payload' = 'address';
  let from = 0;
  let headers = 0;
  const kindOf = (line: string, at: number): LineKind => {
    if (part === 'payload') return 'payload';
    if (line.trim() === '') {
      part = part === 'address' ? 'headers' : 'payload';
      return 'gap';
    }
    const bare = unstruck(line).trimStart();
    if (part === 'address') {
      if (at === 0) return 'start';
      if (bare.startsWith('/')) return 'path';
      if (/^[?&]/.test(bare)) return 'query';
      // The blank line between has gone.
      part = 'headers';
    }
    return 'header';
  };
  return text.split('\n').map((line, at): SheetLine => {
    const kind = kindOf(line, at);
    const read = {
      number: at + 1,
      from,
      text: line,
      kind,
      isStruck: isStruck(line) && (kind !== 'payload' || canStrike),
      header: kind === 'header' ? headers++ : undefined,
    };
    from += line.length + 1;
    return read;
  });
}

const METHOD = /^[!#$%&'*+.^_`|~0-9A-Za-z-]+$/;

function readAddress(lines: readonly SheetLine[], problems: SheetProblem[]): Pick<Draft, 'method' | 'url'> {
  const start = lines[0];
  const [, method = '', origin = ''] = /^(\S*)[ \t]*(.*)$/s.exec(start?.text ?? '') ?? [];
  const tell = (line: PlacedLine | undefined, sentence: string, part = line?.text ?? ''): void => {
    const from = (line?.from ?? 0) + Math.max(0, line?.text.indexOf(part) ?? 0);
    problems.push({ from, to: from + part.length, sentence, bars: true });
  };
  if (!METHOD.test(method)) tell(start, 'The sheet begins with the method, such as GET.', method);
  const host = /^([a-z][a-z0-9+.-]*):\/\/([^/?#]*)/i.exec(origin);
  if (host === null) tell(start, 'Behind the method stand scheme and host, such as https://www.cumbrera.example.');
  else if (host[2] === '') tell(start, 'The host is missing.', origin);
  else if (!/^(?:https?|wss?)$/i.test(host[1] ?? '')) tell(start, 'Only http and https can be sent.', host[1]);
  if (host !== null) tellHost(start, host[0], problems);
  const kept = lines.filter((line) => !line.isStruck);
  const path = kept.filter(({ kind }) => kind === 'path');
  const query = kept.filter(({ kind }) => kind === 'query');
  const behindHost = method.length + 1 + (host?.[0].length ?? 0);
  for (const line of [...(start === undefined ? [] : [start]), ...path, ...query])
    problems.push(...oddLetters(line, line === start ? behindHost : 0));
  const base = withoutFragment(origin.trimEnd()) + path.map(({ text }) => withoutFragment(text.trimStart())).join('');
  return {
    method,
    url: joinQuery(
      base,
      query.map(({ text }) => withoutFragment(text.trimStart().slice(1))),
    ),
  };
}

const withoutFragment = (text: string): string => text.split('#', 1)[0] ?? '';

/** What of a line of the address does not go out as it stands. */
function* oddLetters(line: PlacedLine, from: number): Generator<SheetProblem> {
  const text = line.text.slice(from);
  const hash = text.indexOf('#');
  // biome-ignore lint/suspicious/noControlCharactersInRegex: no address holds these.
  const found = /[\u0000-\u0020\u007f]+|[^\0-\x7f‹›]+/.exec(withoutFragment(text).trim());
  if (found !== null) {
    const at = line.from + line.text.indexOf(found[0], from);
    const sentence = `No address contains this as it is; it is sent as ${encodeURIComponent(found[0].toWellFormed())}.`;
    yield { from: at, to: at + found[0].length, sentence, bars: false };
  }
  if (hash === -1) return;
  const at = line.from + from + hash;
  const sentence = 'What stands behind # is for browsers alone, and not sent; %23 would be.';
  yield { from: at, to: line.from + line.text.length, sentence, bars: false };
}

/** What of a host does not go out as it stands, or names none. */
function tellHost(line: SheetLine | undefined, origin: string, problems: SheetProblem[]): void {
  const host = origin.replace(/^[^/]*\/\/(?:.*@)?/s, '');
  const from = (line?.from ?? 0) + (line?.text.indexOf(origin) ?? 0) + origin.length - host.length;
  const sent = withAsciiHost(`http://${host}`).replace('http://', '');
  const isNone = /[\s<>"\\^`{|}]/.test(host) || (sent === host && /[^\0-\x7f]/.test(host) && !host.includes('‹'));
  if (isNone) problems.push({ from, to: from + host.length, sentence: 'No host is written so.', bars: true });
  else if (sent !== host)
    problems.push({ from, to: from + host.length, sentence: `The host goes out as ${sent}.`, bars: false });
}

/** A header's name (RFC 9110 5.1), or a pseudo header of HTTP/2, which names it behind a colon. */
const NAME = /^:?[!#$%&'*+.^_`|~0-9A-Za-z-]+$/;

function readHeaders(
  lines: readonly SheetLine[],
  address: Pick<Draft, 'method' | 'url'>,
  before: Draft,
  problems: SheetProblem[],
): DraftHeader[] {
  const known = new Map(before.headers.map((header) => [keyOf(header), header]));
  return lines.flatMap((line): DraftHeader[] => {
    if (line.kind !== 'header') return [];
    const bare = unstruck(line.text);
    // The names of HTTP/2's own begin with a colon.
    const colon = /^:[^:\s]+:/.test(bare) ? bare.indexOf(':', 1) : bare.indexOf(':');
    const name = colon === -1 ? bare : bare.slice(0, colon);
    const value = (colon === -1 ? '' : bare.slice(colon + 1).replace(/^ /, '')).replaceAll(LINE_END, '\n');
    const kept = !line.isStruck;
    if (kept) problems.push(...headerProblems(line, name, colon, value));
    const same = known.get(keyOf({ name, value }));
    const role = same?.role ?? headerRole({ name, value }, address);
    const reason = same !== undefined && same.kept === kept ? same.reason : 'set by hand';
    return [{ name, value, kept, role, reason }];
  });
}

const keyOf = ({ name, value }: Pick<DraftHeader, 'name' | 'value'>): string => `${name.toLowerCase()}: ${value}`;

function headerProblems(line: SheetLine, name: string, colon: number, value: string): SheetProblem[] {
  const of = (from: number, length: number, sentence: string, bars: boolean): SheetProblem[] => [
    { from: line.from + from, to: line.from + from + length, sentence, bars },
  ];
  if (colon === -1) return of(0, line.text.length, 'A header is its name, a colon, and its value.', true);
  if (!NAME.test(name)) return of(0, name.length, 'No header has such a name (RFC 9110, 5.1).', true);
  // biome-ignore lint/suspicious/noControlCharactersInRegex: no header holds these (RFC 9110 5.5).
  if (/[\u0000-\u0008\u000a-\u001f\u007f]/.test(value))
    return of(colon + 1, line.text.length - colon - 1, 'No header contains line ends or control characters.', false);
  return [];
}

/** Marks that name no variable. In the payload and in what was captured they may be text. */
function unknownVariables(lines: readonly SheetLine[], variables: readonly Variable[]): SheetProblem[] {
  return lines.flatMap((line) =>
    line.isStruck || !line.text.includes('‹')
      ? []
      : [...line.text.matchAll(VARIABLE_MARK)].flatMap((match): SheetProblem[] => {
          if (variables.some(({ name }) => name === match[1])) return [];
          const from = line.from + match.index;
          const sentence = `There is no variable "${match[1]}": it is sent as text.`;
          return [{ from, to: from + match[0].length, sentence, bars: false }];
        }),
  );
}
