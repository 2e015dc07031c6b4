import type { EpochMs, ExchangeIndex, Kind, PageId, Party, Phases, Source } from '../model';

/**
 * The compact form of an exchange, in the context of its capture: all that lists, charts and sums need, without headers
 * and bodies. Times are in ms, `startMs` since the page's start (negative where it started before).
 */
export interface ExchangeRow {
  readonly index: ExchangeIndex;
  readonly pageId: PageId | undefined;
  /** True where the recorder named no page and the page in force at its start was taken. */
  readonly pageInferred: boolean;
  readonly method: string;
  readonly url: string;
  readonly host: string;
  readonly status: number | undefined;
  readonly protocol: string | undefined;
  readonly kind: Kind;
  readonly kindEvidence: string;
  readonly source: Source;
  readonly sourceEvidence: string;
  readonly party: Party | undefined;
  readonly startedAt: EpochMs | undefined;
  readonly startMs: number | undefined;
  readonly timeMs: number | undefined;
  readonly phases: Phases;
  readonly wireBytes: number | undefined;
  readonly bodyBytes: number | undefined;
  readonly mimeType: string | undefined;
  /** Name of the GraphQL operation, where the payload holds one. */
  readonly operation: string | undefined;
  /** Why it failed; absent where it did not. */
  readonly failure: string | undefined;
}
