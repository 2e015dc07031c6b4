import { and, eq } from 'drizzle-orm';
import type { Mark, MarkChange } from '#core/marks';
import type { Connection } from './connection';
import { marks } from './schema';

/** What was marked and noted in a capture. */
export const readMarks = ({ db }: Connection, captureId: string): Mark[] =>
  db
    .select({ target: marks.target, isMarked: marks.isMarked, note: marks.note })
    .from(marks)
    .where(eq(marks.captureId, captureId))
    .all();

/** Changes what is marked or noted of one target; what then says and marks nothing is dropped. */
export function changeMark(
  { db }: Connection,
  captureId: string,
  { target, ...change }: Pick<Mark, 'target'> & MarkChange,
): void {
  const isIt = and(eq(marks.captureId, captureId), eq(marks.target, target));
  const before = db.select({ isMarked: marks.isMarked, note: marks.note }).from(marks).where(isIt).get();
  const after = { isMarked: false, note: '', ...before, ...change };
  db.delete(marks).where(isIt).run();
  if (after.isMarked || after.note !== '')
    db.insert(marks)
      .values({ captureId, target, ...after })
      .run();
}
