import type { PageOverview } from '#core/analysis';
import {
  type ComparedLoad,
  type Corrections,
  compareGroup,
  compareSides,
  findDrawn,
  type GroupComparison,
  NO_CORRECTIONS,
  readHostMap,
  remarksOn,
  type SidesComparison,
} from '#core/compare';
import { findingsOn } from '#core/diagnose';
import { type LoadAnswer, type PackedRows, type ProblemAnswer, packRows, unpackRows, unpackTraits } from '#core/wire';
import { callLoad, type LoadName } from '../islands/compare/load-name';
import { type Answer, fetchCorrections, fetchFindings, fetchLoad, fetchPackedRows } from '../islands/state/api';

// Fetches the loads of a comparison and compares them, away from the page.

/** What is to be compared: two sides, or, with nothing on the second, one group. */
export interface ToCompareWorker {
  readonly a: readonly LoadName[];
  readonly b: readonly LoadName[];
  readonly map: readonly string[];
}

/** One load as the page names it. */
export interface LoadHead {
  readonly load: LoadName;
  readonly name: string;
  readonly startedAt: number | undefined;
  readonly exchanges: number;
}

/** A side with the load that is drawn. */
export interface DrawnSide {
  readonly heads: readonly LoadHead[];
  readonly page: PageOverview | undefined;
  /** The rows of the drawn load's page. */
  readonly rows: PackedRows;
  /** Those of all of its capture, which filters are held against; absent where they are the same. */
  readonly allRows?: PackedRows;
}

export type Compared =
  | {
      readonly type: 'sides';
      readonly a: DrawnSide;
      readonly b: DrawnSide;
      readonly compared: SidesComparison;
      readonly remarks: readonly string[];
      readonly corrections: Corrections;
      readonly isSame: boolean;
    }
  | { readonly type: 'group'; readonly heads: readonly LoadHead[]; readonly group: GroupComparison | undefined };

export type FromCompareWorker =
  | { readonly type: 'read'; readonly loads: number; readonly of: number }
  | { readonly type: 'problem'; readonly problem: ProblemAnswer }
  | { readonly type: 'compared'; readonly compared: Compared };

interface Fetched {
  readonly name: LoadName;
  readonly answer: LoadAnswer;
  /** Of all of its capture. */
  readonly rows: PackedRows;
  readonly page: PageOverview | undefined;
}

class Stop extends Error {
  readonly problem: ProblemAnswer;

  constructor(problem: ProblemAnswer) {
    super(problem.sentence);
    this.problem = problem;
  }
}

const say = (message: FromCompareWorker): void => postMessage(message);

function valueIn<T>(answer: Answer<T>): T {
  if (answer.ok) return answer.value;
  throw new Stop(answer.problem);
}

addEventListener('message', ({ data }: MessageEvent<ToCompareWorker>) => {
  run(data).catch((error: unknown) => {
    const problem =
      error instanceof Stop
        ? error.problem
        : {
            code: 'internal',
            sentence: 'The comparison failed.',
            advice: 'Try again; if it fails again, one of the captures is odd.',
          };
    say({ type: 'problem', problem });
  });
});

async function run(order: ToCompareWorker): Promise<void> {
  const fetched = await fetchAll(order);
  await compare(order, fetched);
  const unread = fetched.filter(({ answer }) => answer.found === null);
  if (unread.length === 0) return;
  // Bodies are read behind an import: what they tell comes later, and changes the rows too.
  for (const id of new Set(unread.map(({ answer }) => answer.card.id))) await waitForFindings(id);
  await compare(order, await fetchAll(order));
}

async function waitForFindings(id: string): Promise<void> {
  for (;;) {
    const answer = await fetchFindings(id);
    if (!answer.ok || answer.value.state === 'there') return;
  }
}

async function fetchAll({ a, b }: ToCompareWorker): Promise<Fetched[]> {
  const names = [...a, ...b];
  const known = new Map<string, Promise<CaptureOfLoad>>();
  const all: Fetched[] = [];
  for (const [at, name] of names.entries()) {
    const asked = known.get(name.captureId) ?? fetchCaptureOf(name.captureId);
    known.set(name.captureId, asked);
    const { answer, rows } = await asked;
    all.push({ name, answer, rows, page: pageOf(answer, name) });
    say({ type: 'read', loads: at + 1, of: names.length });
  }
  return all;
}

type CaptureOfLoad = Pick<Fetched, 'answer' | 'rows'>;

/** Rows come last: they may tell more than the findings that were asked for before them, never less. */
async function fetchCaptureOf(id: string): Promise<CaptureOfLoad> {
  const answer = valueIn(await fetchLoad(id));
  return { answer, rows: valueIn(await fetchPackedRows(id)) };
}

