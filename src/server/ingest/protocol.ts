import type { Imported, ImportOrder } from './import-order';
import type { ReadingProgress } from './read-capture';
import type { UnpackedMember } from './unpack';

/** What the ingest worker is started with. The flag's first element turns 1 to cancel the running import. */
export interface WorkerData {
  readonly dataFolder: string;
  readonly cancelFlag: SharedArrayBuffer;
  /** Those that wait for the database. */
  readonly turns: SharedArrayBuffer;
}

export type ToWorker =
  | { readonly type: 'import'; readonly order: ImportOrder }
  | { readonly type: 'unzip'; readonly path: string }
  | { readonly type: 'tidy'; readonly deletedBefore: number }
  | { readonly type: 'close' };

export type FromWorker =
  | { readonly type: 'progress'; readonly progress: ReadingProgress }
  | { readonly type: 'done'; readonly imported: Imported }
  | { readonly type: 'unzipped'; readonly members: readonly UnpackedMember[] }
  | { readonly type: 'tidied' }
  /** Unasked: work behind the imports failed. */
  | { readonly type: 'background-failed'; readonly cause: string }
  | {
      readonly type: 'failed';
      readonly reason: 'unreadable' | 'cancelled' | 'storage-full' | 'storage-unusable' | 'internal';
      readonly sentence: string;
      readonly advice: string;
    };
