import { memo, type ReactNode, useMemo, useRef } from 'react';
import { type ExchangeRow, howTimed, savedShare, tally } from '#core/analysis';
import { type BriefPage, briefSentences, type PlottedLeg, plotPage, tellBrief } from '#core/brief';
import type { ExchangeIndex } from '#core/model';
import type { CaptureCard } from '#core/wire';
import {
  formatBytes,
  formatCount,
  formatExactBytes,
  formatInstant,
  formatMs,
  formatShare,
  formatZone,
} from '#core/wording';
import type { Found } from '../capture/use-found';
import { ExportDialog } from '../export/ExportDialog';
import type { ExportTable } from '../export/exported';
import { offsetOf } from '../frame/ZoneChooser';
import { NoteLine } from '../marks/NoteLine';
import { RouteChoice } from '../route/RouteChoice';
import { plotTo } from '../route/route-to';
import { goTo, type Zone } from '../state/address';
import { useHome } from '../state/focus';
import { Behind } from '../ui/Behind';
import { CopyButton } from '../ui/CopyButton';
import { later } from '../ui/later';
import { Term } from '../ui/Term';
import type { ViewProps } from '../view-props';
import { arrange, choosePage, spanOf } from '../waterfall/arrange';
import { findingTables, legTable } from './brief-tables';
import { FindingList } from './FindingList';
import { LedgerBar } from './LedgerBar';
import { RouteList } from './RouteList';
import { RoutePlot } from './RoutePlot';
import { showInWaterfall } from './show-in-waterfall';
import { useWidth } from './use-width';

// What stands below the answer is loaded behind it.
// What writes a part as text is loaded when one is first copied.
const loadCopying = () => import('./copy-as-text');

const BriefCharts = later(() => import('./BriefCharts'));
const WhatIf = later(() => import('./WhatIf'));
const NextVisit = later(() => import('./NextVisit'));

interface BriefViewProps {
  readonly card: CaptureCard;
  readonly rows: readonly ExchangeRow[];
  readonly found: Found;
  /** The page that the address asks for. */
  readonly asked: string | undefined;
  /** Where it asks the route to lead. */
  readonly to: string | undefined;
  readonly zone: Zone;
  /** False while it is kept behind another view: coming back to it costs next to nothing. */
  readonly isShown: boolean;
}

/** The answer page: what held the load up, in a sentence, along the route, in the ledger, and what was found. */
function BriefView({ card, rows, found, asked, to, zone, isShown }: BriefViewProps) {
  const home = useHome<HTMLElement>(isShown);
  const { pages } = card.overview;
  const page = choosePage(pages, asked);
  const isAll = page === undefined && pages.length > 1;
  const own = useMemo(
    () => (page === undefined ? rows : rows.filter(({ pageId }) => pageId === page.id)),
    [rows, page],
  );
  const brief = useMemo(() => plotTo(rows, page, to), [rows, page, to]);
  const tables = (): readonly ExportTable[] => {
    const rowOf = (index: number): ExchangeRow | undefined => own.find((row) => row.index === index);
    return [...findingTables(found, page?.id), ...(brief === undefined || isAll ? [] : [legTable(brief.legs, rowOf)])];
  };
  const spans = useMemo(() => arrange(rows, pages, asked).placed.flatMap(spanOf), [rows, pages, asked]);
  return (
    // In the tab order, since a scrolled region must be reachable by keyboard (WCAG 2.1.1).
    <section
      {...home}
      aria-label="Brief"
      tabIndex={0}
      className="min-h-0 flex-1 overflow-y-auto overflow-x-hidden outline-none"
    >
      <div className="grid grid-cols-[minmax(0,1fr)_400px] gap-8 p-6 max-lg:grid-cols-1 max-md:p-3">
        <div className="min-w-0">
          {isAll ? (
            <AllPages card={card} rows={rows} />
          ) : (
            <Page card={card} page={page} rows={own} brief={brief} zone={zone} />
          )}
          <Behind what="the charts">
            <Charts rows={own} spans={spans} brief={isAll ? undefined : brief} />
          </Behind>
        </div>
        <div className="min-w-0">
          {/* Behind another view it would take that view's key. */}
          {isShown ? (
            <p className="float-right flex gap-3">
              {isAll ? null : (
                <CopyButton
                  label="Copy the whole brief as text"
                  text={async () => (await loadCopying()).briefAsText({ card, rows, found, page })}
                >
                  copy as text
                </CopyButton>
              )}
              <ExportDialog card={card} exchanges={() => own} tables={tables} />
            </p>
          ) : null}
          <Findings found={found} page={page?.id} />
        </div>
      </div>
    </section>
  );
}

