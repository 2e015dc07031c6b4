import { useStore } from '@nanostores/react';
import { useEffect, useId, useLayoutEffect, useMemo, useRef, useState } from 'react';
import type { KnownName } from '#core/filter';
import { $place, goTo } from '../state/address';
import { fetchNames } from '../state/api';
import { focusHome } from '../state/focus';
import { KeyHint } from '../ui/Button';
import { useControl } from '../ui/use-actions';
import { BarButton } from './BarButton';
import type { Offer } from './bar-panel';
import { $savedFilters, loadSavedFilters, remember } from './saved-filters';
import { $typed } from './typed';
import type { FilterState } from './use-filter';

interface FilterBarProps {
  readonly captureId: string;
  readonly state: FilterState;
}

/** After this long without a key the filter goes into the address. */
const REST_MS = 900;

const FILTER_ACTION = { id: 'filter', label: 'Filter: narrow every view', keys: ['/'], rank: 'capture' } as const;

/**
 * The one bar in which every view is narrowed: typed, completed, explained where it cannot be read. Long because it is one
 * combobox: its field, its keys and its list change one another.
 */
export function FilterBar({ captureId, state }: FilterBarProps) {
  const { text, problem } = state;
  const input = useControl<HTMLInputElement>(FILTER_ACTION, 'focus');
  const listId = useId();
  const [caret, setCaret] = useState(0);
  const [isListOpen, setListOpen] = useState(false);
  const [chosen, setChosen] = useState(-1);
  const [isNaming, setNaming] = useState(false);
  const taken = useRef<{ readonly typed: string; readonly at: number }>(undefined);
  const names = useNames(captureId, isListOpen);
  const panel = usePanel(isListOpen);
  const offers = useOffers(panel, state, caret, names, isListOpen);

  useEffect(() => {
    if (state.text !== $typed.get()) return;
    const timer = setTimeout(() => commit(false), REST_MS);
    return () => clearTimeout(timer);
  }, [state.text]);

  const type = (typed: string, at: number): void => {
    taken.current = undefined;
    $typed.set(typed);
    setCaret(at);
    setChosen(-1);
    setListOpen(true);
  };
  const take = (offer: Offer): void => {
    const space = /[\s(]$/.test(offer.text) || offer.text.endsWith('.') ? '' : ' ';
    const typed = text.slice(0, offer.from) + offer.text + space + text.slice(offer.to);
    const at = offer.from + offer.text.length + space.length;
    type(typed, at);
    taken.current = { typed, at };
  };
  // Before the next key, which may be there before the next frame is.
  useLayoutEffect(() => {
    const { typed, at } = taken.current ?? {};
    const field = input.current;
    if (at === undefined || field === null || field.value !== typed) return;
    taken.current = undefined;
    field.setSelectionRange(at, at);
  });
  const onKey = (event: React.KeyboardEvent<HTMLInputElement>): void => {
    const offer = offers[chosen];
    if (event.key === 'ArrowDown') {
      setListOpen(true);
      setChosen(Math.min(chosen + 1, offers.length - 1));
    } else if (event.key === 'ArrowUp') setChosen(Math.max(chosen - 1, -1));
    else if ((event.key === 'Enter' || event.key === 'Tab') && offer !== undefined) take(offer);
    else if (event.key === 'Enter') {
      setListOpen(false);
      commit(true);
      if (problem === undefined) leave(input.current);
    } else if (event.key === 'Escape') {
      if (isListOpen) setListOpen(false);
      else leave(input.current);
    } else return;
    event.preventDefault();
  };
  return (
    <search className="relative flex h-8 min-w-72 flex-1 items-center border border-line bg-paper focus-within:border-ink">
      <span aria-hidden="true" className="pl-2.5 text-soft">
        <svg
          width="14"
          height="12"
          viewBox="0 0 14 12"
          aria-hidden="true"
          className="fill-none stroke-2 stroke-current"
        >
          <path d="M1 2h12M3 6h8M5 10h4" />
        </svg>
      </span>
      <div className="relative h-full min-w-0 flex-1">
        {problem === undefined ? null : <Underline text={text} from={problem.from} to={problem.to} />}
        <input
          ref={input}
          value={text}
          onChange={({ target }) => type(target.value, target.selectionStart ?? target.value.length)}
          onSelect={({ currentTarget }) => setCaret(currentTarget.selectionStart ?? 0)}
          onKeyDown={onKey}
          onFocus={() => setListOpen(true)}
          onBlur={() => {
            setListOpen(false);
            commit(true);
          }}
          role="combobox"
          aria-label="Filter"
          aria-expanded={isListOpen && offers.length > 0}
          aria-controls={panel === undefined ? undefined : listId}
          aria-activedescendant={chosen === -1 ? undefined : `${listId}-${chosen}`}
          aria-invalid={problem !== undefined}
          aria-describedby={problem === undefined ? undefined : `${listId}-problem`}
          placeholder="kind = data and wait > 200 ms"
          autoComplete="off"
          spellCheck={false}
          className="relative h-full w-full bg-transparent px-2.5 font-mono text-[13px] outline-none placeholder:text-soft"
        />
      </div>
      <BarEnd state={state} onName={() => setNaming(!isNaming)} />
      <div className="absolute top-full right-0 left-0 z-30 mt-px">
        {problem === undefined ? null : (
          <p id={`${listId}-problem`} role="alert" className="border border-failed bg-sheet px-3 py-1.5 text-failed">
            {problem.sentence}
          </p>
        )}
        {panel === undefined ? null : (
          <panel.BarPanel
            state={state}
            isListOpen={isListOpen}
            list={{ id: listId, offers: isListOpen ? offers : [], chosen, onTake: take }}
            onNamed={isNaming ? () => setNaming(false) : undefined}
          />
        )}
      </div>
    </search>
  );
}

/** At the end of the bar: its key while it is empty, else how it goes, and what can be done with the filter. */
function BarEnd({ state, onName }: { readonly state: FilterState; readonly onName: () => void }) {
  const { text } = state;
  return text === '' ? (
    <span className="shrink-0 pr-2.5 text-[12px] text-soft">
      <KeyHint keys="/" /> to filter
    </span>
  ) : (
    <span className="flex shrink-0 items-center gap-3 pr-2.5 text-[12px] text-soft">
      <span role="status">{statusOf(state)}</span>
      <BarButton label="Save this filter under a name" onClick={onName}>
        save
      </BarButton>
      <BarButton
        label="Clear the filter"
        onClick={() => {
          $typed.set(undefined);
          goTo({ filter: '' });
        }}
      >
        clear
      </BarButton>
    </span>
  );
}

/** How it goes, in two words. */
function statusOf({ isBusy, reading, mask }: FilterState): string {
  if (isBusy) return 'filtering';
  if (reading === 'begun') return 'not complete';
  if (mask.every((bit) => bit === 0)) return 'no match';
  return reading === 'text' ? 'searched as text' : '';
}

/** Leaves the bar for the view, which has the keys again. */
function leave(input: HTMLInputElement | null): void {
  focusHome();
  // Where the view has no home now, nothing being let through, the keys are given back all the same.
  if (document.activeElement === input) input?.blur();
}

/**
 * Puts what was typed into the address.
 * @param isDone true when its user has left it: then it is remembered, and shown even where it lets nothing through
 */
function commit(isDone: boolean): void {
  const typed = $typed.get();
  if (typed === undefined) return;
  const text = typed.trim();
  if (text !== $place.get().filter) goTo({ filter: text });
  if (!isDone) return;
  $typed.set(undefined);
  remember(text);
}

function useNames(captureId: string, isOpen: boolean): readonly KnownName[] {
  const [names, setNames] = useState<readonly KnownName[] | undefined>();
  const isWanted = isOpen && names === undefined;
  useEffect(() => {
    if (!isWanted) return;
    loadSavedFilters();
    // Without them completion offers fewer names; nothing else is lost.
    fetchNames(captureId).then((answer) => setNames(answer.ok ? answer.value : []));
  }, [captureId, isWanted]);
  return names ?? NO_NAMES;
}
const NO_NAMES: readonly KnownName[] = [];

type Panel = typeof import('./bar-panel');

/** What stands under the bar: its script comes behind the first view, and is asked for again where it did not come. */
function usePanel(isListOpen: boolean): Panel | undefined {
  const [panel, setPanel] = useState<Panel>();
  const isWanted = panel === undefined;
  // biome-ignore lint/correctness/useExhaustiveDependencies: whoever opens the list asks for it once more.
  useEffect(() => {
    // Without it the bar filters all the same; it offers nothing.
    if (isWanted) import('./bar-panel').then(setPanel, () => undefined);
  }, [isWanted, isListOpen]);
  return panel;
}

function useOffers(
  panel: Panel | undefined,
  state: FilterState,
  caret: number,
  names: readonly KnownName[],
  isOpen: boolean,
): readonly Offer[] {
  const saved = useStore($savedFilters);
  const { text, columns } = state;
  // Not again where the bar is drawn for something else.
  return useMemo(
    () =>
      isOpen && panel !== undefined && columns !== undefined
        ? panel.offersOf(text, caret, columns, names, saved)
        : NO_OFFERS,
    [panel, isOpen, text, caret, columns, names, saved],
  );
}
const NO_OFFERS: readonly Offer[] = [];

/** Marks the place of a problem under the text, letter by letter below the field's own. */
function Underline({ text, from, to }: { readonly text: string; readonly from: number; readonly to: number }) {
  return (
    <div
      aria-hidden="true"
      className="pointer-events-none absolute inset-0 overflow-hidden whitespace-pre px-2.5 pt-1.5 font-mono text-[13px] text-transparent"
    >
      {text.slice(0, from)}
      <span className="border-failed border-b-2">{text.slice(from, to) || '  '}</span>
    </div>
  );
}
