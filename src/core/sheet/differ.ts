import { diffArrays } from 'diff';
import { readPiece } from '../convert';
import { type SheetLine, splitSheet } from './read';
import { type Sheet, unstruck } from './sheet';

/** What a line was on another sheet: its value there, or that it is new. */
export interface LineDifference {
  /** The line's place, from 0. */
  readonly at: number;
  /** Absent where the other sheet has no such line. */
  readonly was: string | undefined;
}

/** Compared line by line up to here; of longer payloads only that they differ is told. */
const MOST_LINES = 5000;

/** The lines that are sent and say something else than on the sheet of the captured request. */
export function differences(captured: Sheet, sheet: Sheet): LineDifference[] {
  const [before, after] = [splitSheet(captured), splitSheet(sheet)];
  const values = new Map(named(before).map(({ key, value }) => [key, value]));
  const ofHead = named(after).flatMap(({ at, key, value, line }): LineDifference[] => {
    const was = values.get(key);
    return line.isStruck || was === value ? [] : [{ at, was }];
  });
  return [...ofHead, ...ofPayload(before, after)];
}

/** How many lines are left out that were sent in the captured request. */
export function countLeftOut(captured: Sheet, sheet: Sheet): number {
  const sent = new Set(named(splitSheet(captured)).flatMap(({ key, line }) => (line.isStruck ? [] : [key])));
  const lines = splitSheet(sheet);
  const inHead = named(lines).filter(({ key, line }) => line.isStruck && sent.has(key)).length;
  return inHead + lines.filter(({ kind, isStruck }) => kind === 'payload' && isStruck).length;
}

interface NamedLine {
  readonly at: number;
  readonly line: SheetLine;
  readonly key: string;
  readonly value: string;
}

/** The lines before the payload by what they name; those of the same name by their order. */
function named(lines: readonly SheetLine[]): NamedLine[] {
  const counts = new Map<string, number>();
  return lines.flatMap((line, at): NamedLine[] => {
    if (line.kind === 'payload') return [];
    const text = unstruck(line.text).trim();
    const [name, value] = nameAndValue(line, text);
    if (name === undefined) return [];
    const count = counts.get(name) ?? 0;
    counts.set(name, count + 1);
    return [{ at, line, key: `${name} ${count}`, value }];
  });
}

function nameAndValue({ kind }: SheetLine, text: string): readonly [name: string | undefined, value: string] {
  switch (kind) {
    case 'start':
    case 'path':
      return [kind, text];
    case 'query': {
      const piece = text.slice(1);
      const equals = piece.indexOf('=');
      return [`query ${readPiece(piece).name}`, equals === -1 ? '' : piece.slice(equals + 1)];
    }
    case 'header': {
      const colon = text.indexOf(':', 1);
      return colon === -1
        ? [`header ${text}`, '']
        : [`header ${text.slice(0, colon).toLowerCase()}`, text.slice(colon + 1).trim()];
    }
    case 'gap':
    case 'payload':
      return [undefined, ''];
    default:
      return kind satisfies never;
  }
}

/** Lines of the payload by what stands before and after them. */
function ofPayload(before: readonly SheetLine[], after: readonly SheetLine[]): LineDifference[] {
  const first = after.findIndex(({ kind }) => kind === 'payload');
  const textsOf = (lines: readonly SheetLine[]): string[] =>
    lines.filter(({ kind }) => kind === 'payload').map(({ text }) => unstruck(text));
  const [was, is] = [textsOf(before), textsOf(after)];
  if (was.length > MOST_LINES || is.length > MOST_LINES)
    return was.join('\n') === is.join('\n') || first === -1 ? [] : [{ at: first, was: `${was.length} lines` }];
  const found: LineDifference[] = [];
  let at = first;
  let removed: readonly string[] = [];
  for (const { value, added: isNew, removed: isGone } of diffArrays(was, is)) {
    if (isGone) removed = value;
    else if (isNew) {
      value.forEach((line, nth) => {
        const other = removed[nth];
        if (after[at + nth]?.isStruck !== true)
          found.push({ at: at + nth, was: other === undefined ? undefined : valueThere(other, line) });
      });
    }
    if (isGone) continue;
    at += value.length;
    removed = [];
  }
  return found;
}

/** Of a line that differs only behind its name, what stood there. */
function valueThere(was: string, is: string): string {
  const name = /^\s*"(?:[^"\\]|\\.)*":\s*/.exec(is)?.[0] ?? /^[^=]*=/.exec(is)?.[0];
  const rest = name !== undefined && was.startsWith(name) ? was.slice(name.length) : was.trim();
  return rest.replace(/,$/, '');
}
