import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import type { StorageTrouble } from '../db/trouble';
import { log } from '../log';
import { findPackageRoot } from '../package-root';
import type { DiagnosisData, FromDiagnosis, ToDiagnosis } from './diagnosis-protocol';

/** How long the thread stays behind its last capture: another one often comes soon. */
const LINGER_MS = 1000;
/** A thread that dies so often, one after the other, would die again. */
const MOST_LOSSES = 4;

/** The thread that reads bodies behind the imports, while there is something to read. */
export class Diagnosing {
  readonly #dataFolder: string;
  readonly #hasWork: () => boolean;
  readonly #pause = new Int32Array(new SharedArrayBuffer(4));
  readonly #listeners = new Set<(captureId: string) => void>();
  #trouble: StorageTrouble | undefined;
  #worker: Worker | undefined;
  #ending: NodeJS.Timeout | undefined;
  #losses = 0;

  /** @param hasWork whether there is a capture that is still to be diagnosed */
  constructor(dataFolder: string, hasWork: () => boolean) {
    this.#dataFolder = dataFolder;
    this.#hasWork = hasWork;
  }

  /** What keeps the storage from taking findings, as far as is known. */
  get trouble(): StorageTrouble | undefined {
    return this.#trouble;
  }

  /** Hears of each capture whose findings are there. Returns the way to stop hearing. */
  onDiagnosed(listener: (captureId: string) => void): () => void {
    this.#listeners.add(listener);
    return () => void this.#listeners.delete(listener);
  }

  /** Has it look for captures that are still to be diagnosed. */
  look(): void {
    if (this.#hasWork()) this.#say({ type: 'look' });
  }

  /** Has a capture diagnosed before the others. */
  hasten(captureId: string): void {
    this.#say({ type: 'hasten', captureId });
  }

  /** Rests while an import is read, which somebody waits for. */
  setPaused(isPaused: boolean): void {
    Atomics.store(this.#pause, 0, Number(isPaused));
  }

  async close(): Promise<void> {
    clearTimeout(this.#ending);
    const worker = this.#worker;
    if (worker === undefined) return;
    const ended = new Promise((resolve) => worker.once('exit', resolve));
    this.#end();
    await ended;
  }

  #say(message: ToDiagnosis): void {
    clearTimeout(this.#ending);
    this.#worker ??= this.#start();
    this.#worker.postMessage(message);
  }

  #start(): Worker {
    const workerData: DiagnosisData = {
      dataFolder: this.#dataFolder,
      pause: this.#pause.buffer as SharedArrayBuffer,
    };
    const worker = new Worker(join(findPackageRoot(), 'dist/node/diagnosis-worker.js'), { workerData });
    worker.on('message', (message: FromDiagnosis) => this.#hear(message));
    worker.on('error', (error) => this.#lose(worker, error));
    worker.unref();
    return worker;
  }

  #hear(message: FromDiagnosis): void {
    switch (message.type) {
      case 'diagnosed':
        this.#trouble = undefined;
        this.#losses = 0;
        for (const listener of this.#listeners) listener(message.captureId);
        return;
      case 'failed':
        log.warn({ cause: message.cause }, 'reading bodies failed');
        this.#trouble = message.trouble;
        return;
      case 'idle':
        clearTimeout(this.#ending);
        this.#ending = setTimeout(() => this.#end(), LINGER_MS).unref();
        return;
      default:
        message satisfies never;
    }
  }

  #end(): void {
    this.#worker?.postMessage({ type: 'close' } satisfies ToDiagnosis);
    this.#worker = undefined;
  }

  /** The thread died, as it does when memory runs out. What it read is tried once more, then said to be too much. */
  #lose(worker: Worker, error: Error): void {
    log.warn({ cause: error.message }, 'the thread that reads bodies ended');
    if (this.#worker !== worker) return;
    this.#worker = undefined;
    if (++this.#losses < MOST_LOSSES) this.look();
  }
}
