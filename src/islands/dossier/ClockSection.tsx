import { classifyOutcome, type ExchangeRow } from '#core/analysis';
import { firstByteMs, PHASES, setupMs } from '#core/model';
import { formatMs } from '#core/wording';
import { PHASE_NAME } from '../ui/phases';
import { OUTCOME_FILL } from '../ui/status';

const WIDTH = 400;

/** The phases of one exchange, one below the other with their running place, and what they sum to. */
export function ClockSection({ row }: { readonly row: ExchangeRow }) {
  const known = PHASES.flatMap((name) => {
    const lengthMs = row.phases[name];
    return lengthMs === undefined ? [] : { name, lengthMs };
  });
  if (known.length === 0) {
    return (
      <p>
        {row.timeMs === undefined
          ? 'How long it took was not recorded.'
          : `It took ${formatMs(row.timeMs)}; its phases were not recorded.`}
      </p>
    );
  }
  let at = 0;
  const total = row.timeMs ?? 0;
  const setup = setupMs(row.phases);
  const lines = known.map(({ name, lengthMs }) => {
    const line = { name, lengthMs, from: at };
    at += lengthMs;
    return line;
  });
  const toX = (ms: number): number => (total === 0 ? 0 : (ms / total) * WIDTH);
  return (
    <>
      <table className="w-full text-[13px]">
        <tbody>
          {lines.map(({ name, lengthMs, from }) => (
            <tr key={name}>
              <th scope="row" className="w-24 text-left font-normal text-soft">
                {PHASE_NAME[name]}
              </th>
              <td className="py-0.5">
                <svg
                  viewBox={`0 0 ${WIDTH} 12`}
                  preserveAspectRatio="none"
                  aria-hidden="true"
                  className={`h-3 w-full ${OUTCOME_FILL[classifyOutcome(row)]}`}
                >
                  <rect x={toX(from)} width={Math.max(1, toX(lengthMs))} y="0" height="12" strokeWidth="0" />
                </svg>
              </td>
              <td className="w-18 text-right font-semibold">{formatMs(lengthMs)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2 text-[13px] text-soft">
        {setup === undefined ? 'No connection set-up of its own.' : `Connection set-up ${formatMs(setup)}.`} Time to
        first byte of the request {formatMs(firstByteMs(row.phases))}. In all{' '}
        <b className="text-ink">{formatMs(row.timeMs)}</b>.
      </p>
    </>
  );
}
