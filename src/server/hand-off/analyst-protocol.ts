import type { CaptureOverview, ExchangeRow } from '#core/analysis';
import type { FoundInCapture } from '#core/diagnose';
import type { PackedRows } from '#core/wire';
import type { Input } from '../capture-file';

/** What an analysis says of a capture. */
export interface Analysis {
  readonly rows: readonly ExchangeRow[];
  readonly overview: CaptureOverview;
  readonly found: FoundInCapture;
}

/** A file as it lies there: what is done to entries while they are read cannot be told to a thread. */
export type AnalystInput = Omit<Input, 'change'>;

export interface ToAnalyst {
  readonly question: number;
  readonly input: AnalystInput;
}

export interface FromAnalyst {
  readonly question: number;
  readonly rows: PackedRows;
  readonly overview: CaptureOverview;
  readonly found: FoundInCapture;
}
