import { type ProfileSpan, profileInFlight } from '#core/timing';

/** A slice of the load: the most exchanges that were open in it at once, by what they were doing at that moment. */
export interface FlightSlice {
  readonly fromMs: number;
  readonly toMs: number;
  readonly settingUp: number;
  readonly waiting: number;
  readonly downloading: number;
}

const SLICES = 48;

/** The load in slices of one length, each with its fullest moment. None where nothing took any time. */
export function flightSlices(spans: readonly ProfileSpan[]): FlightSlice[] {
  const { steps } = profileInFlight(spans);
  const fromMs = steps[0]?.atMs ?? 0;
  const widthMs = ((steps.at(-1)?.atMs ?? 0) - fromMs) / SLICES;
  if (widthMs <= 0) return [];
  const slices = Array.from(
    { length: SLICES },
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
    for (let at = first; at <= Math.max(first, last) && at < SLICES; at++) {
      const slice = slices[at];
      if (slice === undefined) continue;
      const own = slice.settingUp + slice.waiting + slice.downloading;
      if (settingUp + waiting + downloading > own) slices[at] = { ...slice, settingUp, waiting, downloading };
    }
  }
  return slices;
}
