import type { FromContentWorker, ToContentWorker } from '../../workers/content.worker';

type Reply<T extends ToContentWorker['type']> = Extract<
  FromContentWorker,
  { readonly type: T extends 'format' ? 'formatted' : T }
>;

/** A worker that reads one content. Questions are answered in the order in which they were asked. */
export class ContentWorker {
  readonly #worker = new Worker(new URL('../../workers/content.worker.ts', import.meta.url), { type: 'module' });
  #broken: Error | undefined;
  readonly #waiting: { resolve: (answer: FromContentWorker) => void; reject: (error: Error) => void }[] = [];

  constructor() {
    this.#worker.onmessage = ({ data }: MessageEvent<FromContentWorker>) => {
      const next = this.#waiting.shift();
      if (data.type === 'failed') next?.reject(new Error(data.reason));
      else next?.resolve(data);
    };
    this.#worker.onerror = () => {
      // Whatever is asked of it from now on has no answer either.
      this.#broken = new Error('the reader broke down');
      for (const { reject } of this.#waiting.splice(0)) reject(this.#broken);
    };
  }

  ask<T extends ToContentWorker['type']>(message: Extract<ToContentWorker, { readonly type: T }>): Promise<Reply<T>> {
    if (this.#broken !== undefined) return Promise.reject(this.#broken);
    return new Promise((resolve, reject) => {
      this.#waiting.push({ resolve: (answer) => resolve(answer as Reply<T>), reject });
      this.#worker.postMessage(message);
    });
  }

  stop(): void {
    this.#worker.terminate();
  }
}
