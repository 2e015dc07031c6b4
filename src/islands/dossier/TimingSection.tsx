import { classifyOutcome, type ExchangeRow, type Surroundings, throughputOf } from '#core/analysis';
import { strokesAt } from '#core/chart';
import { readServerTiming, type ServerMetric } from '#core/content';
import { firstByteMs, type NameValue, PHASES, setupMs } from '#core/model';
import { formatBytes, formatMs, formatPlural, PHASE_NAME } from '#core/wording';
import { OUTCOME_FILL } from '../ui/status';
import { Term } from '../ui/Term';

const WIDTH = 400;

interface TimingSectionProps {
  readonly row: ExchangeRow;
  readonly around: Surroundings;
  readonly responseHeaders: readonly NameValue[];
}

/**
 * The phases of one exchange with their running sums, what the server says of its wait, and how others compare.
 * Long because it is the markup of one figure and the sentences beneath it.
 */
export function TimingSection({ row, around, responseHeaders }: TimingSectionProps) {
  const lines = PHASES.flatMap((name) => {
    const lengthMs = row.phases[name];
    return lengthMs === undefined ? [] : { name, lengthMs };
  });
  if (lines.length === 0) {
    return (
      <p>
        {row.timeMs === undefined
          ? 'Duration not recorded.'
          : `It took ${formatMs(row.timeMs)}; no timing breakdown was recorded.`}
      </p>
    );
  }
  const metrics = readServerTiming(
    responseHeaders.filter(({ name }) => name.toLowerCase() === 'server-timing').map(({ value }) => value),
  );
  const total = row.timeMs ?? 0;
  const setup = setupMs(row.phases);
  let sumMs = 0;
  return (
    <>
      <table className="w-full text-[13px]">
        <thead>
          <tr className="text-right text-[11px] text-soft">
            <th className="text-left font-normal">phase</th>
            <td />
            <th className="font-normal">duration</th>
            <th className="font-normal">ends at</th>
          </tr>
        </thead>
        <tbody>
          {lines.map(({ name, lengthMs }) => {
            const fromMs = sumMs;
            sumMs += lengthMs;
            return (
              <tr key={name}>
                <th scope="row" className="w-24 text-left font-normal text-soft">
                  <Term>{PHASE_NAME[name]}</Term>
                </th>
                <td className="py-0.5">
                  <Bar
                    fromMs={fromMs}
                    lengthMs={lengthMs}
                    totalMs={total}
                    className={OUTCOME_FILL[classifyOutcome(row)]}
                  />
                </td>
                <td className="w-18 text-right font-semibold">{formatMs(lengthMs)}</td>
                <td className="w-18 text-right text-soft">{formatMs(sumMs)}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <p className="mt-2 text-[13px] text-soft">
        {setup === undefined ? (
          'No connection set-up was recorded for it.'
        ) : (
          <>
            <Term name="connection set-up">Connection set-up</Term> {formatMs(setup)}.
          </>
        )}{' '}
        <Term name="time to first byte">Time to first byte</Term>, from sending the request:{' '}
        {formatMs(firstByteMs(row.phases))}. Total <b className="text-ink">{formatMs(row.timeMs)}</b>.
        {throughputWords(row)}
      </p>
      <ServerMetrics metrics={metrics} waitMs={row.phases.waitMs} />
      <Usual row={row} around={around} />
    </>
  );
}

interface BarProps {
  readonly fromMs: number;
  readonly lengthMs: number;
  readonly totalMs: number;
  readonly className: string;
}

function Bar({ fromMs, lengthMs, totalMs, className }: BarProps) {
  const toX = (ms: number): number => (totalMs === 0 ? 0 : Math.min(WIDTH, (ms / totalMs) * WIDTH));
  return (
    <svg
      viewBox={`0 0 ${WIDTH} 12`}
      preserveAspectRatio="none"
      aria-hidden="true"
      className={`h-3 w-full ${className}`}
    >
      <rect x={toX(fromMs)} width={Math.max(1, toX(lengthMs))} y="0" height="12" strokeWidth="0" />
    </svg>
  );
}

function throughputWords(row: ExchangeRow): string {
  const bytesPerMs = throughputOf(row);
  return bytesPerMs === undefined ? '' : ` Throughput ${formatBytes(Math.round(bytesPerMs * 1000))}/s.`;
}

/** What the server itself measured, laid inside its wait as far as it goes. */
function ServerMetrics({
  metrics,
  waitMs,
}: {
  readonly metrics: readonly ServerMetric[];
  readonly waitMs: number | undefined;
}) {
  if (metrics.length === 0) return null;
  const told = metrics.reduce((sum, { durationMs }) => sum + (durationMs ?? 0), 0);
  return (
    <>
      <h4 className="mt-3 font-semibold text-soft">Server-Timing</h4>
      <table className="w-full text-[13px]">
        <tbody>
          {metrics.map(({ name, durationMs, description }, at) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: names repeat, and the list never changes its order.
            <tr key={`${at} ${name}`}>
              <th scope="row" className="w-32 text-left font-normal text-soft">
                {name}
                {description === undefined ? '' : `, ${description}`}
              </th>
              <td className="py-0.5">
                <Bar fromMs={0} lengthMs={durationMs ?? 0} totalMs={waitMs ?? told} className="fill-soft" />
              </td>
              <td className="w-18 text-right">{durationMs === undefined ? '' : formatMs(durationMs)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {waitMs !== undefined && told > waitMs ? (
        <p className="text-[12px] text-soft">Their sum exceeds the wait; some probably overlap.</p>
      ) : null}
    </>
  );
}

/** This call against the other calls to its endpoint. */
function Usual({ row, around }: { readonly row: ExchangeRow; readonly around: Surroundings }) {
  const { endpointSpread } = around;
  if (endpointSpread.type !== 'percentiles' || row.timeMs === undefined) return null;
  const { count, median, p95, max } = endpointSpread;
  const most = Math.max(max, row.timeMs);
  const toX = (ms: number): number => (ms / most) * WIDTH;
  const timesMs = around.sameEndpoint.map(({ timeMs }) => timeMs);
  const others = [...strokesAt(timesMs, toX)];
  return (
    <>
      <h4 className="mt-3 font-semibold text-soft">Against {formatPlural(count, 'other call')} to this endpoint</h4>
      <svg viewBox={`0 0 ${WIDTH} 16`} preserveAspectRatio="none" aria-hidden="true" className="mt-1 h-4 w-full">
        <line x1={0} x2={WIDTH} y1={8} y2={8} className="stroke-line" />
        <path d={others.map((x) => `M${x} 4v8`).join('')} className="fill-none stroke-soft" />
        <line
          x1={toX(row.timeMs)}
          x2={toX(row.timeMs)}
          y1={0}
          y2={16}
          strokeWidth={3}
          className={OUTCOME_FILL[classifyOutcome(row)]}
        />
      </svg>
      <p className="text-[13px] text-soft">
        Median {formatMs(median)}, p95 {formatMs(p95)}, longest {formatMs(max)}; this one {formatMs(row.timeMs)}.
      </p>
    </>
  );
}
