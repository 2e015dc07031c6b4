import type { ExchangeRow, PageOverview } from '../analysis';
import { plotPage } from '../brief';
import { type Finding, type FoundInCapture, findingsOn } from '../diagnose';
import { PHASES } from '../model';

/** An analysed capture. */
export interface AnalysedCapture {
  readonly rows: readonly ExchangeRow[];
  readonly pages: readonly PageOverview[];
  readonly found: FoundInCapture;
}

/** What of a row must stay: all but what it is called, and what texts there are in it. */
const KEPT = [
  'index',
  'method',
  'status',
  'protocol',
  'kind',
  'source',
  'fetchedFor',
  'fetchedAs',
  'party',
  'startedAt',
  'startMs',
  'timeMs',
  'wireBytes',
  'bodyBytes',
  'isStorable',
  'freshSeconds',
  'parent',
  'parentEvidence',
  'preflightFor',
  'holds',
  'depth',
  'isOnRoute',
] as const satisfies readonly (keyof ExchangeRow)[];

/**
 * In what the analysis of what leaves differs from that of what was recorded, in sentences; none where it is the same: every
 * exchange's times, sizes, source, parent and outcome, every page's route and ledger, every finding with what it rests on and
 * what it costs the load.
 */
export function differencesInAnalysis(recorded: AnalysedCapture, leaving: AnalysedCapture): string[] {
  if (recorded.rows.length !== leaving.rows.length)
    return [`${recorded.rows.length} exchanges were recorded, and ${leaving.rows.length} are left.`];
  const differences = recorded.rows.flatMap((row, at) => {
    const other = leaving.rows[at];
    const changed = KEPT.filter((member) => row[member] !== other?.[member]) as string[];
    if (PHASES.some((phase) => row.phases[phase] !== other?.phases[phase])) changed.push('phases');
    if (row.failure?.type !== other?.failure?.type) changed.push('failure');
    return changed.length === 0 ? [] : [`#${row.index}: ${changed.join(', ')} changed.`];
  });
  for (const [at, page] of recorded.pages.entries()) {
    const other = leaving.pages[at];
    const [own, theirs] = [routeOf(recorded, page), routeOf(leaving, other)];
    if (own !== theirs) differences.push(`The route of page ${at + 1} changed.`);
    const [found, left] = [findingsOf(recorded, page), findingsOf(leaving, other)];
    for (const one of found.filter((text) => !left.includes(text))) differences.push(`Lost on page ${at + 1}: ${one}.`);
    for (const one of left.filter((text) => !found.includes(text))) differences.push(`New on page ${at + 1}: ${one}.`);
  }
  return differences;
}

function routeOf({ rows }: AnalysedCapture, page: PageOverview | undefined): string {
  const own = rows.filter(({ pageId }) => pageId === page?.id);
  const route = plotPage(own, page);
  return JSON.stringify([route?.target, route?.legs, route?.ledger.phases, route?.ledger.gapMs]);
}

const findingsOf = ({ found }: AnalysedCapture, page: PageOverview | undefined): string[] =>
  findingsOn(found, page?.id).map(callFinding);

const callFinding = ({ rule, severity, evidence, cost }: Finding): string =>
  `${rule} (${severity}) on ${evidence.map((index) => `#${index}`).join(' ')}${cost.routeMs === undefined ? '' : `, ${cost.routeMs} ms`}`;
