import type { PlottedLeg } from '#core/brief';
import { type Scale, toPx } from '#core/chart';
import type { ChartRow } from './layout';

/** A leg of the route at its strip: the line runs under it from where the leg begins to where it ends. */
export interface RouteStep {
  readonly index: number;
  /** Its number among the exchanges of the route, from 1. */
  readonly number: number;
  readonly row: number;
  readonly fromPx: number;
  readonly toPx: number;
  readonly y: number;
}

/** The places of the route's exchanges among the rows that are shown; those that are filtered out or folded away have none. */
export function findRouteRows(legs: readonly PlottedLeg[], rows: readonly ChartRow[]): ReadonlyMap<number, number> {
  const onRoute = new Set<number>(legs.flatMap((leg) => (leg.type === 'exchange' ? leg.index : [])));
  const rowOf = new Map<number, number>();
  rows.forEach((row, at) => {
    if (row.type === 'strip' && onRoute.has(row.placed.row.index)) rowOf.set(row.placed.row.index, at);
  });
  return rowOf;
}

/** The route's legs at the strips that are shown. @param rowOf `findRouteRows` of the legs */
export function routeSteps(
  legs: readonly PlottedLeg[],
  rowOf: ReadonlyMap<number, number>,
  scale: Scale,
  stripPx: number,
): RouteStep[] {
  let number = 0;
  return legs.flatMap((leg): RouteStep[] => {
    if (leg.type === 'gap') return [];
    number++;
    const row = rowOf.get(leg.index);
    if (row === undefined) return [];
    const [fromPx, endPx] = [toPx(scale, leg.startMs), toPx(scale, leg.endMs)];
    return [{ index: leg.index, number, row, fromPx, toPx: endPx, y: (row + 1) * stripPx - BASE_PX }];
  });
}
/** The line runs so far above the strip's lower edge. */
const BASE_PX = 2;

/** The one line: under each strip's leg, level through gaps (dotted, drawn apart), then up or down to the next. */
export function routePath(steps: readonly RouteStep[]): string {
  return steps
    .map(({ fromPx, toPx: endPx, y }, at) => {
      const before = steps[at - 1];
      // A gap runs at the level of the exchange before it; the line comes over when the next begins.
      const over = before === undefined ? `M${round(fromPx)} ${y}` : `M${round(fromPx)} ${before.y}V${y}`;
      return `${over}H${round(endPx)}`;
    })
    .join('');
}

/** Gaps between two legs, along the level of the first. */
export function workPath(steps: readonly RouteStep[]): string {
  return steps
    .flatMap((step, at) => {
      const next = steps[at + 1];
      return next === undefined || next.fromPx <= step.toPx
        ? []
        : `M${round(step.toPx)} ${step.y}H${round(next.fromPx)}`;
    })
    .join('');
}

const round = (px: number): number => Math.round(px * 10) / 10;
