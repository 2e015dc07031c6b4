import { createHash, randomUUID } from 'node:crypto';
import { chmodSync, createReadStream, createWriteStream, mkdirSync, readdirSync, rmSync } from 'node:fs';
import { readdir, rm } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { isAlive } from '../alive';
import { isZip } from './unpack';

export interface SpooledFile {
  readonly path: string;
  readonly sha256: string;
  readonly bytes: number;
  readonly isZip: boolean;
}

const folderOf = (dataFolder: string): string => join(dataFolder, 'incoming');

/** Writes an upload to a file of its own, hashing it on the way. Leaves nothing behind when the upload breaks off. */
export async function spool(
  dataFolder: string,
  stream: AsyncIterable<Uint8Array>,
  onBytes: (received: number) => void,
  signal: AbortSignal,
): Promise<SpooledFile> {
  const folder = folderOf(dataFolder);
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  const path = join(folder, `${process.pid}-${randomUUID()}`);
  const hash = createHash('sha256');
  let bytes = 0;
  let zip: boolean | undefined;
  const meter = new Transform({
    transform(chunk: Uint8Array, _encoding, done) {
      hash.update(chunk);
      zip ??= isZip(chunk);
      bytes += chunk.length;
      onBytes(bytes);
      done(null, chunk);
    },
  });
  try {
    await pipeline(stream, meter, createWriteStream(path, { mode: 0o600 }), { signal });
  } catch (error) {
    await discard({ path });
    throw error;
  }
  return { path, sha256: hash.digest('hex'), bytes, isZip: zip === true };
}

/** The SHA-256 of a file, read without holding up this thread. */
export async function hashFile(path: string): Promise<string> {
  const hash = createHash('sha256');
  await pipeline(createReadStream(path), hash);
  return hash.digest('hex');
}

/** Removes a spooled file and what was unpacked beside it; removing gigabytes takes time that others must not wait. */
export async function discard(file: Pick<SpooledFile, 'path'>): Promise<void> {
  const folder = dirname(file.path);
  const names = (await readdir(folder)).filter((name) => name.startsWith(basename(file.path)));
  await Promise.all(names.map((name) => rm(join(folder, name), { force: true })));
}

/** Removes what servers that are gone left behind: a crash in mid-upload keeps nothing. */
export function clearSpool(dataFolder: string): void {
  const folder = folderOf(dataFolder);
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  chmodSync(folder, 0o700);
  for (const name of readdirSync(folder)) {
    const pid = Number.parseInt(name, 10);
    if (pid === process.pid || !isAlive(pid)) rmSync(join(folder, name), { force: true });
  }
}
