import { useEffect, useRef, useState } from 'react';
import { type Columns, completeFilter, type KnownName, meantFilter } from '#core/filter';
import { formatCount } from '#core/wording';
import { goTo } from '../state/address';
import { BarButton } from './BarButton';
import { forgetNamed, keepUnderName, type SavedFilters } from './saved-filters';
import { $typed } from './typed';
import type { FilterState } from './use-filter';

// What stands under the filter bar once somebody is in it: nothing that comes first needs it.

/** Something that the list under the bar offers: it takes the place of [from, to) of the text. */
export interface Offer {
  readonly text: string;
  readonly says: string | undefined;
  readonly count: number | undefined;
  readonly from: number;
  readonly to: number;
  /** A name under which it was kept, which can be forgotten. */
  readonly name: string | undefined;
}

/**
 * What the list offers, in its order: what is likely to be meant, what was kept where nothing is typed yet, and what the text
 * can go on with at the caret. It passes over all rows.
 */
export function offersOf(
  text: string,
  caret: number,
  columns: Columns,
  names: readonly KnownName[],
  saved: SavedFilters,
): readonly Offer[] {
  const { suggestions, from, to } = completeFilter(text, Math.min(caret, text.length), columns, names);
  const completed = suggestions.map((one) => ({ ...one, from, to, name: undefined }));
  const whole = { count: undefined, from: 0, to: text.length, name: undefined };
  if (text !== '') {
    const meant = meantFilter(text);
    return [...(meant === undefined ? [] : [{ ...whole, text: meant, says: 'as a filter' }]), ...completed];
  }
  return [
    ...saved.named.map(({ name, text: kept }) => ({ ...whole, text: kept, says: `saved as "${name}"`, name })),
    ...saved.recent.map((recent) => ({ ...whole, text: recent, says: 'recent' })),
    ...completed,
  ];
}

interface BarPanelProps {
  readonly state: FilterState;
  readonly isListOpen: boolean;
  readonly list: OfferListProps;
  /** Closes the field for a name; undefined where it is not open. */
  readonly onNamed: (() => void) | undefined;
}

/** What stands under the bar: a field for a name, how a filter is written, where else to look, and the list of offers. */
export function BarPanel({ state, isListOpen, list, onNamed }: BarPanelProps) {
  return (
    <>
      {onNamed === undefined ? null : <NameField text={state.text} onDone={onNamed} />}
      {isListOpen && state.text === '' ? <Examples /> : null}
      {isListOpen ? <FindHint state={state} /> : null}
      <OfferList {...list} />
    </>
  );
}

/** One line that shows how a filter is written. */
function Examples() {
  return (
    <p className="border border-ink border-b-0 bg-sheet px-3 py-1.5 text-[12px] text-soft">
      For example <code>failed</code>, <code>status = 404</code>, <code>kind = data and wait &gt; 200 ms</code>,{' '}
      <code>host ~ img</code>, <code>not party = third</code>; any other word is searched in URLs.
    </p>
  );
}

/** Where no URL has the words, they may be in a header or a body. */
function FindHint({ state }: { readonly state: FilterState }) {
  const { text, filter, mask } = state;
  if (filter.type !== 'address' || mask.some((bit) => bit === 1)) return null;
  return (
    <p className="flex justify-between gap-3 border border-ink border-b-0 bg-sheet px-3 py-1.5 text-[13px]">
      No URL contains this.
      <BarButton
        label="Find it in headers, payloads and bodies"
        onClick={() => {
          $typed.set(undefined);
          goTo({ view: 'find', search: text.trim(), filter: '', isOpen: false });
        }}
      >
        find it in headers and bodies
      </BarButton>
    </p>
  );
}

interface OfferListProps {
  readonly id: string;
  readonly offers: readonly Offer[];
  readonly chosen: number;
  readonly onTake: (offer: Offer) => void;
}

function OfferList({ id, offers, chosen, onTake }: OfferListProps) {
  const list = useRef<HTMLDivElement>(null);
  useEffect(() => {
    list.current?.children[chosen]?.scrollIntoView({ block: 'nearest' });
  }, [chosen]);
  return (
    <div
      ref={list}
      id={id}
      role="listbox"
      aria-label="Suggestions"
      className={`max-h-80 overflow-auto border border-ink bg-sheet ${offers.length === 0 ? 'hidden' : ''}`}
    >
      {offers.map((offer, at) => (
        // biome-ignore lint/a11y/useKeyWithClickEvents: the field has the keys, for the option that is chosen.
        <div
          key={`${offer.text} ${offer.says}`}
          id={`${id}-${at}`}
          role="option"
          tabIndex={-1}
          aria-selected={at === chosen}
          // A press would take the focus from the field, and close the list before the click.
          onMouseDown={(event) => event.preventDefault()}
          onClick={() => onTake(offer)}
          className={`flex cursor-pointer items-baseline gap-4 px-3 py-1 ${at === chosen ? 'current' : 'hover:bg-paper'}`}
        >
          <span className="min-w-0 truncate font-mono text-[13px]">{offer.text}</span>
          <span className="min-w-0 flex-1 truncate text-[12px] text-soft">{offer.says}</span>
          {offer.count === undefined ? null : <span className="text-[12px] text-soft">{formatCount(offer.count)}</span>}
          {offer.name === undefined ? null : (
            <BarButton label={`Delete "${offer.name}"`} onClick={() => forgetNamed(offer.name ?? '')}>
              delete
            </BarButton>
          )}
        </div>
      ))}
    </div>
  );
}

function NameField({ text, onDone }: { readonly text: string; readonly onDone: () => void }) {
  const [name, setName] = useState('');
  const keep = (event: React.FormEvent): void => {
    event.preventDefault();
    if (name.trim() === '') return;
    keepUnderName(name.trim(), text.trim());
    onDone();
  };
  return (
    <form onSubmit={keep} className="flex items-center gap-3 border border-ink bg-sheet px-3 py-2">
      <label className="flex flex-1 items-center gap-3">
        Save it as
        <input
          // biome-ignore lint/a11y/noAutofocus: it appears because its user asked for it.
          autoFocus
          value={name}
          onChange={({ target }) => setName(target.value)}
          onKeyDown={({ key }) => {
            if (key === 'Escape') onDone();
          }}
          maxLength={200}
          placeholder="slow data calls"
          className="flex-1 border border-line bg-paper px-2 py-0.5"
        />
      </label>
      <BarButton label="Save the filter under this name" onClick={() => undefined} isSubmit>
        save
      </BarButton>
    </form>
  );
}
