import { PHASES, type PhaseName, type Phases } from '../model';

/** The part of an exchange's phases that lies in [fromMs, toMs), each in ms. Phases follow one another from its start. */
export function phasesWithin(
  phases: Phases,
  startMs: number,
  fromMs: number,
  toMs: number,
): Partial<Record<PhaseName, number>> {
  const parts: Partial<Record<PhaseName, number>> = {};
  let at = startMs;
  for (const phase of PHASES) {
    const end = at + (phases[phase] ?? 0);
    const inside = Math.min(end, toMs) - Math.max(at, fromMs);
    if (inside > 0) parts[phase] = inside;
    at = end;
  }
  return parts;
}
