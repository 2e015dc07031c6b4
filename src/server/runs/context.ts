import type { Exchange } from '#core/model';
import type { KeptDraft } from '#core/sheet';
import type { HeldResponse } from '#core/trial';
import type { RunResult, RunStep } from '#core/wire';
import type { Heard, Sender } from './sender';

/** What a run has to do with: the draft, what it was captured as, and where what it sends is kept. */
export interface RunContext {
  readonly kept: KeptDraft;
  readonly captured: Exchange | undefined;
  readonly sender: Sender;
  /** What was known when it was last written: a run that is gone on with begins there. */
  readonly result: RunResult;
  /** Responses of its steps so far, in order; read one at a time. */
  readonly stored: (number: number) => HeldResponse | undefined;
  readonly sent: number;
  /** Keeps a step and what is known behind it. */
  readonly keep: (
    heard: Heard,
    step: Omit<RunStep, 'number' | 'sentAt'>,
    result: RunResult,
    sentence: string,
  ) => Promise<void>;
  /** Keeps what is known where nothing was sent for it. */
  readonly know: (result: RunResult, sentence: string) => Promise<void>;
}
