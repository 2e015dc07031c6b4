// Times in ms to pixels along an axis, and back.

/** A stretch of time and the pixels that it fills. */
export interface Scale {
  readonly fromMs: number;
  readonly toMs: number;
  readonly widthPx: number;
}

/** The pixel of a moment; moments outside the stretch lie outside the pixels. */
export const toPx = (scale: Scale, ms: number): number =>
  ((ms - scale.fromMs) / (scale.toMs - scale.fromMs)) * scale.widthPx;

/** The moment at a pixel. */
export const toMs = (scale: Scale, px: number): number =>
  scale.fromMs + (px / scale.widthPx) * (scale.toMs - scale.fromMs);

/** The stretch that shows all moments given, from 0 or earlier, with a little room at the end; 1 s where all is 0. */
export function wholeOf(moments: Iterable<number>): { readonly fromMs: number; readonly toMs: number } {
  let fromMs = 0;
  let toMs = 0;
  for (const moment of moments) {
    fromMs = Math.min(fromMs, moment);
    toMs = Math.max(toMs, moment);
  }
  const span = toMs - fromMs;
  return { fromMs, toMs: span === 0 ? 1000 : toMs + span * ROOM_SHARE };
}
const ROOM_SHARE = 0.04;

export interface Tick {
  readonly atMs: number;
  readonly px: number;
  readonly label: string;
}

/** Round steps of the axis: 1, 2 or 5 times a power of ten ms, as many as fit with `minPx` between them. */
export function ticksOf(scale: Scale, minPx: number): Tick[] {
  const most = Math.max(1, Math.floor(scale.widthPx / minPx));
  const rough = (scale.toMs - scale.fromMs) / most;
  const power = 10 ** Math.floor(Math.log10(rough));
  const stepMs = ([1, 2, 5].find((factor) => factor * power >= rough) ?? 10) * power;
  const ticks: Tick[] = [];
  for (let count = Math.ceil(scale.fromMs / stepMs); count * stepMs <= scale.toMs; count++) {
    const atMs = count * stepMs;
    ticks.push({ atMs, px: toPx(scale, atMs), label: tickLabel(atMs, stepMs) });
  }
  return ticks;
}

/** The label has just the decimals that its step needs, so that neighbours never read alike. */
function tickLabel(atMs: number, stepMs: number): string {
  if (Math.abs(atMs) < 1000 && stepMs < 1000) return `${Number(atMs.toFixed(decimals(stepMs)))} ms`;
  return `${Number((atMs / 1000).toFixed(decimals(stepMs / 1000)))} s`;
}

const decimals = (step: number): number => Math.max(0, -Math.floor(Math.log10(step)));

/** How far beyond its edges anything is still drawn: drawing engines lose their precision over millions of pixels. */
const BEYOND_PX = 24;

/** A pixel no farther outside than can be seen. */
export const clip = (px: number, scale: Scale): number => Math.min(Math.max(px, -BEYOND_PX), scale.widthPx + BEYOND_PX);
