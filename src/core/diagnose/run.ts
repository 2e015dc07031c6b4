import { type CaptureOverview, type ExchangeRow, judgeClocks, ofSite } from '../analysis';
import { type Change, Load, plotPage } from '../brief';
import { addTo } from '../collections';
import type { ExchangeIndex, PageId } from '../model';
import { findRoundTrips } from '../timing';
import versions from '../versions.json';
import type { Evidence } from './evidence';
import {
  type Cost,
  type Finding,
  type Matter,
  RULE_IDS,
  type RuleId,
  type Severity,
  type Subject,
  type SubjectPage,
} from './finding';
import { mattersOf, once } from './once';
import { RULES } from './rules';
import { ScriptWords } from './script-words';

/** Goes up with each change of the code that finds (npm run versions): kept findings are made again. */
export const FINDINGS_VERSION = versions.findings.version;

/** Makes an analysed capture ready for rules. */
export function subjectOf(
  all: readonly ExchangeRow[],
  overview: CaptureOverview,
  evidence: ReadonlyMap<ExchangeIndex, Evidence>,
  words = new ScriptWords(),
): Subject {
  const rows = ofSite(all);
  // Rules ask for them by the million: a list answers sooner than a map.
  const [rowAt, evidenceAt]: [ExchangeRow[], Evidence[]] = [[], []];
  for (const row of all) rowAt[row.index] = row;
  for (const [index, one] of evidence) evidenceAt[index] = one;
  const ids = overview.pages.length === 0 ? [undefined] : overview.pages.map(({ id }) => id);
  const ofPage = new Map<string | undefined, ExchangeRow[]>(ids.map((id) => [id, []]));
  for (const row of all) ofPage.get(row.pageId)?.push(row);
  const pageOf = new Map(overview.pages.map((page) => [page.id, page]));
  const pages = ids.map((id): SubjectPage => {
    const recorded = (ofPage.get(id) ?? []).sort((a, b) => (a.startMs ?? 0) - (b.startMs ?? 0) || a.index - b.index);
    const own = ofSite(recorded);
    const page = id === undefined ? undefined : pageOf.get(id);
    const load = new Load(own, page);
    return { overview: page, rows: own, brief: plotPage(recorded, page), load, rate: load.rate };
  });
  const trips = findRoundTrips(rows);
  const clocks = lazily(() =>
    judgeClocks(rows.map(({ host, index }) => ({ host, offsetMs: evidence.get(index)?.clockOffsetMs }))),
  );
  const routeMs = new Map<ExchangeIndex, number>();
  for (const { brief } of pages) {
    for (const leg of brief?.legs ?? []) {
      if (leg.type === 'exchange') routeMs.set(leg.index, (routeMs.get(leg.index) ?? 0) + leg.endMs - leg.startMs);
    }
  }
  // Each page has a clock of its own.
  const queues = new Map(pages.flatMap(({ load }) => [...load.queues]));
  const heldBack = new Map(pages.flatMap(({ load }) => [...load.heldBack]));
  return {
    rows,
    asked: askedBy(rows),
    pages,
    fetchedBefore: lazily(() => fetchedBefore(rows, evidence)),
    cookieSetters: lazily(() => rows.filter(({ index }) => (evidence.get(index)?.setCookies ?? []).length > 0)),
    evidenceOf: (index) => evidenceAt[index],
    rowOf: (index) => (index === undefined ? undefined : rowAt[index]),
    queueOf: (index) => queues.get(index),
    heldBackOf: (index) => heldBack.get(index),
    saysWord: (word) => words.has(word),
    clocks,
    clockOf: (host) => clocks().byHost.get(host) ?? 0,
    tripOf: (host) => trips.get(host),
    routeMsOf: (index) => routeMs.get(index) ?? 0,
  };
}

const askedBy = (rows: readonly ExchangeRow[]): readonly ExchangeRow[] =>
  rows.filter(({ fetchedFor }) => fetchedFor === undefined);

