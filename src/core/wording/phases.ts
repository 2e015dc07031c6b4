import type { PhaseName } from '../model';

/** The phases as words of the screen and of the command line. */
export const PHASE_NAME: Record<PhaseName, string> = {
  blockedMs: 'blocked',
  dnsMs: 'DNS',
  connectMs: 'connect',
  tlsMs: 'TLS',
  sendMs: 'send',
  waitMs: 'wait',
  receiveMs: 'receive',
};

/**
 * How high a phase stands in the stairs of an exchange, as a share of the whole: heights tell the phases apart, rising in the
 * order of time. Of what has no phases the whole is one step.
 */
export const PHASE_HEIGHT: Record<PhaseName | 'unknown', number> = {
  blockedMs: 0.14,
  dnsMs: 0.3,
  connectMs: 0.36,
  tlsMs: 0.42,
  sendMs: 0.62,
  waitMs: 0.62,
  receiveMs: 1,
  unknown: 0.5,
};

/** Tones repeat what the heights say: the taller, the fuller. */
export const PHASE_TONE: Record<PhaseName | 'unknown', number> = {
  blockedMs: 0.06,
  dnsMs: 0.22,
  connectMs: 0.22,
  tlsMs: 0.22,
  sendMs: 0.42,
  waitMs: 0.42,
  receiveMs: 1,
  unknown: 0,
};
