import { Line, LineChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import type { RunStep } from '#core/wire';
import { formatCount } from '#core/wording';

interface WatchChartProps {
  readonly steps: readonly RunStep[];
  /** What the values are of: "$.price". */
  readonly subject: string;
  readonly zoneMinutes: number;
}

interface Point {
  readonly at: number;
  readonly value: number;
}

const HEIGHT_PX = 120;

/** A numeric value over the time in which it was watched; nothing where fewer than two responses had a number. */
export default function WatchChart({ steps, subject, zoneMinutes }: WatchChartProps) {
  const points = steps.flatMap(({ sentAt, value }): Point[] =>
    value === undefined || value.trim() === '' || Number.isNaN(Number(value))
      ? []
      : [{ at: sentAt, value: Number(value) }],
  );
  if (points.length < 2) return null;
  const clock = (at: number): string => new Date(at + zoneMinutes * 60_000).toISOString().slice(11, 19);
  return (
    <figure aria-label={`${subject} over time, ${formatCount(points.length)} values`} className="my-2">
      <ResponsiveContainer width="100%" height={HEIGHT_PX}>
        <LineChart data={points} margin={{ top: 6, right: 8, bottom: 0, left: 0 }}>
          <XAxis
            type="number"
            dataKey="at"
            domain={['dataMin', 'dataMax']}
            tickFormatter={clock}
            tick={{ fill: 'var(--soft)', fontSize: 11 }}
            stroke="var(--line)"
          />
          <YAxis
            width={48}
            domain={['auto', 'auto']}
            tick={{ fill: 'var(--soft)', fontSize: 11 }}
            stroke="var(--line)"
          />
          <Tooltip
            isAnimationActive={false}
            content={({ payload }) => {
              const point = payload?.[0]?.payload as Point | undefined;
              return point === undefined ? null : (
                <span className="border border-line bg-sheet px-1 text-[12px]">
                  {clock(point.at)}: {point.value}
                </span>
              );
            }}
          />
          <Line
            type="stepAfter"
            dataKey="value"
            stroke="var(--net)"
            strokeWidth={2}
            dot={false}
            isAnimationActive={false}
          />
        </LineChart>
      </ResponsiveContainer>
      <figcaption className="text-[12px] text-soft">
        {subject}: {tellRange(points.map(({ value }) => value))}.
      </figcaption>
    </figure>
  );
}

/** The values in a few words. */
function tellRange(values: readonly number[]): string {
  const [least, most] = [Math.min(...values), Math.max(...values)];
  return least === most ? `${least} throughout` : `from ${values[0]} to ${values.at(-1)}, between ${least} and ${most}`;
}
