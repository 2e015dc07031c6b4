import { and, eq } from 'drizzle-orm';
import type { Mark } from '#core/marks';
import type { Connection } from './connection';
import { marks } from './schema';

/** What was marked and noted in a capture. */
export const readMarks = ({ db }: Connection, captureId: string): Mark[] =>
  db
    .select({ target: marks.target, isMarked: marks.isMarked, note: marks.note })
    .from(marks)
    .where(eq(marks.captureId, captureId))
    .all();

/** Keeps a mark in place of the one before; one that says and marks nothing is dropped. */
export function writeMark({ db }: Connection, captureId: string, { target, isMarked, note }: Mark): void {
  db.delete(marks)
    .where(and(eq(marks.captureId, captureId), eq(marks.target, target)))
    .run();
  if (isMarked || note !== '') db.insert(marks).values({ captureId, target, isMarked, note }).run();
}
