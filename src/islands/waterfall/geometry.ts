import type { ExchangeRow } from '#core/analysis';
import { clip, type Scale, toPx } from '#core/chart';
import { isRedirectStatus } from '#core/http';
import type { BytePoint, ProfileStep } from '#core/timing';

// The drawing of the waterfall as numbers: marks, profile, flags. No React in here.

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
