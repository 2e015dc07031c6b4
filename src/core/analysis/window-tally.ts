import { countWhile } from '../timing';
import type { ExchangeRow } from './exchange-row';
import { isSpared, type Tally } from './summary';

/** An exchange at its place on a clock; `endMs` is not before `startMs`. Without a start it is in no window. */
export interface TalliedAt {
  readonly row: ExchangeRow;
  readonly startMs: number | undefined;
  readonly endMs: number | undefined;
}

/** What is summed, and how many know it: bytes that nobody knows are unknown, not 0. */
const SUMMANDS = [
  () => 1,
  (row) => Number(row.failure !== undefined),
  (row) => row.wireBytes ?? 0,
  (row) => Number(row.wireBytes !== undefined),
  (row) => bodyBytesOf(row) ?? 0,
  (row) => Number(bodyBytesOf(row) !== undefined),
  (row) => (isSpared(row) ? (bodyBytesOf(row) ?? 0) : 0),
] as const satisfies readonly ((row: ExchangeRow) => number)[];

/** What a worker fetched for a page is one body, counted where the page got it. */
const bodyBytesOf = ({ bodyBytes, fetchedFor }: ExchangeRow): number | undefined =>
  fetchedFor === undefined ? bodyBytes : undefined;

/**
 * Sums over what happens inside a window of time, for many windows over the same exchanges: those that began by its end
 * less those that had ended before it, each known by running sums. A window costs two searches, not a pass over all.
 */
export class WindowTally {
  readonly #starts: RunningSums;
  readonly #ends: RunningSums;

  constructor(items: readonly TalliedAt[]) {
    const placed = items.filter(({ startMs }) => startMs !== undefined);
    this.#starts = new RunningSums(placed, ({ startMs }) => startMs ?? 0);
    this.#ends = new RunningSums(placed, ({ startMs, endMs }) => endMs ?? startMs ?? 0);
  }

  /** As `tally` of the exchanges of which something lies in [fromMs, toMs]; an instant at its edge counts. */
  within(window: { readonly fromMs: number; readonly toMs: number }): Tally {
    const begun = this.#starts.countWhile((ms) => ms <= window.toMs);
    const over = this.#ends.countWhile((ms) => ms < window.fromMs);
    const [exchanges = 0, failed = 0, wire = 0, wireKnown, body = 0, bodyKnown, saved = 0] = SUMMANDS.map(
      (_, at) => this.#starts.upTo(at, begun) - this.#ends.upTo(at, over),
    );
    if (exchanges === 0) return { exchanges, failed, wireBytes: 0, bodyBytes: 0, savedBytes: 0 };
    return {
      exchanges,
      failed,
      wireBytes: wireKnown === 0 ? undefined : wire,
      bodyBytes: bodyKnown === 0 ? undefined : body,
      savedBytes: bodyKnown === 0 ? undefined : saved,
    };
  }
}

/** Exchanges in the order of a moment, with the sums over the first of them, whatever their number. */
class RunningSums {
  readonly #moments: Float64Array;
  readonly #sums: readonly Float64Array[];

  constructor(items: readonly TalliedAt[], momentOf: (item: TalliedAt) => number) {
    const ordered = items.map((item) => ({ row: item.row, ms: momentOf(item) })).sort((a, b) => a.ms - b.ms);
    this.#moments = Float64Array.from(ordered, ({ ms }) => ms);
    this.#sums = SUMMANDS.map((summand) => {
      const sums = new Float64Array(ordered.length + 1);
      for (const [at, { row }] of ordered.entries()) sums[at + 1] = (sums[at] ?? 0) + summand(row);
      return sums;
    });
  }

  countWhile(holds: (ms: number) => boolean): number {
    return countWhile(this.#moments, holds);
  }

  upTo(summand: number, count: number): number {
    return this.#sums[summand]?.[count] ?? 0;
  }
}
