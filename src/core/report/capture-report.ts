import {
  type CaptureOverview,
  classifyOutcome,
  type ExchangeRow,
  howTimed,
  nameExchange,
  type PageOverview,
  savedShare,
  tally,
} from '../analysis';
import { type BriefPage, plotPage, tellBrief, tellLegs } from '../brief';
import type { Inflate } from '../content';
import { type Finding, type FoundInCapture, findingsOn, keyOfFinding } from '../diagnose';
import { type Mark, markKey } from '../marks';
import { type Capture, type ExchangeIndex, NO_PHASES, PHASES } from '../model';
import {
  capitalised,
  formatBytes,
  formatCost,
  formatCount,
  formatInstant,
  formatMs,
  formatPlural,
  formatShare,
  formatZone,
  PHASE_NAME,
  wordFailure,
} from '../wording';
import { chartExchanges, chartRoute } from './charts';
import type { Block, ReportDocument } from './document';
import { type NotedExchange, noteAt, notedBlocks, noteOnLeg } from './noted';
import { REPORT_PARTS, type ReportPart } from './parts';

export interface ReportSubject {
  /** What the capture is called. */
  readonly name: string;
  readonly capture: Pick<Capture, 'recorder' | 'browser' | 'utcOffsetMinutes'>;
  readonly rows: readonly ExchangeRow[];
  readonly overview: CaptureOverview;
  readonly found: FoundInCapture;
  /** The page that it is about; none where the capture has none. */
  readonly page: PageOverview | undefined;
  /** The question, and what else the writer says ahead of everything. */
  readonly notes: readonly string[];
  /** What a comparison says, by whom it was made with. */
  readonly comparison: { readonly with: string; readonly lines: readonly string[] } | undefined;
  readonly parts: ReadonlySet<ReportPart>;
  /** What somebody marked and noted, and the exchanges that were. */
  readonly marks: readonly Mark[];
  readonly noted: readonly NotedExchange[];
  /** What was sent of drafts of the capture, and what came of it. */
  readonly sent: readonly SentInReport[];
  readonly inflate: Inflate;
}

/** The report of one page of a capture, as blocks: every number as it is on screen. */
export function writeReport(subject: ReportSubject): ReportDocument {
  const { name, page, rows, overview, notes, parts } = subject;
  const own = rows.filter(({ pageId }) => pageId === page?.id);
  const brief = plotPage(own, page);
  const byIndex = new Map<ExchangeIndex, ExchangeRow>(own.map((row) => [row.index, row]));
  const title = page === undefined || page.title === '' ? name : page.title;
  const writers: Record<ReportPart, () => readonly Block[]> = {
    figures: () => figures(own, subject),
    route: () => (brief === undefined ? [] : route(brief, byIndex, subject)),
    // Of exchanges without times nobody knows what the time went to.
    ledger: () => (brief === undefined || howTimed(own) !== 'most' ? [] : ledger(brief)),
    findings: () => findings(findingsOn(subject.found, page?.id), subject.marks),
    failed: () => failed(own),
    slowest: () => slowest(own),
    waterfall: () => {
      const chart = chartExchanges(own, page?.milestones ?? []);
      return chart === undefined ? [] : [heading('Exchanges over time'), chart];
    },
    comparison: () => comparison(subject),
    noted: () =>
      notedBlocks(
        subject.noted.filter(({ row }) => row.pageId === page?.id),
        subject.inflate,
      ),
    sent: () => sentBlocks(subject.sent),
    condition: () => condition(overview),
  };
  return {
    title,
    blocks: [
      ...notes.map((text): Block => ({ type: 'text', text })),
      { type: 'text', text: brief === undefined ? overview.sentence : tellBrief(brief, byIndex) },
      ...noteBlock(page === undefined ? '' : noteAt(subject.marks, markKey({ type: 'page', id: page.id }))),
      ...REPORT_PARTS.flatMap((part) => (parts.has(part) ? writers[part]() : [])),
    ],
  };
}

/** A draft that was sent many times: a trim, a series, growing or a watch. */
export interface SentInReport {
  /** What the draft is called. */
  readonly draft: string;
  /** What was done: "Trim". */
  readonly what: string;
  readonly sentence: string;
  /** What was found, line by line. */
  readonly lines: readonly string[];
}

function sentBlocks(sent: readonly SentInReport[]): Block[] {
  if (sent.length === 0) return [];
  return [
    heading('Sent many times'),
    ...sent.flatMap(({ draft, what, sentence, lines }): Block[] => [
      { type: 'text', text: `${what} of "${draft}": ${sentence}` },
      ...(lines.length === 0 ? [] : [{ type: 'list', items: lines } as const]),
    ]),
  ];
}

