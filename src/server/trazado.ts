import { randomUUID } from 'node:crypto';
import { createReadStream, statSync } from 'node:fs';
import { stat as statFile, statfs } from 'node:fs/promises';
import { homedir } from 'node:os';
import { basename, join } from 'node:path';
import { captureName } from '#core/har';
import type { ImportProgress, ImportResult } from '#core/wire';
import { beforeEnding } from './closing';
import { findDataFolder } from './data-folder';
import { findByHash, setDeleted, UNDO_MS } from './db/captures';
import { type Connection, migrateDatabase, openConnection, writeWhenFree } from './db/connection';
import { type Found, findFindings, nextUndiagnosed } from './db/findings';
import { Turns } from './db/turns';
import { Finder } from './find/finder';
import { HandOffDesk } from './hand-off/desk';
import type { ImportOrder } from './ingest/import-order';
import { IngestQueue } from './ingest/queue';
import type { ReadingProgress } from './ingest/read-capture';
import { reanalyseWithoutRows } from './ingest/reanalyse';
import { clearSpool, discard, hashFile, type SpooledFile, spool } from './ingest/spool';
import type { ArchiveDamage } from './ingest/unpack';
import { log } from './log';
import { ServerProblem, storageProblem } from './problem';
import { RehearsalDesk } from './rehearsal/desk';
import { RunDesk } from './runs/desk';
import { whyNot } from './why-not';

const TIDY_EVERY_MS = 60_000;
/** How long a page waits for findings before it asks again. */
const DIAGNOSIS_WAIT_MS = 20_000;
/** How long the end of an import stays readable for a page that asks late. */
const ENDED_KEPT_MS = 30_000;

/** Captures of one file that stand in a row; a hostile file could hold millions. */
const MOST_IN_A_ROW = 200;

/** The order for a capture that stands behind others in its file. */
const rowOrder = (first: ImportOrder, place: number, fromByte: number): ImportOrder => ({
  ...first,
  captureId: randomUUID(),
  name: `${first.name} (${place})`,
  sha256: `${first.sha256}-${place}`,
  fromByte,
});

type Listener = (progress: ImportProgress) => void;

interface IncomingUpload {
  readonly name: string;
  readonly importId: string;
  readonly signal: AbortSignal;
}

interface Watched {
  last: ImportProgress;
  readonly listeners: Set<Listener>;
}

/** Everything one running server holds: the database, the writing thread, the imports under way. */
export class Trazado {
  readonly dataFolder: string;
  readonly connection: Connection;
  readonly finder: Finder;
  readonly handOffs: HandOffDesk;
  readonly runs: RunDesk;
  readonly rehearsals: RehearsalDesk;
  readonly #turns = new Turns();
  readonly #queue: IngestQueue;
  readonly #watched = new Map<string, Watched>();
  readonly #tidying: NodeJS.Timeout;

  constructor(dataFolder: string) {
    this.dataFolder = dataFolder;
    this.connection = openConnection(dataFolder, false);
    migrateDatabase(this.connection);
    reanalyseWithoutRows(this.connection);
    clearSpool(dataFolder);
    this.finder = new Finder(dataFolder);
    this.handOffs = new HandOffDesk(dataFolder);
    this.runs = new RunDesk(this.connection, (run) => this.write(run));
    this.rehearsals = new RehearsalDesk(this.connection, dataFolder, (run) => this.write(run));
    this.#queue = new IngestQueue(dataFolder, this.#turns, () => nextUndiagnosed(this.connection) !== undefined);
    this.tidy();
    // What can no longer be brought back goes also where nobody asks for anything.
    this.#tidying = setInterval(() => this.tidy(), TIDY_EVERY_MS).unref();
  }

