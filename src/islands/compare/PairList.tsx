import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef } from 'react';
import type { PlottedLeg } from '#core/brief';
import { type Scale, ticksOf, toPx, wholeOf } from '#core/chart';
import { $place, goTo, type TimeWindow } from '../state/address';
import { useHome } from '../state/focus';
import { useActions } from '../ui/use-actions';
import { useSize } from '../ui/use-size';
import { useWheel } from '../waterfall/use-wheel';
import { zoomAbout } from '../waterfall/window';
import { PairGroup } from './PairGroup';
import { PAIR_KEY_PX, PAIR_PX, PAIR_WORDS_PX, PairRow } from './PairRow';
import type { ListedRow, PairOrder } from './pairs';
import type { ShownSides } from './use-compared';

const LEAST_CHART_PX = 160;
const TICK_PX = 96;
const OVERSCAN = 4;
/** Two lines: times, and below them the milestones of both loads. */
const AXIS_PX = 36;

interface PairListProps {
  readonly shown: ShownSides;
  /** What is let through, in order. */
  readonly rows: readonly ListedRow[];
  readonly order: PairOrder;
  readonly window: TimeWindow | undefined;
  /** Key of the pair under the cursor. */
  readonly current: string | undefined;
}

/**
 * Every pair of the two loads on one time axis, only those on screen drawn. Long because all that it draws shares one scale
 * and one scroll.
 */
export function PairList({ shown, rows, order, window, current }: PairListProps) {
  const home = useHome<HTMLDivElement>();
  const scroller = home.ref;
  const { widthPx } = useSize(scroller);
  const whole = useWhole(shown);
  const chartPx = Math.max(LEAST_CHART_PX, widthPx - PAIR_KEY_PX - PAIR_WORDS_PX);
  const scale: Scale = useMemo(() => ({ ...(window ?? whole), widthPx: chartPx }), [window, whole, chartPx]);
  const ticks = useMemo(() => ticksOf(scale, TICK_PX), [scale]);
  const routes = useMemo(
    () => ({ a: byExchange(shown.compared.drawn.legs.a), b: byExchange(shown.compared.drawn.legs.b) }),
    [shown],
  );
  const flags = useMemo(() => flagsOf(shown, scale), [shown, scale]);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => PAIR_PX,
    overscan: OVERSCAN,
    paddingStart: AXIS_PX,
    scrollPaddingStart: AXIS_PX,
  });
  const currentPlace = rows.findIndex(({ key }) => key === current);
  useEffect(() => {
    if (currentPlace !== -1) virtual.scrollToIndex(currentPlace, { align: 'auto' });
  }, [currentPlace, virtual]);
  usePairKeys(rows, currentPlace);
  useZoom(scroller, scale, whole);
  return (
    <div
      {...home}
      role="tree"
      aria-label="Pairs of exchanges"
      aria-activedescendant={currentPlace === -1 ? undefined : `pair-${current}`}
      tabIndex={0}
      className="relative min-h-0 flex-1 overflow-y-auto overflow-x-hidden focus-visible:outline-1 focus-visible:outline-soft focus-visible:outline-offset-[-1px]"
    >
      <div className="relative" style={{ height: virtual.getTotalSize() }}>
        <svg
          width={chartPx}
          aria-hidden="true"
          className="pointer-events-none absolute inset-y-0 h-full"
          style={{ left: PAIR_KEY_PX }}
        >
          {ticks.map(({ px, atMs }) => (
            <line key={atMs} x1={px} x2={px} y1={0} y2="100%" className="stroke-grid" />
          ))}
          {flags.map(({ key, px, side }) => (
            <line
              key={key}
              x1={px}
              x2={px}
              y1={0}
              y2="100%"
              strokeDasharray="2 3"
              className={side === 'A' ? 'stroke-soft' : 'stroke-net'}
            />
          ))}
        </svg>
        <div
          aria-hidden="true"
          className="sticky top-0 z-10 border-line border-b bg-paper text-[11px] text-soft"
          style={{ height: AXIS_PX }}
        >
          {ticks.map(({ px, atMs, label }) => (
            <span key={atMs} className="absolute top-0.5" style={{ left: PAIR_KEY_PX + px + 3 }}>
              {label}
            </span>
          ))}
          {flags.map(({ key, px, label, side }) => (
            <span
              key={key}
              className={`absolute bottom-0.5 whitespace-nowrap pl-1 font-semibold ${side === 'A' ? 'text-soft' : 'text-net'}`}
              style={{ left: PAIR_KEY_PX + px }}
            >
              {label}
            </span>
          ))}
        </div>
        {virtual.getVirtualItems().map((item) => {
          const row = rows[item.index];
          if (row === undefined) return null;
          const frame = {
            scale,
            topPx: item.start,
            place: item.index,
            count: rows.length,
            isCurrent: item.index === currentPlace,
          };
          return row.type === 'group' ? (
            <PairGroup key={row.key} group={row} sides={shown} onTurn={turn} {...frame} />
          ) : (
            <PairRow
              key={row.key}
              shown={row.shown}
              isInGroup={row.isInGroup}
              routes={routes}
              spreads={shown.compared.spread}
              order={order}
              onPick={pick}
              {...frame}
            />
          );
        })}
      </div>
    </div>
  );
}

