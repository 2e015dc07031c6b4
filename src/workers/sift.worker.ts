import { Columns, type ExtraColumns, evaluateSift, parseSift } from '#core/sift';
import { type PackedRows, unpackRows } from '#core/wire';

// Evaluates sifts with regular expressions away from the page: one that never ends is ended with this worker.

/** First the rows, once; then sifts, each with the columns that it needs beside the rows. */
export type ToSiftWorker =
  | { readonly type: 'rows'; readonly rows: PackedRows; readonly titles: ReadonlyMap<string, string> }
  | { readonly type: 'sift'; readonly text: string; readonly extra: ExtraColumns };

/** The mask of a sift, 1 or 0 for each row. */
export interface FromSiftWorker {
  readonly text: string;
  readonly mask: Uint8Array;
}

let columns: Columns | undefined;

addEventListener('message', ({ data }: MessageEvent<ToSiftWorker>) => {
  if (data.type === 'rows') {
    columns = new Columns(unpackRows(data.rows), data.titles, new Map());
    return;
  }
  const parsed = parseSift(data.text);
  if (columns === undefined || !parsed.ok) return;
  const answer: FromSiftWorker = { text: data.text, mask: evaluateSift(parsed.sift, columns.with(data.extra)) };
  postMessage(answer);
});
