import type { ExchangeRow } from '#core/analysis';
import type { Filter, NamedField } from '#core/filter';
import { type AddressParts, takeApart } from '#core/http';
import type { Exchange } from '#core/model';
import { formatPlural } from '#core/wording';
import { termOf } from '../filter/FilterValue';
import { CopyButton } from '../ui/CopyButton';
import { FieldList } from './FieldList';
import { Unfolding } from './Unfolding';

interface AddressFieldsProps {
  readonly row: ExchangeRow;
  readonly exchange: Exchange;
  /** How many others the recorder saw on the same connection. */
  readonly sharedWith: readonly ExchangeRow[];
  readonly isFound: boolean;
}

/** The address taken apart, and by what way it went. */
export function AddressFields({ row, exchange, sharedWith, isFound }: AddressFieldsProps) {
  const parts = takeApart(row.url);
  return (
    <>
      <p className="mb-2 break-all font-mono text-[12px]" data-hit-mark={isFound ? '' : undefined}>
        <span className={isFound ? 'current' : ''}>
          <b className="font-semibold">{row.method}</b> {row.url.slice(0, SHOWN_CHARS)}
          {row.url.length > SHOWN_CHARS ? '…' : ''}
        </span>{' '}
        <CopyButton label="Copy the URL" text={() => row.url} />
      </p>
      <FieldList
        fields={fieldsOf(row, exchange, parts, sharedWith)}
        termFor={({ name, value }) => termFor(row, name, value)}
      />
      {parts === undefined || parts.query.length === 0 ? null : (
        <>
          <h4 className="mt-3 font-semibold text-soft">Query, {formatPlural(parts.query.length, 'parameter')}</h4>
          <FieldList
            fields={parts.query}
            termFor={({ name, value }) => namedTerm('query', name, value)}
            noteFor={({ name, value }, at) => (
              <>
                <ParameterNote parameter={parts.query[at]} name={name} />
                <Unfolding value={value} />
              </>
            )}
          />
        </>
      )}
    </>
  );
}

const SHOWN_CHARS = 4000;
const SHARED_SHOWN = 3;

function fieldsOf(
  row: ExchangeRow,
  exchange: Exchange,
  parts: AddressParts | undefined,
  sharedWith: readonly ExchangeRow[],
) {
  const optional = (name: string, value: string | undefined) => (value === undefined ? [] : [{ name, value }]);
  const listed = sharedWith.slice(0, SHARED_SHOWN).map(({ index }) => `#${index}`);
  const more = sharedWith.length - listed.length;
  const shared =
    listed.length === 0
      ? ''
      : `, shared with ${listed.join(', ')}${more > 0 ? ` and ${formatPlural(more, 'other')}` : ''}`;
  return [
    ...optional('scheme', parts?.scheme),
    ...optional('user', parts?.user),
    { name: 'host', value: row.host },
    { name: 'party', value: row.party ?? 'unknown' },
    ...optional('port', parts === undefined ? undefined : portWords(parts)),
    ...(parts?.segments ?? []).map((value, at) => ({ name: at === 0 ? 'path' : '', value: `/${value}` })),
    ...optional('fragment', parts?.fragment),
    { name: 'endpoint', value: row.endpoint },
    { name: 'protocol', value: row.protocol ?? 'unknown' },
    { name: 'server', value: exchange.serverAddress ?? 'unknown' },
    { name: 'connection', value: row.connection === undefined ? 'unknown' : `${row.connection}${shared}` },
    ...optional('priority', exchange.priority),
  ];
}

const portWords = ({ port, usedPort, scheme }: AddressParts): string | undefined =>
  port ?? (usedPort === undefined ? undefined : `${usedPort}, the port of ${scheme}`);

function ParameterNote({
  parameter,
  name,
}: {
  readonly parameter: AddressParts['query'][number] | undefined;
  readonly name: string;
}) {
  if (parameter === undefined) return null;
  const notes = [
    ...(parameter.ofName > 1 ? [`${parameter.nth} of ${parameter.ofName} named ${name}`] : []),
    ...(parameter.form === 'bare' ? ['no value'] : []),
  ];
  return notes.length === 0 ? null : <span className="ml-2 font-sans text-[12px] text-soft">{notes.join(', ')}</span>;
}

export const namedTerm = (name: NamedField, key: string, value: string): Filter | undefined =>
  key === '' ? undefined : termOf({ name, key }, value);

/** What is said of an exchange as a whole, as a term of the filter; some is no field of it. */
function termFor(row: ExchangeRow, name: string, value: string): Filter | undefined {
  switch (name) {
    case 'host':
    case 'party':
    case 'endpoint':
    case 'protocol':
      return termOf({ name }, value === 'unknown' ? undefined : value);
    case 'connection':
      return termOf({ name }, row.connection);
    default:
      return undefined;
  }
}
