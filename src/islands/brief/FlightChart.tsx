import { useMemo, useRef } from 'react';
import type { ProfileSpan } from '#core/timing';
import { formatMs } from '#core/wording';
import { goTo } from '../state/address';
import { countTicks, type FlightSlice, flightSlices, openIn, roundTicks } from './flight';
import { Swatch } from './Swatch';
import { useWidth } from './use-width';

const LAYERS = [
  { key: 'settingUp', name: 'setting up', fill: 'var(--soft)', opacity: 0.35 },
  { key: 'waiting', name: 'waiting', fill: 'var(--net)', opacity: 0.45 },
  { key: 'downloading', name: 'downloading', fill: 'var(--net)', opacity: 1 },
] as const;

const SIDE_PX = 28;
const TOP_PX = 8;
const PLOT_PX = 74;
const GROUND_PX = TOP_PX + PLOT_PX;
const CHART_PX = GROUND_PX + 22;

/** How many exchanges were open at once over the load; a slice opens the waterfall at its time. */
export function FlightChart({ spans }: { readonly spans: readonly ProfileSpan[] }) {
  const slices = useMemo(() => flightSlices(spans), [spans]);
  const frame = useRef<HTMLElement>(null);
  const widthPx = useWidth(frame);
  return (
    <section aria-label="Requests in flight over time" className="mt-8" ref={frame}>
      <h2 className="mb-1 font-bold text-[13px]">Requests in flight over time</h2>
      {slices[0] === undefined ? (
        <p className="text-soft">unknown</p>
      ) : (
        <Profile slices={slices} first={slices[0]} widthPx={widthPx} />
      )}
      <p className="flex gap-4 text-[12px] text-soft">
        {LAYERS.map(({ key, name, fill, opacity }) => (
          <Swatch key={key} fill={fill} opacity={opacity} name={name} />
        ))}
      </p>
    </section>
  );
}

interface ProfileProps {
  readonly slices: readonly FlightSlice[];
  readonly first: FlightSlice;
  readonly widthPx: number;
}

/** Long because it is one drawing, whose parts share one scale. */
function Profile({ slices, first, widthPx }: ProfileProps) {
  const counts = countTicks(slices);
  const most = counts.at(-1) ?? 1;
  const fullest = slices.reduce((so, slice) => (openIn(slice) > openIn(so) ? slice : so), first);
  const slicePx = (widthPx - SIDE_PX) / slices.length;
  const xOf = (at: number): number => SIDE_PX + at * slicePx;
  const yOf = (count: number): number => GROUND_PX - (count / most) * PLOT_PX;
  return (
    <svg
      width={widthPx}
      height={CHART_PX}
      role="img"
      aria-label={`At most ${openIn(fullest)} in flight at once, in the interval from ${formatMs(fullest.fromMs)}`}
      className="block max-w-full text-[11px]"
    >
      {counts.map((count) => (
        <text key={count} x={SIDE_PX - 6} y={yOf(count) + 4} textAnchor="end" className="fill-soft">
          {count}
        </text>
      ))}
      {slices.map((slice, at) => (
        // biome-ignore lint/a11y/noStaticElementInteractions: the waterfall, which it opens, has the same profile with keys of its own.
        <g key={slice.fromMs} data-slice onClick={() => open(slice)} className="group cursor-pointer">
          <title>{titleOf(slice)}</title>
          <rect
            x={xOf(at)}
            y={TOP_PX}
            width={slicePx}
            height={PLOT_PX}
            className="fill-transparent group-hover:fill-grid"
          />
          {stacked(slice).map(({ key, fill, opacity, from, count }) => (
            <rect
              key={key}
              x={xOf(at)}
              y={yOf(from + count)}
              width={slicePx}
              height={yOf(from) - yOf(from + count)}
              fill={fill}
              fillOpacity={opacity}
            />
          ))}
        </g>
      ))}
      <path d={`M${SIDE_PX} ${GROUND_PX + 0.5}H${widthPx}`} className="fill-none stroke-line" />
      {roundTicks(slices).map((ms) => {
        const x = xOf(slices.findIndex(({ fromMs }) => fromMs === ms));
        return (
          <text
            key={ms}
            x={x}
            y={GROUND_PX + 16}
            textAnchor={x > widthPx - SIDE_PX ? 'end' : 'middle'}
            className="fill-soft"
          >
            {formatMs(ms)}
          </text>
        );
      })}
    </svg>
  );
}

const open = ({ fromMs, toMs }: FlightSlice): void =>
  goTo({ view: 'waterfall', window: { fromMs, toMs }, filter: '', hidden: [], exchange: undefined, isOpen: false });

const titleOf = (slice: FlightSlice): string =>
  [
    `peak in the interval from ${formatMs(slice.fromMs)}: ${openIn(slice)} in flight`,
    ...LAYERS.map(({ key, name }) => `${slice[key]} ${name}`),
  ].join(', ');

/** The layers of a slice, each on those before. */
function stacked(slice: FlightSlice) {
  let from = 0;
  return LAYERS.flatMap((layer) => {
    const count = slice[layer.key];
    if (count === 0) return [];
    const placed = { ...layer, from, count };
    from += count;
    return [placed];
  });
}