/** Computes what each page's rules need of the whole capture once, and only where a rule asks. */
function lazily<T>(compute: () => T): () => T {
  let computed: { readonly value: T } | undefined;
  return () => {
    computed ??= { value: compute() };
    return computed.value;
  };
}

/** For exchanges whose bytes came over the network before, from the same URL: the first that brought them. */
function fetchedBefore(
  rows: readonly ExchangeRow[],
  evidence: ReadonlyMap<ExchangeIndex, Evidence>,
): ReadonlyMap<ExchangeIndex, ExchangeRow> {
  const first = new Map<string, ExchangeRow>();
  const before = new Map<ExchangeIndex, ExchangeRow>();
  for (const row of rows.toSorted((a, b) => (a.startedAt ?? 0) - (b.startedAt ?? 0))) {
    const bodyHash = evidence.get(row.index)?.bodyHash;
    const isFetched = row.method === 'GET' && row.status === 200 && row.source === 'network' && row.kind !== 'data';
    if (!isFetched || bodyHash === undefined) continue;
    const key = `${row.url} ${bodyHash}`;
    const earlier = first.get(key);
    if (earlier === undefined) first.set(key, row);
    else before.set(row.index, earlier);
  }
  return before;
}

/** What was found in a capture as a whole, and in each of its pages where it has several: costs differ from page to page. */
export interface FoundInCapture {
  readonly findings: readonly Finding[];
  readonly byPage: Readonly<Record<PageId, readonly Finding[]>>;
}

/** Runs all rules over a capture, and again over each page where there are several. */
export function diagnoseAll(subject: Subject): FoundInCapture {
  const { pages } = subject;
  const byPage =
    pages.length < 2
      ? []
      : pages.flatMap((page) =>
          page.overview === undefined
            ? []
            : [
                [
                  page.overview.id,
                  diagnose({ ...subject, rows: page.rows, asked: askedBy(page.rows), pages: [page] }),
                ] as const,
              ],
        );
  return { findings: diagnose(subject), byPage: Object.fromEntries(byPage) };
}

/** The findings about a page; of a capture that has but one, or none, all of them. */
export const findingsOn = ({ findings, byPage }: FoundInCapture, page: PageId | undefined): readonly Finding[] =>
  // Pages may be called like an object's own properties.
  (page !== undefined && Object.hasOwn(byPage, page) ? byPage[page] : undefined) ?? findings;

/** Runs all rules. Dearest first: cost of the load, then what is broken, then bytes. */
export function diagnose(subject: Subject): Finding[] {
  const matters = RULE_IDS.flatMap((rule) => mattersOf(RULES[rule], subject).map((matter) => ({ rule, matter })));
  const played = mostToGain(
    subject,
    matters.map(({ matter }) => matter),
  );
  const priced = matters.map(
    ({ rule, matter }): Priced =>
      played.has(matter) ? price(subject, rule, matter) : { rule, matter, costMs: 0, isFurther: false },
  );
  return settleCosts(subject, priced)
    .map(({ rule, matter: { changes: _, wireBytes, ...said }, costMs, isFurther }): Finding => {
      const routeMs = rounded(costMs);
      const cost: Cost = {
        ...(routeMs > 0 ? { routeMs, ...(isFurther ? { isFurther } : {}) } : {}),
        ...(Math.round(wireBytes ?? 0) > 0 ? { wireBytes: Math.round(wireBytes ?? 0) } : {}),
      };
      return { rule, ...said, severity: severityOf(said.severity, cost), cost };
    })
    .sort((a, b) => {
      const notes = Number(a.severity === 'note') - Number(b.severity === 'note');
      return (
        notes ||
        (b.cost.routeMs ?? 0) - (a.cost.routeMs ?? 0) ||
        SEVERITY_RANK[a.severity] - SEVERITY_RANK[b.severity] ||
        (b.cost.wireBytes ?? 0) - (a.cost.wireBytes ?? 0) ||
        RULE_IDS.indexOf(a.rule) - RULE_IDS.indexOf(b.rule)
      );
    });
}

