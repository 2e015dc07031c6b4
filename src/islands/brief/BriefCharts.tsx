import { useMemo } from 'react';
import { Bar, BarChart, Tooltip, XAxis, YAxis } from 'recharts';
import type { ExchangeRow } from '#core/analysis';
import type { Sift } from '#core/sift';
import { printSift } from '#core/sift';
import type { ProfileSpan } from '#core/timing';
import { formatBytes, formatCount, formatMs } from '#core/wording';
import { termFrom, termOf } from '../sift/SiftValue';
import { goTo } from '../state/address';
import { type ChartBar, endpointBars, hostBars, kindBars, sourceBars, statusBars } from './bars';
import { FlightChart } from './FlightChart';

interface BriefChartsProps {
  readonly rows: readonly ExchangeRow[];
  /** The same exchanges at their places on the clock that the waterfall shows. */
  readonly spans: readonly ProfileSpan[];
}

/**
 * In flight over time, bytes by kind, host and source, exchanges by status, the slowest endpoints. Every bar narrows
 * the waterfall to itself.
 */
export function BriefCharts({ rows, spans }: BriefChartsProps) {
  const charts = useMemo(
    () => [
      {
        title: 'Bytes by kind',
        bars: kindBars(rows),
        format: formatBytes,
        term: (name: string) => termOf({ name: 'kind' }, name),
      },
      {
        title: 'Bytes by host',
        bars: hostBars(rows),
        format: formatBytes,
        term: (name: string) => termOf({ name: 'host' }, name),
      },
      {
        title: 'Bytes by source',
        bars: sourceBars(rows),
        format: formatBytes,
        term: (name: string) => termOf({ name: 'source' }, name),
      },
      {
        title: 'Exchanges by status',
        bars: statusBars(rows),
        format: formatCount,
        term: (name: string) => termFrom(name === 'none' ? 'status = unknown' : `status = ${name}`),
      },
      {
        title: 'Slowest endpoints, median',
        bars: endpointBars(rows),
        format: formatMs,
        term: (name: string) => termOf({ name: 'endpoint' }, name),
      },
    ],
    [rows],
  );
  return (
    <>
      <FlightChart spans={spans} />
      <div className="mt-8 grid grid-cols-2 gap-6">
        {charts.map(({ title, bars, format, term }) => (
          <section key={title} aria-label={title}>
            <h2 className="mb-1 font-bold text-[13px]">{title}</h2>
            {bars.length === 0 ? (
              <p className="text-soft">unknown</p>
            ) : (
              <Bars bars={bars} format={format} term={term} />
            )}
          </section>
        ))}
      </div>
    </>
  );
}

interface BarsProps {
  readonly bars: readonly ChartBar[];
  readonly format: (value: number) => string;
  readonly term: (name: string) => Sift;
}

const BAR_PX = 22;
const NAME_CHARS = 26;

function Bars({ bars, format, term }: BarsProps) {
  const open = (name: string): void =>
    goTo({ view: 'waterfall', sift: printSift(term(name)), hidden: [], exchange: undefined, isOpen: false });
  const hasSecond = bars.some(({ second }) => second !== undefined);
  return (
    <>
      <BarChart
        layout="vertical"
        width={340}
        height={bars.length * BAR_PX + 10}
        data={[...bars]}
        margin={{ left: 0, right: 8, top: 0, bottom: 0 }}
        barGap={0}
        accessibilityLayer={false}
      >
        <XAxis type="number" hide domain={[0, 'dataMax']} />
        <YAxis
          type="category"
          dataKey="name"
          width={150}
          tickLine={false}
          axisLine={false}
          tick={{ fontSize: 11, fill: 'var(--soft)' }}
          tickFormatter={(name: string) => (name.length > NAME_CHARS ? `…${name.slice(-NAME_CHARS + 1)}` : name)}
        />
        <Tooltip
          cursor={{ fill: 'var(--grid)' }}
          isAnimationActive={false}
          formatter={(value) => format(Number(value))}
          contentStyle={{
            background: 'var(--sheet)',
            border: '1px solid var(--line)',
            color: 'var(--ink)',
            fontSize: 12,
          }}
        />
        <Bar
          dataKey="value"
          name={hasSecond ? 'wire' : 'value'}
          fill="var(--net)"
          isAnimationActive={false}
          onClick={({ name }) => open(String(name))}
        />
        {hasSecond ? (
          <Bar
            dataKey="second"
            name="decoded"
            fill="var(--soft)"
            fillOpacity={0.45}
            isAnimationActive={false}
            onClick={({ name }) => open(String(name))}
          />
        ) : null}
      </BarChart>
      <ul className="flex flex-wrap gap-x-2 text-[12px]">
        {bars.map(({ name, value }) => (
          <li key={name}>
            <button
              type="button"
              className="max-w-60 truncate text-soft underline decoration-dotted hover:text-ink"
              onClick={() => open(name)}
            >
              {name} {format(value)}
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}
