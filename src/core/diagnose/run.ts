import type { CaptureOverview, ExchangeRow } from '../analysis';
import { plotPage } from '../brief';
import type { ExchangeIndex, PageId } from '../model';
import { findHiddenQueues } from '../timing';
import versions from '../versions.json';
import type { Evidence } from './evidence';
import { WordStock } from './fields';
import { type Cost, type Finding, RULE_IDS, type Severity, type Subject, type SubjectPage } from './finding';
import { RULES } from './rules';

/** Goes up with each change of the code that finds (npm run versions): kept findings are made again. */
export const FINDINGS_VERSION = versions.findings.version;

/** Makes an analysed capture ready for rules. */
export function subjectOf(
  rows: readonly ExchangeRow[],
  overview: CaptureOverview,
  evidence: ReadonlyMap<ExchangeIndex, Evidence>,
  words = new WordStock(),
): Subject {
  const byIndex = new Map(rows.map((row) => [row.index, row]));
  const ids = overview.pages.length === 0 ? [undefined] : overview.pages.map(({ id }) => id);
  const ofPage = new Map<string | undefined, ExchangeRow[]>(ids.map((id) => [id, []]));
  for (const row of rows) ofPage.get(row.pageId)?.push(row);
  const pageOf = new Map(overview.pages.map((page) => [page.id, page]));
  const pages = ids.map((id): SubjectPage => {
    const own = (ofPage.get(id) ?? []).sort((a, b) => (a.startMs ?? 0) - (b.startMs ?? 0) || a.index - b.index);
    const page = id === undefined ? undefined : pageOf.get(id);
    return { overview: page, rows: own, brief: plotPage(own, page) };
  });
  const routeMs = new Map<ExchangeIndex, number>();
  for (const { brief } of pages) {
    for (const leg of brief?.legs ?? []) {
      if (leg.type === 'exchange') routeMs.set(leg.index, (routeMs.get(leg.index) ?? 0) + leg.endMs - leg.startMs);
    }
  }
  // Each page has a clock of its own.
  const queues = new Map(pages.flatMap((page) => [...findHiddenQueues(page.rows)]));
  return {
    rows,
    pages,
    fetchedBefore: lazily(() => fetchedBefore(rows, evidence)),
    cookieSetters: lazily(() => rows.filter(({ index }) => (evidence.get(index)?.setCookies ?? []).length > 0)),
    evidenceOf: (index) => evidence.get(index),
    rowOf: (index) => (index === undefined ? undefined : byIndex.get(index)),
    queuedMsOf: (index) => queues.get(index) ?? 0,
    saysWord: (word) => words.has(word),
    routeMsOf: (index) => routeMs.get(index) ?? 0,
  };
}

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
            : [[page.overview.id, diagnose({ ...subject, rows: page.rows, pages: [page] })] as const],
        );
  return { findings: diagnose(subject), byPage: Object.fromEntries(byPage) };
}

/** The findings about a page; of a capture that has but one, or none, all of them. */
export const findingsOn = ({ findings, byPage }: FoundInCapture, page: PageId | undefined): readonly Finding[] =>
  // Pages may be called like an object's own properties.
  (page !== undefined && Object.hasOwn(byPage, page) ? byPage[page] : undefined) ?? findings;

/** Runs all rules. Dearest first: cost on the route, then what is broken, then cost off the route, then bytes. */
export function diagnose(subject: Subject): Finding[] {
  const findings = RULE_IDS.flatMap((rule) =>
    [...RULES[rule](subject)].map((finding): Finding => ({ rule, ...finding })),
  );
  return findings
    .map((finding) => ({ ...finding, cost: rounded(finding.cost) }))
    .sort((a, b) => {
      const notes = Number(a.severity === 'note') - Number(b.severity === 'note');
      return (
        notes ||
        (b.cost.routeMs ?? 0) - (a.cost.routeMs ?? 0) ||
        SEVERITY_RANK[a.severity] - SEVERITY_RANK[b.severity] ||
        (b.cost.offRouteMs ?? 0) - (a.cost.offRouteMs ?? 0) ||
        (b.cost.wireBytes ?? 0) - (a.cost.wireBytes ?? 0) ||
        RULE_IDS.indexOf(a.rule) - RULE_IDS.indexOf(b.rule)
      );
    });
}

const SEVERITY_RANK: Record<Severity, number> = { broken: 0, costly: 1, wasteful: 2, note: 3 };

function rounded({ routeMs = 0, offRouteMs = 0, wireBytes = 0 }: Cost): Cost {
  const round = (value: number): number => Math.round(value * 100) / 100;
  return {
    ...(round(routeMs) > 0 ? { routeMs: round(routeMs) } : {}),
    ...(round(offRouteMs) > 0 ? { offRouteMs: round(offRouteMs) } : {}),
    ...(Math.round(wireBytes) > 0 ? { wireBytes: Math.round(wireBytes) } : {}),
  };
}
