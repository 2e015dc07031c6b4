import { useStore } from '@nanostores/react';
import { useRef } from 'react';
import { Frame } from '../frame/Frame';
import { $place, goTo } from '../state/address';
import { bounded } from '../ui/Boundary';
import { useControl } from '../ui/use-actions';
import { Entries, LookUp } from './LookUp';

const SEARCH = { id: 'search', label: 'Search the reference', keys: ['/'] };

/** The reference as a page of its own. */
export const ReferenceView = bounded(ReferencePage);

function ReferencePage() {
  const { search } = useStore($place);
  const entries = useRef<HTMLElement>(null);
  const field = useControl<HTMLInputElement>(SEARCH, 'focus');
  const bar = (
    <>
      <h1 className="font-bold text-base">Reference</h1>
      <LookUp field={field} entries={entries} words={search} onWords={(words) => goTo({ search: words })} />
    </>
  );
  return (
    <Frame view="reference" bar={bar}>
      <Entries words={search} list={entries} onWords={(words) => goTo({ search: words })} />
    </Frame>
  );
}
