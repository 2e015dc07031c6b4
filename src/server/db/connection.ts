import { join } from 'node:path';
import Database from 'better-sqlite3';
import { type BetterSQLite3Database, drizzle } from 'drizzle-orm/better-sqlite3';
import { migrate } from 'drizzle-orm/better-sqlite3/migrator';
import { findPackageRoot } from '../package-root';
import * as schema from './schema';
import type { Turns } from './turns';

export const DATABASE_FILE = 'trazado.db';
export const MIGRATIONS_FOLDER = (): string => join(findPackageRoot(), 'src/server/db/migrations');

export interface Connection {
  readonly db: BetterSQLite3Database<typeof schema>;
  readonly sqlite: Database.Database;
}

/** How long a writer waits for another connection's transaction. The server's own writes retry instead of waiting. */
const WORKER_BUSY_MS = 60_000;

/**
 * Opens the database of a data folder: write-ahead log, foreign keys on.
 * @param waits true for a connection outside the server's main thread, which may block while another one writes
 * @param busyMs how long it waits at most, others only while they open
 */
export function openConnection(dataFolder: string, waits: boolean, busyMs = WORKER_BUSY_MS): Connection {
  const sqlite = new Database(join(dataFolder, DATABASE_FILE), { timeout: busyMs });
  // Only a database that has no tables yet takes these two. Bodies are large: on small pages they lie in long chains.
  // Freed pages can go back to the file system.
  sqlite.pragma('page_size = 16384');
  sqlite.pragma('auto_vacuum = INCREMENTAL');
  sqlite.pragma('journal_mode = WAL');
  sqlite.pragma('synchronous = NORMAL');
  sqlite.pragma('foreign_keys = ON');
  // Copying a large import from the log into the database takes as long as writing it: nobody is to wait for that in a
  // commit. The writing thread does it after each job, see `checkpoint`.
  sqlite.pragma('wal_autocheckpoint = 0');
  // What was asked so far may wait; from here on the server's own thread retries instead.
  if (!waits) sqlite.pragma('busy_timeout = 0');
  return { db: drizzle(sqlite, { schema }), sqlite };
}

/** Moves what was committed from the log into the database and empties the log. */
export function checkpoint({ sqlite }: Connection): void {
  sqlite.pragma('wal_checkpoint(TRUNCATE)');
}

/** Brings the tables to this version's shape. */
export function migrateDatabase(connection: Connection): void {
  migrate(connection.db, { migrationsFolder: MIGRATIONS_FOLDER() });
}

const BUSY_RETRY_MS = 25;
const BUSY_LIMIT_MS = 120_000;

/**
 * Runs a write of the main thread; while an import holds the database it tries again without stalling the server.
 * @param turns told that somebody waits: an import lets it in between
 */
export async function writeWhenFree<T>(write: () => T, turns?: Turns): Promise<T> {
  const until = Date.now() + BUSY_LIMIT_MS;
  let isWaiting = false;
  try {
    for (;;) {
      try {
        return write();
      } catch (error) {
        const isBusy = (error as { code?: unknown }).code === 'SQLITE_BUSY' || isBusyCause(error);
        if (!isBusy || Date.now() > until) throw error;
      }
      if (!isWaiting) turns?.begin();
      isWaiting = true;
      await new Promise((resolve) => setTimeout(resolve, BUSY_RETRY_MS));
    }
  } finally {
    if (isWaiting) turns?.end();
  }
}

const isBusyCause = (error: unknown): boolean =>
  error instanceof Error && (error.cause as { code?: unknown } | undefined)?.code === 'SQLITE_BUSY';
