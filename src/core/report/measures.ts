import { type ExchangeRow, type PageOverview, tally } from '../analysis';
import { type BriefPage, plotPage } from '../brief';
import type { Finding } from '../diagnose';
import { type ExchangeIndex, firstByteMs, type PhaseName } from '../model';
import type { BudgetName, Selection } from './budget';

/** What is measured at once: a page of a capture, or what belongs to none. */
export interface MeasuredPart {
  readonly page: PageOverview | undefined;
  readonly rows: readonly ExchangeRow[];
  readonly findings: readonly Finding[];
}

export interface Measured {
  readonly value: number | undefined;
  /** True where some of it is not known. */
  readonly isLeast?: boolean;
  /** True where none of the exchanges is one that it is about. */
  readonly isOfNone?: boolean;
  /** What it rests on, dearest first. */
  readonly exchanges: readonly ExchangeRow[];
}

/** Whether an exchange is one of those that a budget is about. Values compare without case. */
export const isSelected = (row: ExchangeRow, of: Selection): boolean =>
  (Object.entries(of) as [keyof Selection, string][]).every(([key, value]) =>
    key === 'page' ? row.pageId === value : (row[key] ?? '').toLowerCase() === value.toLowerCase(),
  );

/**
 * Measures a part of a capture. Of route, wait and set-up what the load spent on the selected exchanges counts, so that
 * what goes on beside the route costs nothing.
 * @param most what is allowed, for what is named by how much comes behind it
 */
export function measure(name: BudgetName, part: MeasuredPart, of: Selection, most = 0): Measured {
  const rows = part.rows.filter((row) => isSelected(row, of));
  return { ...measureRows(name, part, rows, of, most), isOfNone: rows.length === 0 };
}

function measureRows(
  name: BudgetName,
  part: MeasuredPart,
  rows: readonly ExchangeRow[],
  of: Selection,
  most: number,
): Measured {
  const isWhole = Object.keys(of).every((key) => key === 'page');
  switch (name) {
    case 'loaded':
      return milestone(rows, part.page?.loadedMs);
    case 'ready':
      return milestone(rows, part.page?.domReadyMs);
    case 'ttfb':
      return isWhole ? documentFirstByte(rows) : slowestFirstByte(rows);
    case 'route':
      return isWhole ? wholeRoute(part) : onRoute(part, rows, undefined);
    case 'wait':
      return onRoute(part, rows, ['waitMs']);
    case 'setup':
      return onRoute(part, rows, ['dnsMs', 'connectMs', 'tlsMs']);
    case 'wire':
      return weight(rows, 'wireBytes');
    case 'body':
      return weight(rows, 'bodyBytes');
    case 'exchanges':
      // Those that came when the budget was spent.
      return { value: rows.length, exchanges: inOrderOfStart(rows).slice(Math.floor(most)) };
    case 'failed': {
      const failed = rows.filter(({ failure }) => failure !== undefined);
      return { value: failed.length, exchanges: failed };
    }
    case 'findings': {
      const own = new Set(rows.map(({ index }) => index));
      const about = part.findings.filter(
        ({ severity, evidence }) => severity !== 'note' && (isWhole || evidence.some((index) => own.has(index))),
      );
      const named = new Set(about.flatMap(({ evidence }) => evidence));
      return { value: about.length, exchanges: rows.filter(({ index }) => named.has(index)) };
    }
    default:
      return name satisfies never;
  }
}

/** A milestone rests on what the load waited for before it. */
function milestone(rows: readonly ExchangeRow[], value: number | undefined): Measured {
  const waitedFor = rows.filter(({ isOnRoute, startMs }) => isOnRoute && (startMs ?? 0) < (value ?? 0));
  return { value, exchanges: dearestFirst(waitedFor, 'timeMs') };
}

/** Send and wait of the page's document: of the one behind its redirects. */
function documentFirstByte(rows: readonly ExchangeRow[]): Measured {
  const document = rows.find(
    ({ kind, status }) => kind === 'document' && status !== undefined && (status < 300 || status >= 400),
  );
  return {
    value: document === undefined ? undefined : firstByteMs(document.phases),
    exchanges: document === undefined ? [] : [document],
  };
}

function slowestFirstByte(rows: readonly ExchangeRow[]): Measured {
  const known = rows
    .flatMap((row) => {
      const ms = firstByteMs(row.phases);
      return ms === undefined ? [] : [{ row, ms }];
    })
    .sort((a, b) => b.ms - a.ms);
  // No exchange of the kind is none that could be slow.
  const value = rows.length === 0 ? 0 : known[0]?.ms;
  return { value, exchanges: known.map(({ row }) => row) };
}

const routeOf = ({ rows, page }: MeasuredPart): BriefPage | undefined => plotPage(rows, page);

function wholeRoute(part: MeasuredPart): Measured {
  const route = routeOf(part);
  if (route === undefined) return { value: undefined, exchanges: [] };
  return { value: route.targetMs - route.originMs, exchanges: onRoute(part, part.rows, undefined).exchanges };
}

/** What of the route went to these exchanges, or to phases of theirs. */
function onRoute(part: MeasuredPart, rows: readonly ExchangeRow[], phases: readonly PhaseName[] | undefined): Measured {
  const route = routeOf(part);
  if (route === undefined) return { value: undefined, exchanges: [] };
  const own = new Map(rows.map((row) => [row.index, row]));
  const spent = new Map<ExchangeIndex, number>();
  for (const leg of route.legs) {
    if (leg.type === 'gap' || !own.has(leg.index)) continue;
    const ms =
      phases === undefined ? leg.endMs - leg.startMs : phases.reduce((sum, phase) => sum + (leg.phases[phase] ?? 0), 0);
    spent.set(leg.index, (spent.get(leg.index) ?? 0) + ms);
  }
  const dearest = [...spent].filter(([, ms]) => ms > 0).sort(([, a], [, b]) => b - a);
  return {
    value: dearest.reduce((sum, [, ms]) => sum + ms, 0),
    exchanges: dearest.flatMap(([index]) => own.get(index) ?? []),
  };
}

function weight(rows: readonly ExchangeRow[], member: 'wireBytes' | 'bodyBytes'): Measured {
  const value = tally(rows)[member];
  const known = rows.filter((row) => row[member] !== undefined);
  return {
    value,
    isLeast: known.length < rows.length,
    exchanges: dearestFirst(
      known.filter((row) => row[member] !== 0),
      member,
    ),
  };
}

const dearestFirst = (rows: readonly ExchangeRow[], member: 'wireBytes' | 'bodyBytes' | 'timeMs'): ExchangeRow[] =>
  [...rows].sort((a, b) => (b[member] ?? 0) - (a[member] ?? 0));

const inOrderOfStart = (rows: readonly ExchangeRow[]): ExchangeRow[] =>
  [...rows].sort((a, b) => (a.startedAt ?? 0) - (b.startedAt ?? 0) || a.index - b.index);
