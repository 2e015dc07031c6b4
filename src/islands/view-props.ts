import type { ExchangeRow } from '#core/analysis';
import type { CaptureCard } from '#core/wire';
import type { Found } from './capture/use-found';
import type { Shown } from './capture/use-shown';
import type { Place } from './state/address';

/** What every view of a capture is given; each takes what it needs. */
export interface ViewProps {
  readonly card: CaptureCard;
  readonly rows: readonly ExchangeRow[];
  readonly shown: Shown;
  readonly found: Found;
  /** What is looked at. Of a view that stays behind others, what was looked at when it was last shown. */
  readonly place: Place;
  readonly isShown: boolean;
}
