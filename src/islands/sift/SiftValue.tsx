import type { ReactNode } from 'react';
import { type FieldRef, parseSift, printField, printSift, printValue, type Sift, specOf, toggleTerm } from '#core/sift';
import { $place, goTo } from '../state/address';
import { $typed } from './use-sift';

/** Adds a term to the sift that holds, or takes it away where it is there. One that cannot be read gives way to it. */
export function siftBy(term: Sift): void {
  const parsed = parseSift($typed.get() ?? $place.get().sift);
  $typed.set(undefined);
  goTo({ sift: printSift(toggleTerm(parsed.ok ? parsed.sift : { type: 'everything' }, term)) });
}

/** The term of a field's value; absence is a value too. */
export function termOf(field: FieldRef, value: string | undefined): Sift {
  const isPlain = value === undefined || specOf(field.name).type === 'number';
  const printed = isPlain ? (value ?? 'unknown') : printValue({ type: 'text', text: value });
  return termFrom(`${printField(field)} = ${printed}`);
}

/** A term from its text, which is known to be one. */
export function termFrom(text: string): Sift {
  const parsed = parseSift(text);
  if (!parsed.ok) throw new Error(`"${text}" is no sift`);
  return parsed.sift;
}

interface SiftValueProps {
  /** What the exchanges wanted have in common. */
  readonly term: Sift;
  readonly children: ReactNode;
}

/** A value with two small buttons, shown when it is pointed at or has the focus: only these, or all but these. */
export function SiftValue({ term, children }: SiftValueProps) {
  return (
    <span className="group/sift relative">
      {children}
      <span className="absolute bottom-0 left-full z-10 ml-1 inline-flex select-none gap-1 opacity-0 focus-within:opacity-100 group-hover/sift:opacity-100">
        <TermButtons term={term} />
      </span>
    </span>
  );
}

/** The two buttons: only these, or all but these. */
export function TermButtons({ term }: { readonly term: Sift }) {
  const text = printSift(term);
  return (
    <>
      <TermButton label={`Only those with ${text}`} sign="+" onClick={() => siftBy(term)} />
      <TermButton label={`All but those with ${text}`} sign="−" onClick={() => siftBy({ type: 'not', part: term })} />
    </>
  );
}

interface TermButtonProps {
  readonly label: string;
  readonly sign: string;
  readonly onClick: () => void;
  /** Not to be reached by Tab, where something else does the same by key. */
  readonly isOutOfOrder?: boolean;
}

/** One of the two: a sign, named for who cannot see where it stands. */
export function TermButton({ label, sign, onClick, isOutOfOrder = false }: TermButtonProps) {
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
      className="inline-flex size-4 items-center justify-center border border-soft bg-sheet font-mono text-[12px] text-soft leading-none hover:border-ink hover:text-ink"
    >
      {sign}
    </button>
  );
}
