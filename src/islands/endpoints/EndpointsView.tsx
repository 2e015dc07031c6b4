import { useStore } from '@nanostores/react';
import { useMemo } from 'react';
import type { Spread } from '#core/analysis';
import { ticksOf, toPx } from '#core/chart';
import { printFilter } from '#core/filter';
import type { CaptureCard } from '#core/wire';
import { formatBytes, formatCount, formatExactBytes, formatMs, formatPlural } from '#core/wording';
import { showInWaterfall } from '../brief/show-in-waterfall';
import type { Shown } from '../capture/use-shown';
import { ExportDialog } from '../export/ExportDialog';
import { filterBy, TermButton, termOf } from '../filter/FilterValue';
import { $place, goTo } from '../state/address';
import { useHome, useOneTabStop } from '../state/focus';
import { Choice } from '../ui/Choice';
import { FoldMark } from '../ui/FoldMark';
import { OUTCOME_FILL } from '../ui/status';
import { TallyLine } from '../waterfall/TallyLine';
import { CallMatrix } from './CallMatrix';
import {
  ENDPOINT_ORDER_IDS,
  ENDPOINT_ORDERS,
  type Endpoint,
  endpointTable,
  findEndpointOrder,
  groupEndpoints,
  slowestOf,
  strokesOf,
} from './endpoints';

interface EndpointsViewProps {
  readonly card: CaptureCard;
  readonly shown: Shown;
}

const PLOT_PX = 380;
/** More endpoints than these are reached by filtering. */
const SHOWN = 300;

/**
 * The exchanges by endpoint: calls, failures, how their times spread; one opened shows what varies from call to call.
 * Long because it is the markup of one table with its head.
 */
export default function EndpointsView({ card, shown }: EndpointsViewProps) {
  const place = useStore($place);
  const home = useHome<HTMLElement>();
  const body = useOneTabStop<HTMLTableSectionElement>('[data-endpoint]');
  const order = findEndpointOrder(place.order);
  const endpoints = useMemo(() => groupEndpoints(shown.placed, order), [shown.placed, order]);
  const longestMs = slowestOf(shown.placed) || 1;
  const scale = { fromMs: 0, toMs: longestMs * 1.02, widthPx: PLOT_PX };
  const hidden = endpoints.length - SHOWN;
  return (
    <>
      <TallyLine
        shown={shown.sums}
        all={shown.arrangement.placed.length}
        milestones={shown.arrangement.milestones}
        hidden={shown.hidden}
      >
        <span>
          <b className="text-ink">{formatCount(endpoints.length)}</b>{' '}
          {endpoints.length === 1 ? 'endpoint' : 'endpoints'}
        </span>
        <Choice
          action={{ id: 'arrange', label: 'Sort the endpoints', keys: ['a'] }}
          label="Sort endpoints by"
          before="sort"
          value={order}
          options={ENDPOINT_ORDER_IDS.map((id) => [id, ENDPOINT_ORDERS[id].label] as const)}
          onChoose={(id) => goTo({ order: id === 'calls' ? undefined : id })}
        />
        <ExportDialog
          card={card}
          exchanges={() => shown.placed.map(({ row }) => row)}
          tables={() => [endpointTable(endpoints)]}
        />
      </TallyLine>
      {/* In the tab order, since a scrolled region must be reachable by keyboard (WCAG 2.1.1). */}
      <section {...home} aria-label="Endpoints" tabIndex={0} className="min-h-0 flex-1 overflow-auto outline-none">
        {endpoints.length === 0 ? (
          <p className="mx-auto mt-16 max-w-xl text-soft">
            No exchanges shown. Change or clear the filter, or show what is hidden.
          </p>
        ) : (
          <table className="w-full border-collapse">
            <thead className="sticky top-0 z-10 bg-sheet text-left text-[12px] text-soft">
              <tr className="border-line border-b">
                <th className="py-1.5 pl-4 font-normal">endpoint</th>
                <th className="px-2 text-right font-normal">calls</th>
                <th className="px-2 text-right font-normal">failed</th>
                <th className="px-2 whitespace-nowrap text-right font-normal max-md:hidden">on the wire</th>
                <th className="px-2 font-normal max-xl:hidden" style={{ width: PLOT_PX + 16 }}>
                  <span className="sr-only">duration of each request</span>
                  <PlotAxis scale={scale} />
                </th>
                <th className="pr-4 text-right font-normal">duration</th>
              </tr>
            </thead>
            <tbody ref={body}>
              {endpoints.slice(0, SHOWN).map((endpoint) => (
                <EndpointRow
                  key={endpoint.name}
                  captureId={card.id}
                  endpoint={endpoint}
                  scale={scale}
                  isOpen={endpoint.name === place.endpoint}
                />
              ))}
            </tbody>
          </table>
        )}
        {hidden > 0 ? (
          <p className="px-4 py-3 text-soft">
            {formatPlural(hidden, 'more endpoint')}: filter to see {hidden === 1 ? 'it' : 'them'}.
          </p>
        ) : null}
      </section>
    </>
  );
}

type PlotScale = Parameters<typeof toPx>[0];

