import { NO_PHASES, PHASES, type Phases, sumPhases } from '../model';
import { asAmount, isObject, type Json, member } from './shape';

/** Beyond this share of difference a recorder's own total is noted; the phases win. */
const TOTAL_TOLERANCE = 0.05;
/** Rounded totals of very short exchanges differ by a large share and mean nothing. */
const TOTAL_SLACK_MS = 2;

export interface Clock {
  readonly phases: Phases;
  /** In ms, >= 0; unknown where neither the phases nor a total were recorded. */
  readonly timeMs: number | undefined;
  readonly notes: readonly string[];
}

/**
 * Reads the timings of an entry (HAR 1.2, timings). -1 means that a phase does not apply. `ssl` lies inside `connect`.
 * On plain http there is no TLS, whatever a recorder writes there. The total is the sum of the phases; the entry's own
 * `time` counts only where no phase was recorded, or only what was received: HAR asks for send and wait, too,
 * of whatever came over the network.
 * @param hasWaited whether a response came that was waited for: over the network, not from a cache
 */
export function readClock(entry: Json, isPlainHttp: boolean, hasWaited: boolean): Clock {
  const timings = member(entry, 'timings');
  const recordedTotal = asAmount(member(entry, 'time'));
  const notes: string[] = [];
  const phases = isObject(timings) ? readPhases(timings, isPlainHttp, notes) : NO_PHASES;
  const sum = sumPhases(phases);
  if (sum === undefined) return { phases, timeMs: recordedTotal, notes };
  const isReceivedOnly = PHASES.every((phase) =>
    phase === 'receiveMs' ? (phases[phase] ?? 0) > 0 : phases[phase] === undefined,
  );
  if (hasWaited && isReceivedOnly) {
    // What was recorded is some of it, at a time that nobody knows.
    const isWhole = recordedTotal !== undefined && recordedTotal > sum && differs(sum, recordedTotal);
    notes.push(`its wait for the response was not recorded; ${round(phases.receiveMs ?? 0)} ms of receiving were`);
    return { phases: NO_PHASES, timeMs: isWhole ? recordedTotal : undefined, notes };
  }
  // A recorder that counted TLS on plain http counted it in the total too; that is the same oddity, noted once.
  if (recordedTotal !== undefined && notes.length === 0 && differs(sum, recordedTotal)) {
    notes.push(`its recorded time of ${round(recordedTotal)} ms is not the sum of its phases, ${round(sum)} ms`);
  }
  return { phases, timeMs: sum, notes };
}

function readPhases(timings: Json, isPlainHttp: boolean, notes: string[]): Phases {
  const connect = asAmount(member(timings, 'connect'));
  const ssl = asAmount(member(timings, 'ssl'));
  const secure = isPlainHttp ? undefined : ssl;
  if (isPlainHttp && ssl !== undefined && ssl > 0) notes.push('TLS time on plain http was left out');
  const sslInside = secure !== undefined && connect !== undefined;
  if (sslInside && secure > connect + TOTAL_SLACK_MS) notes.push('its TLS time is longer than its connect time');
  return {
    blockedMs: asAmount(member(timings, 'blocked')),
    dnsMs: asAmount(member(timings, 'dns')),
    connectMs: sslInside ? Math.max(0, connect - secure) : connect,
    tlsMs: sslInside ? Math.min(secure, connect) : secure,
    sendMs: asAmount(member(timings, 'send')),
    waitMs: asAmount(member(timings, 'wait')),
    receiveMs: asAmount(member(timings, 'receive')),
  };
}

const differs = (sum: number, total: number): boolean =>
  Math.abs(sum - total) > Math.max(TOTAL_SLACK_MS, TOTAL_TOLERANCE * Math.max(sum, total));

const round = (ms: number): string => String(Math.round(ms * 10) / 10);
