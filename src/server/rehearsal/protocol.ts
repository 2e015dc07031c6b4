import type { RehearsalOrder } from '#core/wire';
import type { AskedRecord } from './rehearsal-server';

/** What a thread of a rehearsal is started with. */
export interface RehearsalWorkerData {
  readonly dataFolder: string;
  readonly captureId: string;
  readonly order: RehearsalOrder;
}

/** Where a rehearsal is found, as its thread tells it. */
export interface Begun {
  readonly port: number;
  readonly addresses: readonly { readonly captured: string; readonly local: string }[];
  readonly pageUrl: string | undefined;
  readonly certificate: string | undefined;
}

/** What was asked since the last message; more requests than can be kept are counted. */
export interface AskedBatch {
  readonly records: readonly AskedRecord[];
  readonly asked: number;
  readonly missed: number;
  readonly notKept: number;
}

export type FromRehearsalWorker =
  | ({ readonly type: 'listening' } & Begun)
  | ({ readonly type: 'asked' } & AskedBatch)
  | { readonly type: 'failed'; readonly sentence: string }
  | { readonly type: 'ended' };

export type ToRehearsalWorker = { readonly does: 'stop' } | { readonly does: 'rewind' };
