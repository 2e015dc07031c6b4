import { type ExchangeRow, findGoal, type Moments, ofLoad, routeStops, TO_LOAD } from '../analysis';
import { type ExchangeIndex, type PhaseName, setupMs, sumPhases } from '../model';
import { findWaits, type RouteStop } from '../timing';
import type { Matching } from './match';

/**
 * What of an exchange a play can take from one load or from the other: when it starts, each part of its time, whether it
 * is made at all, and whether the load waits for it. Bits of a state.
 */
export const PARTS = {
  start: 1,
  blocked: 2,
  setup: 4,
  wait: 8,
  receive: 16,
  /** Time that no phase accounts for. */
  rest: 32,
  presence: 64,
  holds: 128,
} as const;

/** The parts of an exchange's own time, in their order. */
export const TIME_PARTS = ['blocked', 'setup', 'wait', 'receive', 'rest'] as const;
export type TimePart = (typeof TIME_PARTS)[number];

/** An exchange in one of the loads. Times in ms since the load's origin. */
export interface Recorded {
  readonly row: ExchangeRow;
  readonly startMs: number;
  /** From the start to the first byte, and to the end. */
  readonly firstAfterMs: number;
  readonly endAfterMs: number;
  readonly parts: Readonly<Record<TimePart, number>>;
  /** The node that it waited for; absent where it waited for nothing known. */
  readonly anchor: number | undefined;
  /** The load's goal waits for it. */
  readonly holds: boolean;
}

/** An exchange of both loads, or of one. At least one of the two is there. */
export interface Node {
  readonly a: Recorded | undefined;
  readonly b: Recorded | undefined;
  /** What can be taken from B in place of A: what differs. */
  readonly differs: number;
  /** It waited for the same in both, and the gap behind that is another: a capture cannot say what fills gaps. */
  readonly isGapChange: boolean;
}

/** A state of the play: for each node, the parts that are B's; and whose the last gap before the goal is. */
export interface PlayState {
  readonly taken: Uint8Array;
  readonly takesLastGap: boolean;
}

/** One side of a play: its exchanges, and the moment that its load leads to. */
export interface GraphSide {
  readonly rows: readonly ExchangeRow[];
  readonly moments: Moments | undefined;
}

/** Differences below are what sums of fractions leave behind. */
const DUST_MS = 0.01;

/**
 * Two loads as one graph of what waited for what, in which each exchange can have the one's values or the other's. With
 * all of A's it gives A's recorded moment to the last bit, with all of B's B's.
 */
export class UnionGraph {
  readonly nodes: readonly Node[];
  /** The moment that each load leads to, in ms since its origin. */
  readonly goalMs: { readonly a: number; readonly b: number };
  readonly #lastGapMs: { readonly a: number; readonly b: number };
  readonly #a: Columns;
  readonly #b: Columns;
  /** Nodes that either goal waits for: the moment hangs on these, and on what they wait for. */
  readonly #holding: Int32Array;
  readonly #isMedia: Uint8Array;
  // One play after another: each has its times here.
  readonly #start: Float64Array;
  readonly #first: Float64Array;
  readonly #end: Float64Array;
  readonly #stage: Uint8Array;

