import type { HarProblem } from '#core/har';
import type { BodyForm } from '../db/bodies';
import type { ImportOrder } from './import-order';
import type { ReadCapture, ReadingProgress } from './read-capture';

/** What the reading thread is started with. */
export interface ReaderData {
  readonly order: ImportOrder;
  /** The first element turns 1 to cancel. */
  readonly cancelFlag: SharedArrayBuffer;
  /** How many batches are under way to the writing thread, which counts down: the reading waits where it is too far ahead. */
  readonly ahead: SharedArrayBuffer;
}

/** An entry of a batch; its body lies in the batch's bytes. */
export interface BatchEntry {
  readonly place: number;
  readonly raw: string;
  readonly body: { readonly form: BodyForm; readonly at: number; readonly length: number } | undefined;
}

export type ReadFailure =
  | { readonly type: 'har'; readonly problem: HarProblem; readonly message: string }
  | { readonly type: 'cancelled' }
  | { readonly type: 'other'; readonly message: string; readonly stack: string | undefined; readonly code: unknown };

export type FromReader =
  | { readonly type: 'page'; readonly raw: string; readonly place: number }
  | { readonly type: 'entries'; readonly entries: readonly BatchEntry[]; readonly bodies: Uint8Array }
  | { readonly type: 'progress'; readonly progress: ReadingProgress }
  | { readonly type: 'read'; readonly read: ReadCapture }
  | { readonly type: 'failed'; readonly failure: ReadFailure };
