import { useState } from 'react';
import { decodeText } from '#core/content';
import { columnsOf, typedColumn } from '#core/series';
import { formatCount } from '#core/wording';
import { UNREADABLE_FILE } from '../state/unreadable-file';
import { Choice } from '../ui/Choice';

export const LOOP_FIELD = 'border border-line bg-paper px-1 font-mono text-[12px] text-ink';

interface Table {
  readonly text: string;
  readonly columns: readonly string[];
  readonly chosen: string;
}

/** A choice among more of them is none. */
const MOST_COLUMNS = 1000;

/** The CSV file that was chosen, whose column becomes the values. */
function useTable(onValues: (values: string) => void) {
  const [table, setTable] = useState<Table>();
  const [problem, setProblem] = useState<string>();
  const choose = (text: string, columns: readonly string[], chosen: string): void => {
    const values = typedColumn(text, chosen);
    // None rather than those of another column.
    onValues('typed' in values ? values.typed : '');
    setTable({ text, columns, chosen });
    setProblem('problem' in values ? values.problem : undefined);
  };
  const read = async (file: File): Promise<void> => {
    try {
      const text = decodeText(new Uint8Array(await file.arrayBuffer()), 'text/plain');
      const columns = [...new Set(columnsOf(text))];
      if (columns.length <= MOST_COLUMNS) choose(text, columns, columns[0] ?? '');
      else setProblem(`Its first row names ${formatCount(columns.length)} columns: this seems to be no CSV file.`);
    } catch {
      setProblem(UNREADABLE_FILE);
    }
  };
  return { table, problem, read, choose };
}

/** Values as they are pasted, or from a column of a CSV file. */
export function ValuesField({
  values,
  onValues,
}: {
  readonly values: string;
  readonly onValues: (values: string) => void;
}) {
  const { table, problem, read, choose } = useTable(onValues);
  return (
    <span className="flex flex-wrap items-center gap-2 text-soft">
      <label className="flex items-center gap-1">
        values
        <textarea
          aria-label="Loop: values"
          placeholder="one a line, or with commas between"
          rows={2}
          value={values}
          onChange={({ target }) => onValues(target.value)}
          className={`w-48 ${LOOP_FIELD}`}
        />
      </label>
      <label className="flex items-center gap-1">
        or of a CSV file
        <input
          type="file"
          accept=".csv,text/csv,text/plain"
          aria-label="A CSV file with the values"
          onChange={({ target }) => {
            const file = target.files?.[0];
            if (file !== undefined) void read(file);
          }}
          className="w-40"
        />
      </label>
      {table === undefined ? null : (
        <Choice
          label="Column with the values"
          before="column"
          value={table.chosen}
          options={table.columns.map((column) => [column, column] as const)}
          onChoose={(column) => choose(table.text, table.columns, column)}
        />
      )}
      {problem === undefined ? null : (
        <span role="alert" className="text-failed">
          {problem}
        </span>
      )}
    </span>
  );
}
