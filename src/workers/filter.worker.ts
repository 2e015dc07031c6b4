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

/** That the rows are there, which take as long as there are many; then the mask of each filter, 1 or 0 for each row. */
export type FromFilterWorker = { readonly type: 'ready' } | { readonly type: 'mask'; readonly mask: Uint8Array };

let columns: Columns | undefined;

addEventListener('message', ({ data }: MessageEvent<ToFilterWorker>) => {
  if (data.type === 'rows') {
    columns = new Columns(unpackRows(data.rows), data.titles, new Map(), data.compared);
    post({ type: 'ready' });
    return;
  }
  const parsed = parseFilter(data.text);
  if (columns === undefined || !parsed.ok) return;
  post({ type: 'mask', mask: evaluateFilter(parsed.filter, columns.with(data.extra)) });
});

function post(message: FromFilterWorker): void {
  postMessage(message);
}
