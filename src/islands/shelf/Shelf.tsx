import { useStore } from '@nanostores/react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { type ReactNode, useEffect, useMemo, useRef, useState } from 'react';
import type { CaptureCard } from '#core/wire';
import { formatBytes, formatPlural } from '#core/wording';
import { compareAddress, readLoadName } from '../compare/load-name';
import { isWhole, turnSide } from '../compare/sides';
import { FilePicker } from '../frame/FilePicker';
import { Frame } from '../frame/Frame';
import { ZoneChooser } from '../frame/ZoneChooser';
import type { Action } from '../state/actions';
import { $place, goTo } from '../state/address';
import { changeCapture, fetchCaptures, fetchStorage } from '../state/api';
import { focusHome, useOneTabStop } from '../state/focus';
import { tell } from '../state/notices';
import { $uploads } from '../state/uploads';
import { bounded } from '../ui/Boundary';
import { Button } from '../ui/Button';
import { Loading, Problem } from '../ui/Problem';
import { useActions, useControl } from '../ui/use-actions';
import { useFetched } from '../ui/use-fetched';
import { arrangeCards, findShelfOrder, SHELF_ORDERS } from './arrange-cards';
import { ChosenCards } from './ChosenCards';
import { OpenOffer } from './OpenOffer';
import { ShelfCard } from './ShelfCard';
import { saveShelf } from './shelf-csv';
import { useRunningPorts } from './use-running';

const NO_PORTS: readonly number[] = [];
const CARD_PX = 106;
const GAP_PX = 10;
const OVERSCAN = 4;
const LOOK_AGAIN_MS = 1500;

const PICK = { id: 'pick', label: 'Choose files to import', keys: ['o'] };
const SEARCH = { id: 'search', label: 'Search the shelf', keys: ['/'] };

/** The home screen: every capture kept on this machine, and the ways to bring more. */
export const Shelf = bounded(ShelfPage);

