import type { ExchangeRow } from '../analysis';
import type { LoopFields, TargetId } from '../convert';
import type { GrowState, SeriesState } from '../series';
import type { PackedKeptDraft } from '../sheet';
import type { SendQuestion } from './trials';

// The shapes of runs, which send a draft many times: between the server and the page.

/** What sends a draft many times. */
export const RUN_KINDS = ['trim', 'series', 'grow', 'watch'] as const;
export type RunKind = (typeof RUN_KINDS)[number];

/** What is to be done. */
export type RunOrder =
  | {
      readonly kind: 'trim';
      /** What the response has to stay like. */
      readonly measure: 'captured' | 'now';
      /** The trimmed request is for the client of this target. */
      readonly target?: TargetId;
      readonly mostSends: number;
    }
  /** @property atOnce how many requests are under way at once, where they are known before the response before them */
  | { readonly kind: 'series'; readonly loop: LoopFields; readonly atOnce: number }
  | { readonly kind: 'grow'; readonly parameter: string; readonly list: string }
  | { readonly kind: 'watch'; readonly until: string; readonly everyMs: number; readonly mostSends: number };

/** What a trim knows by now. */
export interface TrimResult {
  /** The sheet with what is known to be unneeded left out. */
  readonly text: string;
  /** Parts that are needed, by their keys, each with its reason. */
  readonly needed: readonly { readonly key: string; readonly name: string; readonly reason: string }[];
  readonly leftOut: readonly string[];
  readonly isProven: boolean;
}

/** What a watch knows by now. */
export interface WatchResult {
  readonly isMet: boolean;
  /** What it is about: "$.price". */
  readonly subject: string;
  readonly last?: string;
}

/** What a run knows by now. */
export interface RunResult {
  readonly trim?: TrimResult;
  readonly series?: SeriesState;
  readonly grow?: GrowState;
  readonly watch?: WatchResult;
  /** The draft does not get what was captured: it has to be said which is the measure. */
  readonly asksMeasure?: true;
  readonly question?: SendQuestion;
}

export interface Run {
  readonly id: string;
  readonly draft: string;
  readonly order: RunOrder;
  readonly status: 'running' | 'paused' | 'ended';
  /** What it came to, or how far it is, in a sentence. */
  readonly sentence: string;
  /** Milliseconds since 1970. */
  readonly startedAt: number;
  readonly endedAt?: number;
  readonly sends: number;
  readonly result: RunResult;
}

/** One request that a run sent, and what came of it. */
export interface RunStep {
  readonly number: number;
  readonly sentAt: number;
  readonly row: ExchangeRow;
  /** What it sent: what was left out, or the value that it had. */
  readonly label: string;
  readonly sentence: string;
  /** The response is the same, or what was waited for; it is not; there was none to tell. */
  readonly verdict: 'good' | 'other' | 'none';
  /** Rows of a series that it brought. */
  readonly rows?: number;
  /** What a watch saw. */
  readonly value?: string;
}

/** A run with its steps behind a number. */
export interface RunSeen {
  readonly run: Run;
  readonly steps: readonly RunStep[];
}

export type RunAnswer =
  | { readonly type: 'question'; readonly question: SendQuestion }
  | { readonly type: 'started'; readonly run: Run };

/** A run to be begun: the draft as it is now, and what to do with it. */
export interface RunBegin {
  readonly kept: PackedKeptDraft;
  readonly order: RunOrder;
}
