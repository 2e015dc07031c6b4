import { type ExchangeRow, type FoundGoal, findGoal, type Moments, routeStops } from '../analysis';
import { type ExchangeIndex, NO_PHASES, type Phases } from '../model';
import { findWaits, type RouteStop } from '../timing';
import { type BriefPage, plotPage } from './page';
import { type Download, Pipe } from './pipe';
import { HostQueues, inTurn, type Turn } from './queue';

/** A change to be tried. Each can only spare time. */
export type Change =
  /** These exchanges, and whatever they alone asked for, are not made. */
  | { readonly type: 'leave-out'; readonly indexes: ReadonlySet<ExchangeIndex> }
  /** The server takes at most so long to answer these. */
  | { readonly type: 'answer-in'; readonly indexes: ReadonlySet<ExchangeIndex>; readonly waitMs: number }
  /** These are taken from the browser's cache: no network at all. */
  | { readonly type: 'from-cache'; readonly indexes: ReadonlySet<ExchangeIndex> }
  /** These begin at this moment, in ms since the page's start, or when they did where that was earlier. */
  | { readonly type: 'start-at'; readonly indexes: ReadonlySet<ExchangeIndex>; readonly startMs: number }
  /** These are so much smaller: their downloads take this share of their time and of their bytes. */
  | { readonly type: 'download-share'; readonly indexes: ReadonlySet<ExchangeIndex>; readonly share: number }
  /** These find a connection that stands. */
  | { readonly type: 'connected'; readonly indexes: ReadonlySet<ExchangeIndex> }
  /** These wait for no free connection. */
  | { readonly type: 'unqueued'; readonly indexes: ReadonlySet<ExchangeIndex> }
  /** These start at once when what they waited for has ended; and, to the end, the milestone comes with the last of its exchanges. */
  | { readonly type: 'no-gap'; readonly indexes: ReadonlySet<ExchangeIndex>; readonly isToEnd?: boolean };

export interface Played {
  /** The exchanges at their new times, those that are not made left out. */
  readonly rows: readonly ExchangeRow[];
  readonly targetMs: number;
  /** The new moment of DOM ready, where the recorded one is known. */
  readonly domReadyMs: number | undefined;
  /** The new route and ledger. */
  readonly plot: () => BriefPage | undefined;
}

/**
 * When an exchange began, got its first byte and ended, in a play. What is named earlier comes earlier and is no use before
 * what waited for it has got there: `endMs` is not before the gap that lay before it.
 */
interface Times {
  readonly startMs: number;
  readonly firstMs: number;
  readonly endMs: number;
}

/**
 * A page's load that can be played again with changes. An exchange starts when what it waited for has got as far as it
 * had in the recording, and after the same gap; it waits for one of six connections only as long as those before it hold
 * them; where the connection to the network was full, what comes over it takes its time. What the model does not explain
 * stays with each exchange as recorded, so that with nothing changed the recorded times come out exactly. All of it is
 * sums and greatest values of what comes before: less work never makes a load longer.
 */
export class Load {
  readonly #moments: Moments | undefined;
  readonly #found: FoundGoal | undefined;
  readonly #stops: readonly RouteStop[];
  /** In the order in which they got a connection: what one waited for comes before it. */
  readonly #inTurn: readonly ExchangeRow[];
  readonly #waits: ReturnType<typeof findWaits>;
  readonly #recorded: ReadonlyMap<ExchangeIndex, Times>;
  readonly #queues: HostQueues;
  readonly #pipe: Pipe;

  /** @param rows the exchanges of the page, times since its start */
  constructor(rows: readonly ExchangeRow[], moments: Moments | undefined) {
    this.#moments = moments;
    this.#stops = routeStops(rows);
    this.#found = this.#stops.length === 0 ? undefined : findGoal(this.#stops, moments);
    this.#inTurn = inTurn(rows);
    this.#waits = findWaits(this.#stops);
    this.#recorded = new Map(this.#inTurn.map((row) => [row.index, timesOf(row, row.startMs ?? 0)]));
    this.#queues = new HostQueues(this.#inTurn);
    this.#pipe = new Pipe(this.#inTurn);
  }

