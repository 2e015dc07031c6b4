import { formatCount } from '#core/wording';

/** No real exchange has as many; captures made to choke their reader have millions. */
const SHOWN_FIELDS = 500;
const SHOWN_CHARS = 20_000;

interface Field {
  readonly name: string;
  readonly value: string;
}

interface FieldListProps {
  readonly fields: readonly Field[];
  /** What to say where there are none. */
  readonly none?: string;
}

/** Names and values in two columns; long values wrap, and both can be selected and copied as they are. */
export function FieldList({ fields, none }: FieldListProps) {
  if (fields.length === 0) return <p className="text-soft">{none}</p>;
  const hidden = fields.length - SHOWN_FIELDS;
  return (
    <>
      <dl className="grid grid-cols-[132px_1fr] gap-x-3 gap-y-1 font-mono text-[12px]">
        {fields.slice(0, SHOWN_FIELDS).map(({ name, value }, at) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: names repeat, and the list never changes its order.
          <div key={`${at} ${name}`} className="contents">
            <dt className="break-words text-soft">{name}</dt>
            <dd className="min-w-0 whitespace-pre-wrap break-words">
              {value === '' ? <i className="text-soft">empty</i> : shorten(value)}
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

const shorten = (value: string): string =>
  value.length <= SHOWN_CHARS
    ? value
    : `${value.slice(0, SHOWN_CHARS)} … (${formatCount(value.length - SHOWN_CHARS)} more characters)`;
