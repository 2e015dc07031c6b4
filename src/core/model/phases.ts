/** The phases of one exchange in their order in time. The names are the ledger's and the command line's. */
export const PHASES = ['blockedMs', 'dnsMs', 'connectMs', 'tlsMs', 'sendMs', 'waitMs', 'receiveMs'] as const;
export type PhaseName = (typeof PHASES)[number];

/** Phase lengths in ms, each >= 0. A phase that does not apply, or was not recorded, is absent. */
export type Phases = { readonly [Name in PhaseName]: number | undefined };

export const NO_PHASES: Phases = {
  blockedMs: undefined,
  dnsMs: undefined,
  connectMs: undefined,
  tlsMs: undefined,
  sendMs: undefined,
  waitMs: undefined,
  receiveMs: undefined,
};

/** The sum of the phases that are known, in ms; unknown when none is. */
export function sumPhases(phases: Phases, names: readonly PhaseName[] = PHASES): number | undefined {
  let sum: number | undefined;
  for (const name of names) {
    const length = phases[name];
    if (length !== undefined) sum = (sum ?? 0) + length;
  }
  return sum;
}

/** Connection set-up: lookup + connect + secure, in ms. Unknown when no connection was made for this exchange. */
export const setupMs = (phases: Phases): number | undefined => sumPhases(phases, ['dnsMs', 'connectMs', 'tlsMs']);

/** Time to first byte of the request: send + server wait, in ms. It starts when the connection stands. */
export const firstByteMs = (phases: Phases): number | undefined =>
  phases.waitMs === undefined ? undefined : sumPhases(phases, ['sendMs', 'waitMs']);
