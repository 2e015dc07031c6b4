import { defaultFor, type Preset } from '../convert';
import { layoutOf } from './layouts';
import { jsonSpan } from './layouts/json';
import { partSpan } from './layouts/parts';
import type { SheetLine, SheetRead } from './read';
import { isStruck, type LayoutId, STRUCK, unstruck } from './sheet';

/** A change of a sheet's text. */
export interface SheetEdit {
  readonly from: number;
  readonly to: number;
  readonly insert: string;
}

/**
 * Leaves a line out, or restores it, with the lines that go with it: what a bracket of JSON holds, a part of a form.
 * None where the line cannot be left out: the method, the path, and what stands in no lines of its own.
 */
export function strikeLine(lines: readonly SheetLine[], at: number, layout: LayoutId): SheetEdit[] {
  const line = lines[at];
  if (line === undefined || !canStrike(line, layout)) return [];
  const span = spanOfLine(lines, at, layout);
  return span === undefined ? [] : turn(lines.slice(span[0], span[1] + 1), !line.isStruck);
}

const canStrike = ({ kind, text }: SheetLine, layout: LayoutId): boolean =>
  kind === 'query' || kind === 'header' || (kind === 'payload' && layoutOf(layout).canStrike && text.trim() !== '');

/** Leaves out all headers of a role, or restores them where none of them is sent. */
export function strikeRole({ draft, lines }: SheetRead, role: string): SheetEdit[] {
  const ofRole = lines.filter((line) => line.header !== undefined && draft.headers[line.header]?.role === role);
  return turn(
    ofRole,
    ofRole.some((line) => !line.isStruck),
  );
}

/** Leaves out and restores headers as a preset does. */
export function strikeByPreset({ draft, lines }: SheetRead, preset: Preset): SheetEdit[] {
  return lines.flatMap((line) => {
    const header = draft.headers[line.header ?? -1];
    return header === undefined ? [] : turn([line], !defaultFor(header.role, preset).kept);
  });
}

const turn = (lines: readonly SheetLine[], isLeftOut: boolean): SheetEdit[] =>
  lines.flatMap(({ from, text }): SheetEdit[] => {
    if (isStruck(text) === isLeftOut || text === '') return [];
    return [isLeftOut ? { from, to: from, insert: STRUCK } : { from, to: from + STRUCK.length, insert: '' }];
  });

/** The first and the last of the lines that go with one; undefined where it cannot be left out by itself. */
export function spanOfLine(
  lines: readonly SheetLine[],
  at: number,
  layout: LayoutId,
): readonly [from: number, to: number] | undefined {
  if (lines[at]?.kind !== 'payload' || layout === 'fields') return [at, at];
  const first = lines.findIndex(({ kind }) => kind === 'payload');
  const payload = lines.slice(first).map(({ text }) => unstruck(text));
  const span = layout === 'json' ? jsonSpan(payload, at - first) : partSpan(payload, at - first);
  return span === undefined ? undefined : [first + span[0], first + span[1]];
}
