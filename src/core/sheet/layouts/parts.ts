import { bytesFromText, textFromBytes } from '../../content';
import { type DraftPart, FALLBACK_BOUNDARY } from '../../convert';
import { attachedBytes, attachedLine } from '../attach';
import { type Attachment, isStruck, type Layout, type PlacedLine, type SheetProblem, unstruck } from '../sheet';

const MISSING = '[not recorded]';

/** A form of parts, each between its boundaries as it is sent (RFC 7578); files by their length. */
export const parts: Layout = {
  id: 'parts',
  label: 'form of parts',
  canStrike: true,
  write: (payload) => {
    if (payload.type !== 'parts' || /[\s]/.test(payload.boundary)) return undefined;
    const lines = payload.parts.flatMap((part) => [
      ...headOf(part, payload.boundary),
      '',
      contentOf(part, payload.boundary),
    ]);
    return [...lines, `--${payload.boundary}--`].join('\n');
  },
  read: (lines, attachments) => {
    const boundary = boundaryIn(lines.map(({ text }) => unstruck(text)));
    return boundary === undefined ? noForm(lines) : readParts(lines, boundary, attachments);
  },
};

/** What stands between the parts: the first line that begins like it, the last of the form has two dashes more. */
function boundaryIn(lines: readonly string[]): string | undefined {
  const first = lines.find((line) => /^--\S/.test(line))?.slice(2);
  if (first === undefined || !first.endsWith('--')) return first;
  return lines.includes(`--${first}--`) ? first : first.slice(0, -2);
}

function headOf({ name, fileName, contentType }: DraftPart, boundary: string): string[] {
  const file = fileName === undefined ? '' : `; filename="${escaped(fileName)}"`;
  return [
    `--${boundary}`,
    `Content-Disposition: form-data; name="${escaped(name)}"${file}`,
    ...(contentType === undefined ? [] : [`Content-Type: ${contentType}`]),
  ];
}

/** Names as browsers write them in forms (WHATWG HTML 4.10.21.8), and back. */
const escaped = (text: string): string =>
  text.replace(/[\r\n"]/g, (character) => ({ '\r': '%0D', '\n': '%0A', '"': '%22' })[character] ?? '');
const unescaped = (text: string): string =>
  text.replace(/%0D|%0A|%22/g, (code) => ({ '%0D': '\r', '%0A': '\n', '%22': '"' })[code] ?? '');

function contentOf({ bytes }: DraftPart, boundary: string): string {
  if (bytes === undefined) return MISSING;
  const text = textFromBytes(bytes);
  const isClear =
    text !== undefined &&
    text !== MISSING &&
    !/^\[attached: .*\]$/.test(text) &&
    !text.split('\n').some((line) => line.startsWith(`--${boundary}`) || isStruck(line));
  return isClear ? text : attachedLine(bytes);
}

function readParts(
  lines: readonly PlacedLine[],
  boundary: string,
  attachments: readonly Attachment[],
): ReturnType<Layout['read']> {
  const read: DraftPart[] = [];
  const problems: SheetProblem[] = [];
  /** Its boundary and what follows it. */
  let block: PlacedLine[] | undefined;
  const end = (): void => {
    if (block !== undefined) read.push(partOf(block, attachments, problems));
    block = undefined;
  };
  for (const line of lines) {
    const bare = unstruck(line.text);
    if (bare === `--${boundary}` || bare === `--${boundary}--`) {
      end();
      // A part whose boundary is left out is left out with it.
      if (bare === `--${boundary}` && !isStruck(line.text)) block = [line];
    } else if (block !== undefined && !isStruck(line.text)) block.push(line);
  }
  const last = lines.at(-1);
  if (block !== undefined && last !== undefined) {
    const sentence = `The form ends with the line --${boundary}--.`;
    problems.push({ from: last.from, to: last.from + last.text.length, sentence, bars: false });
  }
  end();
  return { payload: { type: 'parts', parts: read, boundary }, problems };
}

function partOf(
  [boundary, ...block]: readonly PlacedLine[],
  attachments: readonly Attachment[],
  problems: SheetProblem[],
): DraftPart {
  const gap = block.findIndex(({ text }) => text === '');
  const head = gap === -1 ? block : block.slice(0, gap);
  const content =
    gap === -1
      ? ''
      : block
          .slice(gap + 1)
          .map(({ text }) => text)
          .join('\n');
  const disposition = head.find(({ text }) => /^content-disposition:/i.test(text));
  const [, name] = /[; ]name="([^"]*)"/i.exec(disposition?.text ?? '') ?? [];
  const [, fileName] = /filename="([^"]*)"/i.exec(disposition?.text ?? '') ?? [];
  const contentType = head
    .map(({ text }) => /^content-type:\s*(.*)$/i.exec(text)?.[1])
    .find((type) => type !== undefined);
  const tell = (line: PlacedLine | undefined, sentence: string): void => {
    if (line !== undefined) problems.push({ from: line.from, to: line.from + line.text.length, sentence, bars: true });
  };
  if (name === undefined)
    tell(disposition ?? boundary, 'A part needs its name: Content-Disposition: form-data; name="...".');
  let bytes = content === MISSING ? undefined : (attachedBytes(content, attachments) ?? bytesFromText(content));
  if (/^\[attached: .*\]$/.test(content) && attachedBytes(content, attachments) === undefined) {
    tell(block[gap + 1], 'No bytes of this name are attached. Undo the change, or choose a file in the margin.');
    bytes = undefined;
  }
  return {
    name: unescaped(name ?? ''),
    fileName: fileName === undefined ? undefined : unescaped(fileName),
    contentType,
    bytes,
  };
}

function noForm(lines: readonly PlacedLine[]): ReturnType<Layout['read']> {
  const text = lines.map((line) => line.text).join('\n');
  if (text.trim() === '') return { payload: { type: 'none' }, problems: [] };
  const from = lines[0]?.from ?? 0;
  const sentence = `A form of parts begins with its boundary, such as --${FALLBACK_BOUNDARY}.`;
  return { payload: { type: 'text', text }, problems: [{ from, to: from + text.length, sentence, bars: true }] };
}

/** The lines of the part that a line is of; none of the last line, which ends the form. */
export function partSpan(lines: readonly string[], at: number): readonly [from: number, to: number] | undefined {
  const boundary = boundaryIn(lines);
  const begins = (line: string | undefined): boolean => line === `--${boundary}`;
  const from = lines.findLastIndex((line, place) => place <= at && begins(line));
  const to = lines.findIndex((line, place) => place > at && (begins(line) || line === `--${boundary}--`));
  return from === -1 || lines[at] === `--${boundary}--` ? undefined : [from, (to === -1 ? lines.length : to) - 1];
}
