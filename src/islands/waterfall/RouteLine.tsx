import { memo, useMemo } from 'react';
import type { PlottedLeg } from '#core/brief';
import { type Scale, toPx } from '#core/chart';
import type { ChartRow } from './layout';
import { findRouteRows, routePath, routeSteps, workPath } from './route-line';
import { STRIP_PX } from './strip-marks';

interface RouteLineProps {
  readonly legs: readonly PlottedLeg[];
  readonly rows: readonly ChartRow[];
  readonly scale: Scale;
  /** Rows on screen, [from, to). */
  readonly from: number;
  readonly to: number;
}

/** The route through the strips, as one continuous line, its legs numbered, gaps dotted. */
export function RouteLine({ legs, rows, scale, from, to }: RouteLineProps) {
  const rowOf = useMemo(() => findRouteRows(legs, rows), [legs, rows]);
  const steps = useMemo(() => routeSteps(legs, rowOf, scale, STRIP_PX), [legs, rowOf, scale]);
  const line = useMemo(() => routePath(steps), [steps]);
  const work = useMemo(() => workPath(steps), [steps]);
  if (steps.length === 0) return null;
  const topPx = from * STRIP_PX;
  const heightPx = (to - from) * STRIP_PX;
  return (
    <svg
      width={scale.widthPx}
      height={heightPx}
      viewBox={`0 ${topPx} ${scale.widthPx} ${heightPx}`}
      aria-hidden="true"
      className="pointer-events-none absolute left-0 block overflow-hidden"
      style={{ top: topPx }}
      data-route={steps.length}
    >
      <path d={work} strokeDasharray="1 4" strokeLinecap="round" className="fill-none stroke-2 stroke-route" />
      <path d={line} className="fill-none stroke-2 stroke-route" />
      {steps
        .filter(({ row }) => row >= from && row < to)
        .map(({ number, fromPx, y }) => (
          <text
            key={number}
            x={Math.max(1, fromPx) - 3}
            y={y - 2}
            textAnchor={fromPx < 16 ? 'start' : 'end'}
            className="fill-route font-bold font-mono text-[10px]"
          >
            {number}
          </text>
        ))}
    </svg>
  );
}

const BAND_PX = 4;

interface RouteBandProps {
  readonly legs: readonly PlottedLeg[];
  readonly scale: Scale;
}

/** The route under the profile band, over the whole load: a line through exchanges, dots through gaps. */
export const RouteBand = memo(function RouteBand({ legs, scale }: RouteBandProps) {
  const pathOf = (type: PlottedLeg['type']): string =>
    legs
      .flatMap((leg) =>
        leg.type === type ? `M${toPx(scale, leg.startMs)} ${BAND_PX / 2}H${toPx(scale, leg.endMs)}` : [],
      )
      .join('');
  return (
    <svg width={scale.widthPx} height={BAND_PX} aria-hidden="true" className="block overflow-hidden">
      <path d={pathOf('exchange')} className="fill-none stroke-2 stroke-route" />
      <path d={pathOf('gap')} strokeDasharray="1 4" className="fill-none stroke-2 stroke-route" />
    </svg>
  );
});
