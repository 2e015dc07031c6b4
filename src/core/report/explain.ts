import { type CaptureOverview, type ExchangeRow, type RouteTo, TO_LOAD } from '../analysis';
import { type BriefPage, type PlottedLeg, plotPage, tellBrief } from '../brief';
import { DELAYS, nextVisitOf } from '../cache';
import { type Evidence, type FoundInCapture, findingsOn } from '../diagnose';
import type { ExchangeIndex, PageId } from '../model';
import { idleMs, profileInFlight } from '../timing';

interface Explained {
  readonly rows: readonly ExchangeRow[];
  readonly overview: CaptureOverview;
  readonly evidence: ReadonlyMap<ExchangeIndex, Evidence>;
  readonly found: FoundInCapture;
  readonly briefs: ReadonlyMap<PageId | undefined, BriefPage | undefined>;
}

/**
 * One page explained, as the command line gives it; undefined where none of its exchanges has a start, or what its route is
 * to lead to is not known.
 */
export function explainJson(
  { rows, overview, evidence, found, briefs }: Explained,
  page: PageId | undefined,
  to: RouteTo = TO_LOAD,
) {
  const own = rows.filter(({ pageId }) => pageId === page);
  const plot = (): BriefPage | undefined =>
    plotPage(
      own,
      overview.pages.find(({ id }) => id === page),
      to,
    );
  const brief = to.type === 'load' ? briefs.get(page) : plot();
  if (brief === undefined) return undefined;
  return {
    page,
    target: brief.target,
    targetMs: brief.targetMs,
    originMs: brief.originMs,
    sentence: tellBrief(brief, new Map(own.map((row) => [row.index, row]))),
    legs: brief.legs.map(legJson),
    ledger: ledgerJson(brief),
    inFlight: inFlightOf(own, brief),
    findings: findingsOn(found, page).map(
      ({ rule, severity, claim, detail, evidence: about, cost, remedy, confidence }) => ({
        rule,
        severity,
        claim,
        detail,
        evidence: about,
        cost,
        remedy,
        confidence,
      }),
    ),
    cache: own.flatMap(({ index }) => cacheJson(evidence.get(index)) ?? []),
  };
}

export type Explanation = NonNullable<ReturnType<typeof explainJson>>;

function legJson(leg: PlottedLeg): PlottedLeg {
  if (leg.type === 'gap') return leg;
  const { type, index, startMs, endMs, phases, evidence, confidence } = leg;
  return { type, index, startMs, endMs, phases, evidence, confidence };
}

function ledgerJson({ ledger }: BriefPage): Readonly<Record<string, number>> {
  const { phases, gapMs, retryPauseMs, unknownMs } = ledger;
  return { ...phases, gapMs, retryPauseMs, ...(unknownMs === 0 ? {} : { unknownMs }) };
}

/** Most exchanges open at once, and the time with none, both within the route. */
function inFlightOf(
  rows: readonly ExchangeRow[],
  { originMs, targetMs }: BriefPage,
): { readonly max: number; readonly idleMs: number } {
  const spans = rows.flatMap(({ startMs, timeMs, phases }) =>
    startMs === undefined ? [] : { startMs, timeMs: timeMs ?? 0, phases },
  );
  const profile = profileInFlight(spans);
  const max = profile.steps.reduce(
    (most, { settingUp, waiting, downloading }) => Math.max(most, settingUp + waiting + downloading),
    0,
  );
  return { max, idleMs: idleMs(profile, originMs, targetMs) };
}

function cacheJson(evidence: Evidence | undefined): Readonly<Record<string, unknown>> | undefined {
  const policy = evidence?.policy;
  if (evidence === undefined || policy === undefined) return undefined;
  const { isStorable, freshSeconds, basis, validators, steps } = policy;
  const nextVisit = Object.fromEntries(
    Object.entries(DELAYS).map(([name, seconds]) => [name, nextVisitOf(policy, seconds)]),
  );
  return { index: evidence.index, storable: isStorable, freshSeconds, basis, validators, nextVisit, steps };
}
