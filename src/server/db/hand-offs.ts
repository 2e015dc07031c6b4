import { eq } from 'drizzle-orm';
import type { HandOffChoice } from '#core/redact';
import type { Connection } from './connection';
import { handOffs } from './schema';

/** What was chosen for a capture's hand-off; undefined where nothing was yet. */
export function findChoice({ db }: Connection, captureId: string): HandOffChoice | undefined {
  const row = db.select({ choice: handOffs.choice }).from(handOffs).where(eq(handOffs.captureId, captureId)).get();
  return row === undefined ? undefined : (JSON.parse(row.choice) as HandOffChoice);
}

export function writeChoice({ db }: Connection, captureId: string, choice: HandOffChoice): void {
  const values = { captureId, choice: JSON.stringify(choice) };
  db.insert(handOffs).values(values).onConflictDoUpdate({ target: handOffs.captureId, set: values }).run();
}
