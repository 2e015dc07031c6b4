import type { ReactNode } from 'react';
import {
  type FieldRef,
  type Filter,
  type NumberField,
  parseFilter,
  printField,
  printFilter,
  printValue,
  specOf,
  type TextField,
  toggleTerm,
} from '#core/filter';
import { $place, goTo } from '../state/address';
import { $typed } from './typed';

/** Adds a term to the filter that holds, or takes it away where it is there. One that cannot be read gives way to it. */
export function filterBy(term: Filter): void {
  const parsed = parseFilter($typed.get() ?? $place.get().filter);
  $typed.set(undefined);
  goTo({ filter: printFilter(toggleTerm(parsed.ok ? parsed.filter : { type: 'everything' }, term)) });
}

/** The term of a field's value; absence is a value too. */
export function termOf(field: FieldRef, value: string | undefined): Filter {
  const isPlain = value === undefined || specOf(field.name).type === 'number';
  const printed = isPlain ? (value ?? 'unknown') : printValue({ type: 'text', text: value });
  return termFrom(`${printField(field)} = ${printed}`);
}

/** A term from its text, which is known to be one. */
export function termFrom(text: string): Filter {
  const parsed = parseFilter(text);
  if (!parsed.ok) throw new Error(`"${text}" is not a filter`);
  return parsed.filter;
}

interface FilterValueProps {
  /** What the exchanges wanted have in common. */
  readonly term: Filter;
  readonly children: ReactNode;
}

/** A value with two small buttons, shown when it is pointed at or has the focus: only these, or all but these. */
export function FilterValue({ term, children }: FilterValueProps) {
  return (
    <span className="group/filter relative">
      {children}
      <span className="absolute bottom-0 left-full z-10 ml-1 inline-flex select-none gap-1 opacity-0 focus-within:opacity-100 group-hover/filter:opacity-100">
        <TermButtons term={term} />
      </span>
    </span>
  );
}

/** The two buttons: only these, or all but these. */
export function TermButtons({ term }: { readonly term: Filter }) {
  const text = printFilter(term);
  return (
    <>
      <TermButton label={`Only those with ${text}`} word="only" onClick={() => filterBy(term)} />
      <TermButton
        label={`All but those with ${text}`}
        word="without"
        onClick={() => filterBy({ type: 'not', part: term })}
      />
    </>
  );
}

interface FieldTermsProps {
  readonly field: TextField | NumberField;
  /** What those that are meant have of it. */
  readonly value: string | undefined;
}

/** The two buttons for a field's value, not to be reached by Tab, where something else does the same by key. */
export function FieldTerms({ field, value }: FieldTermsProps) {
  const term = termOf({ name: field }, value);
  const text = printFilter(term);
  return (
    <>
      <TermButton label={`Only those with ${text}`} word="only" onClick={() => filterBy(term)} isOutOfOrder />
      <TermButton
        label={`All but those with ${text}`}
        word="without"
        onClick={() => filterBy({ type: 'not', part: term })}
        isOutOfOrder
      />
    </>
  );
}

interface TermButtonProps {
  readonly label: string;
  readonly word: 'only' | 'without';
  readonly onClick: () => void;
  /** Not to be reached by Tab. */
  readonly isOutOfOrder?: boolean;
}

/** One of the two: a word, named in full for who cannot see where it stands. */
export function TermButton({ label, word, onClick, isOutOfOrder = false }: TermButtonProps) {
  return (
    <button
      type="button"
      tabIndex={isOutOfOrder ? -1 : undefined}
      aria-label={label}
      title={label}
      onClick={(event) => {
        event.stopPropagation();
        onClick();
      }}
      className="inline-flex h-4 items-center border border-soft bg-sheet px-1 text-[11px] text-soft leading-none hover:border-ink hover:text-ink"
    >
      {word}
    </button>
  );
}
