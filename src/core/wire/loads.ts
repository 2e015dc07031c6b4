import type { ExchangeRow } from '../analysis';
import type { NextVisit } from '../cache';
import type { ExchangeComparison, ExchangeTraits } from '../compare';
import type { FoundInCapture } from '../diagnose';
import { type PackedTexts, packTexts } from './columns';
import type { CaptureCard } from './messages';

/** Traits by columns: values repeat from exchange to exchange. */
export interface PackedTraits {
  readonly priority: PackedTexts;
  readonly headers: readonly PackedTexts[];
  readonly bodyHash: PackedTexts;
}

/** A capture as a comparison needs it. */
export interface LoadAnswer {
  readonly card: CaptureCard;
  /** In the order of the capture's rows. */
  readonly traits: PackedTraits;
  /** Null while its bodies are still being read. */
  readonly found: FoundInCapture | null;
  /** What a visit so long after it, as was asked for, would do with each; null where that was not asked. */
  readonly foretold: readonly NextVisit[] | null;
}

export const packTraits = (traits: readonly ExchangeTraits[]): PackedTraits => ({
  priority: packTexts(traits.map(({ priority }) => priority)),
  headers: (traits[0]?.headers ?? []).map((_, at) => packTexts(traits.map(({ headers }) => headers[at]))),
  bodyHash: packTexts(traits.map(({ bodyHash }) => bodyHash)),
});

export function unpackTraits({ priority, headers, bodyHash }: PackedTraits): ExchangeTraits[] {
  const at = ({ values, codes }: PackedTexts, place: number): string | undefined => values[codes[place] ?? -1];
  return priority.codes.map((_, place) => ({
    priority: at(priority, place),
    headers: headers.map((column) => at(column, place)),
    bodyHash: at(bodyHash, place),
  }));
}

/** An exchange from anywhere: of a capture, a trial by its draft's id, or pasted. */
export type ExchangeFrom = { readonly capture: string; readonly place: number } | { readonly pasted: string };

/** One of two compared exchanges, for its head. */
export interface ComparedHead {
  /** What it is called: its number and name, or what it was pasted as. */
  readonly name: string;
  /** The capture that it is of; absent of what was pasted. */
  readonly captureName: string | undefined;
  readonly row: ExchangeRow | undefined;
  /** Its body can be shown as a picture. */
  readonly isPicture: boolean;
}

export interface ExchangesAnswer {
  readonly here: ComparedHead;
  readonly there: ComparedHead;
  readonly comparison: ExchangeComparison;
}
