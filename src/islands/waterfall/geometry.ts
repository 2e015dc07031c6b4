import type { ExchangeRow } from '#core/analysis';
import { isRedirectStatus } from '#core/http';
import { PHASES, type PhaseName } from '#core/model';
import type { BytePoint, ProfileStep } from '#core/timing';
import { PHASE_HEIGHT } from '#core/wording';

// The drawing of the waterfall as numbers: times in ms to pixels, phases to steps. No React in here.

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

/** One step of the stairs: a phase, its place along the strip and the share of the strip's height that it rises. */
export interface Step {
  readonly phase: PhaseName | 'unknown';
  readonly fromPx: number;
  readonly widthPx: number;
  readonly height: number;
}

/** How far beyond its edges anything is still drawn: drawing engines lose their precision over millions of pixels. */
const BEYOND_PX = 24;

/** The stairs of an exchange. Without phases its whole length is one step; without a length there is none. */
export function stairsOf(row: Pick<ExchangeRow, 'phases' | 'timeMs'>, startMs: number, scale: Scale): Step[] {
  const steps: Step[] = [];
  let atMs = startMs;
  for (const phase of PHASES) {
    const length = row.phases[phase];
    if (length === undefined || length <= 0) continue;
    steps.push(step(phase, atMs, length, scale));
    atMs += length;
  }
  if (steps.length === 0 && row.timeMs !== undefined) steps.push(step('unknown', startMs, row.timeMs, scale));
  return steps;
}

function step(phase: Step['phase'], atMs: number, lengthMs: number, scale: Scale): Step {
  const fromPx = clip(toPx(scale, atMs), scale);
  return { phase, fromPx, widthPx: clip(toPx(scale, atMs + lengthMs), scale) - fromPx, height: PHASE_HEIGHT[phase] };
}

/** A pixel no farther outside than can be seen. */
export const clip = (px: number, scale: Scale): number => Math.min(Math.max(px, -BEYOND_PX), scale.widthPx + BEYOND_PX);

/** The phase that an exchange was in at a moment, and how far into it; undefined where it was not under way. */
export function phaseAt(
  row: ExchangeRow,
  startMs: number | undefined,
  atMs: number,
): { readonly phase: PhaseName | 'unknown'; readonly sinceMs: number; readonly lengthMs: number } | undefined {
  if (startMs === undefined || row.timeMs === undefined || atMs < startMs || atMs > startMs + row.timeMs)
    return undefined;
  let from = startMs;
  for (const phase of PHASES) {
    const lengthMs = row.phases[phase];
    if (lengthMs === undefined || lengthMs <= 0) continue;
    if (atMs <= from + lengthMs) return { phase, sinceMs: atMs - from, lengthMs };
    from += lengthMs;
  }
  return { phase: 'unknown', sinceMs: atMs - startMs, lengthMs: row.timeMs };
}

/** How an exchange ended, where that is not plain: drawn as a mark after its stairs, to be read without colour. */
export type EndMark = 'failed' | 'torn' | 'hop' | 'open';

/** First match wins: cut off under way; still open when the recording ended; failed; led elsewhere. */
export function endMarkOf(row: ExchangeRow, endMs: number | undefined, lastMs: number): EndMark | undefined {
  if (row.failure?.type === 'cut-off') return 'torn';
  const isLasting = row.kind === 'socket' || row.kind === 'stream';
  const isUnheardOf = row.failure?.type === 'no-response' && row.failure.recorded === undefined;
  if ((isLasting || isUnheardOf) && endMs !== undefined && endMs >= lastMs - OPEN_WITHIN_MS) return 'open';
  if (row.failure !== undefined) return 'failed';
  return isRedirectStatus(row.status) ? 'hop' : undefined;
}
/** Recorders end what is still open when they end themselves; that takes them a moment. */
const OPEN_WITHIN_MS = 50;

/** A reading of the profile: how much of it is drawn below an outline. */
export type ProfileLevel = (step: ProfileStep) => number;

/** Downloads stand on the ground, what waits on them, what sets up on top: the three levels of the profile. */
export const PROFILE_LEVELS = {
  downloading: (step) => step.downloading,
  waiting: (step) => step.downloading + step.waiting,
  settingUp: (step) => step.downloading + step.waiting + step.settingUp,
} as const satisfies Record<string, ProfileLevel>;

/**
 * The outline of the profile up to a level, from the left ground to the right one: "x,y" points of a polygon. Of the
 * steps within one pixel the highest and the last are kept.
 */
export function profileOutline(
  steps: readonly ProfileStep[],
  level: ProfileLevel,
  max: number,
  scale: Scale,
  heightPx: number,
): string {
  if (steps.length === 0 || max === 0) return '';
  const yOf = (value: number): number => round(heightPx - (value / max) * heightPx);
  const points: string[] = [];
  let y = yOf(0);
  let column = { px: Number.NaN, top: 0, last: 0 };
  const flush = (): void => {
    if (Number.isNaN(column.px)) return;
    points.push(`${column.px},${y}`);
    if (yOf(column.top) < Math.min(y, yOf(column.last))) points.push(`${column.px},${yOf(column.top)}`);
    y = yOf(column.last);
    points.push(`${column.px},${y}`);
  };
  for (const step of steps) {
    const px = round(clip(toPx(scale, step.atMs), scale));
    const value = level(step);
    if (Math.abs(px - column.px) < 0.5) column = { px: column.px, top: Math.max(column.top, value), last: value };
    else {
      flush();
      column = { px, top: value, last: value };
    }
  }
  flush();
  return points.join(' ');
}

/** Bytes over time as a line from the ground to the top. */
export function byteLine(points: readonly BytePoint[], scale: Scale, heightPx: number): string {
  const total = points.at(-1)?.bytes ?? 0;
  if (total === 0) return '';
  const drawn: string[] = [];
  let lastPx = Number.NEGATIVE_INFINITY;
  points.forEach(({ atMs, bytes }, at) => {
    const px = round(toPx(scale, atMs));
    if (px - lastPx < 0.5 && at < points.length - 1) return;
    lastPx = px;
    drawn.push(`${px},${round(heightPx - (bytes / total) * heightPx)}`);
  });
  return drawn.join(' ');
}

const round = (value: number): number => Math.round(value * 10) / 10;

export interface Flag {
  readonly label: string;
  /** Where the milestone's line stands. */
  readonly px: number;
  /** How many flags lie above this one: flags that would overlap hang lower. */
  readonly level: number;
  /** The flag flies to the left of its line where it would leave the chart on the right. */
  readonly toLeft: boolean;
}

const FLAG_CHAR_PX = 7;
const FLAG_PAD_PX = 16;

/** Places milestone flags so that none hides another. Milestones come in time order. */
export function placeFlags(milestones: readonly { label: string; atMs: number }[], scale: Scale): Flag[] {
  const endOfLevel: number[] = [];
  return milestones.map(({ label, atMs }) => {
    const px = toPx(scale, atMs);
    const widthPx = label.length * FLAG_CHAR_PX + FLAG_PAD_PX;
    const toLeft = px + widthPx > scale.widthPx;
    const from = toLeft ? px - widthPx : px;
    let level = 0;
    while ((endOfLevel[level] ?? Number.NEGATIVE_INFINITY) > from) level++;
    endOfLevel[level] = from + widthPx;
    return { label, px, level, toLeft };
  });
}
