import { useId, useState } from 'react';
import { nameBoth } from '#core/compare';
import { Button } from '../ui/Button';
import type { ShownPair } from './pairs';

interface MatchFieldProps {
  /** A pair that is on one side alone. */
  readonly pair: ShownPair;
  readonly pairs: readonly ShownPair[];
  readonly onMatch: (a: number, b: number) => void;
}

/** Takes the number of an exchange of the other side that this one is the same as. */
export function MatchField({ pair, pairs, onMatch }: MatchFieldProps) {
  const [problem, setProblem] = useState<string>();
  const listId = useId();
  const { a, b } = pair;
  const other = a === undefined ? 'A' : 'B';
  // What is on the other side alone is what one looks for first.
  const alone = pairs.filter((one) => (a === undefined ? one.b === undefined : one.a === undefined));
  const submit = (event: React.FormEvent<HTMLFormElement>): void => {
    event.preventDefault();
    const typed = String(new FormData(event.currentTarget).get('other')).trim().replace(/^#/, '');
    const found = pairs
      .map((one) => (a === undefined ? one.a : one.b))
      .find((row) => row !== undefined && String(row.index) === typed);
    if (found === undefined) {
      setProblem(
        typed === ''
          ? `Type the number of an exchange of ${other}.`
          : `${other} has no exchange ${typed.slice(0, 20)}.`,
      );
      return;
    }
    setProblem(undefined);
    if (a !== undefined) onMatch(a.index, found.index);
    else if (b !== undefined) onMatch(found.index, b.index);
  };
  return (
    <form onSubmit={submit} className="flex flex-wrap items-center gap-2">
      <label className="flex items-center gap-2">
        It is the same as exchange
        <input
          name="other"
          list={listId}
          inputMode="numeric"
          autoComplete="off"
          className="h-7 w-20 border border-soft bg-paper px-2 font-mono"
        />
        of {other}
      </label>
      <datalist id={listId}>
        {alone.slice(0, 100).map((one) => (
          <option key={one.key} value={(one.a ?? one.b)?.index}>
            {nameBoth(one.a, one.b)}
          </option>
        ))}
      </datalist>
      <Button isSubmit>Match these two</Button>
      {problem === undefined ? null : (
        <span role="alert" className="text-failed">
          {problem}
        </span>
      )}
    </form>
  );
}
