import { type Scale, toPx } from '#core/chart';
import type { ChartRow } from './layout';

/** A tie between two strips: a redirect and where it led, or a preflight and what it was sent for. */
export interface Tie {
  readonly key: string;
  readonly type: 'redirect' | 'preflight';
  readonly from: number;
  readonly to: number;
}

/** The ties between strips of the chart, by their rows; those of folded lanes have no strip to be tied to. */
export function findTies(rows: readonly ChartRow[]): Tie[] {
  const rowOf = new Map<number, number>();
  rows.forEach((row, at) => {
    if (row.type === 'strip') rowOf.set(row.placed.row.index, at);
  });
  return rows.flatMap((row, at): Tie[] => {
    if (row.type === 'lane') return [];
    const { index, parent, parentEvidence, preflightFor } = row.placed.row;
    const ties: Tie[] = [];
    const hop = parentEvidence === 'redirect' && parent !== undefined ? rowOf.get(parent) : undefined;
    if (hop !== undefined) ties.push({ key: `${parent} ${index}`, type: 'redirect', from: hop, to: at });
    const main = preflightFor === undefined ? undefined : rowOf.get(preflightFor);
    if (main !== undefined) ties.push({ key: `${index} ${preflightFor}`, type: 'preflight', from: at, to: main });
    return ties;
  });
}

/** The line of a tie: from the end of the one, level, then down or up to the other's stairs. */
export function tiePath(tie: Tie, rows: readonly ChartRow[], scale: Scale, stripPx: number): string | undefined {
  const [from, to] = [rows[tie.from], rows[tie.to]];
  if (from?.type !== 'strip' || to?.type !== 'strip') return undefined;
  const [endMs, startMs] = [from.placed.endMs, to.placed.startMs];
  if (endMs === undefined || startMs === undefined) return undefined;
  const fromPx = toPx(scale, endMs);
  const isOutside = (px: number): boolean => px < 0 || px > scale.widthPx;
  if (isOutside(fromPx)) return undefined;
  const isDown = tie.to > tie.from;
  // It goes on from the mark at the end of the stairs, and comes down on the other's from above.
  const leavePx = fromPx + (tie.type === 'redirect' ? MARK_PX : 2);
  const fromY = tie.from * stripPx + (isDown ? stripPx - 6 : 6);
  const toY = tie.to * stripPx + (isDown ? 4 : stripPx - 4);
  // Where clocks overlap, the one below may have begun before the one above ended.
  const downPx = Math.max(leavePx, Math.min(toPx(scale, startMs), scale.widthPx));
  return `M${leavePx} ${fromY}H${downPx}V${toY}`;
}
/** Where the mark of a redirect ends, from the end of its stairs. */
const MARK_PX = 9;
