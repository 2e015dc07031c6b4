import type { Phases } from '../model';

/** What the profile needs of an exchange: its start on any common axis, its length and its phases, in ms. */
export interface ProfileSpan {
  readonly startMs: number;
  readonly timeMs: number;
  readonly phases: Phases;
}

/** Exchanges open from `atMs` until the next step, by what they are doing. */
export interface ProfileStep {
  readonly atMs: number;
  readonly settingUp: number;
  readonly waiting: number;
  readonly downloading: number;
}

export interface InFlightProfile {
  /** Steps in time order; each holds until the next one's `atMs`. The last one counts nothing in flight. */
  readonly steps: readonly ProfileStep[];
  /** Most exchanges open at once. */
  readonly max: number;
}

/**
 * Number of exchanges open at each moment by phase class, exact at every change (sweep line). Intervals are half-open
 * [start, end): an exchange that starts where another ends does not add to it. An exchange whose phases are unknown
 * counts as waiting for its whole length. O(n log n).
 */
export function profileInFlight(spans: Iterable<ProfileSpan>): InFlightProfile {
  const { settingUp, waiting, downloading } = intervalsOf(spans);
  const steps: ProfileStep[] = [];
  let max = 0;
  for (;;) {
    const atMs = Math.min(settingUp.nextMs, waiting.nextMs, downloading.nextMs);
    if (atMs === Number.POSITIVE_INFINITY) return { steps, max };
    const step = { atMs, settingUp: settingUp.at(atMs), waiting: waiting.at(atMs), downloading: downloading.at(atMs) };
    steps.push(step);
    max = Math.max(max, openAt(step));
  }
}

function intervalsOf(spans: Iterable<ProfileSpan>) {
  const [settingUp, waiting, downloading] = [new Intervals(), new Intervals(), new Intervals()];
  for (const span of spans) {
    const { blockedMs = 0, dnsMs = 0, connectMs = 0, tlsMs = 0, receiveMs = 0 } = span.phases;
    const waitFromMs = span.startMs + (blockedMs + dnsMs + connectMs + tlsMs);
    const endMs = span.startMs + span.timeMs;
    const downloadFromMs = Math.max(waitFromMs, endMs - receiveMs);
    settingUp.add(span.startMs, waitFromMs);
    waiting.add(waitFromMs, downloadFromMs);
    downloading.add(downloadFromMs, endMs);
  }
  for (const one of [settingUp, waiting, downloading]) one.begin();
  return { settingUp, waiting, downloading };
}

/** How many intervals are open as time goes on. Beginnings and ends are numbers of their own: they sort many times faster. */
class Intervals {
  readonly #begins: number[] = [];
  readonly #ends: number[] = [];
  #sortedBegins = new Float64Array();
  #sortedEnds = new Float64Array();
  #begun = 0;
  #ended = 0;
  /** The next moment at which one begins or ends; infinite behind the last one. */
  nextMs = Number.POSITIVE_INFINITY;

  add(fromMs: number, toMs: number): void {
    if (toMs <= fromMs) return;
    this.#begins.push(fromMs);
    this.#ends.push(toMs);
  }

  begin(): void {
    this.#sortedBegins = Float64Array.from(this.#begins).sort();
    this.#sortedEnds = Float64Array.from(this.#ends).sort();
    this.#findNext();
  }

  /** How many are open from a moment on, which is never before the one asked for last. */
  at(atMs: number): number {
    if (atMs >= this.nextMs) {
      while ((this.#sortedBegins[this.#begun] ?? Number.POSITIVE_INFINITY) <= atMs) this.#begun++;
      while ((this.#sortedEnds[this.#ended] ?? Number.POSITIVE_INFINITY) <= atMs) this.#ended++;
      this.#findNext();
    }
    return this.#begun - this.#ended;
  }

  #findNext(): void {
    this.nextMs = Math.min(
      this.#sortedBegins[this.#begun] ?? Number.POSITIVE_INFINITY,
      this.#sortedEnds[this.#ended] ?? Number.POSITIVE_INFINITY,
    );
  }
}

const openAt = (step: ProfileStep): number => step.settingUp + step.waiting + step.downloading;

/** Time within [from, to) in which nothing was in flight, in ms. */
export function idleMs(profile: InFlightProfile, from: number, to: number): number {
  let idle = 0;
  let since = from;
  let open = 0;
  for (const step of profile.steps) {
    const at = Math.min(Math.max(step.atMs, from), to);
    if (open === 0) idle += at - since;
    since = at;
    open = openAt(step);
  }
  return open === 0 ? idle + Math.max(0, to - since) : idle;
}
