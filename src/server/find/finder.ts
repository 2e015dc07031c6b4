import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import type { FindQuery } from '#core/find';
import { findPackageRoot } from '../package-root';
import type { FindWorkerData, FromFindWorker, ToFindWorker } from './protocol';

/** Runs searches in threads of their own; one thread is kept for the next search. */
export class Finder {
  readonly #dataFolder: string;
  #idle: Worker | undefined;

  constructor(dataFolder: string) {
    this.#dataFolder = dataFolder;
  }

  /** Starts a search. Returns the way to end it early. */
  find(captureId: string, query: FindQuery, tell: (message: FromFindWorker) => void): () => void {
    const worker = this.#idle ?? this.#start();
    this.#idle = undefined;
    const finish = (keeps: boolean): void => {
      worker.off('message', hear);
      worker.off('error', fail);
      if (keeps && this.#idle === undefined) this.#idle = worker;
      else worker.terminate();
    };
    const hear = (message: FromFindWorker): void => {
      if (message.type === 'ended') finish(true);
      tell(message);
    };
    const fail = (error: Error): void => {
      finish(false);
      tell({ type: 'ended', isWhole: false, problem: `The search failed: ${error.message}.` });
    };
    worker.on('message', hear);
    worker.on('error', fail);
    worker.postMessage({ captureId, query } satisfies ToFindWorker);
    return () => finish(false);
  }

  async close(): Promise<void> {
    await this.#idle?.terminate();
  }

  #start(): Worker {
    const workerData: FindWorkerData = { dataFolder: this.#dataFolder };
    const worker = new Worker(join(findPackageRoot(), 'dist/node/find-worker.js'), { workerData });
    worker.unref();
    return worker;
  }
}
