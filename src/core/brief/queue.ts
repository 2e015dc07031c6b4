import type { ExchangeRow } from '../analysis';
import type { ExchangeIndex } from '../model';
import {
  CONNECTIONS_PER_HOST,
  findHeldBack,
  findHiddenQueues,
  findQueues,
  type HeldBack,
  type Queue,
  takesConnection,
} from '../timing';

/** The wait for a connection of an exchange, as it was recorded: what those before it explain of it, and the rest. */
interface Recorded {
  /** Counted by the recorder as blocked, in ms; or lying in what it counts as receive. */
  readonly blockedMs: number;
  readonly hiddenMs: number;
  /** When the model has a connection free. */
  readonly freeMs: number;
  /** The grant of a connection less the moment at which the model has one free, in ms; negative where it was sooner. */
  readonly restMs: number;
  /** The ends, in their order, of those that held the connections when its turn came. */
  readonly ends: readonly number[];
  /** Whose end freed the connection, where that was waited for. */
  readonly freedBy: ExchangeIndex | undefined;
  readonly heldBack: Release | undefined;
}

/** What a browser held an exchange back for: with that it gets its connection, unless it got through before. */
interface Release {
  readonly behind: readonly ExchangeIndex[];
  readonly endMs: number;
  /** The grant less the moment at which that had ended and a connection was free; undefined where it got through before. */
  readonly restMs: number | undefined;
}

/** The queues for connections of a recorded load: six to a host over HTTP/1.1, each with one exchange at a time. */
export class HostQueues {
  /**
   * Exchanges with starts in the order in which they got a connection: browsers serve first what is wanted most, not what
   * asked first. Those that waited for none come when they started.
   */
  readonly inTurn: readonly ExchangeRow[];
  /** What waited for one of the six. */
  readonly queues: ReadonlyMap<ExchangeIndex, Queue>;
  /** What the browser held back. */
  readonly heldBack: ReadonlyMap<ExchangeIndex, HeldBack>;
  readonly #recorded = new Map<ExchangeIndex, Recorded>();
  readonly #endOf: ReadonlyMap<ExchangeIndex, number>;

  constructor(rows: readonly ExchangeRow[]) {
    this.queues = findQueues(rows);
    this.heldBack = findHeldBack(rows, this.queues);
    const hidden = findHiddenQueues(rows, this.queues);
    this.inTurn = rows
      .flatMap((row) => {
        if (row.startMs === undefined) return [];
        const queuedMs = takesConnection(row) ? (row.phases.blockedMs ?? 0) + (hidden.get(row.index) ?? 0) : 0;
        return [{ row, startMs: row.startMs, grantMs: row.startMs + queuedMs }];
      })
      .sort((a, b) => a.grantMs - b.grantMs || a.startMs - b.startMs || a.row.index - b.row.index)
      .map(({ row }) => row);
    // By host the six that end last, in the order of their ends: a connection is free when the first of them ends.
    const ends = new Map<string, { readonly endMs: number; readonly index: ExchangeIndex }[]>();
    this.#endOf = new Map(this.inTurn.map((row) => [row.index, (row.startMs ?? 0) + (row.timeMs ?? 0)]));
    for (const row of this.inTurn) {
      if (!takesConnection(row)) continue;
      const startMs = row.startMs ?? 0;
      const blockedMs = row.phases.blockedMs ?? 0;
      const hiddenMs = Math.min(hidden.get(row.index) ?? 0, row.phases.receiveMs ?? 0);
      const grantMs = startMs + blockedMs + hiddenMs;
      const own = ends.get(row.host) ?? [];
      ends.set(row.host, own);
      const freeMs = own.length < CONNECTIONS_PER_HOST ? Number.NEGATIVE_INFINITY : (own[0]?.endMs ?? startMs);
      const restMs = grantMs - Math.max(startMs, freeMs);
      const freedBy = freeMs >= startMs ? own[0]?.index : undefined;
      const behind = this.heldBack.get(row.index)?.behind;
      const release =
        behind === undefined ? undefined : releaseOf(behind, this.#endOf, grantMs, Math.max(startMs, freeMs));
      this.#recorded.set(row.index, {
        blockedMs,
        hiddenMs,
        freeMs,
        restMs,
        ends: own.map(({ endMs }) => endMs),
        freedBy,
        heldBack: release,
      });
      insertEnd(own, { endMs: startMs + (row.timeMs ?? 0), index: row.index }, ({ endMs }) => endMs);
    }
  }

  /** Whose connection an exchange waited for; absent where it waited for none. */
  freedBy(index: ExchangeIndex): ExchangeIndex | undefined {
    return this.#recorded.get(index)?.freedBy;
  }

  /** What the browser held an exchange back for. */
  heldBehind(index: ExchangeIndex): readonly ExchangeIndex[] {
    return this.#recorded.get(index)?.heldBack?.behind ?? NONE;
  }

  /** A play of them, whose exchanges come in turn. */
  begin(): Turn {
    return new Turn(this.#recorded, this.#endOf);
  }
}

const NONE: readonly ExchangeIndex[] = [];

function releaseOf(
  behind: readonly ExchangeIndex[],
  endOf: ReadonlyMap<ExchangeIndex, number>,
  grantMs: number,
  freeMs: number,
): Release {
  const endMs = behind.reduce((last, index) => Math.max(last, endOf.get(index) ?? last), Number.NEGATIVE_INFINITY);
  return { behind, endMs, restMs: grantMs < endMs ? undefined : grantMs - Math.max(freeMs, endMs) };
}

