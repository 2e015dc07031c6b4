import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef, useState } from 'react';
import { findTables, type JsonTable, type JsonTree, tableCells } from '#core/json';
import { toCsv } from '#core/report';
import { formatCount, formatPlural } from '#core/wording';
import { $place } from '../../state/address';
import { fileName, saveFile } from '../../takeaway/save-file';
import { Choice } from '../../ui/Choice';
import { CopyButton } from '../../ui/CopyButton';
import { ReadingNote } from '../ReadingNote';
import type { JsonState } from '../use-json';

interface TableReadingProps {
  readonly json: Extract<JsonState, { readonly state: 'there' }>;
  readonly name: string;
}

const ROW_PX = 20;
const MOST_HEIGHT_PX = 420;
const HEAD_PX = 24;
const CELL_CHARS = 120;

interface Order {
  readonly column: number;
  readonly isFalling: boolean;
  readonly rows: Uint32Array;
}

/** An array of objects as a table: columns from nested fields, sorted by a press of their heads, to be had as CSV. */
export function TableReading({ json, name }: TableReadingProps) {
  const { tree } = json;
  const choices = useMemo(() => findTables(tree), [tree]);
  const [chosen, setChosen] = useState(0);
  const [table, setTable] = useState<JsonTable | undefined>(undefined);
  const [order, setOrder] = useState<Order | undefined>(undefined);
  const node = choices[chosen]?.node;
  useEffect(() => {
    if (node === undefined) return;
    let isCurrent = true;
    setOrder(undefined);
    json.tableOf(node).then((next) => {
      if (isCurrent) setTable(next);
    });
    return () => {
      isCurrent = false;
    };
  }, [json, node]);
  if (node === undefined) return <ReadingNote>No array in it holds objects.</ReadingNote>;
  if (table === undefined || table.node !== node) return <ReadingNote>Making the table</ReadingNote>;
  const sortBy = async (column: number): Promise<void> => {
    const isFalling = order?.column === column && !order.isFalling;
    setOrder({ column, isFalling, rows: await json.orderOf(table, column, isFalling) });
  };
  const csv = (): string => {
    const rows = order?.rows ?? Uint32Array.from({ length: table.rows }, (_, row) => row);
    return toCsv(
      table.columns,
      Array.from(rows, (row) => tableCells(tree, table, row)),
    );
  };
  return (
    <div>
      <p className="mb-1 flex flex-wrap items-center gap-x-3 text-[12px] text-soft">
        <Choice
          label="Which array"
          value={String(chosen)}
          options={choices.map(({ path, rows }, at) => [String(at), `${path} (${formatPlural(rows, 'row')})`] as const)}
          onChoose={(id) => setChosen(Number(id))}
        />
        <span>
          {formatPlural(table.columns.length, 'column')}
          {table.leftOut > 0 ? `, ${formatCount(table.leftOut)} more are left out` : ''}
        </span>
        <span className="ml-auto flex gap-2">
          <button
            type="button"
            className="underline hover:text-ink"
            onClick={() => draftOfTable(choices[chosen]?.path)}
          >
            code that fetches it
          </button>
          <CopyButton label="Copy the table as CSV" text={csv}>
            copy as CSV
          </CopyButton>
          <button
            type="button"
            className="underline hover:text-ink"
            onClick={() => saveFile(fileName(name, 'csv'), new Blob([csv()], { type: 'text/csv' }))}
          >
            save as CSV
          </button>
        </span>
      </p>
      <TableGrid tree={tree} table={table} order={order} onSort={sortBy} />
    </div>
  );
}

/** A draft of the exchange that is open, set to write this array as CSV. */
async function draftOfTable(path: string | undefined): Promise<void> {
  const { exchange } = $place.get();
  const captureId = location.pathname.split('/')[2];
  if (exchange === undefined || captureId === undefined) return;
  const { openDraft } = await import('../../drafts/open-draft');
  await openDraft(captureId, exchange, { kind: 'table', list: path ?? '$' });
}

interface TableGridProps {
  readonly tree: JsonTree;
  readonly table: JsonTable;
  readonly order: Order | undefined;
  readonly onSort: (column: number) => void;
}

function TableGrid({ tree, table, order, onSort }: TableGridProps) {
  const scroller = useRef<HTMLElement>(null);
  const virtual = useVirtualizer({
    count: table.rows,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_PX,
    overscan: 8,
  });
  const items = virtual.getVirtualItems();
  const aboveShown = items[0]?.start ?? 0;
  const belowShown = virtual.getTotalSize() - (items.at(-1)?.end ?? 0);
  return (
    <section
      ref={scroller}
      aria-label="Table"
      tabIndex={0}
      style={{ height: Math.min(MOST_HEIGHT_PX, table.rows * ROW_PX + HEAD_PX + 14) }}
      className="overflow-auto border border-line bg-paper"
    >
      <table aria-rowcount={table.rows + 1} className="border-collapse font-mono text-[12px]">
        <thead className="sticky top-0 bg-sheet">
          <tr style={{ height: HEAD_PX }}>
            <th scope="col" className="px-1.5 text-right font-normal text-soft">
              row
            </th>
            {table.columns.map((column, at) => (
              <th
                key={column}
                scope="col"
                aria-sort={order?.column !== at ? undefined : order.isFalling ? 'descending' : 'ascending'}
                className="whitespace-nowrap border-line border-l px-1.5 text-left font-semibold"
              >
                <button type="button" onClick={() => onSort(at)}>
                  {column}
                  {order?.column !== at ? '' : order.isFalling ? ' ↓' : ' ↑'}
                </button>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {aboveShown > 0 ? <tr style={{ height: aboveShown }} /> : null}
          {items.map((item) => {
            const row = order?.rows[item.index] ?? item.index;
            return (
              <tr
                key={item.key}
                aria-rowindex={item.index + 2}
                style={{ height: ROW_PX }}
                className="border-grid border-t"
              >
                <td className="px-1.5 text-right text-soft">{row}</td>
                {tableCells(tree, table, row).map((cell, at) => (
                  // The columns never change their order.
                  <td
                    key={table.columns[at]}
                    title={cell}
                    className="max-w-60 truncate whitespace-nowrap border-grid border-l px-1.5"
                  >
                    {cell === undefined ? <i className="text-soft">none</i> : cell.slice(0, CELL_CHARS)}
                  </td>
                ))}
              </tr>
            );
          })}
          {belowShown > 0 ? <tr style={{ height: belowShown }} /> : null}
        </tbody>
      </table>
    </section>
  );
}