const pick = (key: string): void => goTo({ pair: key, isOpen: true });

/** Folds a group, or opens it. */
function turn(key: string): void {
  const { turned } = $place.get();
  goTo({ pair: key, turned: turned.includes(key) ? turned.filter((one) => one !== key) : [...turned, key] });
}

interface MilestoneFlag {
  readonly key: string;
  readonly side: 'A' | 'B';
  readonly label: string;
  readonly px: number;
}

/** A milestone's words take so many pixels: of two that would overlap one goes without. */
const FLAG_PX = 84;

/** Where both loads reached their milestones, as far as that is shown. */
function flagsOf({ a, b }: ShownSides, scale: Scale): MilestoneFlag[] {
  const all = [
    { side: 'A' as const, milestones: a.page?.milestones ?? [] },
    { side: 'B' as const, milestones: b.page?.milestones ?? [] },
  ].flatMap(({ side, milestones }) =>
    milestones.map(({ id, label, atMs }) => ({
      key: `${side} ${label}`,
      side,
      label: `${side} ${id === 'domReady' ? 'DOM ready' : id === 'loaded' ? 'loaded' : label}`,
      px: toPx(scale, atMs),
    })),
  );
  const taken: number[] = [];
  const isFree = (px: number): boolean => taken.every((other) => Math.abs(px - other) >= FLAG_PX);
  // What is loaded is named first: the others where there is room.
  return all
    .filter(({ px }) => px >= 0 && px <= scale.widthPx)
    .sort((one, other) => Number(other.label.endsWith(' loaded')) - Number(one.label.endsWith(' loaded')))
    .map((flag) => {
      if (!isFree(flag.px)) return { ...flag, label: '' };
      taken.push(flag.px);
      return flag;
    });
}

const byExchange = (legs: readonly PlottedLeg[]): ReadonlyMap<number, PlottedLeg> =>
  new Map(legs.flatMap((leg) => (leg.type === 'exchange' ? [[leg.index, leg] as const] : [])));

/** Both loads from their starts to the end of the last exchange, with a little room. */
function useWhole({ a, b }: ShownSides): TimeWindow {
  return useMemo(() => {
    const moments = [a, b].flatMap(({ rows, page }) => [
      ...rows.flatMap(({ startMs, timeMs = 0 }) => (startMs === undefined ? [] : [startMs, startMs + timeMs])),
      ...(page?.milestones ?? []).map(({ atMs }) => atMs),
    ]);
    return wholeOf(moments);
  }, [a, b]);
}

function usePairKeys(rows: readonly ListedRow[], currentPlace: number): void {
  const actions = useMemo(() => {
    const go = (by: 1 | -1) => (): void => {
      const next = rows[Math.min(rows.length - 1, Math.max(0, currentPlace + by))];
      if (next !== undefined) goTo({ pair: next.key });
    };
    return [
      { id: 'next-pair', label: 'Next pair', keys: ['j', 'ArrowDown'], run: go(1) },
      { id: 'previous-pair', label: 'Previous pair', keys: ['k', 'ArrowUp'], run: go(-1) },
      {
        id: 'open-pair',
        label: 'Open the current pair, or unfold its group',
        keys: ['Enter'],
        run: () => {
          const row = rows[currentPlace];
          if (row?.type === 'group') turn(row.key);
          else if (row !== undefined) goTo({ isOpen: true });
        },
      },
      { id: 'whole', label: 'Show the whole load', keys: ['0'], run: () => goTo({ window: undefined }) },
    ];
  }, [rows, currentPlace]);
  useActions('view', actions);
}

/** Zooms by wheel and keys, as the waterfall does. */
function useZoom(scroller: React.RefObject<HTMLDivElement | null>, scale: Scale, whole: TimeWindow): void {
  const latest = useRef({ scale, whole });
  latest.current = { scale, whole };
  const actions = useMemo(() => {
    const zoom = (factor: number) => (): void => {
      const { scale: shown, whole: all } = latest.current;
      goTo({ window: zoomAbout(shown, (shown.fromMs + shown.toMs) / 2, factor, all) });
    };
    return [
      { id: 'zoom-in', label: 'Zoom in', keys: ['+', '='], run: zoom(1.6) },
      { id: 'zoom-out', label: 'Zoom out', keys: ['-'], run: zoom(1 / 1.6) },
    ];
  }, []);
  useActions('view', actions);
  useWheel(scroller, scale, whole, PAIR_KEY_PX);
}