/** One play of the queues. */
export class Turn {
  readonly #recorded: ReadonlyMap<ExchangeIndex, Recorded>;
  readonly #endOf: ReadonlyMap<ExchangeIndex, number>;
  /** Of hosts to which something has moved: the ends, in their order, of those that hold the connections. */
  readonly #ends = new Map<string, number[]>();
  /** The new ends of what has moved. */
  readonly #movedEnds = new Map<ExchangeIndex, number>();

  constructor(recorded: ReadonlyMap<ExchangeIndex, Recorded>, endOf: ReadonlyMap<ExchangeIndex, number>) {
    this.#recorded = recorded;
    this.#endOf = endOf;
  }

  hiddenThenMs = ({ index }: ExchangeRow): number => this.#recorded.get(index)?.hiddenMs ?? 0;

  /** How long an exchange waits for a connection, by the name that its recorder gave that wait. */
  wait(
    row: ExchangeRow,
    startMs: number,
    isUnqueued: boolean,
  ): { readonly blockedMs: number; readonly hiddenMs: number } {
    const then = this.#recorded.get(row.index);
    if (then === undefined) return { blockedMs: row.phases.blockedMs ?? 0, hiddenMs: 0 };
    const isSame = startMs === row.startMs && this.isAsRecorded(row);
    if (isSame && !isUnqueued) return { blockedMs: then.blockedMs, hiddenMs: then.hiddenMs };
    const wasQueued = then.blockedMs + then.hiddenMs > Math.max(0, then.restMs);
    const freeMs = isUnqueued ? startMs : Math.max(startMs, this.#freeMs(row.host, then));
    const restMs = isUnqueued && wasQueued ? Math.min(0, then.restMs) : then.restMs;
    const waitMs = Math.max(0, this.#release(freeMs + restMs, freeMs, then.heldBack) - startMs);
    return then.hiddenMs > 0 && then.blockedMs === 0
      ? { blockedMs: 0, hiddenMs: waitMs }
      : { blockedMs: waitMs, hiddenMs: 0 };
  }

  #freeMs(host: string, then: Recorded): number {
    const ends = this.#ends.get(host);
    if (ends === undefined) return then.freeMs;
    return ends.length < CONNECTIONS_PER_HOST ? Number.NEGATIVE_INFINITY : (ends[0] ?? then.freeMs);
  }

  /** When it gets its connection: as it did after one was free, or with what it was held back for. */
  #release(grantMs: number, freeMs: number, heldBack: Release | undefined): number {
    if (heldBack === undefined) return grantMs;
    const endMs = this.#newEnd(heldBack);
    const releasedMs = Math.max(freeMs, endMs) + (heldBack.restMs ?? 0);
    return heldBack.restMs === undefined ? Math.min(grantMs, releasedMs) : releasedMs;
  }

  #newEnd({ behind, endMs }: Release): number {
    if (!behind.some((index) => this.#movedEnds.has(index))) return endMs;
    return behind.reduce(
      (last, index) => Math.max(last, this.#movedEnds.get(index) ?? this.#endOf.get(index) ?? last),
      Number.NEGATIVE_INFINITY,
    );
  }

  /** No exchange to the same host has moved yet, nor any that this one was held back for. */
  isAsRecorded = ({ host, index }: ExchangeRow): boolean => {
    if (this.#ends.has(host)) return false;
    const behind = this.#recorded.get(index)?.heldBack?.behind ?? NONE;
    return !behind.some((other) => this.#movedEnds.has(other));
  };

  /** Notes until when an exchange has its connection. Not needed of what is as recorded. */
  took(row: ExchangeRow, next: Pick<ExchangeRow, 'startMs' | 'timeMs'>): void {
    const endMs = (next.startMs ?? 0) + (next.timeMs ?? 0);
    const hasMoved = next.startMs !== row.startMs || next.timeMs !== row.timeMs;
    if (hasMoved) this.#movedEnds.set(row.index, endMs);
    const ends = this.#endsAt(row, hasMoved);
    if (ends !== undefined) insertEnd(ends, endMs, (ms) => ms);
  }

  /** Notes that an exchange takes no connection, and when the page is done with it. */
  left(row: ExchangeRow, endMs: number): void {
    this.#movedEnds.set(row.index, endMs);
    this.#endsAt(row, true);
  }

  /** The ends that are to be kept of an exchange's host: from the first one that has moved on. */
  #endsAt({ host, index }: ExchangeRow, hasMoved: boolean): number[] | undefined {
    const then = this.#recorded.get(index);
    if (then === undefined) return undefined;
    const ends = this.#ends.get(host);
    if (ends !== undefined || !hasMoved) return ends;
    const begun = [...then.ends];
    this.#ends.set(host, begun);
    return begun;
  }
}

/** Adds to at most six ends, in their order, another one. */
function insertEnd<T>(ends: T[], end: T, msOf: (end: T) => number): void {
  let at = ends.length;
  for (let before = ends[at - 1]; before !== undefined && msOf(before) > msOf(end); before = ends[at - 1]) at--;
  ends.splice(at, 0, end);
  if (ends.length > CONNECTIONS_PER_HOST) ends.shift();
}
