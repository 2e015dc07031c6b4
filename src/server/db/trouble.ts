import { whyNot } from '../why-not';

/** Why the database or its folder cannot be used: one sentence with the file in it, and what to do about it. */
export interface StorageTrouble {
  readonly kind: 'full' | 'locked' | 'damaged' | 'unusable';
  readonly sentence: string;
  readonly advice: string;
}

const ELSEWHERE = 'or keep captures elsewhere: "trazado serve --data FOLDER".';

/** Why a folder cannot be used, by the system's own error. */
export function folderTrouble(folder: string, error: unknown): StorageTrouble {
  const { code } = error as NodeJS.ErrnoException;
  const isFull = code === 'ENOSPC' || code === 'EDQUOT';
  return {
    kind: isFull ? 'full' : 'unusable',
    sentence: `The data folder ${folder} cannot be used: ${whyNot(error)}.`,
    advice: isFull ? `Free some space, ${ELSEWHERE}` : `See to its path and permissions, ${ELSEWHERE}`,
  };
}

const fullDisk = (file: string): StorageTrouble => ({
  kind: 'full',
  sentence: `The disk is full: nothing more can be written to ${file}.`,
  advice: 'Free some space and try again; what was kept before is unharmed.',
});

/** SQLite's result codes (sqlite.org/rescode.html) by what they mean to whoever keeps captures. */
const BY_CODE: readonly (readonly [RegExp, (file: string) => StorageTrouble])[] = [
  [/^SQLITE_FULL|^SQLITE_IOERR_WRITE/, (file) => fullDisk(file)],
  [
    /^SQLITE_(BUSY|LOCKED)/,
    (file) => ({
      kind: 'locked',
      sentence: `${file} is held by another program.`,
      advice: 'Close what has it open and try again.',
    }),
  ],
  [
    /^SQLITE_NOTADB/,
    (file) => ({
      kind: 'damaged',
      sentence: `${file} is not a database, or its beginning is damaged. It was left as it is.`,
      advice: `Move it away to start anew, ${ELSEWHERE}`,
    }),
  ],
  [
    /^SQLITE_CORRUPT/,
    (file) => ({
      kind: 'damaged',
      sentence: `The database ${file} is damaged. It was left as it is.`,
      advice: `Put a copy of it back, or move it away to start anew, ${ELSEWHERE}`,
    }),
  ],
  [
    /^SQLITE_(READONLY|PERM|AUTH)/,
    (file) => ({
      kind: 'unusable',
      sentence: `${file} may only be read.`,
      advice: `See to its permissions, ${ELSEWHERE}`,
    }),
  ],
  [
    /^SQLITE_CANTOPEN/,
    (file) => ({
      kind: 'unusable',
      sentence: `${file} cannot be opened: it is a folder, or it or its folder is not yours to use.`,
      advice: `See to its path and permissions, ${ELSEWHERE}`,
    }),
  ],
  [
    /^SQLITE_IOERR/,
    (file) => ({
      kind: 'unusable',
      sentence: `The disk did not answer as it should when ${file} was used.`,
      advice: 'See whether it is still attached and not full, and try again.',
    }),
  ],
];

/** What an error means for the storage; undefined where it says nothing of it. */
export function storageTrouble(file: string, error: unknown): StorageTrouble | undefined {
  for (let cause: unknown = error; cause instanceof Error; cause = cause.cause) {
    const { code } = cause as { readonly code?: unknown };
    if (typeof code !== 'string') continue;
    const known = BY_CODE.find(([pattern]) => pattern.test(code));
    if (known !== undefined) return known[1](file);
    if (code === 'ENOSPC' || code === 'EDQUOT') return fullDisk(file);
  }
  return undefined;
}
