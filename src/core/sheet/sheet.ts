import type { DraftPayload } from '../convert';

/** How a payload is laid out on the sheet; what is sent is worked out from it. */
export type LayoutId = 'plain' | 'json' | 'fields' | 'parts' | 'bytes' | 'file' | 'unrecorded';

/** Bytes that stand on a sheet by their name: they are no text. */
export interface Attachment {
  readonly key: string;
  readonly bytes: Uint8Array;
}

/** A request as one text, and how its payload is laid out there. */
export interface Sheet {
  readonly text: string;
  readonly layout: LayoutId;
  /** All bytes that were attached, also those of lines that are left out. */
  readonly attachments: readonly Attachment[];
}

/** What is in front of a line that is left out. No line of a captured request begins so: see `write`. */
export const STRUCK = '✗ ';

export const isStruck = (line: string): boolean => line.startsWith(STRUCK);
export const unstruck = (line: string): string => (isStruck(line) ? line.slice(STRUCK.length) : line);

/** What is wrong on a sheet, where, and what to do about it. Offsets are of the sheet's text. */
export interface SheetProblem {
  readonly from: number;
  readonly to: number;
  readonly sentence: string;
  /** The request cannot be sent as long as it is so; others go out, and are only told of. */
  readonly bars: boolean;
}

/** A line with its place in the text. */
export interface PlacedLine {
  readonly number: number;
  readonly from: number;
  readonly text: string;
}

/** What a layout makes of the payload's lines. */
export interface LayoutRead {
  readonly payload: DraftPayload;
  readonly problems: readonly SheetProblem[];
}

/** How payloads are laid out: one file each in layouts/, all listed there. */
export interface Layout {
  readonly id: LayoutId;
  /** What the margin says of such a payload. */
  readonly label: string;
  /** Its lines may be struck through one by one. */
  readonly canStrike: boolean;
  /** The payload's text on the sheet; undefined where it cannot be laid out so and come back as it was. */
  readonly write: (payload: DraftPayload, contentType: string) => string | undefined;
  /** The payload that its lines say, with the bytes of what stands there by its name. */
  readonly read: (lines: readonly PlacedLine[], attachments: readonly Attachment[]) => LayoutRead;
}
