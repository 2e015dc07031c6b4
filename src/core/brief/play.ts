import { type ExchangeRow, type FoundGoal, findGoal, type Moments, ofLoad, routeStops } from '../analysis';
import { type ExchangeIndex, NO_PHASES, PHASES, type Phases, sumPhases } from '../model';
import { findWaits, type HeldBack, type Queue, type Rate, type RouteStop } from '../timing';
import { byExchange, type Change, earliestOf, isGapless, NO_CHANGES, shareOf } from './change';
import { type BriefPage, plotPage } from './page';
import { type Download, Pipe } from './pipe';
import { HostQueues, type Turn } from './queue';

export interface Played {
  /** The exchanges at their new times, those that are not made left out. */
  readonly rows: () => readonly ExchangeRow[];
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
  /** In the order in which they got a connection: what one waited for comes before it. All lists below are in this order. */
  readonly #inTurn: readonly ExchangeRow[];
  readonly #at: ReadonlyMap<ExchangeIndex, number>;
  readonly #recorded: readonly Times[];
  /** The place of what each waited for and of its parent, -1 where there is none. */
  readonly #waitedAt: Int32Array;
  readonly #parentAt: Int32Array;
  readonly #waits: ReturnType<typeof findWaits>;
  readonly #queues: HostQueues;
  readonly #pipe: Pipe;
  #decisive: ReadonlySet<ExchangeIndex> | undefined;
  readonly #gains = new Map<string, number>();

