import { type ReactNode, useState } from 'react';
import type { Filter } from '#core/filter';
import { formatCount } from '#core/wording';
import { TermButtons } from '../filter/FilterValue';
import { useOneTabStop } from '../state/focus';
import { CopyButton } from '../ui/CopyButton';

/** No real exchange has as many; captures made to choke their reader have millions. */
const SHOWN_FIELDS = 500;
const SHOWN_CHARS = 20_000;

interface Field {
  readonly name: string;
  readonly value: string;
}

interface FieldListProps {
  readonly fields: readonly Field[];
  /** The term of the filter that a field makes; absent where it makes none. */
  readonly termFor?: (field: Field) => Filter | undefined;
  /** What is always said below a value. */
  readonly noteFor?: (field: Field, at: number) => ReactNode;
  /** What a field means, said once its name is pressed; absent where nothing is known of it. */
  readonly meaningOf?: (field: Field) => ReactNode;
  /** Whether a value is masked until it is asked for. */
  readonly isSecret?: (field: Field) => boolean;
  /** Name of the field in which something was found, to be marked. */
  readonly marked?: string | undefined;
  /** What to say where there are none. */
  readonly none?: string;
}

/** Names and values in two columns; long values wrap, and both can be selected and copied as they are. */
export function FieldList({ fields, none, marked, termFor, noteFor, meaningOf, isSecret }: FieldListProps) {
  const list = useOneTabStop<HTMLDListElement>('[data-field]');
  if (fields.length === 0) return <p className="text-soft">{none}</p>;
  const hidden = fields.length - SHOWN_FIELDS;
  return (
    <>
      <dl ref={list} className="grid grid-cols-[132px_minmax(0,1fr)] gap-x-3 gap-y-1 font-mono text-[12px]">
        {fields.slice(0, SHOWN_FIELDS).map(({ name, value }, at) => (
          <Row
            // biome-ignore lint/suspicious/noArrayIndexKey: names repeat, and the list never changes its order.
            key={`${at} ${name}`}
            field={{ name, value }}
            isMarked={name === marked}
            isMasked={isSecret?.({ name, value }) === true && name !== marked}
            termFor={termFor}
            note={noteFor?.({ name, value }, at)}
            meaning={meaningOf?.({ name, value })}
          />
        ))}
      </dl>
      {hidden > 0 ? (
        <p className="mt-1 text-soft">{formatCount(hidden)} more not shown; export as HAR to see all.</p>
      ) : null}
    </>
  );
}

interface RowProps {
  readonly field: Field;
  readonly isMarked: boolean;
  readonly isMasked: boolean;
  readonly termFor: FieldListProps['termFor'];
  readonly note: ReactNode;
  readonly meaning: ReactNode;
}

function Row({ field, isMarked, isMasked, termFor, note, meaning }: RowProps) {
  const [isOpen, setOpen] = useState(false);
  const term = isMasked || field.value.length > FILTERED_CHARS ? undefined : termFor?.(field);
  return (
    <div data-field className={`group/copy contents ${isMarked ? '*:bg-route-wash' : ''}`}>
      <dt className="break-words text-soft" data-hit-mark={isMarked ? '' : undefined}>
        {meaning === undefined ? (
          field.name
        ) : (
          <button
            type="button"
            aria-expanded={isOpen}
            title="What this means"
            onClick={() => setOpen(!isOpen)}
            className="break-all text-left underline decoration-dotted underline-offset-2 hover:text-ink"
          >
            {field.name}
          </button>
        )}
      </dt>
      <dd className="min-w-0 whitespace-pre-wrap break-words">
        {isMasked ? (
          <Secret value={field.value} />
        ) : field.value === '' ? (
          <i className="text-soft">empty</i>
        ) : (
          shorten(field.value)
        )}
        {/* They take no room, and lie on a long value's end only while it is pointed at. */}
        <span className="relative z-10 float-right -ml-24 flex select-none items-center gap-1 bg-sheet pl-1 opacity-0 focus-within:opacity-100 group-hover/copy:opacity-100">
          {term === undefined ? null : <TermButtons term={term} />}
          {field.value === '' ? null : (
            <CopyButton
              label={`Copy ${field.name === '' ? 'the value' : field.name}`}
              text={() => field.value}
              withName={() => `${field.name}: ${field.value}`}
            />
          )}
        </span>
        {note}
        {isOpen ? (
          <div className="mt-0.5 border-line border-l-2 pl-2 font-sans text-[12px] text-soft">{meaning}</div>
        ) : null}
      </dd>
    </div>
  );
}

/** A secret by its ends, until its user asks for it. */
function Secret({ value }: { readonly value: string }) {
  const [isShown, setShown] = useState(false);
  const scheme = /^[A-Za-z]+ (?=\S)/.exec(value)?.[0] ?? '';
  const rest = value.slice(scheme.length);
  const masked = rest.length <= 6 ? '•••' : `${rest.slice(0, 2)}…${rest.slice(-2)}`;
  return (
    <>
      {isShown ? shorten(value) : scheme + masked}{' '}
      <button
        type="button"
        aria-expanded={isShown}
        onClick={() => setShown(!isShown)}
        className="font-sans text-[12px] text-soft underline hover:text-ink"
      >
        {isShown ? 'mask' : 'show'}
      </button>
    </>
  );
}

/** Longer values are no use in a filter; a part of them is typed. */
const FILTERED_CHARS = 300;

const shorten = (value: string): string =>
  value.length <= SHOWN_CHARS
    ? value
    : `${value.slice(0, SHOWN_CHARS)} … (${formatCount(value.length - SHOWN_CHARS)} more characters)`;