  /** Plays the load with changes. Undefined where nothing of it has a start. */
  play(changes: readonly Change[]): Played | undefined {
    const found = this.#found;
    if (found === undefined) return undefined;
    const gone = this.#findGone(changes);
    const times = new Map<ExchangeIndex, Times>();
    const turn = this.#queues.begin();
    const pipe = this.#pipe.begin((row) => (gone.has(row.index) ? 0 : shareOf(row.index, changes)));
    const rows: ExchangeRow[] = [];
    for (const row of this.#inTurn) {
      const startMs = this.#startOf(row, changes, times);
      if (gone.has(row.index)) {
        times.set(row.index, { startMs, firstMs: startMs, endMs: startMs });
        turn.left(row);
        continue;
      }
      const next = playRow(row, startMs, changes, turn, pipe);
      const own = timesOf(next, startMs);
      const usedMs =
        earliestOf(row.index, changes) < Number.POSITIVE_INFINITY ? this.#gapEnd(row, changes, times) : own.endMs;
      times.set(row.index, { ...own, endMs: Math.max(own.endMs, Math.min(usedMs, this.#endOf(row))) });
      rows.push(next);
    }
    const isToEnd = changes.some((one) => one.type === 'no-gap' && one.isToEnd === true);
    const stops = new Map(routeStops(rows).map((stop) => [stop.index, heldUntil(stop, times)]));
    const domReadyMs = this.#newReady(stops);
    const targetMs = this.#newTarget(found, stops, domReadyMs, isToEnd);
    const isLoaded = found.target === 'loaded';
    const moments: Moments = {
      loadedMs: isLoaded ? targetMs : undefined,
      domReadyMs: isLoaded ? domReadyMs : this.#moments?.domReadyMs === undefined ? undefined : targetMs,
    };
    return { rows, targetMs, domReadyMs, plot: () => plotPage(rows, moments) };
  }

  /** How much sooner the load's target comes with changes, in ms. */
  gainMs(changes: readonly Change[]): number {
    const played = this.play(changes);
    return played === undefined || this.#found === undefined ? 0 : Math.max(0, this.#found.goal.atMs - played.targetMs);
  }

  /** What is left out, with all that only it asked for; not where a redirect led, nor what a preflight was for. */
  #findGone(changes: readonly Change[]): ReadonlySet<ExchangeIndex> {
    const gone = new Set<ExchangeIndex>();
    for (const one of changes) if (one.type === 'leave-out') for (const index of one.indexes) gone.add(index);
    if (gone.size === 0) return gone;
    // A parent comes before its children, so one pass finds them all.
    for (const { index, parent, parentEvidence } of this.#inTurn) {
      const isOwn = parentEvidence !== 'redirect' && parentEvidence !== 'preflight';
      if (parent !== undefined && isOwn && gone.has(parent)) gone.add(index);
    }
    return gone;
  }

  /**
   * The start: when what it waited for has got as far as it had, and after the same gap. What is gone takes no time; the
   * gap before it stays, since a capture cannot say what filled that.
   */
  #startOf(row: ExchangeRow, changes: readonly Change[], times: ReadonlyMap<ExchangeIndex, Times>): number {
    const startMs = row.startMs ?? 0;
    const namedMs = earliestOf(row.index, changes);
    const waited = this.#waits.get(row.index);
    const [then, now] =
      waited === undefined ? [] : [this.#recorded.get(waited.stop.index), times.get(waited.stop.index)];
    if (then === undefined || now === undefined) return Math.min(startMs, namedMs);
    const atMs = isGapless(row, changes) ? Math.min(startMs, then.endMs) : startMs;
    // What held it up held it up only because it had been asked for: it starts no sooner than that.
    const asked = waited?.link === 'parent' || row.parent === undefined ? undefined : times.get(row.parent);
    const askedMs = asked === undefined ? Number.NEGATIVE_INFINITY : asked.endMs + Math.max(0, atMs - then.endMs);
    return Math.min(startMs, Math.max(askedMs, momentIn(atMs, then, now)), namedMs);
  }

  /** When the gap is over that lay before an exchange, in the play: the page had not come further until then. */
  #gapEnd(row: ExchangeRow, changes: readonly Change[], times: ReadonlyMap<ExchangeIndex, Times>): number {
    const { index, startMs = 0 } = row;
    const waited = this.#waits.get(index)?.stop;
    const now = waited === undefined ? undefined : times.get(waited.index);
    if (waited === undefined || now === undefined || startMs < waited.endMs) return Number.NEGATIVE_INFINITY;
    return now.endMs + (isGapless(row, changes) ? 0 : startMs - waited.endMs);
  }

  #endOf = ({ index }: ExchangeRow): number => this.#recorded.get(index)?.endMs ?? Number.POSITIVE_INFINITY;

  #newReady(stops: ReadonlyMap<ExchangeIndex, RouteStop>): number | undefined {
    const readyMs = this.#moments?.domReadyMs;
    return readyMs === undefined ? undefined : this.#moved(readyMs, stops, ({ holds }) => holds === 'ready');
  }

  #newTarget(
    { target, goal }: FoundGoal,
    stops: ReadonlyMap<ExchangeIndex, RouteStop>,
    domReadyMs: number | undefined,
    isToEnd: boolean,
  ): number {
    if (target === 'domReady') return domReadyMs ?? goal.atMs;
    const holding = this.#stops.some(({ holds }) => holds !== undefined);
    const isHeldBy = ({ holds, kind }: RouteStop): boolean =>
      holding ? holds !== undefined : kind !== 'socket' && kind !== 'stream';
    const movedMs = this.#moved(goal.atMs, stops, isHeldBy, isToEnd);
    const readyMs = this.#moments?.domReadyMs;
    if (target !== 'loaded' || readyMs === undefined || domReadyMs === undefined || readyMs > goal.atMs) return movedMs;
    // Loaded comes after DOM ready, and where that was waited for last, as long after it as it did.
    const lastMs = this.#lastEndBy(goal.atMs, isHeldBy);
    if (lastMs > readyMs || isToEnd) return Math.max(movedMs, domReadyMs);
    return Math.max(domReadyMs + (goal.atMs - readyMs), this.#lastMoved(goal.atMs, stops, isHeldBy));
  }

  /** A moment, as long after the last of what had ended by it as it was recorded. */
  #moved(
    atMs: number,
    stops: ReadonlyMap<ExchangeIndex, RouteStop>,
    isHeldBy: (stop: RouteStop) => boolean,
    isToEnd = false,
  ): number {
    const originMs = this.#found?.originMs ?? 0;
    let [then, now] = [originMs, originMs];
    for (const stop of this.#stops) {
      if (!isHeldBy(stop) || stop.heldUntilMs > atMs) continue;
      then = Math.max(then, stop.heldUntilMs);
      now = Math.max(now, stops.get(stop.index)?.heldUntilMs ?? originMs);
    }
    if (isToEnd) return Math.min(atMs, now);
    return now === then ? atMs : now + (atMs - then);
  }

