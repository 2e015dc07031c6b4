import type { Sift } from '#core/sift';
import { formatCount } from '#core/wording';
import { SiftValue } from '../sift/SiftValue';

/** No real exchange has as many; captures made to choke their reader have millions. */
const SHOWN_FIELDS = 500;
const SHOWN_CHARS = 20_000;

interface Field {
  readonly name: string;
  readonly value: string;
}

interface FieldListProps {
  readonly fields: readonly Field[];
  /** The term of the sift that a field makes; absent where it makes none. */
  readonly termFor?: (field: Field) => Sift | undefined;
  /** Name of the field in which something was found, to be marked. */
  readonly marked?: string | undefined;
  /** What to say where there are none. */
  readonly none?: string;
}

/** Names and values in two columns; long values wrap, and both can be selected and copied as they are. */
export function FieldList({ fields, none, marked, termFor }: FieldListProps) {
  if (fields.length === 0) return <p className="text-soft">{none}</p>;
  const hidden = fields.length - SHOWN_FIELDS;
  return (
    <>
      <dl className="grid grid-cols-[132px_1fr] gap-x-3 gap-y-1 font-mono text-[12px]">
        {fields.slice(0, SHOWN_FIELDS).map(({ name, value }, at) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: names repeat, and the list never changes its order.
          <div key={`${at} ${name}`} className={`contents ${name === marked ? '*:bg-route-wash' : ''}`}>
            <dt className="break-words text-soft" data-hit-mark={name === marked ? '' : undefined}>
              {name}
            </dt>
            <dd className="min-w-0 whitespace-pre-wrap break-words">
              <Value field={{ name, value }} termFor={termFor} />
            </dd>
          </div>
        ))}
      </dl>
      {hidden > 0 ? (
        <p className="mt-1 text-soft">{formatCount(hidden)} more are in the capture; save its exchange to see them.</p>
      ) : null}
    </>
  );
}

function Value({ field, termFor }: { readonly field: Field; readonly termFor: FieldListProps['termFor'] }) {
  const shown = field.value === '' ? <i className="text-soft">empty</i> : shorten(field.value);
  const term = field.value.length > SIFTED_CHARS ? undefined : termFor?.(field);
  return term === undefined ? shown : <SiftValue term={term}>{shown}</SiftValue>;
}
/** Longer values are no use in a sift; a part of them is typed. */
const SIFTED_CHARS = 300;

const shorten = (value: string): string =>
  value.length <= SHOWN_CHARS
    ? value
    : `${value.slice(0, SHOWN_CHARS)} … (${formatCount(value.length - SHOWN_CHARS)} more characters)`;
