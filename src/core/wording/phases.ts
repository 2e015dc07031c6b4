import type { PhaseName } from '../model';

/** The phases as words of the screen and of the command line. */
export const PHASE_NAME: Record<PhaseName, string> = {
  heldMs: 'held',
  lookupMs: 'lookup',
  connectMs: 'connect',
  secureMs: 'secure',
  sendMs: 'send',
  waitMs: 'server wait',
  downloadMs: 'download',
};
