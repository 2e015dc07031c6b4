import { hash } from 'node:crypto';
import { eq, sql } from 'drizzle-orm';
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

/** Frees the bodies that no entry holds any more. */
export function dropOrphanBodies({ db, sqlite }: Connection): void {
  db.delete(bodies)
    .where(sql`not exists (select 1 from ${entries} where ${eq(entries.bodySha256, bodies.sha256)})`)
    .run();
  sqlite.pragma('incremental_vacuum');
}