const SEVERITY_RANK: Record<Severity, number> = { broken: 0, costly: 1, wasteful: 2, note: 3 };
const rounded = (ms: number): number => Math.round(ms * 100) / 100;

/** What costs the load nothing is not costly. */
const severityOf = (severity: Severity, { routeMs }: Cost): Severity =>
  severity === 'costly' && routeMs === undefined ? 'wasteful' : severity;

interface Priced {
  readonly rule: RuleId;
  readonly matter: Matter;
  readonly costMs: number;
  readonly isFurther: boolean;
}

/** Less lies within what two recordings of one page differ by: it is no gain. */
const FELT_MS = 1;

function price(subject: Subject, rule: RuleId, matter: Matter): Priced {
  const gainMs = gainOf(subject, matter.changes ?? []);
  return { rule, matter, costMs: gainMs < FELT_MS ? 0 : gainMs, isFurther: false };
}

/** Each play takes as long as the load is large: of very many matters those are played whose exchanges took longest. */
const MOST_PLAYED = 40;

/** The matters that are worth a play: by the time of the exchanges that they change. */
function mostToGain(subject: Subject, matters: readonly Matter[]): ReadonlySet<Matter> {
  const worth = (matter: Matter): number => {
    const touched = new Set((matter.changes ?? []).flatMap(({ indexes }) => [...indexes]));
    return [...touched].reduce((sum, index) => sum + (subject.rowOf(index)?.timeMs ?? 0), 0);
  };
  const known = matters.filter(({ changes }) => (changes ?? []).length > 0);
  if (known.length <= MOST_PLAYED) return new Set(known);
  return new Set(
    known
      .map((matter) => ({ matter, ms: worth(matter) }))
      .sort((a, b) => b.ms - a.ms)
      .slice(0, MOST_PLAYED)
      .map(({ matter }) => matter),
  );
}

/** How much sooner the loads that changes touch are there, in ms. */
function gainOf(subject: Subject, changes: readonly Change[]): number {
  const pageOf = pageByExchange(subject);
  const byPage = new Map<SubjectPage, Change[]>();
  for (const change of changes) {
    const own = new Map<SubjectPage, Set<ExchangeIndex>>();
    for (const index of change.indexes) {
      const page = pageOf.get(index);
      if (page !== undefined) own.set(page, (own.get(page) ?? new Set()).add(index));
    }
    for (const [page, indexes] of own) addTo(byPage, page, { ...change, indexes });
  }
  let gainMs = 0;
  for (const [{ load }, own] of byPage) gainMs += load.gainMs(own);
  return gainMs;
}

const pageByExchange = once(
  ({ pages }): ReadonlyMap<ExchangeIndex, SubjectPage> =>
    new Map(pages.flatMap((page) => page.rows.map(({ index }) => [index, page] as const))),
);

/**
 * Findings about the same exchanges must not promise the same time twice: the one that gains most has its gain, each other
 * one what it gains beside it.
 */
function settleCosts(subject: Subject, matters: readonly Priced[]): Priced[] {
  const settled: Priced[] = [];
  const [dear, free] = [matters.filter(({ costMs }) => costMs > 0), matters.filter(({ costMs }) => costMs === 0)];
  for (const one of dear.sort((a, b) => b.costMs - a.costMs)) {
    const about = new Set(one.matter.evidence);
    const same = settled.filter(
      ({ costMs, matter }) => costMs > 0 && matter.evidence.some((index) => about.has(index)),
    );
    if (same.length === 0) {
      settled.push(one);
      continue;
    }
    const together = gainOf(
      subject,
      [...same, one].flatMap(({ matter }) => matter.changes ?? []),
    );
    const restMs = Math.min(one.costMs, together - same.reduce((sum, { costMs }) => sum + costMs, 0));
    settled.push({ ...one, costMs: restMs < FELT_MS ? 0 : restMs, isFurther: restMs < one.costMs - FELT_MS });
  }
  return [...settled, ...free];
}
