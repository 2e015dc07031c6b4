import { nameExchange } from '#core/analysis';
import { phaseAt, type Scale, toMs } from '#core/chart';
import { PHASES } from '#core/model';
import { formatExactBytes, formatMs, PHASE_NAME, wordFailure } from '#core/wording';
import type { Placed } from './arrange';
import type { ChartRow } from './layout';
import { KEY_PX } from './Strip';
import { STRIP_PX } from './strip-marks';

/** Where the pointer is: pixels in the chart, and from the top of the visible strips. */
export interface Pointer {
  readonly px: number;
  readonly py: number;
}

/** The strips that are read. */
export interface ReadingOf {
  readonly scale: Scale;
  readonly rows: readonly ChartRow[];
  readonly heightPx: number;
}

interface ReadAtProps extends ReadingOf {
  readonly pointer: Pointer;
  readonly scrollTopPx: number;
}

/** The reading line: the time under the pointer, and the phase of each exchange that it crosses; a callout for one. */
export function ReadAt({ pointer, scale, rows, scrollTopPx, heightPx }: ReadAtProps) {
  const atMs = toMs(scale, pointer.px);
  const first = Math.floor(scrollTopPx / STRIP_PX);
  const last = Math.ceil((scrollTopPx + heightPx) / STRIP_PX);
  const crossed = rows.slice(first, last).flatMap((row, offset) => {
    if (row.type === 'lane') return [];
    const phase = phaseAt(row.placed.row, row.placed.startMs, atMs);
    return phase === undefined ? [] : { key: row.key, topPx: (first + offset) * STRIP_PX - scrollTopPx, phase };
  });
  const pointed = rows[Math.floor((scrollTopPx + pointer.py) / STRIP_PX)];
  const isRight = pointer.px < scale.widthPx * 0.7;
  return (
    <div className="pointer-events-none absolute inset-0 z-10 overflow-hidden" data-reading>
      <div className="absolute inset-y-0 border-ink border-l" style={{ left: KEY_PX + pointer.px }}>
        <span className="absolute top-0 left-0 whitespace-nowrap bg-ink px-1.5 font-bold text-[11px] text-paper">
          {formatMs(atMs)}
        </span>
        {crossed.map(({ key, topPx, phase }) => (
          <span
            key={key}
            className={`absolute whitespace-nowrap bg-paper/85 px-1 text-[10px] text-ink leading-3 ${isRight ? 'left-0.5' : 'right-0.5'}`}
            style={{ top: topPx + 1 }}
          >
            {phase.phase === 'unknown' ? 'phase unknown' : PHASE_NAME[phase.phase]}
          </span>
        ))}
      </div>
      {pointed?.type === 'strip' ? (
        <Callout
          placed={pointed.placed}
          leftPx={isRight ? KEY_PX + pointer.px + 16 : KEY_PX + pointer.px - CALLOUT_PX - 16}
          topPx={
            pointer.py + STRIP_PX + CALLOUT_HEIGHT_PX > heightPx
              ? pointer.py - CALLOUT_HEIGHT_PX
              : pointer.py + STRIP_PX
          }
        />
      ) : null}
    </div>
  );
}

const CALLOUT_PX = 250;
const CALLOUT_HEIGHT_PX = 236;

interface CalloutProps {
  readonly placed: Placed;
  readonly leftPx: number;
  readonly topPx: number;
}

/** All phases of one exchange with their exact values. */
function Callout({ placed, leftPx, topPx }: CalloutProps) {
  const { row, startMs, endMs } = placed;
  const exact = (ms: number | undefined): string => (ms === undefined ? '' : `${Math.round(ms * 1000) / 1000} ms`);
  return (
    <div
      className="absolute border border-ink bg-sheet px-3 py-2 text-[12px]"
      style={{ left: leftPx, top: Math.max(4, topPx), width: CALLOUT_PX }}
      data-callout
    >
      <p className="truncate font-bold">
        #{row.index} {nameExchange(row)}
      </p>
      <p className="text-soft">
        {startMs === undefined ? 'start unknown' : `${formatMs(startMs)} to ${formatMs(endMs)}`}
      </p>
      <table className="mt-1 w-full">
        <tbody>
          {PHASES.map((phase) => (
            <tr key={phase} className={row.phases[phase] === undefined ? 'text-soft' : ''}>
              <td>{PHASE_NAME[phase]}</td>
              <td className="text-right font-mono">
                {row.phases[phase] === undefined ? 'none or unknown' : exact(row.phases[phase])}
              </td>
            </tr>
          ))}
          <tr className="border-line border-t font-semibold">
            <td>in all</td>
            <td className="text-right font-mono">{row.timeMs === undefined ? 'unknown' : exact(row.timeMs)}</td>
          </tr>
        </tbody>
      </table>
      <p className="mt-1 text-soft">
        {formatExactBytes(row.wireBytes)} on the wire
        {row.failure === undefined ? '' : `; ${wordFailure(row.failure)}`}
      </p>
    </div>
  );
}