const heading = (text: string): Block => ({ type: 'heading', text });
const NO_COLUMN: ReadonlySet<number> = new Set();

function figures(rows: readonly ExchangeRow[], { name, page, capture, overview }: ReportSubject): Block[] {
  const sums = tally(rows);
  const { recorder, browser, utcOffsetMinutes = 0 } = capture;
  const at = page?.startedAt ?? overview.recordedAt;
  const programs = [recorder, browser].flatMap((one) =>
    one === undefined ? [] : [[one.name, one.version].filter(Boolean).join(' ')],
  );
  return [
    heading('Figures'),
    {
      type: 'table',
      head: ['What', 'Value'],
      rightAligned: NO_COLUMN,
      rows: [
        ['capture', name],
        [
          'recorded',
          at === undefined ? 'unknown' : `${formatInstant(at, utcOffsetMinutes)} ${formatZone(utcOffsetMinutes)}`,
        ],
        ...(programs.length === 0 ? [] : [['by', programs.join(', ')]]),
        ...(page?.milestones ?? []).map(({ label, atMs }) => [label, formatMs(atMs)]),
        ['exchanges', `${formatCount(sums.exchanges)}, ${formatCount(sums.failed)} failed`],
        ['on the wire', formatBytes(sums.wireBytes)],
        ['decoded', `${formatBytes(sums.bodyBytes)}, ${formatShare(savedShare(sums))} of that from cache`],
      ],
    },
  ];
}

const noteBlock = (text: string): Block[] => (text === '' ? [] : [{ type: 'note', text }]);

function route(
  { legs }: BriefPage,
  rows: ReadonlyMap<ExchangeIndex, ExchangeRow>,
  { marks, page }: ReportSubject,
): Block[] {
  if (legs.length === 0) return [];
  const all = tellLegs(legs, (index) => rows.get(index));
  const told = longestLegs(all);
  const leftOut = all.length - told.length;
  const strips = told.map(({ leg, name }) => ({
    name: leg.type === 'gap' ? 'gap' : name,
    startMs: leg.startMs,
    endMs: leg.endMs,
    phases: leg.type === 'gap' ? NO_PHASES : { ...NO_PHASES, ...leg.phases },
  }));
  const outcomes = told.map(({ leg }) => {
    const row = leg.type === 'gap' ? undefined : rows.get(leg.index);
    return row === undefined ? ('gap' as const) : classifyOutcome(row);
  });
  return [
    heading('What the load waited for'),
    ...(leftOut === 0 ? [] : [{ type: 'text', text: leftOutWords(told, all) } as const]),
    chartRoute(strips, outcomes, all.length),
    {
      type: 'table',
      head: ['From', 'Length', 'Leg', 'What it was spent on'],
      rightAligned: new Set([0, 1]),
      rows: told.map(({ leg: { startMs, endMs }, name, words }) => [
        formatMs(startMs),
        formatMs(endMs - startMs),
        name,
        words,
      ]),
    },
    ...all.flatMap(({ leg, name }) => {
      const note = noteOnLeg(marks, page?.id ?? '', leg);
      return noteBlock(
        note === '' ? '' : `${leg.type === 'gap' ? `The gap from ${formatMs(leg.startMs)}` : name}: ${note}`,
      );
    }),
  ];
}

type ToldLeg = ReturnType<typeof tellLegs>[number];

/** Of a long route so many legs are drawn and listed: nobody prints thousands. */
const MOST_LEGS = 60;
const lengthOf = ({ leg: { startMs, endMs } }: ToldLeg): number => endMs - startMs;
const sumOf = (told: readonly ToldLeg[]): number => told.reduce((sum, one) => sum + lengthOf(one), 0);

/** The longest legs, in the order of the route. */
function longestLegs(all: readonly ToldLeg[]): readonly ToldLeg[] {
  if (all.length <= MOST_LEGS) return all;
  const longest = new Set(all.toSorted((a, b) => lengthOf(b) - lengthOf(a)).slice(0, MOST_LEGS));
  return all.filter((one) => longest.has(one));
}

const leftOutWords = (shown: readonly ToldLeg[], all: readonly ToldLeg[]): string =>
  `Its ${shown.length} longest legs of ${formatCount(all.length)}: ${formatMs(sumOf(shown))} of ${formatMs(sumOf(all))}.`;

/** Less than a tenth of a ms reads as nothing. */
const SHOWN_MS = 0.05;

