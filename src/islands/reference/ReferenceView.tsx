import { useStore } from '@nanostores/react';
import { useMemo, useRef } from 'react';
import { Frame } from '../frame/Frame';
import type { Action } from '../state/actions';
import { $place, goTo } from '../state/address';
import { Entries, LookUp } from './LookUp';

/** The reference as a page of its own. */
export function ReferenceView() {
  const { search } = useStore($place);
  const field = useRef<HTMLInputElement>(null);
  const actions: readonly Action[] = useMemo(
    () => [{ id: 'search', label: 'Search the reference', keys: ['/'], run: () => field.current?.focus() }],
    [],
  );
  const bar = (
    <>
      <h1 className="font-bold text-base">Reference</h1>
      <LookUp field={field} words={search} onWords={(words) => goTo({ search: words })} />
    </>
  );
  return (
    <Frame view="reference" bar={bar} actions={actions}>
      <Entries words={search} />
    </Frame>
  );
}
