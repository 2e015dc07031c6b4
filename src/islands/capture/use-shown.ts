import { useStore } from '@nanostores/react';
import { useMemo, useRef } from 'react';
import { type ExchangeRow, type RouteTo, type Tally, TO_LOAD, tally, WindowTally } from '#core/analysis';
import type { PlottedLeg } from '#core/brief';
import { wholeOf } from '#core/chart';
import type { CaptureCard } from '#core/wire';
import { type FilterState, useFilter } from '../filter/use-filter';
import { plotTo } from '../route/route-to';
import { $place, NOISES, type Noise, type TimeWindow } from '../state/address';
import { useBehind } from '../ui/use-behind';
import { type Arrangement, arrange, IS_NOISE, type Placed } from '../waterfall/arrange';

export interface Shown {
  readonly arrangement: Arrangement;
  /** What the page, the noise keys and the filter leave, in the order of their starts. */
  readonly placed: readonly Placed[];
  /** How many each kind of noise that is hidden had on this page. */
  readonly hidden: ReadonlyMap<Noise, number>;
  /** The whole load, in ms since the start of the page, with a little room. */
  readonly whole: TimeWindow;
  /** Sums over what is shown inside the window. */
  readonly sums: Tally;
  /** Where the route of the page that is shown leads. */
  readonly routeTo: RouteTo;
  /** The legs of the route of the page that is shown; none where all pages are. */
  readonly legs: readonly PlottedLeg[];
}

/**
 * From all exchanges of a capture to those that the address asks for. Every view shows the same ones, and is drawn anew only
 * where they are others.
 */
export function useShown(
  card: CaptureCard,
  rows: readonly ExchangeRow[],
): { readonly filter: FilterState; readonly shown: Shown } {
  const place = useStore($place);
  const { pages } = card.overview;
  const titles = useMemo(() => new Map<string, string>(pages.map(({ id, title }) => [id, title])), [pages]);
  const filter = useFilter(card.id, rows, titles);
  const arrangement = useMemo(() => arrange(rows, pages, place.page), [rows, pages, place.page]);
  const whole = useMemo(() => {
    const moments = arrangement.placed.flatMap(({ startMs, endMs }) =>
      startMs === undefined ? [] : [startMs, endMs ?? startMs],
    );
    return wholeOf([...moments, ...arrangement.milestones.map(({ atMs }) => atMs)]);
  }, [arrangement]);
  const positions = useMemo(() => positionsOf(rows), [rows]);
  const { page } = arrangement;
  const plottedRows = useBehind(rows);
  const plotted = useMemo(() => {
    if (page === undefined && pages.length > 1) return undefined;
    return plotTo(plottedRows, page, place.to);
  }, [plottedRows, page, pages, place.to]);
  const hiddenNames = place.hidden.join(' ');
  const { quiet, hidden } = useMemo(() => {
    const noises = NOISES.filter((noise) => hiddenNames.split(' ').includes(noise));
    const counts = new Map<Noise, number>(noises.map((noise) => [noise, 0]));
    const left = arrangement.placed.filter(({ row }) => {
      const noise = noises.find((one) => IS_NOISE[one](row));
      if (noise !== undefined) counts.set(noise, (counts.get(noise) ?? 0) + 1);
      return noise === undefined;
    });
    return { quiet: left, hidden: counts };
  }, [arrangement, hiddenNames]);
  const placed = useMemo(
    () => quiet.filter(({ row }) => filter.mask[positions[row.index] ?? -1] === 1),
    [quiet, filter.mask, positions],
  );
  const { window } = place;
  const all = useMemo(() => tally(placed.map(({ row }) => row)), [placed]);
  const byWindow = useRef<{ readonly of: readonly Placed[]; readonly sums: WindowTally } | undefined>(undefined);
  const sums = useMemo(() => {
    if (window === undefined) return all;
    // Made when the first part is looked at: every step of zooming asks for another one.
    if (byWindow.current?.of !== placed) byWindow.current = { of: placed, sums: new WindowTally(placed) };
    return byWindow.current.sums.within(window);
  }, [placed, window, all]);
  const shown = useMemo(
    (): Shown => ({
      arrangement,
      placed,
      hidden,
      whole,
      sums,
      routeTo: plotted?.to ?? TO_LOAD,
      legs: plotted?.legs ?? NO_LEGS,
    }),
    [arrangement, placed, hidden, whole, sums, plotted],
  );
  return { filter, shown };
}

const NO_LEGS: readonly PlottedLeg[] = [];

/** The place of each row among them, by its number. */
function positionsOf(rows: readonly ExchangeRow[]): Int32Array {
  const most = rows.reduce((greatest, { index }) => Math.max(greatest, index), -1);
  const positions = new Int32Array(most + 1).fill(-1);
  for (const [at, { index }] of rows.entries()) positions[index] = at;
  return positions;
}
