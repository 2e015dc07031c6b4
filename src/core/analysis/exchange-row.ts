import type { EpochMs, ExchangeIndex, Failure, Kind, PageId, Party, Phases, Source } from '../model';
import type { Holds, ParentEvidence } from '../timing';

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
  /** Of what a service worker fetched: the page's request that it answered with it. The two are one, seen twice. */
  readonly fetchedFor: ExchangeIndex | undefined;
  /** Of what a service worker answered: its own request for that over the network, where it made one. */
  readonly fetchedAs: ExchangeIndex | undefined;
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
  /** Hash of the payload, by which requests to one address are told apart; absent where none was recorded. */
  readonly payloadHash: number | undefined;
  /** A private cache may store the response (RFC 9111 3). */
  readonly isStorable: boolean;
  /** How long a stored response is fresh, in s (RFC 9111 4.2); absent where nothing says so, and where it may not be stored. */
  readonly freshSeconds: number | undefined;
  /** What a response that was sent as a success says went wrong; known once its body was read. */
  readonly errorInside: string | undefined;
  /** The rules that found something about it, one on each line; known once the capture was diagnosed. */
  readonly findings: string | undefined;
  /** How it failed; absent where it did not. */
  readonly failure: Failure | undefined;
  /** The connection's id, as the recorder names it. */
  readonly connection: string | undefined;
  /** What asked for it, by the best evidence there is; absent for the first document and where nothing tells. */
  readonly parent: ExchangeIndex | undefined;
  readonly parentEvidence: ParentEvidence | undefined;
  /** The exchange whose body names its address, where bodies were searched: often more telling than its parent. */
  readonly namedBy: ExchangeIndex | undefined;
  /** Of a preflight: the exchange that it was sent for. */
  readonly preflightFor: ExchangeIndex | undefined;
  /** The first milestone of its page that waits for it; absent where none does. */
  readonly holds: Holds | undefined;
  /** Steps of discovery from the page's document, which has 0; unknown where the chain leads to none. */
  readonly depth: number | undefined;
  /** Method, host and path with its varying segments as {}, and the GraphQL operation. */
  readonly endpoint: string;
  /** True where the load waited for it: it is a leg of its page's route. */
  readonly isOnRoute: boolean;
}
