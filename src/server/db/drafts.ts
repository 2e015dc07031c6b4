import { and, asc, eq } from 'drizzle-orm';
import type { PackedKeptDraft } from '#core/convert';
import type { Connection } from './connection';
import { drafts } from './schema';

/** The drafts of a capture in the order in which they were begun. */
export const listDrafts = ({ db }: Connection, captureId: string): PackedKeptDraft[] =>
  db
    .select({ draft: drafts.draft })
    .from(drafts)
    .where(eq(drafts.captureId, captureId))
    .orderBy(asc(drafts.begunAt))
    .all()
    .map(({ draft }) => JSON.parse(draft) as PackedKeptDraft);

/** Keeps a draft as it is now; one that was dropped comes back so. */
export function writeDraft({ db }: Connection, captureId: string, kept: PackedKeptDraft, now: number): void {
  const draft = JSON.stringify(kept);
  db.insert(drafts)
    .values({ id: kept.id, captureId, draft, begunAt: now })
    .onConflictDoUpdate({ target: drafts.id, set: { draft }, setWhere: eq(drafts.captureId, captureId) })
    .run();
}

export function dropDraft({ db }: Connection, captureId: string, id: string): void {
  db.delete(drafts)
    .where(and(eq(drafts.captureId, captureId), eq(drafts.id, id)))
    .run();
}
