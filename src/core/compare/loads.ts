import type { ExchangeRow, Moments } from '../analysis';
import { type BriefPage, type PlottedLeg, plotPage } from '../brief';
import type { ExchangeIndex } from '../model';
import { type Causes, findCauses, turned } from './causes';
import { type ConnectionsOfBoth, compareConnections } from './connection';
import { type CommonGoal, commonGoal, type LedgerDifference, ledgerDifference } from './difference';
import { compareFindings, type FindingOfBoth } from './findings';
import { type Node, UnionGraph } from './graph';
import type { HostMap } from './hosts';
import type { ComparedLoad } from './load';
import { type Corrections, type MatchedGroup, type Matching, matchLoads, NO_CORRECTIONS } from './match';
import { changesOf, factsOf, PAIR_CHANGES, type Pair, type PairChange } from './pair';
import { type SumsOfBoth, sumsOfBoth } from './sums';
import { compareVisits, type Visits } from './visits';

export interface CompareOptions {
  readonly map?: HostMap;
  readonly corrections?: Corrections;
  /** What the loads are measured to, where other loads of the comparison decide that, too. */
  readonly goalOf?: ReturnType<typeof commonGoal>;
}

/** Two loads beside each other. */
export interface LoadComparison {
  readonly goal: CommonGoal;
  /** Undefined where one of the loads has no exchange with a start. */
  readonly ledger: LedgerDifference | undefined;
  readonly causes: Causes | undefined;
  /** The routes of both to the common goal; none where nothing of a load has a start. */
  readonly legs: { readonly a: readonly PlottedLeg[]; readonly b: readonly PlottedLeg[] };
  /** In the order of their starts, A's where both are there. */
  readonly pairs: readonly Pair[];
  readonly groups: readonly MatchedGroup[];
  /** How many pairs have each change; one may have two. */
  readonly counts: Readonly<Record<PairChange, number>>;
  readonly sums: SumsOfBoth;
  /** Undefined while the bodies of one are still being read. */
  readonly findings: readonly FindingOfBoth[] | undefined;
  readonly visits: Visits | undefined;
  readonly connections: ConnectionsOfBoth;
}

/**
 * Compares two loads: A, from which, and B, to which. Symmetric but for signs; a load compared with itself has nothing but
 * the same, and no difference at all.
 */
export function compareLoads(a: ComparedLoad, b: ComparedLoad, options: CompareOptions = {}): LoadComparison {
  const { map = new Map(), corrections = NO_CORRECTIONS, goalOf = commonGoal([a, b]) } = options;
  const { goal, momentsOf } = goalOf;
  const matching = matchLoads(a.rows, b.rows, map, corrections);
  const [momentsA, momentsB] = [momentsOf(a), momentsOf(b)];
  const [routeA, routeB] = [plotPage(a.rows, momentsA), plotPage(b.rows, momentsB)];
  const sideA = { rows: a.rows, moments: momentsA };
  const sideB = { rows: b.rows, moments: momentsB };
  const causes = causesOf(sideA, sideB, matching, [routeA, routeB]);
  const pairs = pairsOf(a, b, matching, causes);
  return {
    goal,
    ledger: routeA === undefined || routeB === undefined ? undefined : ledgerDifference(routeA, routeB, map),
    causes,
    legs: { a: routeA?.legs ?? [], b: routeB?.legs ?? [] },
    pairs,
    groups: matching.groups,
    counts: Object.fromEntries(
      PAIR_CHANGES.map((change) => [change, pairs.filter(({ changes }) => changes.includes(change)).length]),
    ) as Record<PairChange, number>,
    sums: sumsOfBoth(a.rows, b.rows),
    findings:
      a.findings === undefined || b.findings === undefined ? undefined : compareFindings(a.findings, b.findings, pairs),
    visits: compareVisits(a, b, matching.pairs),
    connections: compareConnections(sideA, sideB, matching.pairs),
  };
}

interface Timed {
  readonly rows: readonly ExchangeRow[];
  readonly moments: Moments | undefined;
}

