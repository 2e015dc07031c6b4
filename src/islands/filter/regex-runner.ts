import type { ExchangeRow } from '#core/analysis';
import type { ComparedColumns, ExtraColumns } from '#core/filter';
import { packRows } from '#core/wire';
import type { FromFilterWorker, ToFilterWorker } from '../../workers/filter.worker';

/** A regular expression that takes longer is given up: some never end. */
const LIMIT_MS = 2000;

/** Runs filters with regular expressions in a worker, one at a time; a later one takes the place of an earlier one. */
export class RegexRunner {
  readonly #rows: readonly ExchangeRow[];
  readonly #titles: ReadonlyMap<string, string>;
  readonly #compared: ComparedColumns | undefined;
  #worker: Worker | undefined;
  #giveUp: (() => void) | undefined;

  constructor(rows: readonly ExchangeRow[], titles: ReadonlyMap<string, string>, compared?: ComparedColumns) {
    this.#rows = rows;
    this.#titles = titles;
    this.#compared = compared;
  }

  /** The mask; undefined where the expression took too long, or another was run before it ended. */
  run(text: string, extra: ExtraColumns): Promise<Uint8Array | undefined> {
    if (this.#giveUp !== undefined) this.stop();
    const worker = this.#start();
    return new Promise((resolve) => {
      const finish = (mask: Uint8Array | undefined): void => {
        clearTimeout(timer);
        worker.onmessage = null;
        this.#giveUp = undefined;
        resolve(mask);
      };
      const giveUp = (): void => {
        worker.terminate();
        this.#worker = undefined;
        finish(undefined);
      };
      const timer = setTimeout(giveUp, LIMIT_MS);
      this.#giveUp = giveUp;
      worker.onmessage = ({ data }: MessageEvent<FromFilterWorker>) => finish(data.mask);
      this.#send(worker, { type: 'filter', text, extra });
    });
  }

  stop(): void {
    this.#giveUp?.();
    this.#worker?.terminate();
    this.#worker = undefined;
  }

  #start(): Worker {
    if (this.#worker !== undefined) return this.#worker;
    const worker = new Worker(new URL('../../workers/filter.worker.ts', import.meta.url), { type: 'module' });
    this.#send(worker, {
      type: 'rows',
      rows: packRows(this.#rows),
      titles: this.#titles,
      compared: this.#compared,
    });
    this.#worker = worker;
    return worker;
  }

  #send(worker: Worker, message: ToFilterWorker): void {
    worker.postMessage(message);
  }
}