/** A label that stood closer to the right edge would be cut there. */
const HALF_LABEL_PX = 24;

function PlotAxis({ scale }: { readonly scale: PlotScale }) {
  return (
    <svg width={PLOT_PX} height={14} aria-hidden="true" className="block">
      {ticksOf(scale, 80).map((tick) => (
        <text
          key={tick.atMs}
          x={tick.px}
          y={11}
          textAnchor={tick.px === 0 ? 'start' : tick.px > PLOT_PX - HALF_LABEL_PX ? 'end' : 'middle'}
          className="fill-soft text-[11px]"
        >
          {tick.label}
        </text>
      ))}
    </svg>
  );
}

interface EndpointRowProps {
  readonly captureId: string;
  readonly endpoint: Endpoint;
  readonly scale: PlotScale;
  readonly isOpen: boolean;
}

/** Long because it is one row of a table, a cell for each column. */
function EndpointRow({ captureId, endpoint, scale, isOpen }: EndpointRowProps) {
  const { name, calls, sums, spread, counter } = endpoint;
  const turn = (): void => goTo({ endpoint: isOpen ? undefined : name });
  const term = termOf({ name: 'endpoint' }, name);
  return (
    <>
      <tr
        className={`group/row border-grid border-b ${isOpen ? 'bg-sheet' : 'hover:bg-sheet/60'}`}
        data-endpoint={name}
      >
        <td className="w-[45%] max-w-0 py-1 pl-4 max-xl:w-[60%]">
          <span className="flex items-center gap-2">
            <button
              type="button"
              aria-expanded={isOpen}
              onClick={turn}
              className="flex min-w-0 items-center gap-2 text-left font-semibold"
              title={name}
            >
              <FoldMark isFolded={!isOpen} />
              <span className="truncate max-md:whitespace-normal max-md:[overflow-wrap:anywhere]">{name}</span>
            </button>
            {counter === undefined ? null : (
              <span className="max-w-40 shrink-0 truncate text-[12px] text-soft" title={`Paginated by ${counter}`}>
                pages by {counter}
              </span>
            )}
            <span className="flex shrink-0 gap-1 opacity-0 focus-within:opacity-100 group-hover/row:opacity-100 max-md:hidden">
              <TermButton label={`Only calls to ${name}`} word="only" onClick={() => filterBy(term)} />
              <TermButton
                label={`All but calls to ${name}`}
                word="without"
                onClick={() => filterBy({ type: 'not', part: term })}
              />
            </span>
          </span>
        </td>
        <td className="px-2 text-right">{formatCount(sums.exchanges)}</td>
        <td className={`px-2 text-right ${sums.failed > 0 ? 'font-semibold text-failed' : 'text-soft'}`}>
          {sums.failed === 0 ? (
            0
          ) : (
            <button
              type="button"
              className="underline"
              title="Show them in the waterfall"
              onClick={() => showInWaterfall(failuresOf(printFilter(term)))}
            >
              {formatCount(sums.failed)}
            </button>
          )}
        </td>
        <td className="px-2 text-right max-md:hidden" title={formatExactBytes(sums.wireBytes)}>
          {formatBytes(sums.wireBytes)}
        </td>
        <td className="px-2 max-xl:hidden">
          <TimePlot endpoint={endpoint} scale={scale} />
        </td>
        <td className="whitespace-nowrap pr-4 text-right max-md:min-w-28 max-md:whitespace-normal">
          {spreadWords(spread)}
        </td>
      </tr>
      {isOpen ? (
        <tr>
          <td colSpan={6} className="border-line border-b bg-sheet">
            <CallMatrix captureId={captureId} calls={calls} />
          </td>
        </tr>
      ) : null}
    </>
  );
}

/** The failed calls to an endpoint among those that are shown. */
function failuresOf(term: string): string {
  const { filter } = $place.get();
  return `${filter === '' ? '' : `(${filter}) and `}${term} and failed`;
}

/** A stroke where a call's duration lies; the median's is the long one. */
function TimePlot({ endpoint, scale }: { readonly endpoint: Endpoint; readonly scale: PlotScale }) {
  const { calls, spread } = endpoint;
  return (
    <svg width={PLOT_PX} height={20} role="img" aria-label={`Durations: ${spreadWords(spread)}`} className="block">
      <line x1={0} x2={PLOT_PX} y1={16} y2={16} className="stroke-grid" />
      {strokesOf(calls, (timeMs) => toPx(scale, timeMs)).map(({ outcome, d }) => (
        <path key={outcome} d={d} strokeWidth={1.5} className={OUTCOME_FILL[outcome]} />
      ))}
      {spread.type === 'percentiles' ? (
        <path d={`M${toPx(scale, spread.median)} 1v18`} strokeWidth={2} className="stroke-ink" />
      ) : null}
    </svg>
  );
}

function spreadWords(spread: Spread): string {
  if (spread.type === 'values') return spread.values.length === 0 ? 'unknown' : spread.values.map(formatMs).join(', ');
  return `median ${formatMs(spread.median)}, p95 ${formatMs(spread.p95)}`;
}
