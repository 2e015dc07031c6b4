import type { PlottedLeg } from '#core/brief';

// The drawing of the route as numbers: one rising step for each exchange, the line under them. No React in here.

export interface PlotBox {
  readonly leg: PlottedLeg;
  /** Number of the leg among the exchanges, from 1; absent for gaps. */
  readonly number: number | undefined;
  readonly x: number;
  readonly y: number;
  readonly widthPx: number;
}

export interface Plot {
  readonly boxes: readonly PlotBox[];
  /** The one line of the route, as an SVG path: under the exchanges, and up to the next at each one's end. */
  readonly line: string;
  readonly heightPx: number;
}

export const BOX_PX = 14;
const RISE_PX = 9;
const LEAST_RISE_PX = 4;
/** Longer routes rise less by step, so that they stay on the screen: steps that can be told apart as long as they have room. */
const MOST_HEIGHT_PX = 110;
const TALLEST_PX = 240;

const round = (value: number): number => Math.round(value * 10) / 10;

/**
 * Lays the route out from left to right over its whole time, each exchange a step higher than the one before. Of legs that are
 * narrower than a pixel one for each pixel is drawn, of exchanges and of gaps.
 */
export function plotOf(legs: readonly PlottedLeg[], widthPx: number): Plot {
  const fromMs = legs[0]?.startMs ?? 0;
  const toMs = legs.at(-1)?.endMs ?? fromMs + 1;
  const toPx = (ms: number): number => round(((ms - fromMs) / Math.max(1e-9, toMs - fromMs)) * widthPx);
  const steps = legs.filter(({ type }) => type === 'exchange').length;
  const wanted = Math.max(LEAST_RISE_PX, Math.min(RISE_PX, MOST_HEIGHT_PX / Math.max(1, steps)));
  const rise = Math.min(wanted, TALLEST_PX / Math.max(1, steps));
  const heightPx = round(BOX_PX + 4 + rise * Math.max(0, steps - 1));
  let level = -1;
  const boxes = legs.map((leg): PlotBox => {
    if (leg.type === 'exchange') level++;
    const x = toPx(leg.startMs);
    const y = round(heightPx - 3 - BOX_PX - rise * Math.max(0, level));
    return {
      leg,
      number: leg.type === 'exchange' ? level + 1 : undefined,
      x,
      y,
      widthPx: round(Math.max(1, toPx(leg.endMs) - x)),
    };
  });
  const points = boxes.flatMap(({ x, y, widthPx: width }) => [
    [x, y + BOX_PX + 1.5],
    [x + width, y + BOX_PX + 1.5],
  ]);
  const drawn = new Set<string>();
  const seen = boxes.filter(({ leg, x }) => {
    if (toPx(leg.endMs) - x >= 1) return true;
    const pixel = `${leg.type} ${Math.floor(x)}`;
    if (drawn.has(pixel)) return false;
    drawn.add(pixel);
    return true;
  });
  return {
    boxes: seen,
    line: points.map(([x, y], at) => `${at === 0 ? 'M' : 'L'}${x} ${round(y ?? 0)}`).join(''),
    heightPx,
  };
}
