import type { ExchangeRow } from '#core/analysis';
import type { ComparedColumns, ExtraColumns } from '#core/filter';
import { packRows } from '#core/wire';
import type { FromFilterWorker, ToFilterWorker } from '../../workers/filter.worker';

/** A regular expression that takes longer is given up: some never end. */
const LIMIT_MS = 2000;

/** What came of running a filter: its mask, or why there is none. */
export type RegexAnswer =
  | { readonly type: 'mask'; readonly mask: Uint8Array }
  | { readonly type: 'too-long' }
  /** The worker's script could not be fetched. */
  | { readonly type: 'unloaded' }
  /** The worker broke down over it. */
  | { readonly type: 'broken' }
  /** Another one was run before it ended. */
  | { readonly type: 'replaced' };

/** Runs filters with regular expressions in a worker, one at a time; a later one takes the place of an earlier one. */
export class RegexRunner {
  readonly #rows: readonly ExchangeRow[];
  readonly #titles: ReadonlyMap<string, string>;
  readonly #compared: ComparedColumns | undefined;
  #worker: { readonly worker: Worker; isReady: boolean } | undefined;
  #giveUp: ((answer: RegexAnswer) => void) | undefined;

  constructor(rows: readonly ExchangeRow[], titles: ReadonlyMap<string, string>, compared?: ComparedColumns) {
    this.#rows = rows;
    this.#titles = titles;
    this.#compared = compared;
  }

  run(text: string, extra: ExtraColumns): Promise<RegexAnswer> {
    this.#giveUp?.({ type: 'replaced' });
    const started = this.#start();
    const { worker } = started;
    return new Promise((resolve) => {
      let timer: ReturnType<typeof setTimeout> | undefined;
      const finish = (answer: RegexAnswer): void => {
        clearTimeout(timer);
        worker.onmessage = null;
        worker.onerror = null;
        this.#giveUp = undefined;
        resolve(answer);
      };
      const giveUp = (answer: RegexAnswer): void => {
        worker.terminate();
        this.#worker = undefined;
        finish(answer);
      };
      // The clock is the expression's: fetching the script and taking many rows in is none of its doing.
      const startClock = (): void => {
        timer = setTimeout(() => giveUp({ type: 'too-long' }), LIMIT_MS);
      };
      this.#giveUp = giveUp;
      // A script that cannot be fetched is told of by an event without an error (HTML, 10.2.6.3).
      worker.onerror = (event) => giveUp({ type: event instanceof ErrorEvent ? 'broken' : 'unloaded' });
      worker.onmessage = ({ data }: MessageEvent<FromFilterWorker>) => {
        if (data.type === 'mask') return finish(data);
        started.isReady = true;
        startClock();
      };
      if (started.isReady) startClock();
      this.#send(worker, { type: 'filter', text, extra });
    });
  }

  stop(): void {
    this.#giveUp?.({ type: 'replaced' });
    this.#worker?.worker.terminate();
    this.#worker = undefined;
  }

  #start(): { readonly worker: Worker; isReady: boolean } {
    if (this.#worker !== undefined) return this.#worker;
    const worker = new Worker(new URL('../../workers/filter.worker.ts', import.meta.url), { type: 'module' });
    this.#send(worker, {
      type: 'rows',
      rows: packRows(this.#rows),
      titles: this.#titles,
      compared: this.#compared,
    });
    this.#worker = { worker, isReady: false };
    return this.#worker;
  }

  #send(worker: Worker, message: ToFilterWorker): void {
    worker.postMessage(message);
  }
}
