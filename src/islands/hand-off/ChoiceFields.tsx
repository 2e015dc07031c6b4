import { type FormEvent, useId, useState } from 'react';
import type { ExchangeRow } from '#core/analysis';
import { groupBy } from '#core/collections';
import { type HandOffChoice, OwnWordError, readOwnWord } from '#core/redact';
import { formatPlural } from '#core/wording';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { BODY_WAYS, bodyWayOf, withBodies } from './choices';

interface FieldsProps {
  readonly choice: HandOffChoice;
  readonly change: (change: (choice: HandOffChoice) => HandOffChoice) => void;
}

/** Own words, and regular expressions, that are inked out wherever they stand; and what was pointed at. */
export function OwnWords({ choice, change }: FieldsProps) {
  const [text, setText] = useState('');
  const [problem, setProblem] = useState<string>();
  const id = useId();
  const add = (event: FormEvent): void => {
    event.preventDefault();
    try {
      readOwnWord(text);
    } catch (error) {
      if (!(error instanceof OwnWordError)) throw error;
      setProblem(error.message);
      return;
    }
    setProblem(undefined);
    setText('');
    change((before) => ({ ...before, words: [...before.words.filter((word) => word !== text), text] }));
  };
  return (
    <form onSubmit={add}>
      <label htmlFor={id} className="text-soft">
        A name, an order number; or /an expression/
      </label>
      <p className="mt-1 flex gap-2">
        <input
          id={id}
          value={text}
          onChange={({ target }) => setText(target.value)}
          aria-invalid={problem !== undefined}
          className="h-7 min-w-0 flex-1 border border-line bg-sheet px-2 font-mono text-[13px]"
        />
        <Button isSubmit>Ink out</Button>
      </p>
      {problem === undefined ? null : (
        <p role="alert" className="mt-1 text-failed">
          {problem}
        </p>
      )}
      <Words
        words={choice.words}
        onDrop={(word) => change((before) => ({ ...before, words: before.words.filter((one) => one !== word) }))}
      />
      <Words
        words={choice.pointed}
        onDrop={(word) => change((before) => ({ ...before, pointed: before.pointed.filter((one) => one !== word) }))}
      />
    </form>
  );
}

interface WordsProps {
  readonly words: readonly string[];
  readonly onDrop: (word: string) => void;
}

function Words({ words, onDrop }: WordsProps) {
  return (
    <ul className="mt-1">
      {words.map((word) => (
        <li key={word} className="flex items-baseline gap-2 border-grid border-b py-0.5">
          <span className="min-w-0 flex-1 truncate font-mono text-[12.5px]" title={word.slice(0, 300)}>
            {word}
          </span>
          <button
            type="button"
            aria-label={`Delete the word ${word.slice(0, 40)}`}
            onClick={() => onDrop(word)}
            className="text-[12px] text-soft underline hover:text-ink"
          >
            delete
          </button>
        </li>
      ))}
    </ul>
  );
}

/** What becomes of the bodies, kind by kind of the exchanges that leave. */
export function Bodies({ choice, change, rows }: FieldsProps & { readonly rows: readonly ExchangeRow[] }) {
  return (
    <ul>
      {[...groupBy(rows, ({ kind }) => kind)].map(([kind, own]) => (
        <li key={kind} className="flex items-baseline gap-2 border-grid border-b py-0.5">
          <span className="flex-1">
            {kind} <span className="text-soft">{formatPlural(own.length, 'exchange')}</span>
          </span>
          <Choice
            label={`Bodies of kind ${kind}`}
            value={bodyWayOf(choice, kind)}
            options={BODY_WAYS}
            onChoose={(way) => change((before) => withBodies(before, kind, way))}
          />
        </li>
      ))}
    </ul>
  );
}
