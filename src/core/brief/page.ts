import { type ExchangeRow, type PageOverview, requestKey, routeStops } from '../analysis';
import { type ExchangeIndex, type Party, PHASES, type PhaseName } from '../model';
import { type Leg, type ParentEvidence, phasesWithin, plotRoute, type RouteLink, type RouteStop } from '../timing';

/** What the route leads to: the milestone that was recorded, or the end of the last exchange. */
export type Target = 'loaded' | 'domReady' | 'lastExchange';

/** How sure it is that a leg waited for the one before it. */
export type Confidence = 'certain' | 'strong' | 'weak';

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
  'held-up': () => undefined,
};

/** A leg of the route, [startMs, endMs) in ms since the page's start. */
export type PlottedLeg =
  | {
      readonly type: 'exchange';
      readonly index: ExchangeIndex;
      readonly startMs: number;
      readonly endMs: number;
      /** The exchange's phases as far as they lie in the leg. */
      readonly phases: Readonly<Partial<Record<PhaseName, number>>>;
      /** By what its parent is known; absent for the first leg and where nothing tells. */
      readonly evidence: ParentEvidence | undefined;
      readonly confidence: Confidence | undefined;
    }
  | Extract<Leg, { readonly type: 'browser' }>;

/** Whether browser work lies between two sendings of the same request: the page waited before it tried again. */
export function isPauseBeforeRetry(
  { after, before }: Extract<PlottedLeg, { readonly type: 'browser' }>,
  rowOf: (index: ExchangeIndex) => ExchangeRow | undefined,
): boolean {
  const [first, second] = [after, before].map((index) => (index === undefined ? undefined : rowOf(index)));
  return first !== undefined && second !== undefined && requestKey(first) === requestKey(second);
}

/** Where the time went, in ms; all of it together is exactly the route's length. */
export interface Ledger {
  readonly phases: Readonly<Record<PhaseName, number>>;
  readonly browserMs: number;
  /** Time in exchanges whose phases are not known. */
  readonly unknownMs: number;
  readonly byParty: Readonly<Record<Party | 'unknown', number>>;
  /** By host, most first. */
  readonly byHost: readonly { readonly host: string; readonly ms: number; readonly waitMs: number }[];
}

/** The route of one page and what it adds up to. */
export interface BriefPage {
  readonly target: Target;
  /** Where the route begins: the page's start, or its first exchange's where that is earlier. In ms since the page's start. */
  readonly originMs: number;
  readonly targetMs: number;
  readonly legs: readonly PlottedLeg[];
  readonly ledger: Ledger;
}

/**
 * Plots what a page's load waited for. Undefined where no exchange of the page has a start.
 * @param rows the exchanges of the page, times since its start
 */
export function plotPage(
  rows: readonly ExchangeRow[],
  page: Pick<PageOverview, 'loadedMs' | 'domReadyMs'> | undefined,
): BriefPage | undefined {
  const stops = routeStops(rows);
  if (stops.length === 0) return undefined;
  const { target, targetMs } = findTarget(stops, page);
  const originMs = stops.reduce((earliest, { startMs }) => Math.min(earliest, startMs), 0);
  const byIndex = new Map<ExchangeIndex, ExchangeRow>(rows.map((row) => [row.index, row]));
  const legs = plotRoute(stops, originMs, targetMs).map((leg): PlottedLeg => {
    const row = leg.type === 'exchange' ? byIndex.get(leg.index) : undefined;
    if (leg.type === 'browser' || row === undefined) return leg as PlottedLeg;
    const evidence = EVIDENCE_OF[leg.link ?? 'parent'](row);
    const { type, index, startMs, endMs } = leg;
    return {
      type,
      index,
      startMs,
      endMs,
      phases: phasesWithin(row.phases, row.startMs ?? 0, leg.startMs, leg.endMs),
      evidence,
      confidence: leg.link === 'held-up' ? 'weak' : evidence === undefined ? undefined : CONFIDENCE[evidence],
    };
  });
  return { target, originMs, targetMs: Math.max(originMs, targetMs), legs, ledger: addUp(legs, byIndex) };
}

function findTarget(
  stops: readonly RouteStop[],
  page: Pick<PageOverview, 'loadedMs' | 'domReadyMs'> | undefined,
): { readonly target: Target; readonly targetMs: number } {
  if (page?.loadedMs !== undefined) return { target: 'loaded', targetMs: page.loadedMs };
  if (page?.domReadyMs !== undefined) return { target: 'domReady', targetMs: page.domReadyMs };
  const lasting = stops.filter(({ kind }) => kind !== 'socket' && kind !== 'stream');
  const ends = (lasting.length > 0 ? lasting : stops).map(({ endMs }) => endMs);
  return {
    target: 'lastExchange',
    targetMs: ends.reduce((last, end) => Math.max(last, end), Number.NEGATIVE_INFINITY),
  };
}

/** Splits the legs by phase, party and host. */
function addUp(legs: readonly PlottedLeg[], byIndex: ReadonlyMap<ExchangeIndex, ExchangeRow>): Ledger {
  const phases = Object.fromEntries(PHASES.map((phase) => [phase, 0])) as Record<PhaseName, number>;
  const byParty = { first: 0, third: 0, unknown: 0 };
  const hosts = new Map<string, { ms: number; waitMs: number }>();
  let browserMs = 0;
  let unknownMs = 0;
  for (const leg of legs) {
    const ms = leg.endMs - leg.startMs;
    if (leg.type === 'browser') {
      browserMs += ms;
      continue;
    }
    let known = 0;
    for (const phase of PHASES) {
      phases[phase] += leg.phases[phase] ?? 0;
      known += leg.phases[phase] ?? 0;
    }
    unknownMs += ms - known;
    const row = byIndex.get(leg.index);
    byParty[row?.party ?? 'unknown'] += ms;
    const host = hosts.get(row?.host ?? '') ?? { ms: 0, waitMs: 0 };
    hosts.set(row?.host ?? '', { ms: host.ms + ms, waitMs: host.waitMs + (leg.phases.waitMs ?? 0) });
  }
  return {
    phases,
    browserMs,
    // Sums of fractions leave a dust of a billionth behind.
    unknownMs: Math.abs(unknownMs) < 1e-6 ? 0 : unknownMs,
    byParty,
    byHost: [...hosts].map(([host, sums]) => ({ host, ...sums })).sort((a, b) => b.ms - a.ms),
  };
}
