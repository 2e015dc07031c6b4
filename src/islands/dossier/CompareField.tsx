import { useState } from 'react';
import type { ExchangeRow } from '#core/analysis';
import { writeExchangeName } from '../compare/load-name';
import { goTo } from '../state/address';
import { Button } from '../ui/Button';

interface CompareFieldProps {
  readonly captureId: string;
  readonly index: number;
  /** All exchanges of the capture. */
  readonly rows: readonly ExchangeRow[];
}

/** Takes the number of any other exchange, to compare this one with it. */
export function CompareField({ captureId, index, rows }: CompareFieldProps) {
  const [problem, setProblem] = useState<string>();
  return (
    <form
      className="mt-2 flex flex-wrap items-center gap-2 text-[13px]"
      onSubmit={(event) => {
        event.preventDefault();
        const typed = String(new FormData(event.currentTarget).get('against')).trim().replace(/^#/, '');
        const other = rows.find((row) => String(row.index) === typed)?.index;
        if (other !== undefined && other !== index) {
          setProblem(undefined);
          goTo({ against: other });
        } else if (typed === '') setProblem('Type the number of the other exchange.');
        else
          setProblem(other === index ? `#${index} is this exchange.` : `There is no exchange ${typed.slice(0, 20)}.`);
      }}
    >
      <label className="flex items-center gap-2">
        Compare with exchange number
        <input
          name="against"
          inputMode="numeric"
          autoComplete="off"
          className="h-7 w-16 border border-soft bg-paper px-2 font-mono"
        />
      </label>
      <Button isSubmit>Compare</Button>
      <a
        href={`/compare?${new URLSearchParams({ one: writeExchangeName(captureId, index), other: '' })}`}
        className="text-soft underline hover:text-ink"
      >
        with another capture's, or what is pasted
      </a>
      {problem === undefined ? null : (
        <span role="alert" className="text-failed">
          {problem}
        </span>
      )}
    </form>
  );
}
