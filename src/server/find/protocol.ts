import type { FindQuery, Hit } from '#core/find';

/** What a finding thread is started with. */
export interface FindWorkerData {
  readonly dataFolder: string;
}

/** The share of a capture that one thread searches: of its blocks of exchanges, in the order of the file, every so-many-th. */
export interface Share {
  readonly part: number;
  readonly of: number;
}

export const WHOLE: Share = { part: 0, of: 1 };

/** Exchanges of a block: few enough that the first hits come at once, so many that a message is worth it. */
export const BLOCK = 32;

export interface ToFindWorker {
  readonly captureId: string;
  readonly query: FindQuery;
  readonly share: Share;
}

/** A block that was searched: its number from 0, the place behind its last exchange, and what was found. */
export interface FoundBlock {
  readonly block: number;
  readonly searched: number;
  readonly hits: readonly Hit[];
}

export type FromFindWorker =
  | { readonly type: 'found'; readonly blocks: readonly FoundBlock[] }
  /** `rest` was found in the block in which the search broke off. */
  | { readonly type: 'ended'; readonly problem: string | undefined; readonly rest: readonly Hit[] };
