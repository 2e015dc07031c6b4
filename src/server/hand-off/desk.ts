import { randomUUID } from 'node:crypto';
import { mkdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import type { ExchangePreview } from '#core/redact';
import type { HandOffOrder, HandOffProgress, MadeHandOff, ReportProgress } from '#core/wire';
import { findPackageRoot } from '../package-root';
import type {
  FromHandOffWorker,
  HandOffTask,
  HandOffWorkerData,
  NamedCapture,
  ReportJob,
  ToHandOffWorker,
} from './protocol';

/** What was made and may be looked at, and saved where its proof holds. */
interface Kept {
  readonly captureId: string;
  readonly made: MadeHandOff;
  readonly path: string;
  readonly drop: () => void;
  readonly ask: (place: number) => Promise<ExchangePreview | undefined>;
}

/** So many are kept at once; the oldest is dropped for a new one. */
const MOST_KEPT = 3;
/** What nobody saves by then can be made again. */
const KEPT_MS = 30 * 60_000;

/** Makes what leaves, each in a thread and a folder of its own; nothing of one that is dropped or cancelled stays. */
export class HandOffDesk {
  readonly #dataFolder: string;
  readonly #kept = new Map<string, Kept>();
  /** Reports that may be drawn in a frame, by their ids. */
  readonly #reports = new Map<string, { readonly captureId: string; readonly text: string }>();

  constructor(dataFolder: string) {
    this.#dataFolder = dataFolder;
    rmSync(folderOf(dataFolder), { recursive: true, force: true });
  }

  /** Makes a capture that is to leave. Returns the way to cancel it. */
  make(of: NamedCapture, order: HandOffOrder, hear: (message: HandOffProgress) => void): () => void {
    const id = randomUUID();
    const { worker, folder, drop } = this.#start(id, { task: 'capture', id, of, order });
    let isMade = false;
    let isDropped = false;
    const giveUp = (): void => {
      isDropped = true;
      drop();
    };
    worker.on('message', (message: FromHandOffWorker) => {
      // What was under way when it was given up has nobody who waits for it.
      if (isDropped) return;
      if (message.type === 'made') {
        isMade = true;
        this.#keep(id, {
          captureId: of.captureId,
          made: message.made,
          path: join(folder, 'redacted.har'),
          drop,
          ask: asker(worker),
        });
      }
      if (message.type === 'failed') giveUp();
      if (message.type !== 'preview' && message.type !== 'written') hear(message);
    });
    worker.on('error', (error) => {
      giveUp();
      this.#kept.delete(id);
      if (!isMade) hear(failedBy(error));
    });
    return () => {
      if (!isMade) giveUp();
    };
  }

  /** Writes a report. Returns the way to cancel it. */
  report(job: ReportJob, order: HandOffOrder, hear: (message: ReportProgress) => void): () => void {
    const id = randomUUID();
    const { worker, drop } = this.#start(id, { task: 'report', id, job, order });
    worker.on('message', (message: FromHandOffWorker) => {
      if (message.type === 'written') this.#keepReport(id, job.of.captureId, message.text);
      if (message.type === 'written' || message.type === 'failed') drop();
      if (message.type !== 'preview' && message.type !== 'made') hear(message);
    });
    worker.on('error', (error) => {
      drop();
      hear(failedBy(error));
    });
    return drop;
  }

  #keepReport(id: string, captureId: string, text: string): void {
    this.#reports.set(id, { captureId, text });
    const tooMany = Math.max(0, this.#reports.size - MOST_KEPT);
    for (const old of [...this.#reports.keys()].slice(0, tooMany)) this.#reports.delete(old);
  }

  /** The text of a report of a capture; undefined where it was dropped since. */
  findReport(captureId: string, id: string): string | undefined {
    const report = this.#reports.get(id);
    return report?.captureId === captureId ? report.text : undefined;
  }

  /** What was made of a capture; undefined where it was dropped since. */
  find(captureId: string, id: string): Kept | undefined {
    const kept = this.#kept.get(id);
    return kept?.captureId === captureId ? kept : undefined;
  }

  close(): void {
    for (const { drop } of this.#kept.values()) drop();
    rmSync(folderOf(this.#dataFolder), { recursive: true, force: true });
  }

  #keep(id: string, kept: Kept): void {
    this.#kept.set(id, kept);
    setTimeout(() => this.#forget(id), KEPT_MS).unref();
    const tooMany = Math.max(0, this.#kept.size - MOST_KEPT);
    for (const old of [...this.#kept.keys()].slice(0, tooMany)) this.#forget(old);
  }

  #forget(id: string): void {
    this.#kept.get(id)?.drop();
    this.#kept.delete(id);
  }

  #start(id: string, task: HandOffTask) {
    const folder = join(folderOf(this.#dataFolder), id);
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    const workerData: HandOffWorkerData = { ...task, dataFolder: this.#dataFolder, folder };
    const worker = new Worker(join(findPackageRoot(), 'dist/node/hand-off-worker.js'), { workerData });
    worker.unref();
    const drop = (): void => {
      worker.terminate().finally(() => rmSync(folder, { recursive: true, force: true }));
    };
    return { worker, folder, drop };
  }
}

const folderOf = (dataFolder: string): string => join(dataFolder, 'hand-off');

/** Out of memory, mostly: a thread that ends otherwise has told why. */
const failedBy = (error: Error) =>
  ({
    type: 'failed',
    problem: { code: 'internal', sentence: `It could not be made: ${error.message}.`, advice: 'Nothing has left.' },
  }) as const;

function asker(worker: Worker): (place: number) => Promise<ExchangePreview | undefined> {
  const waiting = new Map<number, (preview: ExchangePreview | undefined) => void>();
  let count = 0;
  worker.on('message', (message: FromHandOffWorker) => {
    if (message.type !== 'preview') return;
    waiting.get(message.question)?.(message.preview);
    waiting.delete(message.question);
  });
  worker.on('exit', () => {
    for (const give of waiting.values()) give(undefined);
  });
  return (place) =>
    new Promise((resolve) => {
      const question = ++count;
      waiting.set(question, resolve);
      worker.postMessage({ question, place } satisfies ToHandOffWorker);
    });
}
