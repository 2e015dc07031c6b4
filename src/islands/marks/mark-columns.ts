import type { ExchangeRow } from '#core/analysis';
import { MARKED_COLUMN, NOTE_COLUMN } from '#core/filter';
import { type Mark, readMarkKey } from '#core/marks';
import { type PackedTexts, packTexts } from '#core/wire';
import type { Marks } from './marks-store';

const UNMARKED: Mark = { target: '', isMarked: false, note: '' };

/** The columns by which exchanges are filtered for marks and notes. */
export function markColumns({ byTarget }: Marks, rows: readonly ExchangeRow[]): [string, PackedTexts][] {
  // Of many exchanges few are marked: asking for each of them what it has takes longer than what is asked.
  const of = new Map<number, Mark>();
  for (const mark of byTarget.values()) {
    const target = readMarkKey(mark.target);
    if (target?.type === 'exchange') of.set(target.index, mark);
  }
  const columnOf = (read: (mark: Mark) => string | undefined): PackedTexts =>
    packTexts(rows.map(({ index }) => (of.size === 0 ? undefined : read(of.get(index) ?? UNMARKED))));
  return [
    [MARKED_COLUMN, columnOf(({ isMarked }) => (isMarked ? 'marked' : undefined))],
    [NOTE_COLUMN, columnOf(({ note }) => note || undefined)],
  ];
}
