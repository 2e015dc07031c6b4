import { hash } from 'node:crypto';
import { and, eq, inArray, sql } from 'drizzle-orm';
import type { Connection } from './connection';
import { prepareDirectly } from './prepared';
import { bodies, entries } from './schema';

/** How recorded characters became bytes: UTF-8, UTF-16 for text with lone surrogates, or decoded base64. */
export type BodyForm = 'utf8' | 'utf16' | 'base64';

export interface StoredForm {
  readonly bytes: Buffer;
  readonly form: BodyForm;
}

/** The bytes under which recorded text is kept, such that `textOf` gives back the very same characters. */
export function storedFormOf(text: string, isBase64: boolean): StoredForm {
  if (isBase64) {
    const bytes = Buffer.from(text, 'base64');
    if (bytes.toString('base64') === text) return { bytes, form: 'base64' };
  }
  return text.isWellFormed()
    ? { bytes: Buffer.from(text, 'utf8'), form: 'utf8' }
    : { bytes: Buffer.from(text, 'utf16le'), form: 'utf16' };
}

/** The recorded characters again. */
export function textOf(stored: StoredForm): string {
  switch (stored.form) {
    case 'utf8':
      return stored.bytes.toString('utf8');
    case 'utf16':
      return stored.bytes.toString('utf16le');
    case 'base64':
      return stored.bytes.toString('base64');
    default:
      return stored.form satisfies never;
  }
}

/** A writer of bodies for one import: the same bytes are kept once. */
export function bodyWriter(connection: Connection): (bytes: Buffer) => string {
  const query = connection.db
    .insert(bodies)
    .values({ sha256: sql.placeholder('sha256'), bytes: sql.placeholder('bytes') })
    .onConflictDoNothing();
  const insert = prepareDirectly(connection, query);
  return (bytes) => {
    const sha256 = hash('sha256', bytes, 'hex');
    insert({ sha256, bytes });
    return sha256;
  };
}

/** So many bodies, or pages of the file, are let go of at a time: a hundred thousand at once hold the database for a second. */
const PIECE = 1000;

/**
 * Frees the bodies that no entry holds any more, and their place in the file, a piece at a time.
 * @param between is called between two pieces, where others may write
 */
export function dropOrphanBodies({ db, sqlite }: Connection, between = (): void => undefined): void {
  const isOrphan = sql`not exists (select 1 from ${entries} where ${eq(entries.bodySha256, bodies.sha256)})`;
  const orphans = db.select({ sha256: bodies.sha256 }).from(bodies).where(isOrphan).all();
  for (let from = 0; from < orphans.length; from += PIECE) {
    const piece = orphans.slice(from, from + PIECE).map(({ sha256 }) => sha256);
    // Meanwhile somebody may have come to hold one.
    db.delete(bodies)
      .where(and(inArray(bodies.sha256, piece), isOrphan))
      .run();
    between();
  }
  const freePages = (): number => Number(sqlite.pragma('freelist_count', { simple: true }));
  for (let left = freePages(), before = left + 1; left > 0 && left < before; ) {
    sqlite.pragma(`incremental_vacuum(${PIECE})`);
    [before, left] = [left, freePages()];
    between();
  }
}