  private constructor(nodes: readonly Node[], a: SideGoal, b: SideGoal) {
    this.nodes = nodes;
    this.goalMs = { a: a.goalMs, b: b.goalMs };
    this.#lastGapMs = { a: a.lastGapMs, b: b.lastGapMs };
    this.#a = columnsOf(nodes.map((node) => node.a));
    this.#b = columnsOf(nodes.map((node) => node.b));
    this.#holding = Int32Array.from(
      nodes.flatMap((node, at) => (node.a?.holds === true || node.b?.holds === true ? [at] : [])),
    );
    this.#isMedia = Uint8Array.from(nodes, ({ a: own, b: other }) => Number((own ?? other)?.row.kind === 'media'));
    this.#start = new Float64Array(nodes.length);
    this.#first = new Float64Array(nodes.length);
    this.#end = new Float64Array(nodes.length);
    this.#stage = new Uint8Array(nodes.length);
  }

  /** Undefined where one of the loads has no exchange with a start. */
  static of(a: GraphSide, b: GraphSide, matching: Matching): UnionGraph | undefined {
    const [sideA, sideB] = [readSide(a), readSide(b)];
    if (sideA === undefined || sideB === undefined) return undefined;
    const places: [ExchangeRow | undefined, ExchangeRow | undefined][] = [
      ...matching.pairs.map((pair): [ExchangeRow, ExchangeRow] => [pair.a, pair.b]),
      ...matching.gone.map((row): [ExchangeRow, undefined] => [row, undefined]),
      ...matching.fresh.map((row): [undefined, ExchangeRow] => [undefined, row]),
    ];
    const timed = places.filter(
      ([one, other]) =>
        (one !== undefined && sideA.stops.has(one.index)) || (other !== undefined && sideB.stops.has(other.index)),
    );
    const [inA, inB] = [0, 1].map(
      (side) =>
        new Map(timed.flatMap((pair, at) => (pair[side] === undefined ? [] : [[pair[side].index, at] as const]))),
    );
    const nodes = timed.map(([one, other]): Node => {
      const [own, theirs] = [recordedOf(one, sideA, inA), recordedOf(other, sideB, inB)];
      return { a: own, b: theirs, ...differencesOf(own, theirs) };
    });
    return new UnionGraph(nodes, sideA, sideB);
  }

  begin(): PlayState {
    return { taken: new Uint8Array(this.nodes.length), takesLastGap: false };
  }

  /** The moment of a state, and the nodes that it hung on, the last first. */
  play(state: PlayState): { readonly atMs: number; readonly route: () => number[] } {
    const { taken, takesLastGap } = state;
    this.#stage.fill(OPEN);
    let [lastMs, last] = [0, -1];
    for (const at of this.#holding) {
      const node = this.nodes[at];
      if (node === undefined || !holdsIn(node, taken[at] ?? 0)) continue;
      if (this.#stage[at] !== DONE) this.#settleWithAnchors(at, taken);
      const heldMs = (this.#isMedia[at] === 1 ? this.#first[at] : this.#end[at]) ?? 0;
      if (heldMs > lastMs) [lastMs, last] = [heldMs, at];
    }
    const gapMs = takesLastGap ? this.#lastGapMs.b : this.#lastGapMs.a;
    return { atMs: lastMs + gapMs, route: () => this.#routeTo(last, taken) };
  }

  #routeTo(last: number, taken: Uint8Array): number[] {
    const route: number[] = [];
    const seen = new Set<number>();
    for (let at = last; at !== -1 && !seen.has(at); at = this.#sideOf(at, taken).anchor[at] ?? -1) {
      seen.add(at);
      route.push(at);
    }
    return route;
  }

  /** The load that a node's start is taken from. */
  #sideOf(at: number, taken: Uint8Array): Columns {
    if (this.#a.isThere[at] === 0) return this.#b;
    return this.#b.isThere[at] === 1 && ((taken[at] ?? 0) & PARTS.start) !== 0 ? this.#b : this.#a;
  }

  /** Sets when a node starts, has its first byte and ends, and before it what it waits for. */
  #settleWithAnchors(from: number, taken: Uint8Array): void {
    const stage = this.#stage;
    const open = [from];
    for (let at = open.at(-1); at !== undefined; at = open.at(-1)) {
      const side = this.#sideOf(at, taken);
      const anchor = side.anchor[at] ?? -1;
      if (stage[at] === OPEN) {
        stage[at] = UNDER_WAY;
        // Of what the two loads mixed wait for in a circle one keeps its recorded start.
        if (anchor !== -1 && stage[anchor] === OPEN) {
          open.push(anchor);
          continue;
        }
      }
      open.pop();
      if (stage[at] === DONE) continue;
      this.#settle(at, side, anchor !== -1 && stage[anchor] === DONE ? anchor : -1, taken[at] ?? 0);
      stage[at] = DONE;
    }
  }

  /** Sets a node's times by what it waits for, whose times are set. */
  #settle(at: number, side: Columns, anchor: number, taken: number): void {
    const recordedMs = side.start[at] ?? 0;
    const startMs = anchor === -1 ? recordedMs : this.#momentIn(recordedMs, side, anchor);
    const node = this.nodes[at];
    const ofTime = taken & ALL_TIME & (node?.differs ?? 0);
    let [firstAfterMs, endAfterMs] = [0, 0];
    if (node !== undefined && isThere(node, taken)) {
      const isOne = this.#a.isThere[at] === 0 || this.#b.isThere[at] === 0;
      const whole = isOne || ofTime === 0 ? (this.#a.isThere[at] === 1 ? this.#a : this.#b) : this.#b;
      // Recorded lengths are taken as they are: sums of their parts differ in the last bits.
      if (isOne || ofTime === 0 || ofTime === (node.differs & ALL_TIME))
        [firstAfterMs, endAfterMs] = [whole.firstAfter[at] ?? 0, whole.endAfter[at] ?? 0];
      else [firstAfterMs, endAfterMs] = mixedLength(node, taken);
    }
    this.#start[at] = startMs;
    this.#first[at] = startMs + firstAfterMs;
    this.#end[at] = startMs + endAfterMs;
  }

  /** A moment during or after what was waited for, in the play: as far into its download, or as long after its end. */
  #momentIn(atMs: number, side: Columns, anchor: number): number {
    const thenMs = side.start[anchor] ?? 0;
    const [thenFirstMs, thenEndMs] = [thenMs + (side.firstAfter[anchor] ?? 0), thenMs + (side.endAfter[anchor] ?? 0)];
    const [startMs, firstMs, endMs] = [this.#start[anchor] ?? 0, this.#first[anchor] ?? 0, this.#end[anchor] ?? 0];
    if (startMs === thenMs && firstMs === thenFirstMs && endMs === thenEndMs) return atMs;
    if (atMs >= thenEndMs) return endMs + (atMs - thenEndMs);
    if (atMs >= thenFirstMs) return firstMs + ((atMs - thenFirstMs) / (thenEndMs - thenFirstMs)) * (endMs - firstMs);
    return Math.min(startMs + (atMs - thenMs), firstMs);
  }
}

