import type { StorageTrouble } from '../db/trouble';
import type { Imported, ImportOrder, ReadingProgress } from './import-file';
import type { UnpackedMember } from './unpack';

/** What the ingest worker is started with. The flag's first element turns 1 to cancel the running import. */
export interface WorkerData {
  readonly dataFolder: string;
  readonly cancelFlag: SharedArrayBuffer;
}

export type ToWorker =
  | { readonly type: 'import'; readonly order: ImportOrder }
  | { readonly type: 'unzip'; readonly path: string }
  | { readonly type: 'tidy'; readonly deletedBefore: number }
  /** Somebody waits for this capture's findings: it comes before the others. */
  | { readonly type: 'hasten'; readonly captureId: string }
  | { readonly type: 'close' };

export type FromWorker =
  | { readonly type: 'progress'; readonly progress: ReadingProgress }
  | { readonly type: 'done'; readonly imported: Imported }
  | { readonly type: 'unzipped'; readonly members: readonly UnpackedMember[] }
  | { readonly type: 'tidied' }
  /** Unasked: a capture's findings are there. */
  | { readonly type: 'diagnosed'; readonly captureId: string }
  | { readonly type: 'background-failed'; readonly cause: string; readonly trouble: StorageTrouble | undefined }
  | {
      readonly type: 'failed';
      readonly reason: 'unreadable' | 'cancelled' | 'storage-full' | 'storage-unusable' | 'internal';
      readonly sentence: string;
      readonly advice: string;
    };
