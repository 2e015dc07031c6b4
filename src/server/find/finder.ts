import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import type { FindQuery } from '#core/find';
import type { FindProgress } from '#core/wire';
import { findPackageRoot } from '../package-root';
import { Merge } from './merge';
import type { FindWorkerData, FromFindWorker, ToFindWorker } from './protocol';

/** A smaller capture is searched before a second thread would have begun. */
const SHARED_FROM_BYTES = 8 * 1024 * 1024;
const MOST_THREADS = 4;

/** Runs searches in threads of their own, a large capture's in several; threads are kept for the next search. */
export class Finder {
  readonly #dataFolder: string;
  readonly #idle: Worker[] = [];

  constructor(dataFolder: string) {
    this.#dataFolder = dataFolder;
  }

  /** Starts a search of a capture that was so large as a file. Returns the way to end it early. */
  find(
    capture: { readonly id: string; readonly fileBytes: number },
    query: FindQuery,
    tell: (message: FindProgress) => void,
  ): () => void {
    const of = capture.fileBytes < SHARED_FROM_BYTES ? 1 : Math.min(MOST_THREADS, availableParallelism());
    const merge = new Merge(of);
    const running = new Map<Worker, () => void>();
    const stop = (): void => {
      for (const [worker, release] of running) {
        release();
        worker.terminate();
      }
      running.clear();
    };
    const say = (messages: readonly FindProgress[]): void => {
      if (messages.at(-1)?.type === 'ended') stop();
      for (const message of messages) tell(message);
    };
    for (let part = 0; part < of; part++) {
      const worker = this.#idle.pop() ?? this.#start();
      const hear = (message: FromFindWorker): void => {
        if (message.type === 'ended') {
          running.get(worker)?.();
          running.delete(worker);
          this.#keep(worker);
        }
        say(merge.take(part, message));
      };
      const fail = (error: Error): void => {
        running.delete(worker);
        say(merge.take(part, { type: 'ended', problem: `The search failed: ${error.message}.`, rest: [] }));
      };
      worker.on('message', hear);
      worker.on('error', fail);
      running.set(worker, () => {
        worker.off('message', hear);
        worker.off('error', fail);
      });
      worker.postMessage({ captureId: capture.id, query, share: { part, of } } satisfies ToFindWorker);
    }
    return stop;
  }

  async close(): Promise<void> {
    await Promise.all(this.#idle.map((worker) => worker.terminate()));
  }

  #keep(worker: Worker): void {
    if (this.#idle.length < MOST_THREADS) this.#idle.push(worker);
    else worker.terminate();
  }

  #start(): Worker {
    const workerData: FindWorkerData = { dataFolder: this.#dataFolder };
    const worker = new Worker(join(findPackageRoot(), 'dist/node/find-worker.js'), { workerData });
    worker.unref();
    return worker;
  }
}
