import { and, asc, eq } from 'drizzle-orm';
import {
  type OldKeptDraft,
  type PackedKeptDraft,
  packKept,
  type SharedVariable,
  shareVariables,
  unpackKept,
  type VariablesChange,
} from '#core/sheet';
import type { Connection } from './connection';
import { drafts, variables } from './schema';
import { setTrialsDeleted } from './trials';

/** The drafts of a capture in the order in which they were begun, and the variables that they share. */
export function listDrafts(
  connection: Connection,
  captureId: string,
): { readonly drafts: PackedKeptDraft[]; readonly variables: readonly SharedVariable[] } {
  const { db } = connection;
  const kept = db
    .select({ draft: drafts.draft })
    .from(drafts)
    .where(eq(drafts.captureId, captureId))
    .orderBy(asc(drafts.begunAt))
    .all()
    .map(({ draft }) => unpackKept(JSON.parse(draft) as PackedKeptDraft | OldKeptDraft));
  const own = findVariables(connection, captureId);
  if (own !== undefined) return { drafts: kept.map(packKept), variables: own };
  const shared = shareVariables(kept);
  return { drafts: shared.drafts.map(packKept), variables: shared.variables };
}

/** The variables that the drafts of a capture share, as they were last kept; none where nobody has changed them. */
export const readVariables = (connection: Connection, captureId: string): readonly SharedVariable[] =>
  findVariables(connection, captureId) ?? [];

function findVariables({ db }: Connection, captureId: string): readonly SharedVariable[] | undefined {
  const row = db.select().from(variables).where(eq(variables.captureId, captureId)).get();
  return row === undefined ? undefined : (JSON.parse(row.variables) as SharedVariable[]);
}

/** Keeps the variables that the drafts of a capture share. */
export function writeVariables({ db }: Connection, captureId: string, list: readonly SharedVariable[]): void {
  const values = { captureId, variables: JSON.stringify(list) };
  db.insert(variables).values(values).onConflictDoUpdate({ target: variables.captureId, set: values }).run();
}

/**
 * Sets and removes some of the variables that the drafts of a capture share; all others stay as another page has set them by
 * then. @returns all of them
 */
export function changeVariables(
  connection: Connection,
  captureId: string,
  { set, removed }: VariablesChange,
): readonly SharedVariable[] {
  const given = new Map(set.map((one) => [one.name, one]));
  // Drafts may be large: they are read only where nobody has changed a variable yet.
  const before = findVariables(connection, captureId) ?? listDrafts(connection, captureId).variables;
  const there = before.filter(({ name }) => !removed.includes(name));
  const known = new Set(there.map(({ name }) => name));
  const all = [...there.map((one) => given.get(one.name) ?? one), ...set.filter(({ name }) => !known.has(name))];
  writeVariables(connection, captureId, all);
  return all;
}

/** Keeps a draft as it is now; one that was dropped comes back so, with its trials. */
export function writeDraft(connection: Connection, captureId: string, kept: PackedKeptDraft, now: number): void {
  const draft = JSON.stringify(kept);
  const { changes } = connection.db
    .insert(drafts)
    .values({ id: kept.id, captureId, draft, begunAt: now })
    .onConflictDoUpdate({ target: drafts.id, set: { draft }, setWhere: eq(drafts.captureId, captureId) })
    .run();
  if (changes > 0) setTrialsDeleted(connection, captureId, kept.id, null);
}

/** Drops a draft; its trials go with it, and can be had back as long as a deleted capture can. */
export function dropDraft(connection: Connection, captureId: string, id: string, now: number): void {
  const { changes } = connection.db
    .delete(drafts)
    .where(and(eq(drafts.captureId, captureId), eq(drafts.id, id)))
    .run();
  if (changes > 0) setTrialsDeleted(connection, captureId, id, now);
}
