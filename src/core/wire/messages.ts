import type { CaptureOverview, ExchangeRow } from '../analysis';
import type { BodyKind, Language, MissingBody, Shape } from '../content';
import type { Hit } from '../find';
import type { Exchange } from '../model';

// The shapes that cross between the server and the page.

/** A capture as the shelf shows it. */
export interface CaptureCard {
  readonly id: string;
  readonly name: string;
  readonly fileBytes: number;
  /** Milliseconds since 1970. */
  readonly importedAt: number;
  readonly utcOffsetMinutes: number | undefined;
  readonly recorder: string | undefined;
  readonly browser: string | undefined;
  /** What its owner wrote about it; empty where nothing. */
  readonly note: string;
  readonly overview: CaptureOverview;
  /** The diagnosis behind the import has ended: the overview's sentence says what the load waited for. */
  readonly isDiagnosed: boolean;
}

/** What became of a capture: on the shelf now, there already, or, one of several in a zip, not to be read. */
export type ImportResult =
  | { readonly type: 'imported'; readonly id: string; readonly name: string; readonly exchanges: number }
  | { readonly type: 'duplicate'; readonly id: string; readonly name: string }
  | { readonly type: 'unreadable'; readonly name: string; readonly sentence: string; readonly advice: string };

/** Where an upload stands, as the server tells it while it goes on. */
export type ImportProgress =
  | { readonly phase: 'receiving'; readonly receivedBytes: number }
  | { readonly phase: 'waiting' }
  | { readonly phase: 'reading'; readonly readBytes: number; readonly totalBytes: number; readonly exchanges: number }
  | { readonly phase: 'ended' };

/** How a search goes: what was found since the last message, how many exchanges were searched; then its end. */
export type FindProgress =
  | { readonly type: 'found'; readonly hits: readonly Hit[]; readonly searched: number }
  | { readonly type: 'ended'; readonly isWhole: boolean; readonly problem: string | undefined };

/** What went wrong, for the person who must act on it. */
export interface ProblemAnswer {
  readonly code: string;
  readonly sentence: string;
  readonly advice: string;
}

/** A response body without its bytes: how to show it, how long it is, and the beginning of its text. */
export interface BodyView {
  readonly kind: BodyKind;
  /** What it is shown as; absent where there is none. */
  readonly shape: Shape | undefined;
  readonly language: Language | undefined;
  /** The name that it is saved under. */
  readonly fileName: string;
  /** Why it is not there; absent where it is. */
  readonly missing: MissingBody | undefined;
  readonly mimeType: string | undefined;
  readonly byteLength: number | undefined;
  /** The coding that the recorder had left in and that was taken off. */
  readonly unpackedFrom: string | undefined;
  /** The type whose charset the bytes have; absent where they are UTF-8 whatever the type says. */
  readonly charsetType: string | undefined;
  /** Decoded text for kinds that are text; absent for the others. */
  readonly text: string | undefined;
  /** True where `text` stops before the body does. */
  readonly isCut: boolean;
}

/** Everything about one exchange; its body's text is in `body`, not in the exchange. */
export interface ExchangeDossier {
  readonly row: ExchangeRow;
  readonly exchange: Exchange;
  readonly body: BodyView;
}
