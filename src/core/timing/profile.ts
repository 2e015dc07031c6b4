import { type Phases, sumPhases } from '../model';

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

type PhaseClass = 'settingUp' | 'waiting' | 'downloading';
interface Change {
  readonly atMs: number;
  readonly of: PhaseClass;
  readonly by: 1 | -1;
}

/**
 * Number of exchanges open at each moment by phase class, exact at every change (sweep line). Intervals are half-open
 * [start, end): an exchange that starts where another ends does not add to it. An exchange whose phases are unknown
 * counts as waiting for its whole length. O(n log n).
 */
export function profileInFlight(spans: Iterable<ProfileSpan>): InFlightProfile {
  const changes: Change[] = [];
  for (const span of spans) addChanges(span, changes);
  changes.sort((a, b) => a.atMs - b.atMs);
  const open = { settingUp: 0, waiting: 0, downloading: 0 };
  const steps: ProfileStep[] = [];
  let max = 0;
  for (let place = 0; place < changes.length; place++) {
    const change = changes[place] as Change;
    open[change.of] += change.by;
    if (changes[place + 1]?.atMs === change.atMs) continue;
    steps.push({ atMs: change.atMs, ...open });
    max = Math.max(max, open.settingUp + open.waiting + open.downloading);
  }
  return { steps, max };
}

function addChanges(span: ProfileSpan, changes: Change[]): void {
  const settingUp = sumPhases(span.phases, ['blockedMs', 'dnsMs', 'connectMs', 'tlsMs']) ?? 0;
  const downloading = span.phases.receiveMs ?? 0;
  const waitFrom = span.startMs + settingUp;
  const end = span.startMs + span.timeMs;
  const downloadFrom = Math.max(waitFrom, end - downloading);
  addInterval('settingUp', span.startMs, waitFrom, changes);
  addInterval('waiting', waitFrom, downloadFrom, changes);
  addInterval('downloading', downloadFrom, end, changes);
}

function addInterval(of: PhaseClass, from: number, to: number, changes: Change[]): void {
  if (to <= from) return;
  changes.push({ atMs: from, of, by: 1 }, { atMs: to, of, by: -1 });
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