const OPEN = 0;
const UNDER_WAY = 1;
const DONE = 2;

/** One load's values by node, where a play reads them fastest. */
interface Columns {
  readonly isThere: Uint8Array;
  readonly start: Float64Array;
  readonly firstAfter: Float64Array;
  readonly endAfter: Float64Array;
  /** What each waited for; -1 for nothing known. */
  readonly anchor: Int32Array;
}

const columnsOf = (list: readonly (Recorded | undefined)[]): Columns => ({
  isThere: Uint8Array.from(list, (one) => Number(one !== undefined)),
  start: Float64Array.from(list, (one) => one?.startMs ?? 0),
  firstAfter: Float64Array.from(list, (one) => one?.firstAfterMs ?? 0),
  endAfter: Float64Array.from(list, (one) => one?.endAfterMs ?? 0),
  anchor: Int32Array.from(list, (one) => one?.anchor ?? -1),
});

/** Whether a node is made at all in a state. */
const isThere = ({ a, b }: Node, taken: number): boolean =>
  a !== undefined && b !== undefined ? true : (a === undefined) === ((taken & PARTS.presence) !== 0);

function holdsIn(node: Node, taken: number): boolean {
  const { a, b } = node;
  if (!isThere(node, taken)) return false;
  if (a === undefined || b === undefined) return (a ?? b)?.holds === true;
  return (taken & PARTS.holds) === 0 ? a.holds : b.holds;
}

/** How long after its start a node has its first byte, and ends, with parts of both loads. */
function mixedLength({ a, b }: Node, taken: number): [firstAfterMs: number, endAfterMs: number] {
  const of = (part: TimePart): number => ((taken & PARTS[part]) === 0 ? a : b)?.parts[part] ?? 0;
  const firstAfterMs = of('blocked') + of('setup') + of('wait') + of('rest');
  return [firstAfterMs, firstAfterMs + of('receive')];
}

const ALL_TIME = TIME_PARTS.reduce((bits, part) => bits | PARTS[part], 0);

interface SideGoal {
  readonly goalMs: number;
  /** From the end of the last that the goal waited for to the goal. */
  readonly lastGapMs: number;
}