function ShelfPage() {
  const [fetched, again] = useFetched(fetchCaptures);
  const picker = useRef<HTMLInputElement>(null);
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
  const bar = (
    <>
      <h1 className="font-bold text-base">Shelf</h1>
      {hasCards ? <SearchField /> : null}
      {hasCards ? <OrderChooser /> : null}
      <span className="flex-1" />
      <ZoneChooser recorded={undefined} isShelf epoch={Date.now()} />
      <Button onClick={pick} action={PICK} isMain>
        Choose files
      </Button>
    </>
  );
  return (
    <Frame view="shelf" bar={bar}>
      <FilePicker picker={picker} />
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

function SearchField() {
  const place = useStore($place);
  const field = useControl<HTMLInputElement>(SEARCH, 'focus');
  return (
    <input
      ref={field}
      type="search"
      value={place.search}
      onChange={(event) => goTo({ search: event.target.value })}
      aria-label="Search names, notes, hosts and recorders"
      placeholder="name, host, note   /"
      className="w-64 min-w-40 shrink border border-line bg-paper px-2 py-1 font-mono text-[12px]"
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

/** Walks over the cards by their links, which Enter opens; what else a card does is along its row. */
function walkActions(list: () => HTMLElement | null): readonly Action[] {
  const step = (by: 1 | -1) => (): void => {
    const links = [...(list()?.querySelectorAll<HTMLElement>('[data-capture] a') ?? [])];
    const at = links.findIndex((link) => link.closest('[data-capture]')?.contains(document.activeElement) === true);
    const next =
      links[at === -1 ? (by === 1 ? 0 : links.length - 1) : Math.min(links.length - 1, Math.max(0, at + by))];
    next?.focus();
    next?.scrollIntoView({ block: 'nearest' });
  };
  return [
    { id: 'next-card', label: 'Next capture', keys: ['j', 'ArrowDown'], run: step(1) },
    { id: 'previous-card', label: 'Previous capture', keys: ['k', 'ArrowUp'], run: step(-1) },
  ];
}

interface CardsProps {
  readonly all: readonly CaptureCard[];
  readonly onChange: () => void;
}

/**
 * The cards that match, only those on screen drawn: a shelf may hold hundreds.
 * Long because the list, what is chosen of it and what is done with that belong together.
 */
function Cards({ all, onChange }: CardsProps) {
  const place = useStore($place);
  const ports = useRunningPorts();
  const scroller = useRef<HTMLDivElement>(null);
  const list = useOneTabStop<HTMLUListElement>('[data-capture]');
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
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const those = cards.filter(({ id }) => chosen.has(id));
  const turn = (id: string): void => {
    const next = new Set(chosen);
    if (!next.delete(id)) next.add(id);
    setChosen(next);
  };
  const removeChosen = (): Promise<void> => remove(those, onChange).then(() => setChosen(new Set()));
  const change = async (card: CaptureCard, what: { name?: string; note?: string }): Promise<void> => {
    const answer = await changeCapture(card.id, what);
    if (!answer.ok) tell(answer.problem.sentence, { detail: answer.problem.advice });
    onChange();
  };
  useActions(
    'view',
    useMemo(() => walkActions(() => scroller.current), []),
  );
  return (
    <>
      <ShelfTally shown={cards.length} all={all.length}>
        <ChosenCards
          those={those}
          onAll={() => setChosen(new Set(cards.map(({ id }) => id)))}
          onNone={() => setChosen(new Set())}
          onRemove={removeChosen}
        />
        <MarkedSides all={all} />
        <button
          type="button"
          title="Save what the shelf shows as CSV"
          onClick={() => saveShelf(those.length === 0 ? cards : those)}
          className="ml-auto text-[13px] underline hover:text-ink"
        >
          {those.length === 0 ? 'shelf as CSV' : 'chosen as CSV'}
        </button>
      </ShelfTally>
      {/* In the tab order, since a scrolled region must be reachable by keyboard (WCAG 2.1.1). */}
      <div
        ref={scroller}
        data-home=""
        tabIndex={0}
        className="min-h-0 flex-1 overflow-auto px-5 pt-3 focus-visible:outline-offset-[-2px]"
      >
        {cards.length === 0 ? (
          <p className="mt-10 text-center text-soft">No matching captures. Clear the search to see all.</p>
        ) : null}
        <ul ref={list} className="relative" style={{ height: virtual.getTotalSize() }}>
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
                  ports={ports.get(card.id) ?? NO_PORTS}
                  isChosen={chosen.has(card.id)}
                  onChoose={() => turn(card.id)}
                  side={place.sideA.includes(card.id) ? 'A' : place.sideB.includes(card.id) ? 'B' : undefined}
                  onSide={(side) => turnSide(side, card.id)}
                  onDelete={() => remove([card], onChange)}
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

/** What is marked for the sides of a comparison, and the way to it. */
function MarkedSides({ all }: { readonly all: readonly CaptureCard[] }) {
  const { sideA, sideB } = useStore($place);
  const there = new Set(all.map(({ id }) => id));
  const [a, b] = [sideA, sideB].map((side) => side.filter((name) => there.has(readLoadName(name).captureId)));
  const counts = [a?.length ?? 0, b?.length ?? 0];
  if (a === undefined || b === undefined || counts.every((count) => count === 0)) return null;
  return (
    <span className="flex flex-wrap items-center gap-3 text-ink">
      <b role="status">
        {counts[0]} on side A, {counts[1]} on side B
      </b>
      <Button
        isMain
        isOff={!isWhole(a, b)}
        action={{ id: 'compare', label: 'Compare the marked captures', keys: ['m'] }}
        onClick={() => location.assign(compareAddress(a, b))}
      >
        Compare them
      </Button>
      <Button onClick={() => goTo({ sideA: [], sideB: [] })}>Take the marks back</Button>
    </span>
  );
}

interface ShelfTallyProps {
  readonly shown: number;
  readonly all: number;
  readonly children: ReactNode;
}

function ShelfTally({ shown, all, children }: ShelfTallyProps) {
  const [storage] = useFetched(fetchStorage);
  const count = shown === all ? formatPlural(all, 'capture') : `${shown} of ${formatPlural(all, 'capture')}`;
  return (
    <div className="flex min-h-8 shrink-0 flex-wrap items-center gap-x-5 border-line border-b px-5 text-soft">
      <span>{count}</span>
      {storage.state === 'there' ? <span>{formatBytes(storage.value.bytes)} on this machine's disk</span> : null}
      <span>Drop files or folders anywhere, or paste HAR text.</span>
      {children}
    </div>
  );
}

async function remove(those: readonly CaptureCard[], onChange: () => void): Promise<void> {
  const gone = await turnDeleted(those, true);
  if (gone.length === 0) return;
  onChange();
  // The card that had the focus is gone; the next Tab or arrow is to be among the cards all the same.
  focusHome();
  const undo = async (): Promise<void> => {
    const back = await turnDeleted(gone, false);
    if (back.length === 0) return;
    onChange();
    tell(`${callThem(back)} ${back.length === 1 ? 'is' : 'are'} back on the shelf.`);
  };
  tell(`${callThem(gone)} ${gone.length === 1 ? 'was' : 'were'} deleted.`, { action: { label: 'Undo', run: undo } });
}

/** Deletes captures or brings them back; gives those with which it went well, and tells of the others. */
async function turnDeleted(those: readonly CaptureCard[], deleted: boolean): Promise<CaptureCard[]> {
  const done: CaptureCard[] = [];
  for (const card of those) {
    const answer = await changeCapture(card.id, { deleted });
    if (answer.ok) done.push(card);
    else tell(answer.problem.sentence, { detail: answer.problem.advice });
  }
  return done;
}

const callThem = ([first, ...others]: readonly CaptureCard[]): string =>
  others.length === 0 ? `"${first?.name}"` : formatPlural(others.length + 1, 'capture');

function EmptyShelf({ onPick }: { readonly onPick: () => void }) {
  return (
    <div className="mx-auto mt-20 max-w-xl border border-line border-dashed bg-sheet p-10">
      <h2 className="font-bold text-xl">Nothing is on the shelf yet.</h2>
      <p className="mt-2 text-soft">
        Drop a HAR file anywhere on this page, paste its text, or choose it; gzip, zip and folders work too. It stays on
        this machine: nothing is sent anywhere.
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
