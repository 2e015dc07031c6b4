import { accessSync, chmodSync, constants, mkdirSync, statSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import Database from 'better-sqlite3';
import { getTableColumns, getTableName, is } from 'drizzle-orm';
import { readMigrationFiles } from 'drizzle-orm/migrator';
import { SQLiteTable } from 'drizzle-orm/sqlite-core';
import { reanalyseWithoutRows } from '../ingest/reanalyse';
import { DATABASE_FILE, MIGRATIONS_FOLDER, migrateDatabase, openConnection } from './connection';
import * as schema from './schema';
import { folderTrouble, type StorageTrouble, storageTrouble } from './trouble';

/** Only whoever runs Trazado may read what it keeps: captures hold credentials. */
const OWN_FOLDER = 0o700;
const OWN_FILE = 0o600;
/** How long another program may hold the database at the start. */
const START_BUSY_MS = 5000;
/** Tables that every view rests on; they are small, and looked through at the start. */
const LOOKED_THROUGH = ['captures', 'pages', 'analyses', 'settings'];

/**
 * Sees at the start whether captures can be kept in a folder: makes it where it lacks, looks at the database without
 * touching it, and brings it to this version's shape. What is wrong is said; nothing is written then.
 */
export function checkStorage(dataFolder: string): StorageTrouble | undefined {
  if (dataFolder.trim() === '') {
    return {
      kind: 'unusable',
      sentence: 'The data folder has no name.',
      advice: 'Name one: "trazado serve --data FOLDER".',
    };
  }
  const folder = resolve(dataFolder);
  const file = join(folder, DATABASE_FILE);
  try {
    makeFolder(folder);
  } catch (error) {
    return folderTrouble(folder, error);
  }
  try {
    const found = statSync(file, { throwIfNoEntry: false });
    if (found?.isDirectory() === true) return storageTrouble(file, withCode('SQLITE_CANTOPEN'));
    const trouble = found === undefined || found.size === 0 ? undefined : inspect(file);
    if (trouble !== undefined) return trouble;
    const connection = openConnection(folder, true, START_BUSY_MS);
    try {
      migrateDatabase(connection);
      reanalyseWithoutRows(connection);
    } finally {
      connection.sqlite.close();
    }
    chmodSync(file, OWN_FILE);
    return undefined;
  } catch (error) {
    return storageTrouble(file, error) ?? folderTrouble(folder, error);
  }
}

/** Makes a folder, its parents one by one: some file systems never answer when all are asked for at once. */
function makeFolder(folder: string): void {
  const found = statSync(folder, { throwIfNoEntry: false });
  if (found === undefined) {
    makeFolder(dirname(folder));
    try {
      mkdirSync(folder, { mode: OWN_FOLDER });
    } catch (error) {
      // There is where it would have to be, as was just seen, but nothing can be made there.
      throw (error as NodeJS.ErrnoException).code === 'ENOENT' ? withCode('EROFS') : error;
    }
    return;
  }
  if (!found.isDirectory()) throw withCode('ENOTDIR');
  accessSync(folder, constants.R_OK | constants.W_OK | constants.X_OK);
}

const withCode = (code: string): Error => Object.assign(new Error(code), { code });

/** Looks at a database that is there, reading only. */
function inspect(file: string): StorageTrouble | undefined {
  accessSync(file, constants.R_OK | constants.W_OK);
  const sqlite = new Database(file, { readonly: true, fileMustExist: true, timeout: START_BUSY_MS });
  try {
    const tables = sqlite.prepare("select name from sqlite_master where type = 'table'").pluck().all() as string[];
    const own = tables.filter((name) => !name.startsWith('sqlite_'));
    if (own.length > 0 && !own.includes('__drizzle_migrations')) return foreign(file);
    if (own.length === 0) return undefined;
    const known = readMigrationFiles({ migrationsFolder: MIGRATIONS_FOLDER() });
    const done = sqlite.prepare('select count(*) from __drizzle_migrations').pluck().get() as number;
    const last = sqlite.prepare('select max(created_at) from __drizzle_migrations').pluck().get() as number | null;
    const newest = known.at(-1)?.folderMillis ?? 0;
    if (done > known.length || (last ?? 0) > newest) return newer(file);
    if (done === known.length && differs(sqlite, own)) return newer(file);
    const unsound = LOOKED_THROUGH.filter((name) => own.includes(name)).some(
      (name) => sqlite.pragma(`quick_check(${name})`, { simple: true }) !== 'ok',
    );
    return unsound ? storageTrouble(file, withCode('SQLITE_CORRUPT')) : undefined;
  } finally {
    sqlite.close();
  }
}

/** True where tables or columns are not those of this version, although all its migrations were made. */
function differs(sqlite: Database.Database, names: readonly string[]): boolean {
  const tables = Object.values(schema).filter((one) => is(one, SQLiteTable));
  const known = new Set([...tables.map((table) => getTableName(table)), '__drizzle_migrations']);
  if (names.some((name) => !known.has(name))) return true;
  return tables.some((table) => {
    const name = getTableName(table);
    const found = sqlite.prepare('select name from pragma_table_info(?)').pluck().all(name) as string[];
    const wanted = new Set(Object.values(getTableColumns(table)).map((column) => column.name));
    return found.length !== wanted.size || found.some((column) => !wanted.has(column));
  });
}

const foreign = (file: string): StorageTrouble => ({
  kind: 'unusable',
  sentence: `${file} is the database of another program. It was left as it is.`,
  advice: 'Keep captures elsewhere: "trazado serve --data FOLDER".',
});

const newer = (file: string): StorageTrouble => ({
  kind: 'unusable',
  sentence: `${file} was written by another version of Trazado, probably a newer one. It was left as it is.`,
  advice: 'Run that version, or keep captures elsewhere: "trazado serve --data FOLDER".',
});
