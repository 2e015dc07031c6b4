import { useStore } from '@nanostores/react';
import { atom } from 'nanostores';

/** Whether files of CSV begin with a byte order mark, by which spreadsheets know that they are UTF-8. */
const $hasMark = atom(false);
const MARK = '\ufeff';

/** CSV as a file, as it was asked for. */
export const csvFile = (csv: string): Blob => new Blob([$hasMark.get() ? MARK + csv : csv], { type: 'text/csv' });

/** Asks for the mark. */
export function CsvMark() {
  const hasMark = useStore($hasMark);
  return (
    <label
      className="flex min-h-6 items-center gap-1.5"
      title="Spreadsheets know by it that the file is UTF-8; most other programs want none."
    >
      <input type="checkbox" checked={hasMark} onChange={({ target: { checked } }) => $hasMark.set(checked)} />
      CSV with a byte order mark
    </label>
  );
}