interface ReadSide extends SideGoal {
  readonly originMs: number;
  readonly stops: ReadonlyMap<ExchangeIndex, RouteStop>;
  readonly waits: ReturnType<typeof findWaits>;
  readonly holding: ReadonlySet<ExchangeIndex>;
}

function readSide({ rows, moments }: GraphSide): ReadSide | undefined {
  const stops = routeStops(ofLoad(rows));
  const found = stops.length === 0 ? undefined : findGoal(stops, moments, TO_LOAD);
  if (found === undefined) return undefined;
  const { originMs, goal, target } = found;
  const isHoldingKnown = stops.some(({ holds }) => holds !== undefined);
  const isHeldBy = ({ holds, kind }: RouteStop): boolean => {
    if (target === 'domReady') return holds === 'ready';
    return isHoldingKnown ? holds !== undefined : kind !== 'socket' && kind !== 'stream';
  };
  const holders = stops.filter((stop) => stop.heldUntilMs <= goal.atMs && isHeldBy(stop));
  const lastMs = holders.reduce((last, { heldUntilMs }) => Math.max(last, heldUntilMs), originMs);
  const last = holders.find(({ heldUntilMs }) => heldUntilMs === lastMs);
  // As the play sums it up, so that with nothing changed nothing is.
  const heldMs = last === undefined ? 0 : heldIn(last, originMs);
  const goalMs = Math.max(0, goal.atMs - originMs);
  return {
    originMs,
    goalMs: heldMs + (goalMs - heldMs),
    lastGapMs: goalMs - heldMs,
    stops: new Map(stops.map((stop) => [stop.index, stop])),
    waits: findWaits(stops),
    holding: new Set(holders.map(({ index }) => index)),
  };
}

const heldIn = ({ startMs, heldUntilMs }: RouteStop, originMs: number): number =>
  startMs - originMs + (heldUntilMs - startMs);

function recordedOf(
  row: ExchangeRow | undefined,
  { stops, originMs, waits, holding }: ReadSide,
  places: ReadonlyMap<ExchangeIndex, number> | undefined,
): Recorded | undefined {
  const stop = row === undefined ? undefined : stops.get(row.index);
  if (row === undefined || stop === undefined) return undefined;
  const { timeMs = 0, phases } = row;
  const waited = waits.get(row.index);
  const receiveMs = Math.min(timeMs, phases.receiveMs ?? 0);
  const [blockedMs, ownSetupMs, waitMs] = [phases.blockedMs ?? 0, setupMs(phases) ?? 0, sumPhases(phases, SERVER) ?? 0];
  return {
    row,
    startMs: stop.startMs - originMs,
    firstAfterMs: timeMs - receiveMs,
    endAfterMs: timeMs,
    parts: {
      blocked: blockedMs,
      setup: ownSetupMs,
      wait: waitMs,
      receive: receiveMs,
      rest: timeMs - receiveMs - blockedMs - ownSetupMs - waitMs,
    },
    anchor: waited === undefined ? undefined : places?.get(waited.stop.index),
    holds: holding.has(row.index),
  };
}

const SERVER: readonly PhaseName[] = ['sendMs', 'waitMs'];

function differencesOf(a: Recorded | undefined, b: Recorded | undefined): Pick<Node, 'differs' | 'isGapChange'> {
  if (a === undefined || b === undefined) return { differs: PARTS.presence, isGapChange: false };
  let differs = 0;
  for (const part of TIME_PARTS) if (Math.abs(a.parts[part] - b.parts[part]) > DUST_MS) differs |= PARTS[part];
  // With any of its time other, all of it is taken: parts that differ by dust must not stay behind.
  if (differs === 0 && (a.endAfterMs !== b.endAfterMs || a.firstAfterMs !== b.firstAfterMs)) differs |= PARTS.rest;
  if (a.holds !== b.holds) differs |= PARTS.holds;
  const isElsewhere = a.anchor !== b.anchor;
  if (isElsewhere || a.startMs !== b.startMs) differs |= PARTS.start;
  return { differs, isGapChange: !isElsewhere };
}
