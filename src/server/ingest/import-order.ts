import type { ImportResult } from '#core/wire';
import type { ArchiveDamage } from './unpack';

export interface ImportOrder {
  readonly captureId: string;
  readonly path: string;
  readonly name: string;
  readonly sha256: string;
  readonly fileBytes: number;
  readonly now: number;
  /** Where the capture begins in the unpacked file, where others stand before it. */
  readonly fromByte?: number;
  /** What was wrong with the zip that the file came in. */
  readonly damage?: ArchiveDamage;
}

/** A capture that was read, and where another one begins behind it in the same file. */
export interface Imported {
  readonly result: ImportResult;
  readonly nextAtByte: number | undefined;
}
