import { eq } from 'drizzle-orm';
import type { Connection } from './connection';
import { settings } from './schema';

/** A setting's value as it was written; undefined where it never was. */
export function findSetting({ db }: Connection, name: string): unknown {
  const row = db.select({ value: settings.value }).from(settings).where(eq(settings.name, name)).get();
  return row === undefined ? undefined : JSON.parse(row.value);
}

export function writeSetting({ db }: Connection, name: string, value: unknown): void {
  const text = JSON.stringify(value);
  db.insert(settings)
    .values({ name, value: text })
    .onConflictDoUpdate({ target: settings.name, set: { value: text } })
    .run();
}
