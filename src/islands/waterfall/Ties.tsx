import { useMemo } from 'react';
import type { Scale } from '#core/chart';
import type { ChartRow } from './layout';
import { STRIP_PX } from './strip-marks';
import { findTies, tiePath } from './ties';

interface TiesProps {
  readonly rows: readonly ChartRow[];
  readonly scale: Scale;
  /** Rows on screen, [from, to). */
  readonly from: number;
  readonly to: number;
}

/** Lines that tie redirects to where they led and preflights to what they were sent for. */
export function Ties({ rows, scale, from, to }: TiesProps) {
  const ties = useMemo(() => findTies(rows), [rows]);
  const shown = ties.filter((tie) => Math.max(tie.from, tie.to) >= from && Math.min(tie.from, tie.to) < to);
  const topPx = from * STRIP_PX;
  return (
    <svg
      width={scale.widthPx}
      height={(to - from) * STRIP_PX}
      viewBox={`0 ${topPx} ${scale.widthPx} ${(to - from) * STRIP_PX}`}
      aria-hidden="true"
      className="pointer-events-none absolute left-0 block overflow-hidden"
      style={{ top: topPx }}
      data-ties={shown.length}
    >
      {shown.map((tie) => (
        <path
          key={tie.key}
          d={tiePath(tie, rows, scale, STRIP_PX)}
          strokeDasharray={tie.type === 'preflight' ? '1 2' : undefined}
          className={`fill-none ${tie.type === 'redirect' ? 'stroke-redirect' : 'stroke-soft'}`}
        />
      ))}
    </svg>
  );
}
