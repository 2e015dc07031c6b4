import type { ExchangeRow } from '#core/analysis';
import { PHASES, type PhaseName } from '#core/model';
import type { ProfileStep } from '#core/timing';

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

/** The stretch that shows all moments given, from 0 or earlier, with a little room at the end; 1 s where all is 0. */
export function fitScale(endsMs: readonly number[], startsMs: readonly number[], widthPx: number): Scale {
  let fromMs = 0;
  let toMs = 0;
  for (const start of startsMs) fromMs = Math.min(fromMs, start);
  for (const end of endsMs) toMs = Math.max(toMs, end);
  const span = toMs - fromMs;
  return { fromMs, toMs: span === 0 ? 1000 : toMs + span * ROOM_SHARE, widthPx };
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

/** Heights tell the phases apart, rising in the order of time; tones only repeat what the heights say. */
const STEP_HEIGHT: Record<PhaseName | 'unknown', number> = {
  heldMs: 0.14,
  lookupMs: 0.3,
  connectMs: 0.36,
  secureMs: 0.42,
  sendMs: 0.62,
  waitMs: 0.62,
  downloadMs: 1,
  unknown: 0.5,
};

/** The stairs of an exchange. Without phases its whole length is one step; without a length there is none. */
export function stairsOf(row: ExchangeRow, startMs: number, scale: Scale): Step[] {
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
  const fromPx = toPx(scale, atMs);
  return { phase, fromPx, widthPx: toPx(scale, atMs + lengthMs) - fromPx, height: STEP_HEIGHT[phase] };
}

/** The profile as the outline of an area, from the left ground to the right one: "x,y" points of a polygon. */
export function profileOutline(steps: readonly ProfileStep[], max: number, scale: Scale, heightPx: number): string {
  if (steps.length === 0 || max === 0) return '';
  const points: string[] = [];
  let y = heightPx;
  for (const step of steps) {
    const x = round(toPx(scale, step.atMs));
    points.push(`${x},${round(y)}`);
    y = heightPx - ((step.settingUp + step.waiting + step.downloading) / max) * heightPx;
    points.push(`${x},${round(y)}`);
  }
  return points.join(' ');
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
