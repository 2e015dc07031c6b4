import type { ExchangeRow } from '../analysis';
import type { ChangedResponse, RequestDifference, RequestVerdict, TimeFactor } from '../rehearse';

// The shapes of rehearsals, between the server, its threads and the page.

/** How a rehearsal is to go. */
export interface RehearsalOrder {
  /** The numbers of the exchanges that are played; all of the capture where absent. */
  readonly places?: readonly number[];
  readonly time: TimeFactor;
  /** The captured hosts are at addresses of the rehearsal, also in what is given; else all is given byte for byte. */
  readonly rewrites: boolean;
  /** What nothing fits is sent to the real host. */
  readonly forwards: boolean;
  readonly isSecure: boolean;
  /** Tokens, cookies and what is new each time have to be the same, too. */
  readonly isExact: boolean;
  readonly changes: readonly ChangedResponse[];
}

/** What a request to a rehearsal was taken for, and what came of it. */
export interface AskedNotes {
  /** The captured exchange whose response was given; or that came nearest, where none was. */
  readonly taken: number | undefined;
  readonly fits: 'fits' | 'none' | 'refused' | 'forwarded' | 'allowed';
  readonly verdict: RequestVerdict | undefined;
  /** How it compares with the captured request, or why nothing was given. */
  readonly sentence: string;
  readonly differences: readonly RequestDifference[];
  /** What of the response is not as captured. */
  readonly remarks: readonly string[];
  /** Which of those that fit alike it was, from 1, of how many. */
  readonly turn?: number;
  readonly of?: number;
  /** The request's head as it arrived, byte for byte, one to a character. */
  readonly head: string;
  /** The beginning of its payload as it arrived, byte for byte, one to a character; and how long all of it was. */
  readonly payload?: { readonly text: string; readonly bytes: number } | undefined;
}

/** A request as a rehearsal tells of it. */
export interface AskedExchange extends AskedNotes {
  readonly number: number;
  readonly row: ExchangeRow;
}

export interface Rehearsal {
  readonly id: string;
  readonly captureId: string;
  readonly order: RehearsalOrder;
  readonly status: 'running' | 'stopped';
  /** Absent until it listens, and once it is stopped. */
  readonly port?: number;
  /** Where each captured host is found, those that were asked most first. */
  readonly addresses: readonly { readonly captured: string; readonly local: string }[];
  /** The page's own address in it, where there is one. */
  readonly pageUrl?: string;
  /** Of TLS: what a client has to trust, in PEM. */
  readonly certificate?: string;
  /** Milliseconds since 1970. */
  readonly startedAt: number;
  readonly asked: number;
  /** Requests that nothing fitted. */
  readonly missed: number;
  /** Requests that came faster than they could be kept, or after as many as are kept. */
  readonly notKept: number;
  /** Why it stopped by itself. */
  readonly problem?: string;
}

/** A rehearsal with what it was asked behind a number. */
export interface RehearsalSeen {
  readonly rehearsal: Rehearsal;
  readonly asked: readonly AskedExchange[];
}

/** Responses changed under a name: "no beds", "slow". */
export interface ResponseVariant {
  readonly id: string;
  readonly name: string;
  readonly changes: readonly ChangedResponse[];
}