// Being shown again changes none of their properties.
const Brief = memo(BriefView);

/** The brief of what the address asks for: what else changes there is none of its business. */
export default ({ card, rows, found, place, isShown }: ViewProps) => (
  <Brief card={card} rows={rows} found={found} asked={place.page} to={place.to} zone={place.zone} isShown={isShown} />
);
const Charts = memo(BriefCharts);
const Findings = memo(FindingList);
const Page = memo(OnePage);

interface OnePageProps {
  readonly card: CaptureCard;
  readonly page: CaptureCard['overview']['pages'][number] | undefined;
  readonly rows: readonly ExchangeRow[];
  readonly brief: BriefPage | undefined;
  readonly zone: Zone;
}

function OnePage({ card, page, rows, brief, zone }: OnePageProps) {
  const frame = useRef<HTMLDivElement>(null);
  const widthPx = useWidth(frame);
  const byIndex = useMemo(() => new Map(rows.map((row) => [row.index, row])), [rows]);
  const rowOf = (index: number): ExchangeRow | undefined => byIndex.get(index as ExchangeIndex);
  if (brief === undefined) {
    return (
      <>
        <h2 className="font-bold text-2xl">No exchange of this page has a start time, so there is no route to show.</h2>
        <Figures rows={rows} page={page} />
      </>
    );
  }
  const wholeMs = brief.targetMs - brief.originMs;
  const of = { card, rows, found: undefined, page };
  const isTimed = howTimed(rows) === 'most';
  return (
    <>
      <Sentence brief={brief} rows={byIndex} />
      <p className="float-right">
        <CopyButton label="Copy the sentence" text={() => tellBrief(brief, byIndex)} />
      </p>
      <SubSentence rows={rows} card={card} when={whenWords(card, page, zone)} />
      {page === undefined ? null : <NoteLine target={{ type: 'page', id: page.id }} name="this page" />}
      <Figures rows={rows} page={page} />
      <h2 className="mt-6 mb-2 flex items-baseline gap-2 font-bold">
        Where the {formatMs(wholeMs)} went
        <CopyButton
          label="Copy where the time went, as text"
          text={async () => (await loadCopying()).partAsText(of, 'ledger')}
        />
      </h2>
      {!isTimed ? (
        <p className="text-soft">Not known: most exchanges have no times.</p>
      ) : wholeMs > 0 ? (
        <LedgerBar ledger={brief.ledger} wholeMs={wholeMs} />
      ) : null}
      <h2 className="mt-6 mb-2 flex flex-wrap items-baseline gap-x-1 font-bold">
        <Term name="route">Route</Term> to <RouteChoice rows={rows} page={page} to={brief.to} />{' '}
        <CopyButton label="Copy the route as text" text={async () => (await loadCopying()).partAsText(of, 'route')} />
      </h2>
      <div ref={frame}>
        <RoutePlot legs={brief.legs} rowOf={rowOf} widthPx={widthPx} onLeg={openLeg} />
      </div>
      <RouteList legs={brief.legs} rowOf={rowOf} onLeg={openLeg} page={page?.id ?? ''} />
      <Behind what="the next visit">
        {wholeMs > 0 && isTimed && brief.to.type === 'load' ? (
          <WhatIf captureId={card.id} rows={rows} page={page} />
        ) : null}
        <NextVisit captureId={card.id} page={page?.id} />
      </Behind>
    </>
  );
}

/** The sentence, its figures in the route's colour, since that is what they are. */
function Sentence({
  brief,
  rows,
}: {
  readonly brief: BriefPage;
  readonly rows: ReadonlyMap<ExchangeIndex, ExchangeRow>;
}) {
  const [head, ...rest] = briefSentences(brief, rows);
  return (
    <h2 data-sentence className="font-bold text-2xl leading-8">
      {head} <span className="text-xl">{rest.join(' ')}</span>
    </h2>
  );
}

/** When the page was recorded, in the chosen zone. */
function whenWords(card: CaptureCard, page: OnePageProps['page'], zone: Zone): string {
  const at = page?.startedAt ?? card.overview.recordedAt;
  if (at === undefined) return '';
  const offset = offsetOf(zone, card.utcOffsetMinutes, at);
  return ` ${formatInstant(at, offset)} ${formatZone(offset)}`;
}

interface SubSentenceProps {
  readonly rows: readonly ExchangeRow[];
  readonly card: CaptureCard;
  readonly when: string;
}