  /** When the last of what had ended by a moment ends in the play. */
  #lastMoved(
    atMs: number,
    stops: ReadonlyMap<ExchangeIndex, RouteStop>,
    isHeldBy: (stop: RouteStop) => boolean,
  ): number {
    return this.#stops.reduce(
      (last, stop) =>
        isHeldBy(stop) && stop.heldUntilMs <= atMs ? Math.max(last, stops.get(stop.index)?.heldUntilMs ?? last) : last,
      Number.NEGATIVE_INFINITY,
    );
  }

  #lastEndBy(atMs: number, isHeldBy: (stop: RouteStop) => boolean): number {
    return this.#stops.reduce(
      (last, stop) => (isHeldBy(stop) && stop.heldUntilMs <= atMs ? Math.max(last, stop.heldUntilMs) : last),
      Number.NEGATIVE_INFINITY,
    );
  }
}

/** A stop of the play, which holds its milestones up until it is of use. */
function heldUntil(stop: RouteStop, times: ReadonlyMap<ExchangeIndex, Times>): RouteStop {
  const usedMs = stop.kind === 'media' ? stop.heldUntilMs : (times.get(stop.index)?.endMs ?? stop.heldUntilMs);
  return usedMs > stop.heldUntilMs ? { ...stop, heldUntilMs: usedMs } : stop;
}

/** A moment during or after an exchange, in the play: as far into its download, or as long after its end. */
function momentIn(atMs: number, then: Times, now: Times): number {
  if (then.startMs === now.startMs && then.firstMs === now.firstMs && then.endMs === now.endMs) return atMs;
  if (atMs >= then.endMs) return now.endMs + (atMs - then.endMs);
  if (atMs >= then.firstMs) {
    const share = (atMs - then.firstMs) / (then.endMs - then.firstMs);
    return now.firstMs + share * (now.endMs - now.firstMs);
  }
  return Math.min(now.startMs + (atMs - then.startMs), now.firstMs);
}