  /**
   * Takes an upload in: to a file, hashed, then read by the writing thread; a zip gives one result for each capture in
   * it. Nothing is left of one that fails.
   */
  async takeIn(upload: IncomingUpload, stream: AsyncIterable<Uint8Array>): Promise<ImportResult[]> {
    const tell = (progress: ImportProgress): void => this.#tell(upload.importId, progress);
    try {
      const onBytes = (receivedBytes: number): void => tell({ phase: 'receiving', receivedBytes });
      const file = await spool(this.dataFolder, stream, onBytes, upload.signal);
      try {
        const results = file.isZip
          ? await this.#importZip(file, upload, tell)
          : await this.#importFile(file, upload, tell);
        // Who left before hearing of the end has cancelled, however late.
        if (upload.signal.aborted) await this.#takeBack(results);
        return results;
      } finally {
        await discard(file);
      }
    } catch (error) {
      if (upload.signal.aborted) {
        throw new ServerProblem('cancelled', 'The import was cancelled; nothing was kept.', 'Drop the file again.');
      }
      throw error;
    } finally {
      tell({ phase: 'ended' });
    }
  }

  async #takeBack(results: readonly ImportResult[]): Promise<never> {
    const ids = results.flatMap((result) => (result.type === 'imported' ? result.id : []));
    await this.write((connection) => {
      // Purged with the next tidying, which is at once.
      for (const id of ids) setDeleted(connection, id, 0);
    });
    this.tidy();
    throw new ServerProblem('cancelled', 'The import was cancelled; nothing was kept.', 'Drop the file again.');
  }

  /** Bytes that the disk has left for captures. */
  async freeBytes(): Promise<number> {
    const { bavail, bsize } = await statfs(this.dataFolder);
    return bavail * bsize;
  }

  /** Several captures may stand in a row in one file: each becomes one of its own. */
  async #importFile(
    file: Pick<SpooledFile, 'path' | 'sha256' | 'bytes'> & { readonly damage?: ArchiveDamage },
    upload: IncomingUpload,
    tell: Listener,
  ): Promise<ImportResult[]> {
    const same = findByHash(this.connection, file.sha256);
    if (same !== undefined) return [{ type: 'duplicate', ...same }];
    tell({ phase: 'waiting' });
    const { path, sha256, bytes, damage } = file;
    const order: ImportOrder = {
      captureId: randomUUID(),
      path,
      name: upload.name,
      sha256,
      fileBytes: bytes,
      now: Date.now(),
      ...(damage === undefined ? {} : { damage }),
    };
    const onProgress = (progress: ReadingProgress): void => tell({ phase: 'reading', ...progress });
    const results: ImportResult[] = [];
    for (let fromByte: number | undefined = 0; fromByte !== undefined && results.length < MOST_IN_A_ROW; ) {
      const place = results.length + 1;
      const own = place === 1 ? order : rowOrder(order, place, fromByte);
      try {
        const { result, nextAtByte } = await this.#queue.import(own, onProgress, upload.signal);
        results.push(result);
        fromByte = nextAtByte;
      } catch (error) {
        // Those before it are on the shelf already.
        if (place === 1 || !(error instanceof ServerProblem) || error.code !== 'unreadable') throw error;
        results.push({ type: 'unreadable', name: own.name, sentence: error.sentence, advice: error.advice });
        fromByte = undefined;
      }
    }
    return results;
  }

  /** One bad capture in a zip does not cost the others. */
  async #importZip(file: SpooledFile, upload: IncomingUpload, tell: Listener): Promise<ImportResult[]> {
    const results: ImportResult[] = [];
    for (const member of await this.#queue.unzip(file.path, upload.signal)) {
      const name = captureName(member.name);
      try {
        const sha256 = await hashFile(member.path);
        results.push(...(await this.#importFile({ ...member, sha256 }, { ...upload, name }, tell)));
      } catch (error) {
        if (!(error instanceof ServerProblem) || error.code !== 'unreadable') throw error;
        results.push({ type: 'unreadable', name, sentence: error.sentence, advice: error.advice });
      } finally {
        await discard(member);
      }
    }
    return results;
  }

  /** Takes in a file of this machine's own, which is read where it is; `~/` is its user's folder. */
  async takeInLocal(given: string): Promise<ImportResult[]> {
    const path = given.startsWith('~/') ? join(homedir(), given.slice(2)) : given;
    const unreadable = (why: string): ServerProblem =>
      new ServerProblem('not-found', `${path} cannot be read: ${why}.`, 'See whether the path is right.');
    const stat = await statFile(path).catch((error: unknown) => {
      throw unreadable(whyNot(error));
    });
    if (stat.isDirectory()) throw unreadable('it is a folder');
    // A pipe would be waited for without end, and a device has none.
    if (!stat.isFile()) throw unreadable('it is not a file that stays as it is, but a pipe or a device');
    const name = captureName(basename(path));
    const upload = { name, importId: randomUUID(), signal: new AbortController().signal };
    const file = createReadStream(path);
    return await this.takeIn(upload, file).catch((error: unknown) => {
      const { syscall, path: about } = error as NodeJS.ErrnoException;
      throw syscall !== undefined && about === path ? unreadable(whyNot(error)) : error;
    });
  }

  /** Bytes on disk: the database with its log. */
  storageBytes(): number {
    const files = ['trazado.db', 'trazado.db-wal'].map((name) => join(this.dataFolder, name));
    return files.reduce((sum, file) => sum + (statSync(file, { throwIfNoEntry: false })?.size ?? 0), 0);
  }

  /** Follows an import that this server has, or is about to get. Returns the way to stop following. */
  watchImport(importId: string, listener: Listener): () => void {
    const watched = this.#watch(importId);
    watched.listeners.add(listener);
    listener(watched.last);
    return () => {
      watched.listeners.delete(listener);
      // Nobody may ever send what was only asked after.
      const { last } = watched;
      if (watched.listeners.size === 0 && last.phase === 'receiving' && last.receivedBytes === 0) {
        this.#watched.delete(importId);
      }
    };
  }

  /** Runs a write of this thread; waits its turn without stalling the server while an import is written, which lets it in. */
  write<T>(run: (connection: Connection) => T): Promise<T> {
    return writeWhenFree(() => run(this.connection), this.#turns);
  }

  /** Purges what can no longer be brought back, and has outdated analyses made again. */
  tidy(deletedBefore = Date.now() - UNDO_MS): void {
    this.#queue.tidy(deletedBefore).catch((error: unknown) => log.warn({ err: error }, 'tidying failed'));
  }

  /** What was found in a capture, once its bodies have been read; undefined where that takes longer than anybody waits. */
  async findings(captureId: string): Promise<Found | undefined> {
    const there = findFindings(this.connection, captureId);
    if (there !== undefined) return there;
    await new Promise<void>((resolve) => {
      const stop = this.#queue.diagnosing.onDiagnosed((id) => {
        if (id === captureId) finish();
      });
      const finish = (): void => {
        clearTimeout(timer);
        stop();
        resolve();
      };
      const timer = setTimeout(finish, DIAGNOSIS_WAIT_MS);
      this.#queue.diagnosing.hasten(captureId);
    });
    const found = findFindings(this.connection, captureId);
    const { trouble } = this.#queue.diagnosing;
    if (found === undefined && trouble !== undefined) throw storageProblem(trouble);
    return found;
  }

  async close(): Promise<void> {
    clearInterval(this.#tidying);
    this.handOffs.close();
    await this.runs.close();
    await this.rehearsals.close();
    await this.finder.close();
    await this.#queue.close();
    this.connection.sqlite.close();
  }

  #watch(importId: string): Watched {
    let watched = this.#watched.get(importId);
    if (watched === undefined) {
      watched = { last: { phase: 'receiving', receivedBytes: 0 }, listeners: new Set() };
      this.#watched.set(importId, watched);
    }
    return watched;
  }

  #tell(importId: string, progress: ImportProgress): void {
    const watched = this.#watch(importId);
    watched.last = progress;
    for (const listener of watched.listeners) listener(progress);
    if (progress.phase === 'ended') setTimeout(() => this.#watched.delete(importId), ENDED_KEPT_MS).unref();
  }
}

let running: Trazado | undefined;

/** The one server of this process, started at its first use. */
export function getTrazado(): Trazado {
  if (running === undefined) {
    const started = new Trazado(findDataFolder());
    beforeEnding(() => started.close());
    running = started;
  }
  return running;
}
