import { useState } from 'react';
import {
  addHeader,
  changeHeader,
  type Draft,
  dropHeader,
  keepAll,
  liftHeader,
  PRESETS,
  usePreset as withPreset,
} from '#core/convert';
import { formatPlural } from '#core/wording';
import { useOneTabStop } from '../state/focus';
import { type EditingProps, FIELD, Lift, Part, Tool } from './parts';

/** The headers, each kept or left out with the reason. */
export function HeadersPart({ draft, edit }: EditingProps) {
  const [filter, setFilter] = useState('');
  const list = useOneTabStop<HTMLDivElement>('[data-header]', 'tab');
  const words = filter.trim().toLowerCase();
  const count = draft.headers.filter(({ kept }) => kept).length;
  const shown = draft.headers.flatMap((header, at) =>
    words === '' || `${header.name} ${header.value} ${header.reason}`.toLowerCase().includes(words)
      ? [{ header, at }]
      : [],
  );
  const own = shown.filter(({ header }) => header.role !== 'computed' || header.kept);
  const computed = shown.filter((one) => !own.includes(one));
  const row = ({ header, at }: (typeof shown)[number]) => <HeaderRow key={at} header={header} at={at} edit={edit} />;
  return (
    <Part
      title={`Headers: ${count} of ${draft.headers.length} are sent`}
      tools={
        <>
          {PRESETS.map((preset) => (
            <Tool key={preset} onClick={() => edit((before) => withPreset(before, preset))}>
              {preset}
            </Tool>
          ))}
          <Tool onClick={() => edit((before) => keepAll(before, true))}>all</Tool>
          <Tool onClick={() => edit((before) => keepAll(before, false))}>none</Tool>
          <Tool onClick={() => edit(addHeader)}>add</Tool>
          <input
            aria-label="Filter the headers"
            placeholder="filter"
            value={filter}
            onChange={({ target }) => setFilter(target.value)}
            className={`w-28 ${FIELD}`}
          />
        </>
      }
    >
      <div ref={list}>{own.map(row)}</div>
      {computed.length === 0 ? null : (
        <details>
          <summary className="cursor-pointer text-soft">
            {formatPlural(computed.length, 'header')} set by the HTTP client
          </summary>
          {computed.map(row)}
        </details>
      )}
      {draft.headers.length === 0 ? <p className="text-soft">No headers.</p> : null}
    </Part>
  );
}

interface HeaderRowProps {
  readonly header: Draft['headers'][number];
  readonly at: number;
  readonly edit: EditingProps['edit'];
}

function HeaderRow({ header, at, edit }: HeaderRowProps) {
  const name = header.name || `number ${at + 1}`;
  const why = `${header.kept ? 'sent' : 'left out'}: ${header.reason}`;
  return (
    <div
      data-header={header.name.toLowerCase()}
      className={`mb-1 grid grid-cols-[auto_10rem_minmax(0,1fr)_8.5rem_auto_auto] items-center gap-2 ${header.kept ? '' : 'text-soft'}`}
    >
      <input
        type="checkbox"
        aria-label={`Send the header ${name}`}
        checked={header.kept}
        onChange={() => edit((before) => changeHeader(before, at, { kept: !header.kept }))}
      />
      <input
        aria-label={`Name of header ${at + 1}`}
        value={header.name}
        spellCheck={false}
        onChange={({ target }) => edit((before) => changeHeader(before, at, { name: target.value }))}
        className={FIELD}
      />
      <input
        aria-label={`Value of header ${name}`}
        value={header.value}
        spellCheck={false}
        onChange={({ target }) => edit((before) => changeHeader(before, at, { value: target.value }))}
        className={FIELD}
      />
      <span title={why} className="text-[11px] text-soft leading-3.5">
        {why}
      </span>
      <Lift label={`Make the header ${name} a variable`} onLift={() => edit((before) => liftHeader(before, at))} />
      <button
        type="button"
        aria-label={`Delete the header ${name}`}
        onClick={() => edit((before) => dropHeader(before, at))}
        className="text-soft hover:text-ink"
      >
        delete
      </button>
    </div>
  );
}
