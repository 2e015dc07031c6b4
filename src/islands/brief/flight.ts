import { type ProfileSpan, profileInFlight } from '#core/timing';

/** A slice of the load: the most exchanges that were open in it at once, by what they were doing at that moment. */
export interface FlightSlice {
  readonly fromMs: number;
  readonly toMs: number;
  readonly settingUp: number;
  readonly waiting: number;
  readonly downloading: number;
}

const MOST_SLICES = 60;
const MOST_TICKS = 7;

/** The least of 1, 2 or 5 times a power of ten that is not less. */
function roundUp(ms: number): number {
  const power = 10 ** Math.floor(Math.log10(ms));
  return ([1, 2, 5].find((factor) => factor * power >= ms) ?? 10) * power;
}

/** The load in slices of one round length, each with its fullest moment. None where nothing took any time. */
export function flightSlices(spans: readonly ProfileSpan[]): FlightSlice[] {
  const { steps } = profileInFlight(spans);
  const firstMs = steps[0]?.atMs ?? 0;
  const wholeMs = (steps.at(-1)?.atMs ?? 0) - firstMs;
  if (wholeMs <= 0) return [];
  const widthMs = roundUp(wholeMs / (MOST_SLICES - 1));
  const fromMs = Math.floor(firstMs / widthMs) * widthMs;
  const count = Math.ceil((firstMs + wholeMs - fromMs) / widthMs);
  const slices = Array.from(
    { length: count },
    (_, at): FlightSlice => ({
      fromMs: fromMs + at * widthMs,
      toMs: fromMs + (at + 1) * widthMs,
      settingUp: 0,
      waiting: 0,
      downloading: 0,
    }),
  );
  for (const [place, { atMs, settingUp, waiting, downloading }] of steps.entries()) {
    const first = Math.floor((atMs - fromMs) / widthMs);
    // A step lasts until the next one begins; what begins on a slice's edge belongs to that slice.
    const last = Math.ceil(((steps[place + 1]?.atMs ?? atMs) - fromMs) / widthMs) - 1;
    for (let at = first; at <= Math.max(first, last) && at < count; at++) {
      const slice = slices[at];
      if (slice === undefined) continue;
      const own = openIn(slice);
      if (settingUp + waiting + downloading > own) slices[at] = { ...slice, settingUp, waiting, downloading };
    }
  }
  return slices;
}

/** Exchanges that are open in a slice's fullest moment. */
export const openIn = ({ settingUp, waiting, downloading }: FlightSlice): number => settingUp + waiting + downloading;

const MOST_COUNTS = 4;

/** Whole numbers up the side of the chart, from 0 to at least the most that were open at once. */
export function countTicks(slices: readonly FlightSlice[]): number[] {
  const most = slices.reduce((so, slice) => Math.max(so, openIn(slice)), 1);
  const step = Math.max(1, roundUp(most / MOST_COUNTS));
  return Array.from({ length: Math.ceil(most / step) + 1 }, (_, at) => at * step);
}

/** Starts of slices that lie at round moments, as many as can be told apart along the axis. */
export function roundTicks(slices: readonly FlightSlice[]): number[] {
  const [first] = slices;
  if (first === undefined) return [];
  const stepMs = roundUp(((slices.at(-1)?.toMs ?? 0) - first.fromMs) / MOST_TICKS);
  const every = Math.max(1, Math.round(stepMs / (first.toMs - first.fromMs)));
  const offset = Math.round(first.fromMs / (first.toMs - first.fromMs));
  return slices.flatMap(({ fromMs }, at) => ((at + offset) % every === 0 ? fromMs : []));
}
