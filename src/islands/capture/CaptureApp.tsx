import { useStore } from '@nanostores/react';
import { lazy, Suspense, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { type ExchangeRow, findConnections, nameExchange } from '#core/analysis';
import type { CaptureCard } from '#core/wire';
import { wordFailure } from '#core/wording';
import { Frame } from '../frame/Frame';
import { offsetOf, ZoneChooser } from '../frame/ZoneChooser';
import { SiftBar } from '../sift/SiftBar';
import type { Action } from '../state/actions';
import { $place, goTo, type Place, type Zone } from '../state/address';
import { fetchCapture, fetchRows } from '../state/api';
import { Button } from '../ui/Button';
import { Loading, Problem } from '../ui/Problem';
import { useFetched } from '../ui/use-fetched';
import { ALL_PAGES, choosePage } from '../waterfall/arrange';
import { findLanes } from '../waterfall/lanes';
import { layOut } from '../waterfall/layout';
import { findMeasure } from '../waterfall/measures';
import { findOrder } from '../waterfall/orders';
import { turnLane } from '../waterfall/turn-lane';
import { Waterfall } from '../waterfall/Waterfall';
import { WaterfallTally } from '../waterfall/WaterfallTally';
import { ConditionReport } from './ConditionReport';
import { GoToNumber } from './GoToNumber';
import { OpenDossier } from './OpenDossier';
import { useActions } from './use-actions';
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
export function CaptureApp({ captureId }: CaptureAppProps) {
  const { view } = useStore($place);
  const fetchAll = useCallback(async () => {
    const [card, rows] = await Promise.all([fetchCapture(captureId), fetchRows(captureId)]);
    if (!card.ok) return card;
    return rows.ok ? { ok: true as const, value: { card: card.value, ...rows.value } } : rows;
  }, [captureId]);
  const [fetched, again] = useFetched<Loaded>(fetchAll);
  const found = useFound(captureId, fetched.state === 'there' ? fetched.value.isDiagnosed : undefined, again);
  if (fetched.state === 'there') return <CaptureView {...fetched.value} found={found} />;
  return (
    <Frame view={view} captureId={captureId} bar={null} actions={NO_ACTIONS}>
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

const NO_ACTIONS: readonly Action[] = [];

function CaptureView({ card, rows, found }: Loaded & { readonly found: Found }) {
  const place = useStore($place);
  const shown = useShown(card, rows);
  const [showsLegend, setShowsLegend] = useState(false);
  const [dims, setDims] = useState(false);
  const toggleDims = useCallback(() => setDims((is) => !is), []);
  useOtherViews();
  const { pages, recordedAt } = card.overview;
  const lanes = findLanes(place.lanes);
  const order = findOrder(place.order);
  const chartRows = useMemo(
    () => layOut(shown.placed, { order, lanes, isGrouped: place.isGrouped, turned: place.turned }),
    [shown.placed, order, lanes, place.isGrouped, place.turned],
  );
  const brief = useLastBrief(place);
  const connections = useMemo(() => findConnections(rows), [rows]);
  const current = place.lane ?? place.exchange?.toString();
  const toggleLegend = useCallback(() => setShowsLegend((is) => !is), []);
  const actions = useActions({ card, shown, rows: chartRows, onLegend: toggleLegend, onDim: toggleDims });
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
      <SiftBar captureId={card.id} state={shown.sift} />
      <ZoneChooser recorded={card.utcOffsetMinutes} isShelf={false} epoch={recordedAt ?? 0} />
    </>
  );
  const isOpen = place.isOpen && place.exchange !== undefined && rows.some(({ index }) => index === place.exchange);
  return (
    <Frame view={place.view} captureId={card.id} bar={bar} actions={actions}>
      {place.view === 'reference' ? (
        <Suspense fallback={<Loading what="the reference" />}>
          <BesideCapture />
        </Suspense>
      ) : rows.length === 0 ? (
        <EmptyCapture card={card} />
      ) : place.view === 'waterfall' ? (
        <>
          <WaterfallTally card={card} shown={shown} rows={chartRows} />
          {shown.placed.length === 0 ? (
            <NothingLeft shown={shown} />
          ) : (
            <Waterfall
              rows={chartRows}
              connections={connections}
              placed={shown.placed}
              milestones={shown.arrangement.milestones}
              legs={shown.legs}
              dimsOffRoute={dims}
              whole={shown.whole}
              window={place.window}
              measure={findMeasure(place.measure)}
              current={current}
              showsLegend={showsLegend}
              onLegend={toggleLegend}
              onPick={pickExchange}
              onTurn={turnLane}
            />
          )}
        </>
      ) : (
        <Suspense fallback={<Loading what="the view" />}>
          {place.view === 'brief' ? null : place.view === 'find' ? (
            <FindView card={card} shown={shown} rows={rows} />
          ) : place.view === 'drafts' ? (
            <DraftsView card={card} />
          ) : (
            <EndpointsView card={card} shown={shown} />
          )}
        </Suspense>
      )}
      {brief === undefined || rows.length === 0 ? null : (
        <div hidden={place.view !== 'brief'} className="flex min-h-0 flex-1 flex-col">
          <Suspense fallback={<Loading what="the view" />}>
            <BriefView card={card} rows={rows} found={found} isShown={place.view === 'brief'} {...brief} />
          </Suspense>
        </div>
      )}
      <GoToNumber rows={rows} placed={shown.placed} />
      <CursorSpoken rows={rows} exchange={place.exchange} />
      {isOpen && place.exchange !== undefined ? (
        <OpenDossier
          captureId={card.id}
          index={place.exchange}
          rows={rows}
          zoneMinutes={offsetOf(place.zone, card.utcOffsetMinutes, recordedAt ?? 0)}
        />
      ) : null}
    </Frame>
  );
}

// Loaded when they are first gone to: the waterfall does not need them.
const loadBrief = () => import('../brief/BriefView');
const loadFind = () => import('../find/FindView');
const loadEndpoints = () => import('../endpoints/EndpointsView');
const loadDrafts = () => import('../drafts/DraftsView');
const loadReference = () => import('../reference/BesideCapture');
const BesideCapture = lazy(loadReference);
const BriefView = lazy(loadBrief);
const FindView = lazy(loadFind);
const EndpointsView = lazy(loadEndpoints);
const DraftsView = lazy(loadDrafts);

/** Fetches the other views' scripts once the first view stands, so that going to one never waits. */
function useOtherViews(): void {
  useEffect(() => {
    const timer = setTimeout(
      () =>
        Promise.all([loadBrief(), loadFind(), loadEndpoints(), loadDrafts(), loadReference()]).catch(() => undefined),
      PRELOAD_MS,
    );
    return () => clearTimeout(timer);
  }, []);
}
const PRELOAD_MS = 1500;

interface BriefPlace {
  readonly asked: string | undefined;
  readonly zone: Zone;
}

/** What the brief was last shown of; undefined until it has been. Behind another view it does not follow what changes there. */
function useLastBrief({ view, page, zone }: Place): BriefPlace | undefined {
  const last = useRef<BriefPlace>(undefined);
  if (view === 'brief') last.current = { asked: page, zone };
  return last.current;
}

const pickExchange = (exchange: number): void => goTo({ exchange, lane: undefined, isOpen: true, hit: undefined });

/** Every exchange is sifted out or hidden: says by what, and offers the way back. */
function NothingLeft({ shown }: { readonly shown: Shown }) {
  const { sift } = useStore($place);
  return (
    <Problem
      problem={{
        sentence:
          sift === ''
            ? 'Everything on this page is hidden.'
            : `None of the ${shown.arrangement.placed.length} exchanges is let through by this sift.`,
        advice: sift === '' ? 'Show again what is hidden.' : 'Change it in the bar above, or clear it.',
      }}
    >
      {sift === '' ? null : <Button onClick={() => goTo({ sift: '' })}>Clear the sift</Button>}
      {shown.hidden.size === 0 ? null : <Button onClick={() => goTo({ hidden: [] })}>Show what is hidden</Button>}
    </Problem>
  );
}

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
  if (pages.length === 0) return <span className="shrink-0 text-soft">no page named</span>;
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
      <option value={ALL_PAGES}>all exchanges, on one clock</option>
    </select>
  );
}

function EmptyCapture({ card }: { readonly card: CaptureCard }) {
  const [condition] = card.overview.condition;
  return (
    <Problem
      problem={{
        sentence: condition?.sentence ?? 'It holds no exchanges.',
        advice: condition?.advice ?? 'Record the page load again.',
      }}
    >
      <Button onClick={() => location.assign('/')}>To the shelf</Button>
    </Problem>
  );
}