const timesOf = ({ timeMs = 0, phases }: ExchangeRow, startMs: number): Times => ({
  startMs,
  firstMs: startMs + timeMs - Math.min(timeMs, phases.downloadMs ?? 0),
  endMs: startMs + timeMs,
});

const isGapless = ({ index }: ExchangeRow, changes: readonly Change[]): boolean =>
  changes.some((one) => one.type === 'no-gap' && one.indexes.has(index));

/** When a change has it begin at the latest. */
const earliestOf = (index: ExchangeIndex, changes: readonly Change[]): number =>
  changes.reduce(
    (earliest, one) => (one.type === 'start-at' && one.indexes.has(index) ? Math.min(earliest, one.startMs) : earliest),
    Number.POSITIVE_INFINITY,
  );

/** Which share of its bytes still comes over the network. */
const shareOf = (index: ExchangeIndex, changes: readonly Change[]): number =>
  changes.reduce((share, one) => {
    if (!one.indexes.has(index)) return share;
    if (one.type === 'from-cache') return 0;
    return one.type === 'download-share' ? share * Math.min(1, one.share) : share;
  }, 1);

/** An exchange with its new start, wait for a connection, phases and download. */
function playRow(
  row: ExchangeRow,
  startMs: number,
  changes: readonly Change[],
  turn: Turn,
  pipe: Download,
): ExchangeRow {
  const own = changes.filter((one) => one.indexes.has(row.index));
  if (own.some(({ type }) => type === 'from-cache')) {
    const timeMs = Math.min(FROM_CACHE_MS, row.timeMs ?? 0);
    turn.left(row);
    return { ...row, startMs, timeMs, phases: { ...NO_PHASES, waitMs: 0, downloadMs: timeMs }, wireBytes: 0 };
  }
  const isUnqueued = own.some(({ type }) => type === 'unqueued');
  const { heldMs, hiddenMs } = turn.wait(row, startMs, isUnqueued);
  let phases: Phases = { ...row.phases };
  if (row.phases.heldMs !== undefined || heldMs > 0) phases = { ...phases, heldMs };
  if (own.some(({ type }) => type === 'connected')) phases = { ...phases, ...CONNECTED };
  for (const one of own) {
    if (one.type === 'answer-in' && phases.waitMs !== undefined)
      phases = { ...phases, waitMs: Math.min(phases.waitMs, one.waitMs) };
  }
  const hiddenThenMs = turn.hiddenThenMs(row);
  const receiveMs = (row.phases.downloadMs ?? 0) - Math.min(hiddenThenMs, row.phases.downloadMs ?? 0);
  const share = shareOf(row.index, changes);
  const untilMs = startMs + sumOf({ ...phases, downloadMs: 0 }) + hiddenMs;
  const newReceiveMs = pipe.receive(row, untilMs, receiveMs, share);
  if (row.phases.downloadMs !== undefined)
    phases = { ...phases, downloadMs: newReceiveMs + Math.min(hiddenMs, row.phases.downloadMs) };
  const saved = sumOf(row.phases) - sumOf(phases);
  const timeMs = saved === 0 ? row.timeMs : Math.max(0, (row.timeMs ?? 0) - saved);
  const next = { ...row, startMs, phases, timeMs };
  turn.took(row, next);
  return next;
}

const sumOf = (phases: Phases): number => Object.values(phases).reduce<number>((sum, ms) => sum + (ms ?? 0), 0);

const FROM_CACHE_MS = 1;
const CONNECTED = { lookupMs: undefined, connectMs: undefined, secureMs: undefined } as const;

/** When a page's document begins to come: the earliest moment at which it could name anything. In ms since the page's start. */
export function documentAnswersMs(rows: readonly ExchangeRow[]): number | undefined {
  const document = rows.find(({ kind, status }) => kind === 'document' && status !== undefined && status < 300);
  if (document?.startMs === undefined) return undefined;
  return document.startMs + (document.timeMs ?? 0) - (document.phases.downloadMs ?? 0);
}
