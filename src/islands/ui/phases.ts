import type { PhaseName } from '#core/model';

/** The phases as words of the screen. */
export const PHASE_NAME: Record<PhaseName, string> = {
  heldMs: 'held',
  lookupMs: 'lookup',
  connectMs: 'connect',
  secureMs: 'secure',
  sendMs: 'send',
  waitMs: 'server wait',
  downloadMs: 'download',
};
