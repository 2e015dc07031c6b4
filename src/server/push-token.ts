import { randomBytes, timingSafeEqual } from 'node:crypto';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { isOpenToOthers, isOwn } from './guard';
import { ServerProblem } from './problem';

// The token by which programs push captures: `trazado token` prints it.

const TOKEN_BYTES = 24;
const TOKEN = /^[A-Za-z0-9_-]{32}$/;

const fileOf = (dataFolder: string): string => join(dataFolder, 'push-token');

/** The token of a data folder, made when it is first asked for. Only its owner can read the file that it is kept in. */
export function readPushToken(dataFolder: string): string {
  const kept = findPushToken(dataFolder);
  return kept ?? renewPushToken(dataFolder);
}

/** Makes another token in place of the one before, which no longer holds. */
export function renewPushToken(dataFolder: string): string {
  const token = randomBytes(TOKEN_BYTES).toString('base64url');
  mkdirSync(dataFolder, { recursive: true });
  writeFileSync(fileOf(dataFolder), `${token}\n`, { mode: 0o600 });
  return token;
}

function findPushToken(dataFolder: string): string | undefined {
  try {
    const text = readFileSync(fileOf(dataFolder), 'utf8').trim();
    return TOKEN.test(text) ? text : undefined;
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return undefined;
    throw error;
  }
}

/**
 * Refuses captures that a program pushes with a wrong token, and without one where the app was opened to other machines. The
 * app's own page needs none: browsers put an Origin on what it sends, which the guard has checked.
 */
export function guardPush(request: Request, dataFolder: string): void {
  const given = /^Bearer\s+(\S+)\s*$/i.exec(request.headers.get('authorization') ?? '')?.[1];
  const isOfPage = request.headers.has('origin');
  if (given === undefined && (!isOpenToOthers() || isOfPage || isOwn(request))) return;
  const kept = findPushToken(dataFolder);
  if (given !== undefined && kept !== undefined && isSame(given, kept)) return;
  throw new ServerProblem(
    'wrong-token',
    given === undefined ? 'A program needs the token to push captures.' : 'This is not the token for pushing captures.',
    'Send the header "Authorization: Bearer TOKEN", with what "trazado token" prints on the machine that runs Trazado: with the --data that it was started with, or --demo.',
  );
}

function isSame(one: string, other: string): boolean {
  const [a, b] = [Buffer.from(one), Buffer.from(other)];
  return a.length === b.length && timingSafeEqual(a, b);
}
