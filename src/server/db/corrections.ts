import { and, eq, or } from 'drizzle-orm';
import type { Corrections } from '#core/compare';
import { exchangeIndex } from '#core/model';
import type { Connection } from './connection';
import { corrections } from './schema';

/** Which captures a comparison is of, in this order. */
export interface ComparedCaptures {
  readonly a: string;
  readonly b: string;
}

/** A pair of exchanges that somebody said something about. */
export interface Correction {
  readonly a: number;
  readonly b: number;
  /** The same, or not; null takes back what was said. */
  readonly isSame: boolean | null;
}

/** What was corrected between two captures, whichever of them was A then. */
export function readCorrections({ db }: Connection, { a, b }: ComparedCaptures): Corrections {
  const rows = db
    .select()
    .from(corrections)
    .where(
      or(
        and(eq(corrections.captureA, a), eq(corrections.captureB, b)),
        and(eq(corrections.captureA, b), eq(corrections.captureB, a)),
      ),
    )
    .all();
  const pairOf = (own: number, other: number): Corrections['matched'][number] => [
    exchangeIndex(own),
    exchangeIndex(other),
  ];
  const pairs = rows.flatMap(({ captureA, placeA, placeB, isSame }) => {
    // Of two pages of one capture either may be A: what is on neither side is left aside.
    const orders =
      a === b
        ? [pairOf(placeA, placeB), pairOf(placeB, placeA)]
        : captureA === a
          ? [pairOf(placeA, placeB)]
          : [pairOf(placeB, placeA)];
    return orders.map((pair) => ({ pair, isSame }));
  });
  return {
    matched: pairs.flatMap(({ pair, isSame }) => (isSame ? [pair] : [])),
    parted: pairs.flatMap(({ pair, isSame }) => (isSame ? [] : [pair])),
  };
}

/** Keeps a correction in place of what was said before of the same exchanges: one cannot be the same as two. */
export function writeCorrection({ db }: Connection, captures: ComparedCaptures, { a, b, isSame }: Correction): void {
  const sides = [
    { captureA: captures.a, placeA: a, captureB: captures.b, placeB: b },
    { captureA: captures.b, placeA: b, captureB: captures.a, placeB: a },
  ];
  for (const { captureA, placeA, captureB, placeB } of sides) {
    const both = and(eq(corrections.captureA, captureA), eq(corrections.captureB, captureB));
    const ofPair = and(eq(corrections.placeA, placeA), eq(corrections.placeB, placeB));
    const ofEither = and(
      or(eq(corrections.placeA, placeA), eq(corrections.placeB, placeB)),
      eq(corrections.isSame, true),
    );
    db.delete(corrections)
      .where(and(both, isSame === true ? or(ofPair, ofEither) : ofPair))
      .run();
  }
  const [own] = sides;
  if (isSame !== null && own !== undefined)
    db.insert(corrections)
      .values({ ...own, isSame })
      .run();
}