function pageOf({ card }: LoadAnswer, { page }: LoadName): PageOverview | undefined {
  const { pages } = card.overview;
  const found = page === undefined ? (pages.find(({ exchanges }) => exchanges > 0) ?? pages[0]) : pages[page - 1];
  if (found !== undefined || pages.length === 0) return found;
  throw new Stop({
    code: 'not-found',
    sentence: `"${card.name}" has no page ${page}.`,
    advice: 'Choose another page of it, or another capture.',
  });
}

function loadOf({ name, answer, rows: packed, page }: Fetched): ComparedLoad {
  const rows = unpackRows(packed);
  const traits = unpackTraits(answer.traits);
  const places = rows.flatMap((row, at) => (page === undefined || row.pageId === page.id ? [at] : []));
  const pick = <T>(list: readonly T[]): T[] =>
    places.flatMap((at) => {
      const one = list[at];
      return one === undefined ? [] : [one];
    });
  return {
    name: callLoad(answer.card, name.page),
    page,
    rows: pick(rows),
    traits: pick(traits),
    findings: answer.found === null ? undefined : findingsOn(answer.found, page?.id),
    foretold: answer.foretold === null ? undefined : pick(answer.foretold),
  };
}

const headOf = ({ name, answer, page }: Fetched, load: ComparedLoad): LoadHead => ({
  load: name,
  name: load.name,
  startedAt: page?.startedAt ?? answer.card.overview.recordedAt,
  exchanges: load.rows.length,
});

async function compare({ a, b, map }: ToCompareWorker, fetched: readonly Fetched[]): Promise<void> {
  const hosts = readHostMap(map);
  const loads = fetched.map(loadOf);
  const heads = fetched.map((one, at) => headOf(one, loads[at] as ComparedLoad));
  if (b.length === 0) {
    say({ type: 'compared', compared: { type: 'group', heads, group: compareGroup(loads, hosts) } });
    return;
  }
  const [ownA, ownB] = [loads.slice(0, a.length), loads.slice(a.length)] as [Side, Side];
  const nearest = findDrawn(ownA, ownB);
  const [atA, atB] = [nearest.a, a.length + nearest.b];
  const [drawnA, drawnB] = [fetched[atA] as Fetched, fetched[atB] as Fetched];
  const corrections = await readCorrections(drawnA, drawnB);
  const visits = await readForecasts(drawnA, drawnB);
  const withForecast = (side: Side, at: number, foretold: ComparedLoad['foretold']): Side =>
    side.map((load, place) => (place === at ? { ...load, foretold } : load)) as Side;
  const [sideA, sideB] = [withForecast(ownA, nearest.a, visits.a), withForecast(ownB, nearest.b, visits.b)];
  const isSame = drawnA.name.captureId === drawnB.name.captureId && drawnA.page?.id === drawnB.page?.id;
  const compared = compareSides(sideA, sideB, { map: hosts, corrections });
  const drawn = (one: Fetched, load: ComparedLoad, own: readonly LoadHead[]): DrawnSide => ({
    heads: own,
    page: one.page,
    ...(load.rows.length === one.answer.card.overview.tally.exchanges
      ? { rows: one.rows }
      : { rows: packRows(load.rows), allRows: one.rows }),
  });
  say({
    type: 'compared',
    compared: {
      type: 'sides',
      a: drawn(drawnA, loads[atA] as ComparedLoad, heads.slice(0, a.length)),
      b: drawn(drawnB, loads[atB] as ComparedLoad, heads.slice(a.length)),
      compared,
      remarks: remarksOn(loads[atA] as ComparedLoad, loads[atB] as ComparedLoad, compared.drawn, isSame),
      corrections,
      isSame,
    },
  });
}

type Side = [ComparedLoad, ...ComparedLoad[]];

/** What was corrected by hand; nothing where that is not to be had: the matching stands all the same. */
async function readCorrections(a: Fetched, b: Fetched): Promise<Corrections> {
  const answer = await fetchCorrections(a.name.captureId, b.name.captureId);
  return answer.ok ? answer.value : NO_CORRECTIONS;
}

/** What the earlier of two visits lets the later one do, as late as that came. */
async function readForecasts(
  a: Fetched,
  b: Fetched,
): Promise<{ readonly a: ComparedLoad['foretold']; readonly b: ComparedLoad['foretold'] }> {
  const startOf = ({ page, answer }: Fetched): number | undefined => page?.startedAt ?? answer.card.overview.recordedAt;
  const [startA, startB] = [startOf(a), startOf(b)];
  if (startA === undefined || startB === undefined || startA === startB) return { a: undefined, b: undefined };
  const earlier = startA < startB ? a : b;
  const answer = await fetchLoad(earlier.name.captureId, Math.abs(startB - startA) / 1000);
  const foretold = answer.ok ? loadOf({ ...earlier, answer: answer.value }).foretold : undefined;
  return earlier === a ? { a: foretold, b: undefined } : { a: undefined, b: foretold };
}
