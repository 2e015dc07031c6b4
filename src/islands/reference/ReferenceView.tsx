import { useStore } from '@nanostores/react';
import { useMemo, useRef } from 'react';
import { searchReference } from '#core/reference';
import { formatCount } from '#core/wording';
import { Frame } from '../frame/Frame';
import type { Action } from '../state/actions';
import { $place, goTo } from '../state/address';

/** Every header, status, method and cache directive explained, to be searched. Needs no network. */
export function ReferenceView() {
  const { search } = useStore($place);
  const field = useRef<HTMLInputElement>(null);
  const found = useMemo(() => searchReference(search), [search]);
  const actions: readonly Action[] = useMemo(
    () => [{ id: 'search', label: 'Search the reference', keys: ['/'], run: () => field.current?.focus() }],
    [],
  );
  const bar = (
    <>
      <h1 className="font-bold text-base">Reference</h1>
      <input
        ref={field}
        type="search"
        value={search}
        onChange={({ target }) => goTo({ search: target.value })}
        aria-label="Search headers, statuses, methods and cache directives"
        placeholder="vary, 304, stale, preflight"
        className="h-8 w-96 border border-line bg-paper px-2.5 font-mono text-[13px]"
      />
      <p role="status" className="text-soft">
        {formatCount(found.length)} explained
      </p>
    </>
  );
  return (
    <Frame view="reference" bar={bar} actions={actions}>
      {/* In the tab order, since a scrolled region must be reachable by keyboard (WCAG 2.1.1). */}
      <section aria-label="Entries" tabIndex={0} className="min-h-0 flex-1 overflow-y-auto px-5 py-4 outline-none">
        {found.length === 0 ? (
          <p className="text-soft">Nothing explained here holds all of these words. Clear them to see everything.</p>
        ) : (
          <dl className="grid max-w-4xl grid-cols-[280px_1fr] gap-x-5 gap-y-2">
            {found.map(({ topic, name, says, section }) => (
              <div key={`${topic} ${name}`} className="contents">
                <dt>
                  <b className="break-words font-mono font-semibold text-[13px]">{name}</b>
                  <span className="block text-[12px] text-soft">{topic}</span>
                </dt>
                <dd>
                  {says} <span className="whitespace-nowrap text-soft">{section}</span>
                </dd>
              </div>
            ))}
          </dl>
        )}
      </section>
    </Frame>
  );
}