function ledger({ ledger: { phases, gapMs, retryPauseMs, unknownMs } }: BriefPage): Block[] {
  const rows = [
    ...PHASES.map((phase) => [PHASE_NAME[phase], phases[phase]] as const),
    ['gaps', gapMs] as const,
    ['pauses', retryPauseMs] as const,
    ['unknown', unknownMs] as const,
  ].filter(([, ms]) => ms >= SHOWN_MS);
  if (rows.length === 0) return [];
  return [
    heading('Where the time went'),
    {
      type: 'table',
      head: ['On', 'Time'],
      rightAligned: new Set([1]),
      rows: rows.map(([name, ms]) => [name, formatMs(ms)]),
    },
  ];
}

/** More numbers than these are not named for a finding. */
const NUMBERS_SHOWN = 12;

function findings(found: readonly Finding[], marks: readonly Mark[]): Block[] {
  if (found.length === 0) return [heading('Findings'), { type: 'text', text: 'No rule found anything on this page.' }];
  return [
    heading(`Findings: ${found.length}`),
    { type: 'list', items: found.map(tellFinding) },
    ...found.flatMap((finding) => {
      const note = noteAt(marks, markKey({ type: 'finding', key: keyOfFinding(finding) }));
      return noteBlock(note === '' ? '' : `${asSentence(finding.claim)} ${note}`);
    }),
  ];
}

/** A finding as one paragraph. */
export function tellFinding({ claim, detail, remedy, evidence, severity, cost, confidence }: Finding): string {
  const grade = capitalised(severity);
  const marks = [grade, formatCost(cost), confidence === 'weak' ? 'not certain' : ''].filter(Boolean).join(', ');
  return [claim, detail, `${marks}: ${numbersOf(evidence)}`, remedy].filter(Boolean).map(asSentence).join(' ');
}

const asSentence = (text: string): string => (/[.!?…]$/.test(text) ? text : `${text}.`);

function numbersOf(indexes: readonly ExchangeIndex[]): string {
  const shown = indexes.slice(0, NUMBERS_SHOWN).map((index) => `#${index}`);
  return indexes.length > shown.length
    ? `${shown.join(' ')} and ${indexes.length - shown.length} more`
    : shown.join(' ');
}

const MOST_FAILED = 50;

function failed(rows: readonly ExchangeRow[]): Block[] {
  const found = rows.flatMap((row) => (row.failure === undefined ? [] : [{ row, failure: row.failure }]));
  if (found.length === 0) return [heading('Failed'), { type: 'text', text: 'No exchange of this page failed.' }];
  return [
    heading(`Failed: ${formatPlural(found.length, 'exchange')}`),
    {
      type: 'table',
      head: ['#', 'Start', 'How', 'Request'],
      rightAligned: new Set([0, 1]),
      rows: found
        .slice(0, MOST_FAILED)
        .map(({ row, failure }) => [
          `#${row.index}`,
          formatMs(row.startMs),
          wordFailure(failure),
          `${row.method} ${row.url}`,
        ]),
    },
    ...(found.length > MOST_FAILED
      ? [{ type: 'text', text: `The first ${MOST_FAILED} of them are listed.` } as const]
      : []),
  ];
}

const MOST_SLOW = 10;

function slowest(rows: readonly ExchangeRow[]): Block[] {
  const timed = rows.flatMap((row) => (row.timeMs === undefined ? [] : [{ row, timeMs: row.timeMs }]));
  if (timed.length === 0) return [];
  const longest = timed.toSorted((a, b) => b.timeMs - a.timeMs).slice(0, MOST_SLOW);
  const mostlyOf = ({ phases }: ExchangeRow): string => {
    const most = PHASES.map((phase) => ({ phase, ms: phases[phase] ?? 0 })).toSorted((a, b) => b.ms - a.ms)[0];
    return most === undefined || most.ms === 0
      ? 'no timing breakdown'
      : `${PHASE_NAME[most.phase]} ${formatMs(most.ms)}`;
  };
  return [
    heading(timed.length > MOST_SLOW ? `The ${MOST_SLOW} slowest` : 'By time'),
    {
      type: 'table',
      head: ['#', 'Time', 'Most of it', 'Bytes', 'Exchange'],
      rightAligned: new Set([0, 1, 3]),
      rows: longest.map(({ row, timeMs }) => [
        `#${row.index}`,
        formatMs(timeMs),
        mostlyOf(row),
        formatBytes(row.wireBytes),
        `${row.method} ${nameExchange(row)} on ${row.host}`,
      ]),
    },
  ];
}

function comparison({ comparison: made, name }: ReportSubject): Block[] {
  if (made === undefined) return [];
  return [heading(`Compared: A is ${name}, B is ${made.with}`), { type: 'lines', lines: made.lines }];
}

function condition({ condition: remarks, fine }: CaptureOverview): Block[] {
  const items = [...remarks.map(({ sentence, advice }) => `${sentence} ${advice}`), ...fine];
  return items.length === 0 ? [] : [heading('Condition of the capture'), { type: 'list', items }];
}
