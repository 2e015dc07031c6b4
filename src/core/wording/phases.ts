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
