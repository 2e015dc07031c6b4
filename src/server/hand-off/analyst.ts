import { statSync } from 'node:fs';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { unpackRows } from '#core/wire';
import { diagnoseFile } from '../capture-file';
import { findPackageRoot } from '../package-root';
import type { Analysis, AnalystInput, FromAnalyst, ToAnalyst } from './analyst-protocol';

/** Smaller files are analysed sooner than a thread is there. */
const APART_BYTES = 2_000_000;

interface Waiting {
  readonly resolve: (analysis: Analysis) => void;
  readonly reject: (error: Error) => void;
}

function analysisOf(input: AnalystInput): Analysis {
  const { rows, overview, found } = diagnoseFile(input);
  return { rows, overview, found };
}

/** Analyses files in a thread beside the one that asks, one after the other. */
export class Analyst {
  #worker: Worker | undefined;
  readonly #waiting = new Map<number, Waiting>();
  #asked = 0;

  /** The analysis of a file, which has to stay where it is until then. Begins at once. */
  analyse(input: AnalystInput): Promise<Analysis> {
    const analysis =
      statSync(input.path).size < APART_BYTES
        ? new Promise<Analysis>((resolve) => resolve(analysisOf(input)))
        : this.#ask(input);
    // Whoever asked may have given up before it comes; who still waits for it hears of its failure.
    analysis.catch(() => undefined);
    return analysis;
  }

  async close(): Promise<void> {
    await this.#worker?.terminate();
  }

  #ask(input: AnalystInput): Promise<Analysis> {
    this.#worker ??= this.#start();
    const question = this.#asked++;
    const { path, shown, damage } = input;
    this.#worker.postMessage({ question, input: { path, shown, damage } } satisfies ToAnalyst);
    return new Promise((resolve, reject) => void this.#waiting.set(question, { resolve, reject }));
  }

  #start(): Worker {
    const worker = new Worker(join(findPackageRoot(), 'dist/node/analyst-worker.js'));
    worker.on('message', ({ question, rows, overview, found }: FromAnalyst) => {
      this.#waiting.get(question)?.resolve({ rows: unpackRows(rows), overview, found });
      this.#waiting.delete(question);
    });
    worker.on('error', (error) => this.#fail(worker, error));
    worker.on('exit', () => this.#fail(worker, new Error('The thread that analyses ended.')));
    return worker;
  }

  /** A thread that failed says so, and ends later: another one may be at work by then. */
  #fail(worker: Worker, error: Error): void {
    if (this.#worker !== worker) return;
    this.#worker = undefined;
    for (const { reject } of this.#waiting.values()) reject(error);
    this.#waiting.clear();
  }
}
