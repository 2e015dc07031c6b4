import { type ReactNode, useState } from 'react';
import type { Filter } from '#core/filter';
import type { Exchange, NameValue } from '#core/model';
import {
  explainDirectives,
  findHeaderEntry,
  groupHeaders,
  headerGroup,
  tellDirectiveHere,
  tellHeaderHere,
} from '#core/reference';
import { CopyButton } from '../ui/CopyButton';
import { CredentialNote } from './CredentialNote';
import { FieldList } from './FieldList';
import { Unfolding } from './Unfolding';

interface HeaderListProps {
  readonly headers: readonly NameValue[];
  readonly none: string;
  readonly marked: string | undefined;
  readonly termFor: (field: NameValue) => Filter | undefined;
  readonly side: 'request' | 'response';
  readonly exchange: Exchange;
  /** When the exchange started, in ms since 1970: what validity is held against. */
  readonly at: number | undefined;
}

type Reading = 'grouped' | 'raw';

/** Headers by what they are for, each explained where it is asked; or in their own order and case. */
export function HeaderList({ headers, none, marked, termFor, side, exchange, at }: HeaderListProps) {
  const [reading, setReading] = useState<Reading>('grouped');
  if (headers.length === 0) return <p className="text-soft">{none}</p>;
  const noteFor = ({ name, value }: NameValue) =>
    headerGroup(name) === 'credentials' ? (
      <CredentialNote value={value} at={at} />
    ) : headerGroup(name) === 'own' ? (
      <Unfolding value={value} />
    ) : null;
  const meaningOf = (field: NameValue) => meaning(field, side, exchange);
  const isSecret = ({ name }: NameValue): boolean => headerGroup(name) === 'credentials';
  return (
    <>
      <p className="mb-1 flex justify-end gap-3">
        <CopyButton
          label="Copy all these headers, in raw order"
          text={() => headers.map(({ name, value }) => `${name}: ${value}`).join('\n')}
        >
          copy all
        </CopyButton>
        <button
          type="button"
          onClick={() => setReading(reading === 'grouped' ? 'raw' : 'grouped')}
          className="text-[12px] text-soft underline hover:text-ink"
        >
          {reading === 'grouped' ? 'raw order' : 'grouped'}
        </button>
      </p>
      {reading === 'raw' ? (
        <FieldList fields={headers} marked={marked} termFor={termFor} isSecret={isSecret} />
      ) : (
        groupHeaders(headers).map(({ group, items }) => (
          <div key={group} className="mb-2">
            <p className="mb-0.5 text-[11px] text-soft">{GROUP_WORD[group]}</p>
            <FieldList
              fields={items}
              marked={marked}
              termFor={termFor}
              noteFor={noteFor}
              meaningOf={meaningOf}
              isSecret={isSecret}
            />
          </div>
        ))
      )}
    </>
  );
}

const GROUP_WORD: Record<ReturnType<typeof headerGroup>, string> = {
  content: 'content',
  caching: 'caching',
  credentials: 'authentication and cookies',
  'cross-origin': 'CORS and security',
  service: 'about the service',
  connection: 'connection',
  browser: 'browser context',
  hints: 'client hints',
  own: "the application's own",
};

/** What a header means, and each cache directive in it; absent for those that nobody but the application knows. */
function meaning(field: NameValue, side: 'request' | 'response', exchange: Exchange): ReactNode {
  const entry = findHeaderEntry(field.name);
  if (entry === undefined) return undefined;
  const directives = field.name.toLowerCase() === 'cache-control' ? explainDirectives(field.value) : [];
  return (
    <>
      <p>
        {entry.says} ({entry.section})
      </p>
      <HereNote says={tellHeaderHere(field.name, field.value, side, exchange)} />
      {directives.map(({ entry: directive, setTo }) => (
        <div key={directive.name}>
          <p>
            <b className="font-semibold text-ink">{directive.name}</b>
            {setTo === undefined ? '' : ` ${setTo}`}: {directive.says}
          </p>
          {side === 'request' ? null : <HereNote says={tellDirectiveHere(directive.name, setTo, exchange)} />}
        </div>
      ))}
    </>
  );
}

/** What it did in this very exchange. */
const HereNote = ({ says }: { readonly says: string | undefined }) =>
  says === undefined ? null : (
    <p data-here className="text-ink">
      Here: {says}
    </p>
  );
