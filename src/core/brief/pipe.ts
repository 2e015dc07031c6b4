import type { ExchangeRow } from '../analysis';
import type { ExchangeIndex } from '../model';
import { type ByteSpan, bytesAt, cumulateBytes, findRate, type Rate } from '../timing';

/** A download over a full connection, as it was recorded. */
interface Piece {
  readonly row: ExchangeRow;
  readonly fromMs: number;
  readonly toMs: number;
  /** Wire bytes of all downloads that came while it came. */
  readonly besideBytes: number;
  /** Its end less the moment at which all bytes before it and its own could have come; 0 where it ended no sooner. In ms. */
  readonly soonerMs: number;
  /** When all bytes before it could have come. */
  readonly beforeMs: number;
}

/** The connection to the network where it was full: what comes over it shares its rate, and comes no faster than that. */
export class Pipe {
  /** How fast the connection was, and when it was full; undefined where too little came to tell. */
  readonly rate: Rate | undefined;
  readonly #bytesPerMs: number;
  /** In turn. */
  readonly #pieces: ReadonlyMap<ExchangeIndex, Piece>;

  /** @param rows in turn */
  constructor(rows: readonly ExchangeRow[]) {
    const spans = rows.map(spanOf);
    this.rate = findRate(spans);
    this.#bytesPerMs = this.rate?.bytesPerMs ?? Number.POSITIVE_INFINITY;
    const full = this.rate?.full ?? [];
    const points = full.length === 0 ? [] : cumulateBytes(spans);
    const inFull = full.length === 0 ? [] : rows.filter((row) => isMostlyIn(row, full));
    let reachedMs = Number.NEGATIVE_INFINITY;
    this.#pieces = new Map(
      inFull.map((row): [ExchangeIndex, Piece] => {
        const toMs = endOf(row);
        const fromMs = toMs - (row.phases.receiveMs ?? 0);
        const beforeMs = reachedMs;
        reachedMs = Math.max(reachedMs, fromMs) + (row.wireBytes ?? 0) / this.#bytesPerMs;
        const besideBytes = bytesAt(points, toMs) - bytesAt(points, fromMs);
        return [row.index, { row, fromMs, toMs, besideBytes, soonerMs: Math.min(0, toMs - reachedMs), beforeMs }];
      }),
    );
  }

  /** What shared the connection while it was full: any of them may hold up any other. */
  sharers(): Iterable<ExchangeIndex> {
    return this.#pieces.keys();
  }

  /**
   * A play of the connection.
   * @param shareOf which share of an exchange's bytes still comes over it; 0 for what is not made
   */
  begin(shareOf: (row: ExchangeRow) => number): Download {
    return new Download(this.#pieces, this.#bytesPerMs, shareOf);
  }
}

/** One play of the downloads over the connection. */
export class Download {
  readonly #pieces: ReadonlyMap<ExchangeIndex, Piece>;
  readonly #bytesPerMs: number;
  readonly #shares = new Map<ExchangeIndex, number>();
  #reachedMs = Number.NEGATIVE_INFINITY;
  #isAsRecorded = true;

  constructor(pieces: ReadonlyMap<ExchangeIndex, Piece>, bytesPerMs: number, shareOf: (row: ExchangeRow) => number) {
    this.#pieces = pieces;
    this.#bytesPerMs = bytesPerMs;
    const kept = [...pieces.values()].map(({ row }) => ({ row, share: shareOf(row) }));
    if (kept.every(({ share }) => share === 1)) return;
    // What comes no more leaves its part of the rate to those that it came beside.
    const points = cumulateBytes(
      kept.map(({ row, share }) => ({ ...spanOf(row), wireBytes: (row.wireBytes ?? 0) * share })),
    );
    for (const { row, fromMs, toMs, besideBytes } of pieces.values()) {
      const now = bytesAt(points, toMs) - bytesAt(points, fromMs);
      this.#shares.set(row.index, besideBytes <= 0 ? 1 : Math.min(1, now / besideBytes));
    }
  }

  /** Whether its changes alone leave every sharer more of the rate, from the first of them on. */
  get isShared(): boolean {
    return this.#shares.size > 0;
  }

  /** Nothing that shares the connection with an exchange has moved yet. */
  isAsRecorded = ({ index }: ExchangeRow): boolean =>
    (this.#shares.size === 0 && this.#isAsRecorded) || !this.#pieces.has(index);

  /**
   * How long an exchange receives, beginning at a moment, in ms: no less than what all before it leave of the rate. Asked
   * for in turn.
   */
  receive(row: ExchangeRow, fromMs: number, receiveMs: number, share: number): number {
    const piece = this.#pieces.get(row.index);
    if (piece === undefined) return receiveMs * share;
    if (this.#isAsRecorded) this.#reachedMs = piece.beforeMs;
    this.#isAsRecorded = false;
    this.#reachedMs = Math.max(this.#reachedMs, fromMs) + ((row.wireBytes ?? 0) * share) / this.#bytesPerMs;
    const ownMs = receiveMs * (this.#shares.get(row.index) ?? share);
    return Math.max(ownMs, this.#reachedMs + piece.soonerMs - fromMs);
  }
}

const spanOf = (row: ExchangeRow): ByteSpan => ({
  startMs: row.startMs ?? 0,
  timeMs: row.timeMs ?? 0,
  phases: row.phases,
  wireBytes: row.wireBytes,
});
const endOf = ({ startMs = 0, timeMs = 0 }: ExchangeRow): number => startMs + timeMs;

function isMostlyIn(row: ExchangeRow, full: readonly { readonly fromMs: number; readonly toMs: number }[]): boolean {
  const toMs = endOf(row);
  const lengthMs = row.phases.receiveMs ?? 0;
  if (lengthMs <= 0 || (row.wireBytes ?? 0) === 0) return false;
  const inside = full.reduce(
    (sum, one) => sum + Math.max(0, Math.min(toMs, one.toMs) - Math.max(toMs - lengthMs, one.fromMs)),
    0,
  );
  return inside >= lengthMs / 2;
}
