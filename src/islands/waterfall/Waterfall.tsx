import { memo, type ReactNode, Suspense, useMemo } from 'react';
import type { Connection } from '#core/analysis';
import type { PlottedLeg } from '#core/brief';
import { type Scale, ticksOf } from '#core/chart';
import type { Milestone } from '#core/model';
import { goTo, type TimeWindow } from '../state/address';
import { useHome } from '../state/focus';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { later } from '../ui/later';
import { useSize } from '../ui/use-size';
import type { Placed } from './arrange';
import type { ChartRow } from './layout';
import { MEASURE_IDS, MEASURES, type MeasureId, measureOf } from './measures';
import { ChartGround, ProfileBand } from './ProfileBand';
import { Reading } from './Reading';
import { RouteBand, RouteLine } from './RouteLine';
import { inSlots, useDrawnPart, useFollowing } from './rows-on-screen';
import { KEY_PX, MEASURE_PX, Strip } from './Strip';
import { StripBlocks } from './StripBlocks';
import { STRIP_PX } from './strip-marks';
import { Ties } from './Ties';
import { useWheel } from './use-wheel';

const LaneHead = later(() => import('./LaneHead'));
const Legend = later(() => import('./Legend'));

const LEAST_CHART_PX = 160;
const TICK_PX = 96;

interface WaterfallProps {
  readonly rows: readonly ChartRow[];
  /** The capture's connections by their ids: what their lanes are called by. */
  readonly connections: ReadonlyMap<string, Connection>;
  /** The exchanges of the rows, in the order of their starts: what the profile counts. */
  readonly placed: readonly Placed[];
  readonly milestones: readonly Milestone[];
  /** The legs of the page's route; none where all pages are shown. */
  readonly legs: readonly PlottedLeg[];
  /** The choice of where it leads, beside its line. */
  readonly route: ReactNode;
  readonly dimsOffRoute: boolean;
  readonly whole: TimeWindow;
  readonly window: TimeWindow | undefined;
  readonly measure: MeasureId;
  /** Key of the row under the cursor. */
  readonly current: string | undefined;
  readonly showsLegend: boolean;
  readonly onLegend: () => void;
  readonly onPick: (index: number) => void;
  readonly onTurn: (key: string) => void;
}

/** Beside the profile: the way to the legend, and which measure stands at the right edge. */
const HeadControls = memo(function HeadControls({ measure, onLegend }: Pick<WaterfallProps, 'measure' | 'onLegend'>) {
  return (
    <div className="flex shrink-0 flex-col items-end justify-between py-1 pr-4" style={{ width: MEASURE_PX }}>
      <Button
        onClick={onLegend}
        action={{ id: 'legend', label: 'How to read the waterfall', keys: ['l'] }}
        label="How to read the waterfall"
      >
        Legend
      </Button>
      <Choice
        action={{ id: 'measure', label: 'Choose the measure at the right edge', keys: ['v'] }}
        label="Measure at the right edge"
        value={measure}
        options={MEASURE_IDS.map((id) => [id, MEASURES[id].label] as const)}
        onChoose={(id) => goTo({ measure: id === 'time' ? undefined : id })}
      />
    </div>
  );
});

const showWindow = (window: TimeWindow | undefined): void => goTo({ window });

/**
 * The chart: profile band, and one row for each exchange or lane; only the rows on screen are drawn.
 * Long because all that it draws shares one scale and one scroll, which pieces of it would only hand on.
 */
