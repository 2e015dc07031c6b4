import { atom } from 'nanostores';
import type { ExchangeRow } from '#core/analysis';
import { MARKED_COLUMN, NOTE_COLUMN } from '#core/filter';
import { type Mark, type MarkTarget, markKey, readMarkKey } from '#core/marks';
import { type PackedTexts, packTexts } from '#core/wire';
import { request } from '../state/api';
import { tell } from '../state/notices';

/** What was marked and noted in the capture that is open, by target. */
export interface Marks {
  readonly captureId: string;
  readonly byTarget: ReadonlyMap<string, Mark>;
}

export const $marks = atom<Marks>({ captureId: '', byTarget: new Map() });
/** What a note is being written on, and what it is called. */
export const $noting = atom<{ readonly target: MarkTarget; readonly name: string } | undefined>(undefined);

const addressOf = (captureId: string): string => `/api/captures/${captureId}/marks`;

export async function loadMarks(captureId: string): Promise<void> {
  const answer = await request<Mark[]>(addressOf(captureId));
  if (answer.ok) take(captureId, answer.value);
  else tell(answer.problem.sentence, { detail: 'Marks and notes are not shown.' });
}

function take(captureId: string, marks: readonly Mark[]): void {
  $marks.set({ captureId, byTarget: new Map(marks.map((mark) => [mark.target, mark])) });
}

export const markOf = ({ byTarget }: Marks, target: MarkTarget): Mark =>
  byTarget.get(markKey(target)) ?? { target: markKey(target), isMarked: false, note: '' };

let written: Promise<unknown> = Promise.resolve();

/** Keeps a mark in place of the one before; what was said before can be brought back. */
export function changeMark(target: MarkTarget, change: Partial<Pick<Mark, 'isMarked' | 'note'>>, said: string): void {
  const before = markOf($marks.get(), target);
  keepMark({ ...before, ...change });
  tell(said, { action: { label: 'Undo', run: () => keepMark(before) } });
}

function keepMark(mark: Mark): void {
  const { captureId, byTarget } = $marks.get();
  // It is seen at once; what the server then says holds.
  $marks.set({ captureId, byTarget: new Map(byTarget).set(mark.target, mark) });
  // One write after the other: two at once could arrive in the wrong order.
  written = written.then(async () => {
    const answer = await request<Mark[]>(addressOf(captureId), {
      method: 'PATCH',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(mark),
    });
    if (answer.ok) take(captureId, answer.value);
    else tell(answer.problem.sentence, { detail: 'The note lasts until you close this page.' });
  });
}

export function toggleMark(target: MarkTarget, name: string): void {
  const isMarked = !markOf($marks.get(), target).isMarked;
  changeMark(target, { isMarked }, `${name} ${isMarked ? 'marked' : 'no longer marked'}.`);
}

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
