import { useStore } from '@nanostores/react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef } from 'react';
import type { CaptureCard } from '#core/wire';
import { formatBytes, formatPlural } from '#core/wording';
import { takeIn } from '../frame/DropLayer';
import { Frame } from '../frame/Frame';
import { ZoneChooser } from '../frame/ZoneChooser';
import type { Action } from '../state/actions';
import { $place, goTo } from '../state/address';
import { changeCapture, fetchCaptures, fetchStorage } from '../state/api';
import { tell } from '../state/notices';
import { $uploads } from '../state/uploads';
import { Button } from '../ui/Button';
import { Loading, Problem } from '../ui/Problem';
import { useFetched } from '../ui/use-fetched';
import { arrangeCards, findShelfOrder, SHELF_ORDERS } from './arrange-cards';
import { OpenOffer } from './OpenOffer';
import { ShelfCard } from './ShelfCard';

const CARD_PX = 106;
const GAP_PX = 10;
const OVERSCAN = 4;
const LOOK_AGAIN_MS = 1500;

/** The home screen: every capture kept on this machine, and the ways to bring more. */
export function Shelf() {
  const [fetched, again] = useFetched(fetchCaptures);
  const picker = useRef<HTMLInputElement>(null);
  const search = useRef<HTMLInputElement>(null);
  const uploads = useStore($uploads);
  const ended = Object.values(uploads).filter(({ state }) => state === 'ended').length;
  // biome-ignore lint/correctness/useExhaustiveDependencies: another import that ended changes the shelf.
  useEffect(() => again(), [ended, again]);
  const hasCards = fetched.state === 'there' && fetched.value.length > 0;
  // What a load waited for is known only once the bodies are read, behind the import's back.
  const isReading = fetched.state === 'there' && fetched.value.some(({ isDiagnosed }) => !isDiagnosed);
  useEffect(() => {
    if (!isReading) return;
    const timer = setInterval(again, LOOK_AGAIN_MS);
    return () => clearInterval(timer);
  }, [isReading, again]);
  const pick = (): void => picker.current?.click();
  const actions = useMemo(
    (): Action[] => [
      { id: 'pick', label: 'Choose files to put on the shelf', keys: ['o'], run: () => picker.current?.click() },
      ...(hasCards
        ? [{ id: 'search', label: 'Search the shelf', keys: ['/'], run: () => search.current?.focus() }]
        : []),
    ],
    [hasCards],
  );
  const bar = (
    <>
      <h1 className="font-bold text-base">Shelf</h1>
      {hasCards ? <SearchField field={search} /> : null}
      {hasCards ? <OrderChooser /> : null}
      <span className="flex-1" />
      <ZoneChooser recorded={undefined} isShelf epoch={Date.now()} />
      <Button onClick={pick} hint="o" isMain>
        Choose files
      </Button>
    </>
  );
  return (
    <Frame view="shelf" bar={bar} actions={actions}>
      <input
        ref={picker}
        type="file"
        multiple
        accept=".har,.json,.zip,.gz,application/json"
        aria-label="HAR files"
        className="hidden"
        onChange={(event) => {
          takeIn([...(event.target.files ?? [])]);
          event.target.value = '';
        }}
      />
      <OpenOffer onTaken={again} />
      {fetched.state === 'loading' ? <Loading what="the shelf" /> : null}
      {fetched.state === 'failed' ? (
        <Problem problem={fetched.problem}>
          <Button onClick={again}>Try again</Button>
        </Problem>
      ) : null}
      {fetched.state === 'there' && !hasCards ? <EmptyShelf onPick={pick} /> : null}
      {fetched.state === 'there' && hasCards ? <Cards all={fetched.value} onChange={again} /> : null}
    </Frame>
  );
}

function SearchField({ field }: { readonly field: React.RefObject<HTMLInputElement | null> }) {
  const place = useStore($place);
  return (
    <input
      ref={field}
      type="search"
      value={place.search}
      onChange={(event) => goTo({ search: event.target.value })}
      aria-label="Search names, notes, hosts and recorders"
      placeholder="name, host, note   /"
      className="w-64 border border-line bg-paper px-2 py-1 font-mono text-[12px]"
    />
  );
}