/** What failed, a press away from it, and whence the capture is. */
function SubSentence({ rows, card, when }: SubSentenceProps) {
  const failed = rows.filter(({ failure }) => failure !== undefined);
  const held = failed.filter(({ isOnRoute }) => isOnRoute);
  const recorded = [card.recorder, card.browser].filter((part) => part !== undefined).join(', ');
  const by = recorded === '' ? '' : ` by ${recorded}`;
  return (
    <p className="mt-1 text-soft [overflow-wrap:anywhere]">
      {failed.length === 0 ? (
        'Nothing failed.'
      ) : (
        <>
          <button
            type="button"
            className="font-semibold text-failed underline"
            onClick={() => showInWaterfall('failed')}
            title="Show them in the waterfall"
          >
            {formatCount(failed.length)} failed
          </button>
          {`; ${held.length === 0 ? 'none of them on the route' : `${held.length} of them on the route`}.`}
        </>
      )}
      {when + by === '' ? '' : ` Recorded${when}${by}.`}
    </p>
  );
}

function Figures({ rows, page }: { readonly rows: readonly ExchangeRow[]; readonly page: OnePageProps['page'] }) {
  const sums = useMemo(() => tally(rows), [rows]);
  const { domReadyMs } = page ?? {};
  return (
    <dl className="mt-4 grid grid-cols-5 border border-line bg-sheet max-md:grid-cols-2">
      <Figure
        value={formatCount(sums.exchanges)}
        word={sums.exchanges === 1 ? 'exchange' : 'exchanges'}
        onShow={() => showInWaterfall('')}
      />
      <Figure
        value={formatBytes(sums.wireBytes)}
        word={<Term>on the wire</Term>}
        exact={formatExactBytes(sums.wireBytes)}
      />
      <Figure
        value={formatBytes(sums.bodyBytes)}
        word={<Term>decoded</Term>}
        exact={formatExactBytes(sums.bodyBytes)}
      />
      <Figure
        value={formatShare(savedShare(sums))}
        word="of bytes from cache"
        onShow={() => showInWaterfall('outcome = cached')}
      />
      <Figure
        value={formatMs(domReadyMs)}
        word={
          <>
            until <Term>DOM ready</Term>
          </>
        }
      />
    </dl>
  );
}

interface FigureProps {
  readonly value: string;
  readonly word: ReactNode;
  readonly exact?: string;
  /** Leads to what is counted. */
  readonly onShow?: () => void;
}

function Figure({ value, word, exact, onShow }: FigureProps) {
  return (
    <div className="flex flex-col-reverse border-line border-r px-3 py-2 last:border-r-0">
      <dt className="text-[13px] text-soft">{word}</dt>
      <dd className="font-bold text-lg" title={exact}>
        {onShow === undefined ? (
          value
        ) : (
          <button type="button" className="hover:underline" title="Show them in the waterfall" onClick={onShow}>
            {value}
          </button>
        )}
      </dd>
    </div>
  );
}

/** Every page's sentence side by side, each a way into its own brief. */
function AllPages({ card, rows }: { readonly card: CaptureCard; readonly rows: readonly ExchangeRow[] }) {
  const { pages } = card.overview;
  return (
    <>
      <h2 className="font-bold text-2xl">{pages.length} pages</h2>
      <Figures rows={rows} page={undefined} />
      <ol className="mt-4 grid grid-cols-2 gap-3 max-md:grid-cols-1">
        {pages.map((page) => (
          <PageCard key={page.id} page={page} rows={rows} />
        ))}
      </ol>
    </>
  );
}

function PageCard({
  page,
  rows,
}: {
  readonly page: CaptureCard['overview']['pages'][number];
  readonly rows: readonly ExchangeRow[];
}) {
  const own = useMemo(() => rows.filter(({ pageId }) => pageId === page.id), [rows, page.id]);
  const brief = useMemo(() => plotPage(own, page), [own, page]);
  const byIndex = useMemo(() => new Map(own.map((row) => [row.index, row])), [own]);
  return (
    <li className="border border-line bg-sheet p-3">
      <button type="button" className="text-left font-bold hover:underline" onClick={() => goTo({ page: page.id })}>
        {page.title || page.id}
      </button>
      <p className="text-[13px]">{brief === undefined ? 'No start times recorded.' : tellBrief(brief, byIndex)}</p>
    </li>
  );
}

/** A leg in the waterfall: an exchange with its strip under the cursor, a gap as a stretch of time. */
function openLeg(leg: PlottedLeg): void {
  if (leg.type === 'exchange') {
    goTo({ view: 'waterfall', exchange: leg.index, lane: undefined, isOpen: false, filter: '', hidden: [] });
    return;
  }
  goTo({ view: 'waterfall', window: { fromMs: leg.startMs, toMs: leg.endMs }, isOpen: false });
}
