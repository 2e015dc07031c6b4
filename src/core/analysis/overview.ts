import { splitUrl } from '../http';
import { type Completeness, findMilestoneMs, type Milestone, NO_PHASES, type Page, type PageId } from '../model';
import { profileInFlight } from '../timing';
import versions from '../versions.json';
import { type Condition, reportCondition, reportFine } from './condition';
import type { ExchangeRow } from './exchange-row';
import type { ExchangeFacts } from './facts';
import { splitNavigations } from './navigation';
import { NO_REFERENCES, type References } from './relate';
import { buildRows } from './row';
import { type Breakdown, breakDown, clauseOf, type Tally, tally } from './summary';

/** Goes up with each change of the code that analyses (npm run versions): kept captures are analysed again. */
export const ANALYSIS_VERSION = versions.analysis.version;

export interface PageOverview {
  readonly id: PageId;
  readonly title: string;
  /** Milliseconds since 1970; unknown where the recorder wrote none. */
  readonly startedAt: number | undefined;
  readonly domReadyMs: number | undefined;
  readonly loadedMs: number | undefined;
  readonly milestones: readonly Milestone[];
  readonly exchanges: number;
}

/** What is said of a capture as a whole: the shelf's card and the command line's summary. */
export interface CaptureOverview {
  readonly sentence: string;
  /** The same before the bodies were read, without its end: what they tell is said behind it. */
  readonly said: string;
  readonly tally: Tally;
  readonly breakdown: Breakdown;
  readonly pages: readonly PageOverview[];
  readonly condition: readonly Condition[];
  /** What was looked at and is as it should be, in sentences. */
  readonly fine: readonly string[];
  /** Host of the first document, or of the first exchange. */
  readonly host: string | undefined;
  /** When the recording began, in ms since 1970. */
  readonly recordedAt: number | undefined;
  /** Most exchanges in flight in each of equal slots of the recording, for the card's miniature. */
  readonly miniature: readonly number[];
}

const MINIATURE_SLOTS = 120;

/**
 * Analyses a capture from the facts of its exchanges: rows in their context, and the overview of the whole.
 * @param references which exchange's body names which exchange, where bodies were searched
 */
export function analyse(
  facts: readonly ExchangeFacts[],
  recordedPages: readonly Page[],
  completeness: Completeness,
  references: References = NO_REFERENCES,
): { readonly rows: ExchangeRow[]; readonly overview: CaptureOverview } {
  const split = splitNavigations(facts, recordedPages);
  const { pages } = split;
  const rows = buildRows(facts, split, references);
  const perPage = new Map<PageId | undefined, number>();
  for (const row of rows) perPage.set(row.pageId, (perPage.get(row.pageId) ?? 0) + 1);
  const document = rows.find((row) => row.kind === 'document') ?? rows[0];
  const clues = { facts, rows, pages, inferredPages: split.partsOf.size > 0, completeness };
  const condition = reportCondition(clues);
  const said = clauseOf(rows, pages);
  const overview: CaptureOverview = {
    said,
    sentence: `${said}.`,
    tally: tally(rows),
    breakdown: breakDown(rows),
    pages: pages.map((page) => ({
      id: page.id,
      title: page.title,
      startedAt: page.startedAt,
      domReadyMs: findMilestoneMs(page, 'domReady'),
      loadedMs: findMilestoneMs(page, 'loaded'),
      milestones: page.milestones,
      exchanges: perPage.get(page.id) ?? 0,
    })),
    condition,
    fine: reportFine(clues, condition),
    host: document === undefined ? undefined : splitUrl(document.url)?.authority,
    recordedAt: findRecordedAt(rows, pages),
    miniature: drawMiniature(rows),
  };
  return { rows, overview };
}

function findRecordedAt(rows: readonly ExchangeRow[], pages: readonly Page[]): number | undefined {
  let earliest: number | undefined;
  for (const { startedAt } of [...pages, ...rows]) {
    if (startedAt !== undefined && (earliest === undefined || startedAt < earliest)) earliest = startedAt;
  }
  return earliest;
}

function drawMiniature(rows: readonly ExchangeRow[]): number[] {
  const spans = rows.flatMap((row) =>
    // What each is doing does not show in the miniature: without phases the profile takes a third of the memory.
    row.startedAt === undefined ? [] : { startMs: row.startedAt, timeMs: row.timeMs ?? 0, phases: NO_PHASES },
  );
  const { steps } = profileInFlight(spans);
  const [first] = steps;
  const last = steps.at(-1);
  if (first === undefined || last === undefined || last.atMs === first.atMs) return [];
  const slotMs = (last.atMs - first.atMs) / MINIATURE_SLOTS;
  const slots = new Array<number>(MINIATURE_SLOTS).fill(0);
  for (let place = 0; place + 1 < steps.length; place++) {
    const step = steps[place];
    const next = steps[place + 1];
    if (step === undefined || next === undefined) continue;
    const open = step.settingUp + step.waiting + step.downloading;
    const to = Math.min(MINIATURE_SLOTS, Math.ceil((next.atMs - first.atMs) / slotMs));
    for (let slot = Math.floor((step.atMs - first.atMs) / slotMs); slot < to; slot++) {
      slots[slot] = Math.max(slots[slot] ?? 0, open);
    }
  }
  return slots;
}
