import { nameHost } from '#core/analysis';
import { type Cause, type LoadComparison, SPENT_NAME, type SpentOn } from '#core/compare';

/** By what the difference of two loads is split. */
export const SPLITS = {
  phase: 'phase',
  host: 'host',
  party: 'party',
  cause: 'what made it',
} as const;
export type SplitId = keyof typeof SPLITS;
export const findSplit = (name: string | undefined): SplitId =>
  (Object.keys(SPLITS) as SplitId[]).find((id) => id === name) ?? 'phase';

/** A step from one load to the other: what it is of, what it adds, and the causes behind it. */
export interface LedgerStep {
  readonly key: string;
  readonly label: string;
  readonly ms: number;
  /** Where it begins, in ms of the load: where the step before it has led. */
  readonly fromMs: number;
  readonly cause: Cause | undefined;
}

/** Steps of less are drawn as one. */
const DRAWN_MS = 0.5;
const MOST_STEPS = 9;

interface Part {
  readonly key: string;
  readonly label: string;
  readonly ms: number;
  readonly cause?: Cause;
}

/**
 * The steps that lead from A's load to B's, the greatest first; those that are too small or too many as one, and what is not
 * explained last. Their sum is the difference.
 */
export function ledgerSteps(
  { ledger, causes }: LoadComparison,
  split: SplitId,
  nameOf: (cause: Cause) => string,
): LedgerStep[] {
  if (ledger === undefined) return [];
  const { named, last } = partsOf(ledger, causes, split, nameOf);
  const sorted = named.toSorted((one, other) => Math.abs(other.ms) - Math.abs(one.ms));
  const shown = sorted.filter(({ ms }, at) => Math.abs(ms) >= DRAWN_MS && at < MOST_STEPS);
  const rest = sorted.slice(shown.length);
  const restMs = rest.reduce((sum, { ms }) => sum + ms, 0);
  const parts = [
    ...shown,
    ...(rest.length === 0
      ? []
      : [{ key: 'rest', label: rest.length === 1 ? (rest[0]?.label ?? '') : `${rest.length} others`, ms: restMs }]),
    ...last,
  ];
  let fromMs = ledger.aMs;
  return parts.map(({ key, label, ms, cause }) => {
    const step = { key, label, ms, fromMs, cause };
    fromMs += ms;
    return step;
  });
}

function partsOf(
  ledger: NonNullable<LoadComparison['ledger']>,
  causes: LoadComparison['causes'],
  split: SplitId,
  nameOf: (cause: Cause) => string,
): { readonly named: readonly Part[]; readonly last: readonly Part[] } {
  const besides = 'gaps and pauses';
  switch (split) {
    case 'phase':
      return {
        named: ledger.byPhase.map(({ of, aMs, bMs }) => ({ key: of, label: SPENT_NAME[of as SpentOn], ms: bMs - aMs })),
        last: [],
      };
    case 'host':
      return {
        named: ledger.byHost.map(({ of, aMs, bMs }) => ({
          key: of ?? '',
          label: of === undefined ? besides : nameHost(of),
          ms: bMs - aMs,
        })),
        last: [],
      };
    case 'party':
      return {
        named: ledger.byParty.map(({ of, aMs, bMs }) => ({
          key: of ?? '',
          label: of === undefined ? besides : of === 'unknown' ? 'party unknown' : `${of} party`,
          ms: bMs - aMs,
        })),
        last: [],
      };
    case 'cause': {
      if (causes === undefined) return { named: [], last: [] };
      const named = causes.causes.map((cause, at) => ({ key: String(at), label: nameOf(cause), ms: cause.ms, cause }));
      const { others, notExplainedMs } = causes;
      return {
        named,
        last: [
          ...(Math.abs(others.ms) < DRAWN_MS ? [] : [{ key: 'others', label: 'others together', ms: others.ms }]),
          // Steps that are not worth drawing must not get lost between the two loads.
          {
            key: 'not explained',
            label: 'not explained',
            ms: notExplainedMs + (Math.abs(others.ms) < DRAWN_MS ? others.ms : 0),
          },
        ],
      };
    }
    default:
      return split satisfies never;
  }
}

/** Whole ms of parts that come to the whole ms of their sum: the largest rests are rounded the other way. */
export function wholeMsOf(parts: readonly number[]): number[] {
  const target = Math.round(parts.reduce((sum, ms) => sum + ms, 0));
  const floors = parts.map(Math.floor);
  const missing = target - floors.reduce((sum, ms) => sum + ms, 0);
  const byRest = parts
    .map((ms, at) => ({ at, rest: ms - Math.floor(ms) }))
    .sort((a, b) => b.rest - a.rest || a.at - b.at);
  const raised = new Set(byRest.slice(0, missing).map(({ at }) => at));
  return floors.map((ms, at) => ms + (raised.has(at) ? 1 : 0));
}
