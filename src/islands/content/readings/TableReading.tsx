import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef, useState } from 'react';
import { findTables, type JsonTable, type JsonTree, tableCells } from '#core/json';
import { toCsv } from '#core/report';
import { formatCount, formatPlural } from '#core/wording';
import { CsvMark, csvFile } from '../../export/csv';
import { fileName, saveFile } from '../../export/save-file';
import { $place } from '../../state/address';
import { useOneTabStop } from '../../state/focus';
import { Choice } from '../../ui/Choice';
import { CopyButton } from '../../ui/CopyButton';
import { ReadingNote } from '../ReadingNote';
import type { JsonState } from '../use-json';

interface TableReadingProps {
  readonly json: Extract<JsonState, { readonly state: 'there' }>;
  readonly name: string;
  /** It is of an exchange, whose draft can write it; so it is unless said otherwise. */
  readonly isOfExchange?: boolean;
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

/**
 * An array of objects as a table: columns from nested fields, sorted by a press of their heads, to be had as CSV.
 * Long because the columns, their order and the cells on screen follow from one another.
 */
export function TableReading({ json, name, isOfExchange = true }: TableReadingProps) {
  const { tree } = json;
  const choices = useMemo(() => findTables(tree), [tree]);
  const [chosen, setChosen] = useState(0);
  const [table, setTable] = useState<JsonTable | undefined>(undefined);
  const [order, setOrder] = useState<Order | undefined>(undefined);
  const [opened, setOpened] = useState<string>();
  const [hidden, setHidden] = useState<ReadonlySet<string>>(new Set());
  const node = choices[chosen]?.node;
  useEffect(() => {
    if (node === undefined) return;
    let isCurrent = true;
    setOrder(undefined);
    json.tableOf(node, opened).then((next) => {
      if (isCurrent) setTable(next);
    });
    return () => {
      isCurrent = false;
    };
  }, [json, node, opened]);
  if (node === undefined) return <ReadingNote>No array here contains objects.</ReadingNote>;
  if (table === undefined || table.node !== node) return <ReadingNote>Making the table</ReadingNote>;
  const shown = table.columns.flatMap((name, at) => (hidden.has(name) ? [] : [at]));
  const choose = (id: string): void => {
    setChosen(Number(id));
    setOpened(undefined);
    setHidden(new Set());
  };
  const sortBy = async (column: number): Promise<void> => {
    const isFalling = order?.column === column && !order.isFalling;
    setOrder({ column, isFalling, rows: await json.orderOf(table, column, isFalling) });
  };
  const csv = (): string => {
    const rows = order?.rows ?? Uint32Array.from({ length: table.rows }, (_, row) => row);
    return toCsv(
      shown.map((at) => table.columns[at] ?? ''),
      Array.from(rows, (row) => {
        const cells = tableCells(tree, table, row);
        return shown.map((at) => cells[at]);
      }),
    );
  };
  return (
    <div>
      <p className="mb-1 flex flex-wrap items-center gap-x-3 text-[12px] text-soft">
        <Choice
          label="Which array"
          value={String(chosen)}
          options={choices.map(({ path, rows }, at) => [String(at), `${path} (${formatPlural(rows, 'row')})`] as const)}
          onChoose={choose}
        />
        <span className="ml-auto flex flex-wrap items-center gap-x-3">
          <CsvMark />
          {isOfExchange ? (
            <button
              type="button"
              className="underline hover:text-ink"
              onClick={() => draftOfTable(choices[chosen]?.path)}
            >
              Generate code for this table
            </button>
          ) : null}
          <CopyButton label="Copy the table as CSV" text={csv}>
            copy as CSV
          </CopyButton>
          <button
            type="button"
            className="underline hover:text-ink"
            onClick={() => saveFile(fileName(name, 'csv'), csvFile(csv()))}
          >
            save as CSV
          </button>
        </span>
      </p>
      <Columns table={table} hidden={hidden} onHidden={setHidden} onOpened={setOpened} />
      <TableGrid tree={tree} table={table} shown={shown} order={order} onSort={sortBy} />
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

interface ColumnsProps {
  readonly table: JsonTable;
  readonly hidden: ReadonlySet<string>;
  readonly onHidden: (hidden: ReadonlySet<string>) => void;
  readonly onOpened: (opened: string | undefined) => void;
}

/** Which columns are shown, copied and saved, and whose lists get a row for each of their members. */
function Columns({ table, hidden, onHidden, onOpened }: ColumnsProps) {
  const { columns, lists, opened, leftOut } = table;
  const list = useOneTabStop<HTMLUListElement>('li');
  const shown = columns.filter((name) => !hidden.has(name)).length;
  const turn = (name: string): void => {
    const next = new Set(hidden);
    if (!next.delete(name)) next.add(name);
    onHidden(next);
  };
  return (
    <div className="mb-1 flex flex-wrap items-center gap-x-3 text-[12px] text-soft">
      <details>
        <summary className="min-h-6 cursor-pointer leading-6">
          {shown === columns.length
            ? formatPlural(shown, 'column')
            : `${formatCount(shown)} of ${formatPlural(columns.length, 'column')}`}
          {leftOut > 0 ? `, ${formatCount(leftOut)} more not shown` : ''}
        </summary>
        <p className="flex gap-3">
          <button type="button" className="min-h-6 underline" onClick={() => onHidden(new Set())}>
            all
          </button>
          <button type="button" className="min-h-6 underline" onClick={() => onHidden(new Set(columns))}>
            none
          </button>
        </p>
        <ul ref={list} aria-label="Columns" className="flex max-h-40 flex-wrap gap-x-4 overflow-y-auto">
          {columns.map((name) => (
            <li key={name}>
              <label className="flex min-h-6 items-center gap-1.5 font-mono">
                <input type="checkbox" checked={!hidden.has(name)} onChange={() => turn(name)} />
                {name}
              </label>
            </li>
          ))}
        </ul>
      </details>
      {lists.length === 0 ? null : (
        <Choice
          label="Which list gets a row for each of its members"
          before="a row for each"
          value={opened ?? ''}
          options={[['', 'of these'] as const, ...lists.map((name) => [name, `of ${name}`] as const)]}
          onChoose={(name) => onOpened(name === '' ? undefined : name)}
        />
      )}
    </div>
  );
}

interface TableGridProps {
  readonly tree: JsonTree;
  readonly table: JsonTable;
  /** The places of the columns that are shown. */
  readonly shown: readonly number[];
  readonly order: Order | undefined;
  readonly onSort: (column: number) => void;
}

/** Long because it is the markup of one table, head and rows on one scroll. */
function TableGrid({ tree, table, shown, order, onSort }: TableGridProps) {
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
            {shown.map((at) => (
              <th
                key={table.columns[at]}
                scope="col"
                aria-sort={order?.column !== at ? undefined : order.isFalling ? 'descending' : 'ascending'}
                className="whitespace-nowrap border-line border-l px-1.5 text-left font-semibold"
              >
                <button type="button" onClick={() => onSort(at)}>
                  {table.columns[at]}
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
            const cells = tableCells(tree, table, row);
            return (
              <tr
                key={item.key}
                aria-rowindex={item.index + 2}
                style={{ height: ROW_PX }}
                className="border-grid border-t"
              >
                <td className="px-1.5 text-right text-soft">{row}</td>
                {shown.map((at) => (
                  <td
                    key={table.columns[at]}
                    title={cells[at]}
                    className="max-w-60 truncate whitespace-nowrap border-grid border-l px-1.5"
                  >
                    {cells[at] === undefined ? <i className="text-soft">none</i> : cells[at].slice(0, CELL_CHARS)}
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
