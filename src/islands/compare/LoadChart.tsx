import { useMemo } from 'react';
import { CartesianGrid, ResponsiveContainer, Scatter, ScatterChart, Tooltip, XAxis, YAxis } from 'recharts';
import { formatMs } from '#core/wording';
import type { LoadHead } from '../../workers/compare.worker';

interface ChartedLoad {
  readonly head: LoadHead;
  readonly ms: number | undefined;
  /** Told apart by its shape and tone. */
  readonly isMarked: boolean;
}

interface LoadChartProps {
  readonly loads: readonly ChartedLoad[];
  /** What a marked one is. */
  readonly markWords: string;
}

interface Point {
  readonly at: number;
  readonly ms: number;
  readonly name: string;
}

const HEIGHT_PX = 150;

/** How loads spread, in the order in which they were recorded. */
export default function LoadChart({ loads, markWords }: LoadChartProps) {
  const { marked, others } = useMemo(() => pointsOf(loads), [loads]);
  return (
    <figure aria-label={`${loads.length} loads in the order of their recording`}>
      <ResponsiveContainer width="100%" height={HEIGHT_PX}>
        <ScatterChart margin={{ top: 6, right: 8, bottom: 0, left: 0 }}>
          <CartesianGrid stroke="var(--grid)" />
          <XAxis
            type="number"
            dataKey="at"
            domain={[1, 'dataMax']}
            allowDecimals={false}
            tick={{ fill: 'var(--soft)', fontSize: 11 }}
            stroke="var(--line)"
          />
          <YAxis
            type="number"
            dataKey="ms"
            width={56}
            tickFormatter={(ms: number) => formatMs(ms)}
            tick={{ fill: 'var(--soft)', fontSize: 11 }}
            stroke="var(--line)"
          />
          <Tooltip content={<Told />} cursor={false} isAnimationActive={false} />
          <Scatter data={others} fill="var(--net)" shape="circle" isAnimationActive={false} />
          <Scatter data={marked} fill="var(--failed)" shape="diamond" isAnimationActive={false} />
        </ScatterChart>
      </ResponsiveContainer>
      <figcaption className="text-[12px] text-soft">
        In the order of their recording; a diamond is {markWords}, a dot another load.
      </figcaption>
    </figure>
  );
}

function pointsOf(loads: readonly ChartedLoad[]): { readonly marked: Point[]; readonly others: Point[] } {
  const inOrder = loads
    .map((load, place) => ({ load, place }))
    .sort((a, b) => (a.load.head.startedAt ?? 0) - (b.load.head.startedAt ?? 0) || a.place - b.place)
    .flatMap(({ load }, at) =>
      load.ms === undefined
        ? []
        : [{ isMarked: load.isMarked, point: { at: at + 1, ms: load.ms, name: load.head.name } }],
    );
  return {
    marked: inOrder.flatMap(({ isMarked, point }) => (isMarked ? [point] : [])),
    others: inOrder.flatMap(({ isMarked, point }) => (isMarked ? [] : [point])),
  };
}

/** What the pointer is at. */
function Told({ payload }: { readonly payload?: readonly { readonly payload?: Point }[] }) {
  const point = payload?.[0]?.payload;
  return point === undefined ? null : (
    <p className="border border-ink bg-sheet px-2 py-1 text-[12px]">
      {point.name}: <b className="font-mono">{formatMs(point.ms)}</b>
    </p>
  );
}