export function Waterfall(props: WaterfallProps) {
  const onRoute = useMemo(
    () => new Set(props.legs.flatMap((leg) => (leg.type === 'exchange' ? leg.index : []))),
    [props.legs],
  );
  const { rows, connections, placed, milestones, whole, window, measure, current, onPick, onTurn } = props;
  const home = useHome<HTMLDivElement>();
  const scroller = home.ref;
  const { widthPx, heightPx } = useSize(scroller);
  const chartPx = Math.max(LEAST_CHART_PX, widthPx - KEY_PX - MEASURE_PX);
  const scale: Scale = useMemo(() => ({ ...(window ?? whole), widthPx: chartPx }), [window, whole, chartPx]);
  const wholeScale: Scale = useMemo(() => ({ ...whole, widthPx: chartPx }), [whole, chartPx]);
  const ticks = useMemo(() => ticksOf(scale, TICK_PX), [scale]);
  const { mostMeasure, lastMs } = useExtremes(placed, measure, whole.toMs);
  const currentPlace = useMemo(() => rows.findIndex(({ key }) => key === current), [rows, current]);
  const drawnPart = useDrawnPart(scroller, rows.length, heightPx);
  useFollowing(scroller, currentPlace);
  useWheel(scroller, scale, whole, KEY_PX);
  return (
    <div className="relative flex min-h-0 flex-1 flex-col">
      <div className="relative flex shrink-0 border-line border-b bg-sheet">
        <div className="pointer-events-none absolute bottom-0" style={{ left: KEY_PX }}>
          <RouteBand legs={props.legs} scale={wholeScale} />
        </div>
        <ProfileBand
          placed={placed}
          milestones={milestones}
          whole={wholeScale}
          window={window}
          ticks={ticks}
          route={props.route}
          onWindow={showWindow}
        />
        <HeadControls measure={measure} onLegend={props.onLegend} />
      </div>
      <div className="relative flex min-h-0 flex-1">
        <div className="pointer-events-none absolute top-0" style={{ left: KEY_PX }}>
          <ChartGround milestones={milestones} scale={scale} ticks={ticks} heightPx={heightPx} />
        </div>
        <div
          {...home}
          role="tree"
          aria-label="Exchanges"
          aria-activedescendant={currentPlace === -1 ? undefined : `row-${current}`}
          tabIndex={0}
          className="relative min-h-0 flex-1 overflow-y-auto overflow-x-hidden focus-visible:outline-1 focus-visible:outline-soft focus-visible:outline-offset-[-1px]"
        >
          <div
            className={`relative ${props.dimsOffRoute ? '[&_[data-off-route]]:opacity-35' : ''}`}
            style={{ height: rows.length * STRIP_PX }}
          >
            {inSlots(drawnPart, heightPx).map(({ place, slot }) => {
              const row = rows[place];
              if (row === undefined) return null;
              const own = {
                measure,
                mostMeasure,
                count: rows.length,
                topPx: place * STRIP_PX,
                isCurrent: place === currentPlace,
                place,
              };
              return row.type === 'lane' ? (
                <Suspense key={`lane ${slot}`}>
                  <LaneHead
                    lane={row}
                    connections={connections}
                    scale={scale}
                    lastMs={lastMs}
                    {...own}
                    onTurn={onTurn}
                  />
                </Suspense>
              ) : (
                <Strip
                  key={`strip ${slot}`}
                  placed={row.placed}
                  level={row.level}
                  widthPx={chartPx}
                  isOnRoute={onRoute.has(row.placed.row.index)}
                  {...own}
                  onPick={onPick}
                />
              );
            })}
            <div className="pointer-events-none absolute top-0" style={{ left: KEY_PX }}>
              <StripBlocks rows={rows} scale={scale} lastMs={lastMs} onRoute={onRoute} {...drawnPart} />
              <RouteLine legs={props.legs} rows={rows} scale={scale} {...drawnPart} />
              <Ties rows={rows} scale={scale} {...drawnPart} />
            </div>
          </div>
        </div>
        <Reading scroller={scroller} scale={scale} rows={rows} heightPx={heightPx} />
        {props.showsLegend ? (
          <Suspense>
            <Legend onClose={props.onLegend} />
          </Suspense>
        ) : null}
      </div>
    </div>
  );
}

/** The greatest value of the measure, and the end of the last exchange. */
function useExtremes(
  placed: readonly Placed[],
  measure: MeasureId,
  wholeToMs: number,
): { readonly mostMeasure: number; readonly lastMs: number } {
  const mostMeasure = useMemo(
    () => placed.reduce((most, { row }) => Math.max(most, measureOf(row, measure) ?? 0), 0),
    [placed, measure],
  );
  const lastMs = useMemo(
    () =>
      placed.reduce<number | undefined>(
        (last, { endMs }) => (endMs === undefined ? last : Math.max(last ?? endMs, endMs)),
        undefined,
      ),
    [placed],
  );
  return { mostMeasure, lastMs: lastMs ?? wholeToMs };
}
