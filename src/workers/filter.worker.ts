import { Columns, type ComparedColumns, type ExtraColumns, evaluateFilter, parseFilter } from '#core/filter';
import { type PackedRows, unpackRows } from '#core/wire';

// Evaluates filters with regular expressions away from the page: one that never ends is ended with this worker.

/** First the rows, once; then filters, each with the columns that it needs beside the rows. */
export type ToFilterWorker =
  | {
      readonly type: 'rows';
      readonly rows: PackedRows;
      readonly titles: ReadonlyMap<string, string>;
      readonly compared: ComparedColumns | undefined;
    }
  | { readonly type: 'filter'; readonly text: string; readonly extra: ExtraColumns };

/** The mask of a filter, 1 or 0 for each row. */
export interface FromFilterWorker {
  readonly text: string;
  readonly mask: Uint8Array;
}

let columns: Columns | undefined;

addEventListener('message', ({ data }: MessageEvent<ToFilterWorker>) => {
  if (data.type === 'rows') {
    columns = new Columns(unpackRows(data.rows), data.titles, new Map(), data.compared);
    return;
  }
  const parsed = parseFilter(data.text);
  if (columns === undefined || !parsed.ok) return;
  const answer: FromFilterWorker = { text: data.text, mask: evaluateFilter(parsed.filter, columns.with(data.extra)) };
  postMessage(answer);
});
