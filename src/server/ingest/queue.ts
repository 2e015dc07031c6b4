import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import type { Turns } from '../db/turns';
import { log } from '../log';
import { findPackageRoot } from '../package-root';
import { ServerProblem } from '../problem';
import { Diagnosing } from './diagnosing';
import type { Imported, ImportOrder } from './import-order';
import type { FromWorker, ToWorker, WorkerData } from './protocol';
import type { ReadingProgress } from './read-capture';
import type { UnpackedMember } from './unpack';

const NURSERY_MB = 16;

interface Job {
  readonly message: ToWorker;
  readonly onProgress: (progress: ReadingProgress) => void;
  readonly resolve: (answer: FromWorker) => void;
  readonly reject: (error: unknown) => void;
  readonly signal: AbortSignal | undefined;
}

const cancelled = (): ServerProblem =>
  new ServerProblem('cancelled', 'The import was cancelled; nothing was kept.', 'Drop the file again to import it.');

/** One writing thread and the jobs that wait for it, first come, first served. */
export class IngestQueue {
  readonly #dataFolder: string;
  readonly #flag = new Int32Array(new SharedArrayBuffer(4));
  readonly #waiting: Job[] = [];
  readonly diagnosing: Diagnosing;
  #running: Job | undefined;
  #worker: Worker | undefined;

  readonly #turns: Turns;

  /**
   * @param turns those that wait for the database, which imports let in between
   * @param hasUndiagnosed whether there is a capture whose bodies are still to be read
   */
  constructor(dataFolder: string, turns: Turns, hasUndiagnosed: () => boolean) {
    this.#dataFolder = dataFolder;
    this.#turns = turns;
    this.diagnosing = new Diagnosing(dataFolder, hasUndiagnosed);
  }

  /** Imports a file; resolves when the capture is on the shelf or is found to be there already. */
  async import(
    order: ImportOrder,
    onProgress: (progress: ReadingProgress) => void,
    signal?: AbortSignal,
  ): Promise<Imported> {
    const answer = await this.#enqueue({ type: 'import', order }, onProgress, signal);
    if (answer.type !== 'done') throw new Error(`an import was answered by ${answer.type}`);
    return answer.imported;
  }

  /** Unpacks the captures of a zip file beside it. */
  async unzip(path: string, signal?: AbortSignal): Promise<readonly UnpackedMember[]> {
    const answer = await this.#enqueue({ type: 'unzip', path }, undefined, signal);
    if (answer.type !== 'unzipped') throw new Error(`unpacking was answered by ${answer.type}`);
    return answer.members;
  }

  /** Purges what was deleted before an instant and analyses again what an older version analysed. */
  async tidy(deletedBefore: number): Promise<void> {
    await this.#enqueue({ type: 'tidy', deletedBefore });
  }

  async close(): Promise<void> {
    await this.diagnosing.close();
    const worker = this.#worker;
    if (worker === undefined) return;
    const ended = new Promise((resolve) => worker.once('exit', resolve));
    worker.postMessage({ type: 'close' } satisfies ToWorker);
    await ended;
  }

  #enqueue(
    message: ToWorker,
    onProgress: (progress: ReadingProgress) => void = () => undefined,
    signal?: AbortSignal,
  ): Promise<FromWorker> {
    return new Promise((resolve, reject) => {
      const job: Job = { message, onProgress, resolve, reject, signal };
      this.#waiting.push(job);
      signal?.addEventListener('abort', () => this.#cancel(job), { once: true });
      this.#next();
    });
  }

  #cancel(job: Job): void {
    if (this.#running === job) {
      Atomics.store(this.#flag, 0, 1);
      return;
    }
    const place = this.#waiting.indexOf(job);
    if (place === -1) return;
    this.#waiting.splice(place, 1);
    job.reject(cancelled());
  }

  #next(): void {
    if (this.#running !== undefined) return;
    const job = this.#waiting.shift();
    if (job === undefined) {
      this.diagnosing.setPaused(false);
      this.diagnosing.look();
      return;
    }
    if (job.signal?.aborted === true) {
      job.reject(cancelled());
      this.#next();
      return;
    }
    this.#running = job;
    this.diagnosing.setPaused(true);
    Atomics.store(this.#flag, 0, 0);
    this.#worker ??= this.#start();
    this.#worker.postMessage(job.message);
  }

  #start(): Worker {
    const workerData: WorkerData = {
      dataFolder: this.#dataFolder,
      cancelFlag: this.#flag.buffer as SharedArrayBuffer,
      turns: this.#turns.buffer,
    };
    const worker = new Worker(join(findPackageRoot(), 'dist/node/ingest-worker.js'), {
      workerData,
      // Short-lived strings are most of what an import makes: a small nursery keeps the peak of its memory low.
      resourceLimits: { maxYoungGenerationSizeMb: NURSERY_MB },
    });
    worker.on('message', (message: FromWorker) => this.#hear(message));
    worker.on('error', (error) => this.#lose(error));
    worker.unref();
    return worker;
  }

  #hear(message: FromWorker): void {
    if (message.type === 'background-failed') {
      log.warn({ cause: message.cause }, 'work behind the imports failed');
      return;
    }
    const job = this.#running;
    if (job === undefined) return;
    if (message.type === 'progress') {
      job.onProgress(message.progress);
      return;
    }
    this.#running = undefined;
    if (message.type === 'failed') {
      job.reject(new ServerProblem(message.reason, message.sentence, message.advice));
    } else job.resolve(message);
    this.#next();
  }

  /** The thread died, as it does when memory runs out: its job fails, the next one gets a new thread. */
  #lose(error: Error): void {
    this.#worker = undefined;
    const job = this.#running;
    this.#running = undefined;
    job?.reject(
      new ServerProblem('internal', `The import failed: ${error.message}.`, 'Nothing was kept; try it once more.'),
    );
    this.#next();
  }
}
