import { atom } from 'nanostores';
import { type Mark, type MarkChange, type MarkTarget, markKey } from '#core/marks';
import { holdTyping } from '../state/actions';
import { request, written } from '../state/api';
import { tell } from '../state/notices';
import { OrderedWrites } from '../state/ordered-writes';

/** What was marked and noted in the capture that is open, by target. */
export interface Marks {
  readonly captureId: string;
  readonly byTarget: ReadonlyMap<string, Mark>;
}

export const $marks = atom<Marks>({ captureId: '', byTarget: new Map() });
/** A note that is being written. */
export interface Noting {
  /** Each opening of the dialog told from the others: one says that it has closed when the next may be open. */
  readonly opening: number;
  readonly target: MarkTarget;
  /** What the target is called. */
  readonly name: string;
}

export const $noting = atom<Noting | undefined>(undefined);

let openings = 0;
/** Opens the dialog for a note; what is typed before it is there goes into it. */
export function noteOn(target: MarkTarget, name: string): void {
  holdTyping();
  $noting.set({ opening: ++openings, target, name });
}

const addressOf = (captureId: string): string => `/api/captures/${captureId}/marks`;

export async function loadMarks(captureId: string): Promise<void> {
  if ($marks.get().captureId !== captureId) $marks.set({ captureId, byTarget: new Map() });
  const before = taken;
  const answer = await request<Mark[]>(addressOf(captureId));
  // What is written meanwhile is answered with all marks, as they were later than this.
  if (answer.ok && writes.unanswered === 0 && taken === before) take(captureId, answer.value);
  if (!answer.ok) tell(answer.problem.sentence, { detail: 'Marks and notes are not shown.' });
}

/** How many lists of the server's were taken. */
let taken = 0;

function take(captureId: string, marks: readonly Mark[]): void {
  taken++;
  $marks.set({ captureId, byTarget: new Map(marks.map((mark) => [mark.target, mark])) });
}

export const markOf = ({ byTarget }: Marks, target: MarkTarget): Mark =>
  byTarget.get(markKey(target)) ?? { target: markKey(target), isMarked: false, note: '' };

const writes = new OrderedWrites();
let isFollowed = false;

/** Changes a mark or its note, and leaves the other as the server has it; what was said before can be brought back. */
export function changeMark(target: MarkTarget, change: MarkChange, said: string): void {
  const { isMarked, note } = markOf($marks.get(), target);
  keepMark(target, change);
  const before: MarkChange = 'note' in change ? { note } : { isMarked };
  tell(said, { action: { label: 'Undo', run: () => keepMark(target, before) } });
}

function keepMark(target: MarkTarget, change: MarkChange): void {
  const { captureId, byTarget } = $marks.get();
  const key = markKey(target);
  // It is seen at once; what the server then says holds.
  $marks.set({ captureId, byTarget: new Map(byTarget).set(key, { ...markOf($marks.get(), target), ...change }) });
  if (!isFollowed) addEventListener('pagehide', () => writes.leave());
  isFollowed = true;
  writes.put(`${captureId} ${key} ${'note' in change}`, async (isLeaving) => {
    const answer = await request<Mark[]>(addressOf(captureId), written('PATCH', { target: key, ...change }, isLeaving));
    // An answer from before a later change would take that back.
    if (answer.ok && writes.unanswered === 1) take(captureId, answer.value);
    if (!answer.ok)
      tell(answer.problem.sentence, { detail: 'What you marked or noted just now lasts until you close this page.' });
  });
}

export function toggleMark(target: MarkTarget, name: string): void {
  const isMarked = !markOf($marks.get(), target).isMarked;
  changeMark(target, { isMarked }, `${name} ${isMarked ? 'marked' : 'no longer marked'}.`);
}
