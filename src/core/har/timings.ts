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
 * Reads the timings of an entry (HAR 1.2, timings). -1 means that a phase does not apply. `ssl` lies inside `connect`,
 * unless it is the longer one and the total says that it lies beside.
 * On plain http there is no TLS, whatever a recorder writes there. The total is the sum of the phases; the entry's own
 * `time` counts only where no phase was recorded, or only what was received: HAR asks for send and wait, too,
 * of whatever came over the network.
 * @param hasWaited whether a response came that was waited for: over the network, not from a cache
 */
export function readClock(entry: Json, isPlainHttp: boolean, hasWaited: boolean): Clock {
  const timings = member(entry, 'timings');
  const recordedTotal = asAmount(member(entry, 'time'));
  const notes: string[] = [];
  const phases = isObject(timings) ? readPhases(timings, isPlainHttp, recordedTotal, notes) : NO_PHASES;
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

function readPhases(timings: Json, isPlainHttp: boolean, recordedTotal: number | undefined, notes: string[]): Phases {
  const connect = asAmount(member(timings, 'connect'));
  const ssl = asAmount(member(timings, 'ssl'));
  const secure = isPlainHttp ? undefined : ssl;
  if (isPlainHttp && ssl !== undefined && ssl > 0) notes.push('TLS time on plain http was left out');
  const around = {
    blockedMs: asAmount(member(timings, 'blocked')),
    dnsMs: asAmount(member(timings, 'dns')),
    sendMs: asAmount(member(timings, 'send')),
    waitMs: asAmount(member(timings, 'wait')),
    receiveMs: asAmount(member(timings, 'receive')),
  };
  const beside = { ...around, connectMs: connect, tlsMs: secure };
  if (secure === undefined || connect === undefined) return beside;
  const isTooLong = secure > connect + TOTAL_SLACK_MS;
  const besideMs = sumPhases(beside);
  if (isTooLong && recordedTotal !== undefined && besideMs !== undefined && !differs(besideMs, recordedTotal)) {
    notes.push('its TLS time is not within its connect time, but beside it: so its total says');
    return beside;
  }
  if (isTooLong) notes.push('its TLS time is longer than its connect time');
  return { ...around, connectMs: Math.max(0, connect - secure), tlsMs: Math.min(secure, connect) };
}

const differs = (sum: number, total: number): boolean =>
  Math.abs(sum - total) > Math.max(TOTAL_SLACK_MS, TOTAL_TOLERANCE * Math.max(sum, total));

const round = (ms: number): string => String(Math.round(ms * 10) / 10);
