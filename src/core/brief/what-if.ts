import { type ExchangeRow, type PageOverview, routeStops } from '../analysis';
import type { ExchangeIndex } from '../model';
import { findWaits, type RouteStop } from '../timing';
import { type BriefPage, plotPage } from './page';

/** A change to be tried. */
export type Change =
  /** These exchanges, and whatever they alone asked for, are not made. */
  | { readonly type: 'leave-out'; readonly indexes: ReadonlySet<ExchangeIndex> }
  /** The server takes at most so long to answer these. */
  | { readonly type: 'answer-in'; readonly indexes: ReadonlySet<ExchangeIndex>; readonly waitMs: number }
  /** These are taken from the browser's cache: no network at all. */
  | { readonly type: 'from-cache'; readonly indexes: ReadonlySet<ExchangeIndex> }
  /** These begin at this moment, in ms since the page's start, or when they did where that was earlier. */
  | { readonly type: 'start-at'; readonly indexes: ReadonlySet<ExchangeIndex>; readonly startMs: number }
  /** Downloads of these take this share of their time. */
  | { readonly type: 'download-share'; readonly indexes: ReadonlySet<ExchangeIndex>; readonly share: number };

export interface Simulated {
  /** The exchanges at their new times, those that are not made left out. */
  readonly rows: readonly ExchangeRow[];
  readonly targetMs: number;
  readonly brief: BriefPage | undefined;
}

/**
 * Plays a page's load again with a change. An exchange starts when what it waited for has got as far as it had in the
 * recording, and the browser has worked as long as it did then; phases last as long as recorded, so that lines are shared
 * as they were. What the model leaves out: lines that get freer or fuller, connections that are no longer set up, work
 * that the browser no longer does. With no change it gives back the recorded times.
 */
export function simulate(
  rows: readonly ExchangeRow[],
  page: Pick<PageOverview, 'loadedMs' | 'domReadyMs'> | undefined,
  changes: readonly Change[],
): Simulated | undefined {
  const recorded = plotPage(rows, page);
  if (recorded === undefined) return undefined;
  const stops = routeStops(rows);
  const waits = findWaits(stops);
  const gone = findGone(rows, changes);
  const times = new Map<ExchangeIndex, { readonly startMs: number; readonly endMs: number }>();
  const byStart = [...rows].sort((a, b) => (a.startMs ?? 0) - (b.startMs ?? 0) || a.index - b.index);
  const changed: ExchangeRow[] = [];
  for (const row of byStart) {
    if (row.startMs === undefined || gone.has(row.index)) continue;
    const next = change(row, changes);
    const waitedMs = startOf(row.startMs, row.parent, waits.get(row.index)?.stop, gone, times);
    const startMs = Math.min(waitedMs, namedMs(row.index, changes));
    times.set(row.index, { startMs, endMs: startMs + (next.timeMs ?? 0) });
    changed.push({ ...next, startMs });
  }
  const targetMs = newTarget(stops, recorded, times);
  const key = recorded.target === 'domReady' ? 'domReadyMs' : 'loadedMs';
  const brief = plotPage(changed, { loadedMs: undefined, domReadyMs: undefined, [key]: targetMs });
  return { rows: changed, targetMs, brief };
}

/** What is left out, with all that only it asked for. */
function findGone(rows: readonly ExchangeRow[], changes: readonly Change[]): ReadonlySet<ExchangeIndex> {
  const gone = new Set<ExchangeIndex>();
  for (const one of changes) if (one.type === 'leave-out') for (const index of one.indexes) gone.add(index);
  const byStart = [...rows].sort((a, b) => (a.startMs ?? 0) - (b.startMs ?? 0));
  // A parent comes before its children, so one pass finds them all.
  for (const { index, parent } of byStart) if (parent !== undefined && gone.has(parent)) gone.add(index);
  return gone;
}

type Times = ReadonlyMap<ExchangeIndex, { readonly startMs: number; readonly endMs: number }>;

/**
 * The start: as long after the moment of what it waited for as it was recorded, be that its end or, streamed, its start.
 * What held it up and is gone holds it up no more: it starts as long after its parent as it had started after that.
 */
function startOf(
  startMs: number,
  parent: ExchangeIndex | undefined,
  waited: RouteStop | undefined,
  gone: ReadonlySet<ExchangeIndex>,
  times: Times,
): number {
  if (waited === undefined) return startMs;
  if (gone.has(waited.index)) {
    const asked = parent === undefined ? undefined : times.get(parent);
    return asked === undefined ? startMs : Math.min(startMs, asked.endMs + Math.max(0, startMs - waited.endMs));
  }
  const now = times.get(waited.index);
  if (now === undefined) return startMs;
  const isStreamed = startMs < waited.endMs;
  const moved = isStreamed ? now.startMs - waited.startMs : now.endMs - waited.endMs;
  // Nothing moved it: the very number, not one that sums have rounded.
  return moved === 0 ? startMs : startMs + moved;
}

/** When a page's document begins to come: the earliest moment at which it could name anything. In ms since the page's start. */
export function documentAnswersMs(rows: readonly ExchangeRow[]): number | undefined {
  const document = rows.find(({ kind, status }) => kind === 'document' && status !== undefined && status < 300);
  if (document?.startMs === undefined) return undefined;
  return document.startMs + (document.timeMs ?? 0) - (document.phases.downloadMs ?? 0);
}

/** When a change has it begin at the latest. */
const namedMs = (index: ExchangeIndex, changes: readonly Change[]): number =>
  changes.reduce(
    (earliest, one) => (one.type === 'start-at' && one.indexes.has(index) ? Math.min(earliest, one.startMs) : earliest),
    Number.POSITIVE_INFINITY,
  );

function change(row: ExchangeRow, changes: readonly Change[]): ExchangeRow {
  let phases = row.phases;
  for (const one of changes) {
    if (!one.indexes.has(row.index)) continue;
    if (one.type === 'answer-in') phases = { ...phases, waitMs: Math.min(phases.waitMs ?? 0, one.waitMs) };
    else if (one.type === 'download-share') phases = { ...phases, downloadMs: (phases.downloadMs ?? 0) * one.share };
    else if (one.type === 'from-cache') phases = FROM_CACHE;
  }
  if (phases === row.phases) return row;
  const spent = (of: ExchangeRow['phases']): number =>
    Object.values(of).reduce<number>((sum, ms) => sum + (ms ?? 0), 0);
  return { ...row, phases, timeMs: Math.max(0, (row.timeMs ?? 0) - spent(row.phases) + spent(phases)) };
}

const FROM_CACHE: ExchangeRow['phases'] = {
  heldMs: undefined,
  lookupMs: undefined,
  connectMs: undefined,
  secureMs: undefined,
  sendMs: undefined,
  waitMs: 0,
  downloadMs: 1,
};

/** The milestone: as long after the last of what had ended by it as it was recorded. */
function newTarget(stops: readonly RouteStop[], { targetMs, originMs }: BriefPage, times: Times): number {
  const before = stops.filter(({ endMs, kind }) => endMs <= targetMs && kind !== 'socket' && kind !== 'stream');
  const lastThen = before.reduce((last, { endMs }) => Math.max(last, endMs), originMs);
  const lastNow = before.reduce((last, { index }) => Math.max(last, times.get(index)?.endMs ?? originMs), originMs);
  return lastNow === lastThen ? targetMs : lastNow + (targetMs - lastThen);
}
