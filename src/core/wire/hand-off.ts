import type { HandOffChoice, KindCount, ProofLine, Secret } from '../redact';
import type { ProblemAnswer } from './messages';

/** A secret as it is listed: how often it was replaced, and in which exchanges; of one that was left only where it was first. */
export interface ListedSecret extends Secret {
  readonly count: number;
  readonly places: readonly number[];
}

/** What is to leave of a capture. */
export interface HandOffOrder {
  readonly choice: HandOffChoice;
  /** Places of its exchanges; all of them where there are none. */
  readonly places?: readonly number[];
}

/** What was made to leave, with its proof. It can be saved only where everything in the proof holds. */
export interface MadeHandOff {
  readonly id: string;
  /** What the file may be called: no secret of the capture's name is in it. */
  readonly name: string;
  readonly bytes: number;
  /** The first of them; `counts` counts all. */
  readonly replaced: readonly ListedSecret[];
  readonly left: readonly ListedSecret[];
  readonly counts: { readonly replaced: readonly KindCount[]; readonly left: readonly KindCount[] };
  /** What is said of bodies that were not read. */
  readonly unread: string | undefined;
  /** In how many places something was inked out in each exchange that had something: its number, and the count. */
  readonly inked: readonly (readonly [number, number])[];
  readonly proof: readonly ProofLine[];
}

export const HAND_OFF_PHASES = ['finding', 'writing', 'proving'] as const;

/** How making a hand-off goes, as the page is told while it goes on. */
export type HandOffProgress =
  | { readonly type: 'progress'; readonly phase: (typeof HAND_OFF_PHASES)[number]; readonly share: number }
  | { readonly type: 'made'; readonly made: MadeHandOff }
  | { readonly type: 'failed'; readonly problem: ProblemAnswer };

/** How a report goes. Its text may leave only where everything in the proof holds. */
export type ReportProgress =
  | { readonly type: 'progress'; readonly phase: (typeof HAND_OFF_PHASES)[number]; readonly share: number }
  | {
      readonly type: 'written';
      readonly id: string;
      readonly text: string;
      readonly name: string;
      readonly proof: readonly ProofLine[];
    }
  | { readonly type: 'failed'; readonly problem: ProblemAnswer };