  /** @param rows the exchanges of the page, times since its start */
  constructor(rows: readonly ExchangeRow[], moments: Moments | undefined) {
    this.#moments = moments;
    this.#queues = new HostQueues(ofLoad(rows));
    this.#inTurn = this.#queues.inTurn;
    this.#stops = routeStops(this.#inTurn);
    this.#found = this.#stops.length === 0 ? undefined : findGoal(this.#stops, moments);
    this.#waits = findWaits(this.#stops);
    this.#at = new Map(this.#inTurn.map(({ index }, at) => [index, at]));
    this.#recorded = this.#inTurn.map((row) => timesOf(row, row.startMs ?? 0));
    const placeOf = (index: ExchangeIndex | undefined): number =>
      index === undefined ? -1 : (this.#at.get(index) ?? -1);
    this.#waitedAt = Int32Array.from(this.#inTurn, ({ index }) => placeOf(this.#waits.get(index)?.stop.index));
    this.#parentAt = Int32Array.from(this.#inTurn, ({ parent }) => placeOf(parent));
    this.#pipe = new Pipe(this.#inTurn);
  }

  /** How fast the connection to the network was, and when it was full; undefined where too little came to tell. */
  get rate(): Rate | undefined {
    return this.#pipe.rate;
  }

  /** What waited for one of six connections. */
  get queues(): ReadonlyMap<ExchangeIndex, Queue> {
    return this.#queues.queues;
  }

  /** What the browser held back behind what stopped the parser. */
  get heldBack(): ReadonlyMap<ExchangeIndex, HeldBack> {
    return this.#queues.heldBack;
  }

  /** Plays the load with changes. Undefined where nothing of it has a start. */
  play(changes: readonly Change[]): Played | undefined {
    const found = this.#found;
    if (found === undefined) return undefined;
    const gone = this.#findGone(changes);
    const about = byExchange(changes);
    const ownOf = ({ index }: ExchangeRow): readonly Change[] => about.get(index) ?? NO_CHANGES;
    const times = new Array<Times | undefined>(this.#inTurn.length).fill(undefined);
    const held = Float64Array.from(this.#stops, ({ heldUntilMs }) => heldUntilMs);
    const turn = this.#queues.begin();
    const pipe = this.#pipe.begin((row) => (gone.has(row.index) ? 0 : shareOf(ownOf(row))));
    const moved = new Map<number, Motion>();
    const isTouched = this.#placesOf([about.keys(), gone]);
    for (let at = this.#firstTouched([about.keys(), gone, pipe.isShared ? this.#pipe.sharers() : NO_INDEXES]); ; at++) {
      const row = this.#inTurn[at];
      if (row === undefined) break;
      const isUntouched = isTouched[at] === 0 && this.#waitedFor(at, times) === undefined;
      if (isUntouched && turn.isAsRecorded(row) && pipe.isAsRecorded(row)) continue;
      const changed = ownOf(row);
      const startMs = this.#startOf(row, at, changed, times);
      if (gone.has(row.index)) {
        times[at] = { startMs, firstMs: startMs, endMs: startMs };
        held[at] = found.originMs;
        turn.left(row, startMs);
        continue;
      }
      const next = playRow(row, startMs, changed, turn, pipe);
      const own = timesOf(next, startMs);
      const isNamed = earliestOf(changed) < Number.POSITIVE_INFINITY;
      const usedMs = isNamed ? this.#gapEnd(row, at, changed, times) : own.endMs;
      const endMs = Math.max(own.endMs, Math.min(usedMs, this.#recordedAt(at).endMs));
      if (isSame(next, row) && endMs === this.#recordedAt(at).endMs) continue;
      times[at] = { ...own, endMs };
      held[at] = row.kind === 'media' ? own.firstMs : endMs;
      moved.set(at, next);
    }
    const isToEnd = changes.some((one) => one.type === 'no-gap' && one.isToEnd === true);
    const domReadyMs = this.#newReady(held);
    const targetMs = this.#newTarget(found, held, domReadyMs, isToEnd);
    const isLoaded = found.target === 'loaded';
    const moments: Moments = {
      loadedMs: isLoaded ? targetMs : undefined,
      domReadyMs: isLoaded ? domReadyMs : this.#moments?.domReadyMs === undefined ? undefined : targetMs,
    };
    const rowsNow = (): ExchangeRow[] =>
      this.#inTurn.flatMap((row, at) => {
        const motion = moved.get(at);
        return gone.has(row.index) ? [] : motion === undefined ? row : { ...row, ...motion };
      });
    return { rows: rowsNow, targetMs, domReadyMs, plot: () => plotPage(rowsNow(), moments) };
  }

  /** The place of the first of these exchanges: all before it is as recorded. */
  #firstTouched(touched: readonly Iterable<ExchangeIndex>[]): number {
    let first = this.#inTurn.length;
    for (const indexes of touched) {
      for (const index of indexes) first = Math.min(first, this.#at.get(index) ?? first);
    }
    return first;
  }

  /** One for each place at which one of these is, in a list of all. */
  #placesOf(touched: readonly Iterable<ExchangeIndex>[]): Uint8Array {
    const places = new Uint8Array(this.#inTurn.length);
    for (const indexes of touched) for (const index of indexes) places[this.#at.get(index) ?? -1] = 1;
    return places;
  }

  #recordedAt(at: number): Times {
    return this.#recorded[at] ?? NOWHEN;
  }

  /** What an exchange waited for or was asked for by, where that has other times in the play. */
  #waitedFor(at: number, times: readonly (Times | undefined)[]): Times | undefined {
    // Arrays are slow where they are asked for what is in none of their places.
    const waitedAt = this.#waitedAt[at] ?? -1;
    const waited = waitedAt < 0 ? undefined : times[waitedAt];
    if (waited !== undefined) return waited;
    const parentAt = this.#parentAt[at] ?? -1;
    return parentAt < 0 ? undefined : times[parentAt];
  }

  /**
   * How much sooner the load's target comes with changes, in ms. Each is played once: a capture of several pages is judged
   * page by page and as a whole, which asks for the same again.
   */
  gainMs(changes: readonly Change[]): number {
    const key = this.#keyOf(changes);
    const known = this.#gains.get(key);
    if (known !== undefined) return known;
    const gainMs = this.#playedGainMs(changes);
    this.#gains.set(key, gainMs);
    return gainMs;
  }

  /** What of changes is about this load. */
  #keyOf(changes: readonly Change[]): string {
    return changes
      .map(({ indexes, ...change }) => {
        const own = [...indexes].filter((index) => this.#at.has(index)).sort((a, b) => a - b);
        return `${JSON.stringify(change)} ${own.join()}`;
      })
      .join('\n');
  }

  #playedGainMs(changes: readonly Change[]): number {
    // The moment is a greatest of sums: what is on none of its longest chains makes it come no sooner.
    const decisive = this.#findDecisive();
    const canGain = changes.some(
      (one) => (one.type === 'no-gap' && one.isToEnd === true) || [...one.indexes].some((index) => decisive.has(index)),
    );
    if (!canGain) return 0;
    const played = this.play(changes);
    return played === undefined || this.#found === undefined ? 0 : Math.max(0, this.#found.goal.atMs - played.targetMs);
  }

  /**
   * The exchanges that the target's moment hangs on: those that ended last of what it waits for, and from there back what
   * each waited for, was asked for by, got its connection from, or shared a full connection with. All others can get
   * quicker and nothing comes sooner.
   */
  #findDecisive(): ReadonlySet<ExchangeIndex> {
    if (this.#decisive !== undefined) return this.#decisive;
    const decisive = new Set<ExchangeIndex>();
    const open: ExchangeIndex[] = [];
    const take = (index: ExchangeIndex | undefined): void => {
      if (index === undefined || decisive.has(index)) return;
      decisive.add(index);
      open.push(index);
    };
    for (const index of this.#lastEnded()) take(index);
    const sharers = new Set(this.#pipe.sharers());
    for (let index = open.pop(); index !== undefined; index = open.pop()) {
      const at = this.#at.get(index);
      take(at === undefined ? undefined : this.#inTurn[at]?.parent);
      take(this.#waits.get(index)?.stop.index);
      take(this.#queues.freedBy(index));
      for (const other of this.#queues.heldBehind(index)) take(other);
      if (sharers.has(index)) {
        for (const other of sharers) take(other);
        sharers.clear();
      }
    }
    this.#decisive = decisive;
    return decisive;
  }

  /** What ended last by the target, and by DOM ready, of what these wait for. */
  #lastEnded(): ExchangeIndex[] {
    const moments = [this.#found?.goal.atMs, this.#moments?.domReadyMs].filter((ms) => ms !== undefined);
    const isAny = !this.#stops.some(({ holds }) => holds !== undefined);
    return moments.flatMap((atMs) =>
      [['ready'], ['ready', 'loaded']].flatMap((kinds) => {
        const held = this.#stops.filter(
          ({ holds, heldUntilMs }) => heldUntilMs <= atMs && (isAny || (holds !== undefined && kinds.includes(holds))),
        );
        const lastMs = held.reduce((last, { heldUntilMs }) => Math.max(last, heldUntilMs), Number.NEGATIVE_INFINITY);
        return held.filter(({ heldUntilMs }) => heldUntilMs >= lastMs).map(({ index }) => index);
      }),
    );
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
  #startOf(row: ExchangeRow, at: number, changes: readonly Change[], times: readonly (Times | undefined)[]): number {
    const startMs = row.startMs ?? 0;
    const namedMs = earliestOf(changes);
    const waitedAt = this.#waitedAt[at] ?? -1;
    if (waitedAt === -1) return Math.min(startMs, namedMs);
    const then = this.#recordedAt(waitedAt);
    const now = times[waitedAt] ?? then;
    const atMs = isGapless(changes) ? Math.min(startMs, then.endMs) : startMs;
    // What held it up held it up only because it had been asked for: it starts no sooner than that.
    const isParent = this.#waits.get(row.index)?.link === 'parent';
    const parentAt = this.#parentAt[at] ?? -1;
    const asked = isParent || parentAt === -1 ? undefined : (times[parentAt] ?? this.#recordedAt(parentAt));
    const askedMs = asked === undefined ? Number.NEGATIVE_INFINITY : asked.endMs + Math.max(0, atMs - then.endMs);
    return Math.min(startMs, Math.max(askedMs, momentIn(atMs, then, now)), namedMs);
  }

  /** When the gap is over that lay before an exchange, in the play: the page had not come further until then. */
  #gapEnd(row: ExchangeRow, at: number, changes: readonly Change[], times: readonly (Times | undefined)[]): number {
    const { startMs = 0 } = row;
    const waitedAt = this.#waitedAt[at] ?? -1;
    const then = this.#recordedAt(waitedAt);
    if (waitedAt === -1 || startMs < then.endMs) return Number.NEGATIVE_INFINITY;
    return (times[waitedAt] ?? then).endMs + (isGapless(changes) ? 0 : startMs - then.endMs);
  }

  #newReady(held: Float64Array): number | undefined {
    const readyMs = this.#moments?.domReadyMs;
    return readyMs === undefined ? undefined : this.#moved(readyMs, held, ({ holds }) => holds === 'ready');
  }

  #newTarget(
    { target, goal }: FoundGoal,
    held: Float64Array,
    domReadyMs: number | undefined,
    isToEnd: boolean,
  ): number {
    if (target === 'domReady') return domReadyMs ?? goal.atMs;
    const holding = this.#stops.some(({ holds }) => holds !== undefined);
    const isHeldBy = ({ holds, kind }: RouteStop): boolean =>
      holding ? holds !== undefined : kind !== 'socket' && kind !== 'stream';
    const movedMs = this.#moved(goal.atMs, held, isHeldBy, isToEnd);
    const readyMs = this.#moments?.domReadyMs;
    if (target !== 'loaded' || readyMs === undefined || domReadyMs === undefined || readyMs > goal.atMs) return movedMs;
    // Loaded comes after DOM ready, and where that was waited for last, as long after it as it did.
    const [lastMs, nowMs] = this.#lastBy(goal.atMs, held, isHeldBy);
    if (lastMs > readyMs || isToEnd) return Math.max(movedMs, domReadyMs);
    return Math.max(domReadyMs + (goal.atMs - readyMs), nowMs);
  }

  /** A moment, as long after the last of what had ended by it as it was recorded. */
  #moved(atMs: number, held: Float64Array, isHeldBy: (stop: RouteStop) => boolean, isToEnd = false): number {
    const originMs = this.#found?.originMs ?? 0;
    const [lastMs, nowMs] = this.#lastBy(atMs, held, isHeldBy);
    const [then, now] = [Math.max(originMs, lastMs), Math.max(originMs, nowMs)];
    if (isToEnd) return Math.min(atMs, now);
    return now === then ? atMs : now + (atMs - then);
  }

  /** When the last of what had ended by a moment ended, and when the last of the same ends in the play. */
  #lastBy(atMs: number, held: Float64Array, isHeldBy: (stop: RouteStop) => boolean): [then: number, now: number] {
    let [then, now] = [Number.NEGATIVE_INFINITY, Number.NEGATIVE_INFINITY];
    this.#stops.forEach((stop, at) => {
      if (stop.heldUntilMs > atMs || !isHeldBy(stop)) return;
      then = Math.max(then, stop.heldUntilMs);
      now = Math.max(now, held[at] ?? then);
    });
    return [then, now];
  }
}

const NO_INDEXES: readonly ExchangeIndex[] = [];
const NOWHEN: Times = { startMs: 0, firstMs: 0, endMs: 0 };

/** What a play may change of an exchange. */
type Motion = Pick<ExchangeRow, 'startMs' | 'timeMs' | 'phases' | 'wireBytes'>;

const isSame = (one: Motion, other: Motion): boolean =>
  one.startMs === other.startMs && one.timeMs === other.timeMs && one.phases.receiveMs === other.phases.receiveMs;

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

const timesOf = ({ timeMs = 0, phases }: Motion, startMs: number): Times => ({
  startMs,
  firstMs: startMs + timeMs - Math.min(timeMs, phases.receiveMs ?? 0),
  endMs: startMs + timeMs,
});

/** The new start, wait for a connection, phases and download of an exchange. */
function playRow(row: ExchangeRow, startMs: number, own: readonly Change[], turn: Turn, pipe: Download): Motion {
  if (own.some(({ type }) => type === 'from-cache')) {
    const timeMs = Math.min(FROM_CACHE_MS, row.timeMs ?? 0);
    turn.left(row, startMs + timeMs);
    return { startMs, timeMs, phases: { ...NO_PHASES, waitMs: 0, receiveMs: timeMs }, wireBytes: 0 };
  }
  const isUnqueued = own.some(({ type }) => type === 'unqueued');
  const { blockedMs, hiddenMs } = turn.wait(row, startMs, isUnqueued);
  let phases: Phases = { ...row.phases };
  if (row.phases.blockedMs !== undefined || blockedMs > 0) phases = { ...phases, blockedMs };
  if (own.some(({ type }) => type === 'connected')) phases = { ...phases, ...CONNECTED };
  for (const one of own) {
    if (one.type === 'answer-in' && phases.waitMs !== undefined)
      phases = { ...phases, waitMs: Math.min(phases.waitMs, one.waitMs) };
  }
  const hiddenThenMs = turn.hiddenThenMs(row);
  const receiveMs = (row.phases.receiveMs ?? 0) - Math.min(hiddenThenMs, row.phases.receiveMs ?? 0);
  const share = shareOf(own);
  const untilMs = startMs + (sumPhases(phases, BEFORE_BODY) ?? 0) + hiddenMs;
  const newReceiveMs = pipe.receive(row, untilMs, receiveMs, share);
  if (row.phases.receiveMs !== undefined)
    phases = { ...phases, receiveMs: newReceiveMs + Math.min(hiddenMs, row.phases.receiveMs) };
  const saved = (sumPhases(row.phases) ?? 0) - (sumPhases(phases) ?? 0);
  const timeMs = saved === 0 ? row.timeMs : Math.max(0, (row.timeMs ?? 0) - saved);
  const next: Motion = { startMs, phases, timeMs, wireBytes: row.wireBytes };
  turn.took(row, next);
  return next;
}

const BEFORE_BODY = PHASES.filter((name) => name !== 'receiveMs');
const FROM_CACHE_MS = 1;
const CONNECTED = { dnsMs: undefined, connectMs: undefined, tlsMs: undefined } as const;
