import {
  type ExchangeRow,
  findGoal,
  isOfExtension,
  type Moments,
  ofLoad,
  type RouteTo,
  routeStops,
  type Target,
  TO_LOAD,
} from '../analysis';
import type { ExchangeIndex } from '../model';
import { type ParentEvidence, phasesWithin, plotRoute, type RouteLink } from '../timing';
import { addUp, type Ledger } from './ledger';
import type { Confidence, PlottedLeg } from './plotted-leg';

const CONFIDENCE: Record<ParentEvidence, Confidence> = {
  redirect: 'certain',
  preflight: 'certain',
  declared: 'certain',
  referenced: 'strong',
  referer: 'weak',
  document: 'weak',
};

/** By what it is known that a leg waited for the one before it. */
const EVIDENCE_OF: Record<RouteLink, (row: ExchangeRow) => ParentEvidence | undefined> = {
  parent: ({ parentEvidence }) => parentEvidence,
  named: () => 'referenced',
  retry: () => undefined,
  'held-up': () => undefined,
};

/** The route of one page and what it adds up to. */
export interface BriefPage {
  readonly target: Target;
  /** What the route was asked for to. */
  readonly to: RouteTo;
  /** Where the route begins: the page's start, or its first exchange's where that is earlier. In ms since the page's start. */
  readonly originMs: number;
  readonly targetMs: number;
  readonly legs: readonly PlottedLeg[];
  readonly ledger: Ledger;
}

/**
 * Plots what a page's load, or another of its moments, waited for. Undefined where no exchange of the page has a start,
 * or the moment is not known.
 * @param rows the exchanges of the page, times since its start
 */
export function plotPage(
  rows: readonly ExchangeRow[],
  page: Moments | undefined,
  to: RouteTo = TO_LOAD,
): BriefPage | undefined {
  const own = ofLoad(rows, to.type === 'exchange' ? to.index : undefined);
  const stops = routeStops(own);
  const found = stops.length === 0 ? undefined : findGoal(stops, page, to);
  if (found === undefined) return undefined;
  const { target, goal, originMs } = found;
  const byIndex = new Map<ExchangeIndex, ExchangeRow>(rows.map((row) => [row.index, row]));
  const taken = new Set(own);
  const aside = routeStops(rows.filter((row) => isOfExtension(row.url) && !taken.has(row)));
  const legs = plotRoute(stops, originMs, goal, aside).map((leg): PlottedLeg => {
    if (leg.type === 'gap') return leg;
    const { type, index, startMs, endMs, link } = leg;
    const row = byIndex.get(index);
    const evidence = row === undefined ? undefined : EVIDENCE_OF[link ?? 'parent'](row);
    const isGuess = link === 'held-up' || link === 'retry';
    return {
      type,
      index,
      startMs,
      endMs,
      phases: row === undefined ? {} : phasesWithin(row.phases, row.startMs ?? 0, startMs, endMs),
      evidence,
      confidence: isGuess ? 'weak' : evidence === undefined ? undefined : CONFIDENCE[evidence],
    };
  });
  return { target, to, originMs, targetMs: Math.max(originMs, goal.atMs), legs, ledger: addUp(legs, byIndex) };
}
