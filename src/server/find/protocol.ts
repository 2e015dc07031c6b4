import type { FindQuery } from '#core/find';
import type { FindProgress } from '#core/wire';

/** What the finding thread is started with. */
export interface FindWorkerData {
  readonly dataFolder: string;
}

export interface ToFindWorker {
  readonly captureId: string;
  readonly query: FindQuery;
}

/** The same that the page is told. */
export type FromFindWorker = FindProgress;
