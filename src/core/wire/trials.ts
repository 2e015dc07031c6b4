import type { ExchangeRow } from '../analysis';
import type { Variable } from '../convert';
import type { NameValue } from '../model';
import type { LayoutId, SharedVariable, TakenFrom } from '../sheet';
import type { PlaceDifference } from '../trial';
import type { ProblemAnswer } from './messages';

// The shapes of trials that cross between the server and the page.

/** How a trial's response stands to the captured one. */
export type TrialVerdict = 'same' | 'same-but' | 'differs' | 'none' | 'unmeasured';

/** What is kept of a trial beside its exchange. */
export interface TrialNotes {
  readonly verdict: TrialVerdict;
  /** What it came to, in a sentence. */
  readonly sentence: string;
  /** What was changed against the trial before, or against the captured request; "unchanged" where nothing. */
  readonly changed: string;
  /** The address that it went to; absent where none was reached. */
  readonly address?: string;
  /** The cookies that it sets, as the next request would send them. */
  readonly setsCookies?: readonly NameValue[];
  /** The names of those that it ends. */
  readonly endsCookies?: readonly string[];
  /** Where a redirect leads, as a whole address. */
  readonly leadsTo?: string;
  /** What could not be sent as the sheet says, and what became of the response. */
  readonly remarks: readonly string[];
}

/** One sending of a draft. */
export interface Trial extends TrialNotes {
  readonly number: number;
  /** Milliseconds since 1970. */
  readonly sentAt: number;
  readonly row: ExchangeRow;
  readonly note: string;
}

/** What is to be allowed before anything is sent, or what kept it from being sent. */
export interface SendQuestion {
  readonly about: 'unsafe' | 'private';
  readonly sentence: string;
}

/** What came of asking for a trial. */
export type TrialAnswer =
  | { readonly type: 'question'; readonly question: SendQuestion }
  | {
      readonly type: 'sent';
      readonly trial: Trial;
      /** Old trials that had to go for it. */
      readonly dropped: number;
      /** The capture's variables, where this response gave some of them another value. */
      readonly variables?: readonly SharedVariable[];
      /** Variables that are taken from this response, and that it had no value for. */
      readonly missing: readonly string[];
    };

/** How a trial goes, message by message: how much of the body has come, then how it ended. */
export type TrialProgress =
  | { readonly type: 'receiving'; readonly receivedBytes: number }
  | { readonly type: 'ended'; readonly answer: TrialAnswer }
  | { readonly type: 'failed'; readonly problem: ProblemAnswer };

/** Where the capture shows that a value came from: an exchange, and a place of its response. */
export interface ValueOrigin extends Omit<TakenFrom, 'draft'> {
  readonly exchange: number;
}

/** What is allowed with a press, for this draft alone. */
export interface SendLeave {
  readonly unsafe?: boolean;
  readonly private?: boolean;
  /** The host whose certificate is not checked. */
  readonly certificateOf?: string;
}

/** A difference between two responses, with the change of the request that it follows from. */
export interface HeldDifference extends PlaceDifference {
  readonly follows?: string;
}

/** What a trial's response is held against. */
export type Measure =
  | { readonly type: 'captured' }
  | { readonly type: 'trial'; readonly number: number }
  | { readonly type: 'exchange'; readonly number: number }
  | { readonly type: 'pasted'; readonly text: string };

/** A response held against another one. */
export interface Held {
  readonly sentence: string;
  readonly verdict: TrialVerdict;
  readonly differences: readonly HeldDifference[];
  /** There are more differences than are handed over. */
  readonly more: number;
}

/** A sheet as it was sent, with the values that its variables had. */
export interface SentSheet {
  readonly text: string;
  readonly layout: LayoutId;
  readonly attachments: readonly { readonly key: string; readonly base64: string }[];
  readonly variables: readonly Variable[];
}
