import { hasAnyTime, type Moments } from '../analysis';
import type { BriefPage } from '../brief';
import { type Party, PHASES, type PhaseName } from '../model';
import { type HostMap, hostIn } from './hosts';
import type { ComparedLoad } from './load';

/** What both loads are measured to: the first of these that both have. Where one has no times, its last moment is a start. */
export type CommonGoal = 'loaded' | 'domReady' | 'lastExchange' | 'lastMoment';

/** Moments that lead the routes of all loads to the same kind of goal. */
export function commonGoal(loads: readonly ComparedLoad[]): {
  readonly goal: CommonGoal;
  readonly momentsOf: (load: ComparedLoad) => Moments | undefined;
} {
  const all = (name: 'loadedMs' | 'domReadyMs'): boolean => loads.every(({ page }) => page?.[name] !== undefined);
  if (all('loadedMs')) return { goal: 'loaded', momentsOf: ({ page }) => page };
  if (all('domReadyMs'))
    return { goal: 'domReady', momentsOf: ({ page }) => ({ loadedMs: undefined, domReadyMs: page?.domReadyMs }) };
  const areTimed = loads.every(({ rows }) => rows.length === 0 || hasAnyTime(rows));
  return { goal: areTimed ? 'lastExchange' : 'lastMoment', momentsOf: () => undefined };
}

/** What time went to that is no phase of an exchange. */
export const SPENT_BESIDE = ['gap', 'pause', 'unknown'] as const;
export type SpentOn = PhaseName | (typeof SPENT_BESIDE)[number];
export const SPENT_ON: readonly SpentOn[] = [...PHASES, ...SPENT_BESIDE];

/** An amount of both, in ms. */
export interface Both<K> {
  readonly of: K;
  readonly aMs: number;
  readonly bMs: number;
}

/** Two ledgers beside each other. Each list adds up to both loads, so that its differences add up to theirs. */
export interface LedgerDifference {
  readonly aMs: number;
  readonly bMs: number;
  /** Parts that neither load has are left out; in the order of the phases. */
  readonly byPhase: readonly Both<SpentOn>[];
  /** By host, with gaps and pauses, which are no host's; the greatest difference first. */
  readonly byHost: readonly Both<string | undefined>[];
  readonly byParty: readonly Both<Party | 'unknown' | undefined>[];
  /** Of the wait, what each host's responses took. */
  readonly waitByHost: readonly Both<string>[];
}

/** The difference of two routes. */
export function ledgerDifference(a: BriefPage, b: BriefPage, map: HostMap): LedgerDifference {
  const spent = ({ ledger }: BriefPage): ReadonlyMap<SpentOn, number> =>
    new Map<SpentOn, number>([
      ...PHASES.map((phase) => [phase, ledger.phases[phase]] as const),
      ['gap', ledger.gapMs],
      ['pause', ledger.retryPauseMs],
      ['unknown', ledger.unknownMs],
    ]);
  const besides = ({ ledger }: BriefPage): number => ledger.gapMs + ledger.retryPauseMs;
  const hosts = (page: BriefPage): ReadonlyMap<string | undefined, number> => {
    const sums = new Map<string | undefined, number>();
    for (const { host, ms } of page.ledger.byHost) {
      const name = hostIn(host, map);
      sums.set(name, (sums.get(name) ?? 0) + ms);
    }
    return sums.set(undefined, besides(page));
  };
  const waits = (page: BriefPage): ReadonlyMap<string, number> => {
    const sums = new Map<string, number>();
    for (const { host, waitMs } of page.ledger.byHost) {
      const name = hostIn(host, map);
      sums.set(name, (sums.get(name) ?? 0) + waitMs);
    }
    return sums;
  };
  const parties = (page: BriefPage): ReadonlyMap<Party | 'unknown' | undefined, number> =>
    new Map([...(Object.entries(page.ledger.byParty) as [Party | 'unknown', number][]), [undefined, besides(page)]]);
  const dearest = <K>(list: Both<K>[]): Both<K>[] =>
    list.sort((one, other) => Math.abs(other.bMs - other.aMs) - Math.abs(one.bMs - one.aMs));
  return {
    aMs: a.targetMs - a.originMs,
    bMs: b.targetMs - b.originMs,
    byPhase: beside(spent(a), spent(b)).sort((one, other) => SPENT_ON.indexOf(one.of) - SPENT_ON.indexOf(other.of)),
    byHost: dearest(beside(hosts(a), hosts(b))),
    byParty: dearest(beside(parties(a), parties(b))),
    waitByHost: dearest(beside(waits(a), waits(b))),
  };
}

function beside<K>(a: ReadonlyMap<K, number>, b: ReadonlyMap<K, number>): Both<K>[] {
  return [...new Set([...a.keys(), ...b.keys()])].flatMap((of) => {
    const [aMs, bMs] = [a.get(of) ?? 0, b.get(of) ?? 0];
    return aMs === 0 && bMs === 0 ? [] : [{ of, aMs, bMs }];
  });
}
