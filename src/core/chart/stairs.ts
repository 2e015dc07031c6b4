import type { ExchangeRow } from '../analysis';
import { PHASES, type PhaseName } from '../model';
import { PHASE_HEIGHT } from '../wording';
import { clip, type Scale, toPx } from './scale';

/** One step of the stairs: a phase, its place along the strip and the share of the strip's height that it rises. */
export interface Step {
  readonly phase: PhaseName | 'unknown';
  readonly fromPx: number;
  readonly widthPx: number;
  readonly height: number;
}

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
