import { useStore } from '@nanostores/react';
import { useEffect, useRef } from 'react';
import { takeHeldLine } from '../state/actions';
import { $place, goTo } from '../state/address';
import { Entries, LookUp } from './LookUp';

/** The reference beside an open capture: its bar, its rail and its place in the other views stay. */
export default function BesideCapture() {
  const { term } = useStore($place);
  const entries = useRef<HTMLElement>(null);
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    const { line: typed } = takeHeldLine();
    if (typed !== '') goTo({ term: typed });
    field.current?.focus();
    if (typed === '') field.current?.select();
  }, []);
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="flex min-h-12 shrink-0 flex-wrap items-center gap-x-5 gap-y-1 border-line border-b bg-paper px-5">
        <h2 className="font-bold text-base">Reference</h2>
        <LookUp field={field} entries={entries} words={term} onWords={(words) => goTo({ term: words })} />
      </div>
      <Entries words={term} list={entries} onWords={(words) => goTo({ term: words })} />
    </div>
  );
}