function OrderChooser() {
  const place = useStore($place);
  return (
    <select
      aria-label="Order of the shelf"
      value={findShelfOrder(place.order ?? null)}
      onChange={(event) => goTo({ order: event.target.value === 'newest' ? undefined : event.target.value })}
      className="bg-sheet px-1 text-soft"
    >
      {Object.entries(SHELF_ORDERS).map(([order, words]) => (
        <option key={order} value={order}>
          {words}
        </option>
      ))}
    </select>
  );
}

interface CardsProps {
  readonly all: readonly CaptureCard[];
  readonly onChange: () => void;
}

/** The cards that match, only those on screen drawn: a shelf may hold hundreds. */
function Cards({ all, onChange }: CardsProps) {
  const place = useStore($place);
  const scroller = useRef<HTMLDivElement>(null);
  const cards = useMemo(
    () => arrangeCards(all, place.search, findShelfOrder(place.order ?? null)),
    [all, place.search, place.order],
  );
  const virtual = useVirtualizer({
    count: cards.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => CARD_PX + GAP_PX,
    overscan: OVERSCAN,
  });
  const change = async (card: CaptureCard, what: { name?: string; note?: string }): Promise<void> => {
    const answer = await changeCapture(card.id, what);
    if (!answer.ok) tell(answer.problem.sentence, { detail: answer.problem.advice });
    onChange();
  };
  return (
    <>
      <ShelfTally shown={cards.length} all={all.length} />
      {/* In the tab order, since a scrolled region must be reachable by keyboard (WCAG 2.1.1). */}
      <div
        ref={scroller}
        tabIndex={0}
        className="min-h-0 flex-1 overflow-auto px-5 pt-3 focus-visible:outline-offset-[-2px]"
      >
        {cards.length === 0 ? (
          <p className="mt-10 text-center text-soft">
            No capture holds all of these words. Clear the search to see all.
          </p>
        ) : null}
        <ul className="relative" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map((item) => {
            const card = cards[item.index];
            return card === undefined ? null : (
              <li
                key={card.id}
                data-capture={card.name}
                aria-posinset={item.index + 1}
                aria-setsize={cards.length}
                className="absolute inset-x-0"
                style={{ top: item.start, height: CARD_PX }}
              >
                <ShelfCard
                  card={card}
                  onDelete={() => remove(card, onChange)}
                  onRename={(name) => change(card, { name })}
                  onNote={(note) => change(card, { note })}
                />
              </li>
            );
          })}
        </ul>
      </div>
    </>
  );
}

function ShelfTally({ shown, all }: { readonly shown: number; readonly all: number }) {
  const [storage] = useFetched(fetchStorage);
  const count = shown === all ? formatPlural(all, 'capture') : `${shown} of ${formatPlural(all, 'capture')}`;
  return (
    <p className="flex h-8 shrink-0 items-center gap-5 border-line border-b px-5 text-soft">
      <span>{count}</span>
      {storage.state === 'there' ? <span>{formatBytes(storage.value.bytes)} on this machine's disk</span> : null}
      <span>Drop files or folders anywhere, or paste one.</span>
    </p>
  );
}

async function remove(card: CaptureCard, onChange: () => void): Promise<void> {
  const answer = await changeCapture(card.id, { deleted: true });
  if (!answer.ok) {
    tell(answer.problem.sentence, { detail: answer.problem.advice });
    return;
  }
  onChange();
  const undo = async (): Promise<void> => {
    await changeCapture(card.id, { deleted: false });
    onChange();
    tell(`"${card.name}" is back on the shelf.`);
  };
  tell(`"${card.name}" was deleted.`, { action: { label: 'Undo', run: undo } });
}

function EmptyShelf({ onPick }: { readonly onPick: () => void }) {
  return (
    <div className="mx-auto mt-20 max-w-xl border border-line border-dashed bg-sheet p-10">
      <h2 className="font-bold text-xl">Nothing is on the shelf yet.</h2>
      <p className="mt-2 text-soft">
        Drop a HAR file anywhere on this page, paste its text, or choose it; gzip, zip and whole folders do as well. It
        stays on this machine: nothing is sent anywhere.
      </p>
      <p className="mt-2 text-soft">
        To record one, open your browser's network recorder before the page loads, load the page, and save everything as
        HAR with content.
      </p>
      <div className="mt-5">
        <Button onClick={onPick} hint="o" isMain>
          Choose files
        </Button>
      </div>
    </div>
  );
}
