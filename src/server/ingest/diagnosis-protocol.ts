import type { StorageTrouble } from '../db/trouble';

/** What the diagnosing thread is started with. It rests while the first element is not 0: an import is read then. */
export interface DiagnosisData {
  readonly dataFolder: string;
  readonly pause: SharedArrayBuffer;
}

export type ToDiagnosis =
  /** There may be something to diagnose. */
  | { readonly type: 'look' }
  /** Somebody waits for this capture's findings: it comes before the others. */
  | { readonly type: 'hasten'; readonly captureId: string }
  | { readonly type: 'close' };

export type FromDiagnosis =
  /** A capture's findings are there. */
  | { readonly type: 'diagnosed'; readonly captureId: string }
  | { readonly type: 'failed'; readonly cause: string; readonly trouble: StorageTrouble | undefined }
  /** Nothing is left to do. */
  | { readonly type: 'idle' };
