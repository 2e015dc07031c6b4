import type { EpochMs, PageId } from './brand';

/** A named program with its version, as the capture's creator or browser. */
export interface ProgramName {
  readonly name: string;
  readonly version: string | undefined;
}

/** A moment of a page's load other than DOM ready and loaded, or one of these two, in ms since the page's start. */
export interface Milestone {
  readonly id: 'domReady' | 'loaded' | 'other';
  readonly label: string;
  readonly atMs: number;
}

export interface Page {
  readonly id: PageId;
  readonly title: string;
  readonly startedAt: EpochMs | undefined;
  readonly milestones: readonly Milestone[];
}

/** How far the reading came: whole, ended early at a byte of the file, or with damaged places that were left out. */
export type Completeness = ReadingOddities &
  (
    | { readonly type: 'whole' }
    | { readonly type: 'cut'; readonly atByte: number; readonly damagedEntries: number }
    | { readonly type: 'damaged'; readonly damagedEntries: number }
  );

/** What else was odd about the file; each is absent where it was not. */
export interface ReadingOddities {
  /** Entries that were not quite JSON and could be read all the same. */
  readonly mendedEntries?: number;
  /** Pages and fields of the log, as "log.pages[0]", that were not quite JSON and could be read all the same. */
  readonly mendedParts?: readonly string[];
  /** And those that could not, and are left out. */
  readonly lostParts?: readonly string[];
  /** What stands behind the capture's end, from a byte of the unpacked file on; it does not belong to the capture. */
  readonly behind?: { readonly atByte: number; readonly what: 'capture' | 'other' };
  /** The archive around it: its checksum does not fit what was unpacked, or it could not be unpacked to its end. */
  readonly archive?: 'checksum' | 'broken';
}

/** A recorded session but for its exchanges, which may be too many to hold at once: they come one by one. */
export interface Capture {
  readonly recorder: ProgramName | undefined;
  readonly browser: ProgramName | undefined;
  /** Offset of the recorded instants from UTC, in minutes east; unknown when no instant is readable. */
  readonly utcOffsetMinutes: number | undefined;
  readonly pages: readonly Page[];
  readonly completeness: Completeness;
}

/** When a milestone was reached, in ms since the page's start; unknown when the recorder never saw it. */
export const findMilestoneMs = (page: Page, id: 'domReady' | 'loaded'): number | undefined =>
  page.milestones.find((milestone) => milestone.id === id)?.atMs;
