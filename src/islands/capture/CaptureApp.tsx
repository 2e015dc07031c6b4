import { useStore } from '@nanostores/react';
import { memo, Suspense, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { type ExchangeRow, nameExchange } from '#core/analysis';
import type { CaptureCard } from '#core/wire';
import { wordFailure } from '#core/wording';
import { writeLoadName } from '../compare/load-name';
import { FilterBar } from '../filter/FilterBar';
import { filterActions } from '../filter/filter-actions';
import { filteringForAddress } from '../filter/filtering-store';
import { Frame } from '../frame/Frame';
import { offsetOf, ZoneChooser } from '../frame/ZoneChooser';
import { loadMarks } from '../marks/marks-store';
import { NewNote } from '../marks/NewNote';
import { type Action, holdTyping } from '../state/actions';
import {
  $place,
  CAPTURE_VIEWS,
  type CaptureView as CaptureViewName,
  goTo,
  isOfCapture,
  type Place,
} from '../state/address';
import { fetchCapture, fetchRows } from '../state/api';
import { Boundary, bounded } from '../ui/Boundary';
import { Button } from '../ui/Button';
import { type Later, later, useFetchedAhead } from '../ui/later';
import { Loading, Problem } from '../ui/Problem';
import { useActions } from '../ui/use-actions';
import { useFetched } from '../ui/use-fetched';
import type { ViewProps } from '../view-props';
import { viewEntry } from '../views';
import { ALL_PAGES, choosePage } from '../waterfall/arrange';
import { ConditionReport } from './ConditionReport';
import { exchangeActions } from './exchange-actions';
import { GoToNumber } from './GoToNumber';
import { type Found, useFound } from './use-found';
import { type Shown, useShown } from './use-shown';

interface CaptureAppProps {
  readonly captureId: string;
}

interface Loaded {
  readonly card: CaptureCard;
  readonly rows: readonly ExchangeRow[];
  readonly isDiagnosed: boolean;
}

/** One capture: fetches it once and shows the view that the address names. */
export const CaptureApp = bounded(CapturePage);

function CapturePage({ captureId }: CaptureAppProps) {
  const { view } = useStore($place);
  const fetchAll = useCallback(async () => {
    const [card, rows] = await Promise.all([fetchCapture(captureId), fetchRows(captureId), filteringForAddress()]);
    if (!card.ok) return card;
    return rows.ok ? { ok: true as const, value: { card: card.value, ...rows.value } } : rows;
  }, [captureId]);
  const [fetched, again] = useFetched<Loaded>(fetchAll);
  const found = useFound(captureId, fetched.state === 'there' ? fetched.value.isDiagnosed : undefined, again);
  if (fetched.state === 'there') return <CaptureView {...fetched.value} found={found} />;
  return (
    <Frame view={view} captureId={captureId} bar={null}>
      {fetched.state === 'loading' ? (
        <Loading what="the capture" />
      ) : (
        <Problem problem={fetched.problem}>
          <Button onClick={again}>Try again</Button>
          <Button onClick={() => location.assign('/')}>To the shelf</Button>
        </Problem>
      )}
    </Frame>
  );
}

/** A capture that is there, in the view that the address names. */
function CaptureView({ card, rows, found }: Loaded & { readonly found: Found }) {
  const place = useStore($place);
  const { filter, shown } = useShown(card, rows);
  useFetchedAhead();
  useEffect(() => {
    loadMarks(card.id);
  }, [card.id]);
  const { pages, recordedAt } = card.overview;
  useCaptureActions(card.id, place, shown);
  useEffect(() => {
    document.title = `${card.name}, ${place.view}`;
  }, [card.name, place.view]);
  const bar = (
    <>
      <h1 className="max-w-56 shrink-0 truncate font-bold text-base" title={card.name}>
        {card.name}
      </h1>
      <PageChooser pages={pages} asked={place.page} />
      <ConditionReport overview={card.overview} />
      <FilterBar captureId={card.id} state={filter} />
      <ZoneChooser recorded={card.utcOffsetMinutes} isShelf={false} epoch={recordedAt ?? 0} />
    </>
  );
  const at = pages.findIndex(({ id }) => id === choosePage(pages, place.page)?.id);
  const load = writeLoadName({ captureId: card.id, page: at < 1 ? undefined : at + 1 });
  const isOpen = place.isOpen && place.exchange !== undefined && rows.some(({ index }) => index === place.exchange);
  return (
    <Frame view={place.view} captureId={card.id} load={load} bar={bar}>
      <Views card={card} rows={rows} shown={shown} found={found} place={place} />
      <NewNote />
      <GoToNumber rows={rows} placed={shown.placed} />
      <CursorSpoken rows={rows} exchange={place.exchange} />
      {isOpen && place.exchange !== undefined ? (
        <Boundary of={place.exchange}>
          <Suspense
            fallback={
              <div className="absolute inset-y-0 right-0 z-20 w-[542px] max-w-full bg-sheet">
                <Loading what={`exchange #${place.exchange}`} />
              </div>
            }
          >
            <OpenDossier
              captureId={card.id}
              index={place.exchange}
              rows={rows}
              zoneMinutes={offsetOf(place.zone, card.utcOffsetMinutes, recordedAt ?? 0)}
            />
          </Suspense>
        </Boundary>
      ) : null}
    </Frame>
  );
}

/** What can be done wherever one is in a capture: with the exchange under the cursor, and to narrow every view. */
function useCaptureActions(captureId: string, place: Place, shown: Shown): void {
  const { exchange } = place;
  const row = useMemo(() => shown.placed.find((one) => one.row.index === exchange)?.row, [shown.placed, exchange]);
  useActions(
    'exchange',
    useMemo(() => exchangeActions(captureId, exchange), [captureId, exchange]),
  );
  useActions(
    'capture',
    useMemo(
      () => [...filterActions(row, place.hidden), FIND_ACTION, secretAction(captureId)],
      [row, place.hidden, captureId],
    ),
  );
}

const FIND_ACTION: Action = {
  id: 'find',
  label: 'Find in everything',
  keys: ['f'],
  run: () => {
    holdTyping();
    goTo({ view: 'find', isOpen: false });
  },
};

const secretAction = (captureId: string): Action => ({
  id: 'secret-everywhere',
  label: 'Secret everywhere: ink out what is selected in every hand-off of this capture',
  keys: ['Shift+S'],
  run: async () => (await import('../hand-off/point-at')).pointAtSecret(captureId),
});

const OpenDossier = later(() => import('./OpenDossier'));

const components = Object.fromEntries(CAPTURE_VIEWS.map((view) => [view, later(viewEntry(view).load)])) as Record<
  CaptureViewName,
  Later<ViewProps>
>;

// What is shown first is fetched while the capture is.
const first = $place.get();
const firstParts = [
  ...(isOfCapture(first.view) ? [components[first.view]] : []),
  ...(first.isOpen ? [OpenDossier] : []),
];
for (const part of firstParts) part.fetch().catch(() => undefined);

/** The view that the address names, and behind it those that stay once they were shown. A letter in the filter draws none of them. */
const Views = memo(function Views({ place, ...given }: Omit<ViewProps, 'isShown'>) {
  const lastPlaces = useRef(new Map<CaptureViewName, Place>());
  const { view } = place;
  const hasRows = given.rows.length > 0;
  if (!isOfCapture(view)) return null;
  lastPlaces.current.set(view, place);
  const drawn = CAPTURE_VIEWS.filter((one) => one === view || viewEntry(one).stays === true);
  return (
    <>
      {hasRows || viewEntry(view).takesEmpty === true ? null : <EmptyCapture card={given.card} />}
      {drawn.map((one) => {
        const last = lastPlaces.current.get(one);
        if (last === undefined || (!hasRows && viewEntry(one).takesEmpty !== true)) return null;
        const View = components[one];
        return (
          <div key={one} hidden={one !== view} className="flex min-h-0 flex-1 flex-col">
            <Boundary of={last}>
              <Suspense fallback={<Loading what="the view" />}>
                <View {...given} place={last} isShown={one === view} />
              </Suspense>
            </Boundary>
          </div>
        );
      })}
    </>
  );
});

interface CursorSpokenProps {
  readonly rows: readonly ExchangeRow[];
  readonly exchange: number | undefined;
}

/** Says which exchange the cursor is on, for those who do not see it move; the tree itself says so while it has the focus. */
function CursorSpoken({ rows, exchange }: CursorSpokenProps) {
  const [said, setSaid] = useState('');
  useEffect(() => {
    const row = rows.find(({ index }) => index === exchange);
    const isInTree = document.activeElement?.getAttribute('role') === 'tree';
    if (row === undefined || isInTree) setSaid('');
    else {
      const end = row.failure === undefined ? (row.status ?? 'no status') : wordFailure(row.failure);
      setSaid(`#${row.index} ${row.method} ${nameExchange(row)}, ${end}`);
    }
  }, [rows, exchange]);
  return (
    <p role="status" data-cursor className="sr-only">
      {said}
    </p>
  );
}

interface PageChooserProps {
  readonly pages: CaptureCard['overview']['pages'];
  readonly asked: string | undefined;
}

function PageChooser({ pages, asked }: PageChooserProps) {
  const chosen = choosePage(pages, asked);
  if (pages.length === 0) return <span className="shrink-0 text-soft">no page in this capture</span>;
  return (
    <select
      aria-label="Page"
      value={chosen?.id ?? ALL_PAGES}
      onChange={(event) =>
        goTo({ page: event.target.value, isOpen: false, exchange: undefined, lane: undefined, window: undefined })
      }
      className="w-56 shrink-0 bg-sheet px-1 text-soft"
    >
      {pages.map((page, at) => (
        <option key={page.id} value={page.id}>
          page {at + 1} of {pages.length}: {page.title || 'no title'}
        </option>
      ))}
      <option value={ALL_PAGES}>all pages on one timeline</option>
    </select>
  );
}

function EmptyCapture({ card }: { readonly card: CaptureCard }) {
  const [condition] = card.overview.condition;
  return (
    <Problem
      problem={{
        sentence: condition?.sentence ?? 'The capture contains no exchanges.',
        advice: condition?.advice ?? 'Record the page load again.',
      }}
    >
      <Button onClick={() => location.assign('/')}>To the shelf</Button>
    </Problem>
  );
}
