import type { Shown } from '../capture/use-shown';
import type { ChartRow } from '../waterfall/layout';

/** A list of a view besides the exchanges themselves: endpoints, hits, findings. */
export interface ExportTable {
  /** What it lists, with how many: "25 endpoints". Names the file too, by its last word. */
  readonly what: string;
  readonly header: readonly string[];
  /** A row's cells in the order of the header; unknown is undefined. */
  readonly rows: () => readonly (readonly unknown[])[];
}

/** The waterfall, to be drawn as a picture. */
export interface ExportChart {
  readonly shown: Shown;
  readonly rows: readonly ChartRow[];
}

/** What came of the last thing that was exported. */
export interface Said {
  readonly text: string;
  readonly detail: string | undefined;
}