/** What made the difference: the slower load is played as the quicker one, so that the order of the sides does not matter. */
function causesOf(
  a: Timed,
  b: Timed,
  matching: Matching,
  [routeA, routeB]: readonly [BriefPage | undefined, BriefPage | undefined],
): Causes | undefined {
  if (routeA === undefined || routeB === undefined) return undefined;
  const lengthOf = ({ targetMs, originMs }: BriefPage): number => targetMs - originMs;
  const isTurned = isAfter([lengthOf(routeB), b.rows], [lengthOf(routeA), a.rows]);
  const graph = isTurned ? UnionGraph.of(b, a, exchanged(matching)) : UnionGraph.of(a, b, matching);
  if (graph === undefined) return undefined;
  const endpointOf = ({ a: own, b: other }: Node): string => {
    const row = (own ?? other)?.row;
    return row === undefined ? '' : matching.endpointOf(row);
  };
  const found = findCauses(graph, endpointOf);
  return isTurned ? turned(found) : found;
}

/** Which of two loads is played: the longer one; of two as long the one with more in it, by its addresses in the end. */
function isAfter(
  [ms, rows]: readonly [number, readonly ExchangeRow[]],
  [otherMs, others]: readonly [number, readonly ExchangeRow[]],
): boolean {
  if (ms !== otherMs) return ms > otherMs;
  if (rows.length !== others.length) return rows.length > others.length;
  const keyOf = (all: readonly ExchangeRow[]): string =>
    all.map(({ url, startMs, timeMs }) => `${url} ${startMs} ${timeMs}`).join('\n');
  return keyOf(rows) > keyOf(others);
}

const exchanged = ({ pairs, gone, fresh, groups, endpointOf }: Matching): Matching => ({
  pairs: pairs.map(({ a, b, by }) => ({ a: b, b: a, by })),
  gone: fresh,
  fresh: gone,
  groups: groups.map(({ endpoint, a, b }) => ({ endpoint, a: b, b: a })),
  endpointOf,
});

function pairsOf(a: ComparedLoad, b: ComparedLoad, matching: Matching, causes: Causes | undefined): Pair[] {
  const traitsOf = ({ rows, traits }: ComparedLoad) => {
    const own = new Map(rows.map(({ index }, at) => [index, traits[at]]));
    return (row: ExchangeRow) => own.get(row.index);
  };
  const [traitsOfA, traitsOfB] = [traitsOf(a), traitsOf(b)];
  const did = new Map<string, number>();
  for (const { ms, endpoint, played } of causes?.causes ?? []) {
    const [only] = played;
    if (endpoint === undefined && only !== undefined) did.set(keyOf(only), ms);
  }
  const drawn: { readonly pair: Pair; readonly startMs: number; readonly at: number }[] = [];
  const add = (own: ExchangeRow | undefined, other: ExchangeRow | undefined, by: Pair['by']): void => {
    const row = own ?? other;
    if (row === undefined) return;
    const facts = own === undefined || other === undefined ? [] : factsOf(own, other, traitsOfA(own), traitsOfB(other));
    const place = { a: own?.index, b: other?.index };
    drawn.push({
      pair: {
        ...place,
        by,
        changes: changesOf(own, other, by, facts),
        facts,
        endpoint: matching.endpointOf(row),
        didMs: did.get(keyOf(place)),
      },
      startMs: row.startMs ?? Number.POSITIVE_INFINITY,
      at: row.index,
    });
  };
  for (const { a: own, b: other, by } of matching.pairs) add(own, other, by);
  for (const row of matching.gone) add(row, undefined, undefined);
  for (const row of matching.fresh) add(undefined, row, undefined);
  return drawn
    .sort((one, two) => (one.startMs === two.startMs ? 0 : one.startMs - two.startMs) || one.at - two.at)
    .map(({ pair }) => pair);
}

const keyOf = ({ a, b }: { readonly a: ExchangeIndex | undefined; readonly b: ExchangeIndex | undefined }): string =>
  `${a ?? ''}-${b ?? ''}`;
