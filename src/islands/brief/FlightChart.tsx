import { useMemo, useRef } from 'react';
import { Bar, BarChart, Tooltip, XAxis, YAxis } from 'recharts';
import type { ProfileSpan } from '#core/timing';
import { formatMs } from '#core/wording';
import { goTo } from '../state/address';
import { type FlightSlice, flightSlices, roundTicks } from './flight';
import { Swatch } from './Swatch';
import { useWidth } from './use-width';

const LAYERS = [
  { key: 'settingUp', name: 'setting up', fill: 'var(--soft)', opacity: 0.35 },
  { key: 'waiting', name: 'waiting', fill: 'var(--net)', opacity: 0.45 },
  { key: 'downloading', name: 'downloading', fill: 'var(--net)', opacity: 1 },
] as const;

/**
 * How many exchanges were open at once over the load; a slice opens the waterfall at its time.
 * Long because it is one drawing, whose parts share one scale.
 */
export function FlightChart({ spans }: { readonly spans: readonly ProfileSpan[] }) {
  const slices = useMemo(() => flightSlices(spans), [spans]);
  const frame = useRef<HTMLElement>(null);
  const widthPx = useWidth(frame);
  const open = ({ fromMs, toMs }: FlightSlice): void =>
    goTo({ view: 'waterfall', window: { fromMs, toMs }, filter: '', hidden: [], exchange: undefined, isOpen: false });
  return (
    <section aria-label="Requests in flight over time" className="mt-8" ref={frame}>
      <h2 className="mb-1 font-bold text-[13px]">Requests in flight over time</h2>
      <BarChart
        width={Math.max(200, widthPx)}
        height={110}
        data={[...slices]}
        margin={{ left: 0, right: 0, top: 4, bottom: 0 }}
        barCategoryGap={0}
        accessibilityLayer={false}
      >
        <XAxis
          dataKey="fromMs"
          tickLine={false}
          tick={{ fontSize: 11, fill: 'var(--soft)' }}
          tickFormatter={(ms: number) => formatMs(ms)}
          ticks={roundTicks(slices)}
          interval={0}
          stroke="var(--line)"
        />
        <YAxis
          width={28}
          allowDecimals={false}
          tickLine={false}
          axisLine={false}
          tick={{ fontSize: 11, fill: 'var(--soft)' }}
        />
        <Tooltip
          cursor={{ fill: 'var(--grid)' }}
          isAnimationActive={false}
          labelFormatter={(ms) => `peak in the interval from ${formatMs(Number(ms))}`}
          contentStyle={{
            background: 'var(--sheet)',
            border: '1px solid var(--line)',
            color: 'var(--ink)',
            fontSize: 12,
          }}
        />
        {LAYERS.map(({ key, name, fill, opacity }) => (
          <Bar
            key={key}
            dataKey={key}
            name={name}
            stackId="open"
            fill={fill}
            fillOpacity={opacity}
            isAnimationActive={false}
            onClick={({ payload }) => open(payload as FlightSlice)}
          />
        ))}
      </BarChart>
      <p className="flex gap-4 text-[12px] text-soft">
        {LAYERS.map(({ key, name, fill, opacity }) => (
          <Swatch key={key} fill={fill} opacity={opacity} name={name} />
        ))}
      </p>
    </section>
  );
}
