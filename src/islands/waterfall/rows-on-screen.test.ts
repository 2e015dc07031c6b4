import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { inSlots, rowsOnScreen, scrollToShow } from './rows-on-screen';
import { STRIP_PX } from './strip-marks';

const seed = 41;
const heights = fc.integer({ min: STRIP_PX, max: 3000 });

describe('the rows of the chart that are drawn', () => {
  it('are those on screen and few beyond, wherever it is scrolled to', () => {
    fc.assert(
      fc.property(
        heights,
        fc.integer({ min: 1, max: 100_000 }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (heightPx, count, share) => {
          const scrollPx = share * Math.max(0, count * STRIP_PX - heightPx);
          const { from, to } = rowsOnScreen(scrollPx, heightPx, count);
          const seen = Array.from({ length: to - from }, (_, at) => from + at);
          expect(from).toBeGreaterThanOrEqual(0);
          expect(to).toBeLessThanOrEqual(count);
          expect(from * STRIP_PX).toBeLessThanOrEqual(scrollPx);
          expect(to * STRIP_PX).toBeGreaterThanOrEqual(Math.min(count * STRIP_PX, scrollPx + heightPx));
          expect(seen.length).toBeLessThanOrEqual(heightPx / STRIP_PX + 2 + 8);
        },
      ),
      { seed },
    );
  });

  it('are none of an empty chart, and the last ones where fewer came while it was scrolled down', () => {
    expect(rowsOnScreen(0, 400, 0)).toEqual({ from: 0, to: 0 });
    expect(rowsOnScreen(5000, 400, 10).to).toBe(10);
    expect(rowsOnScreen(-30, 52, 10)).toEqual({ from: 0, to: 6 });
  });

  it('have each an element of their own, which a row keeps while it is scrolled by', () => {
    fc.assert(
      fc.property(
        heights,
        fc.integer({ min: 0, max: 5000 }),
        fc.integer({ min: 1, max: 40 }),
        (heightPx, scrollPx, byPx) => {
          const before = inSlots(rowsOnScreen(scrollPx, heightPx, 1000), heightPx);
          const behind = inSlots(rowsOnScreen(scrollPx + byPx, heightPx, 1000), heightPx);
          expect(new Set(before.map(({ slot }) => slot)).size).toBe(before.length);
          const slots = before.map(({ slot }) => slot);
          expect(slots).toEqual(slots.toSorted((a, b) => a - b));
          const slotOf = new Map(behind.map(({ place, slot }) => [place, slot]));
          for (const { place, slot } of before) if (slotOf.has(place)) expect(slotOf.get(place)).toBe(slot);
        },
      ),
      { seed },
    );
  });
});

describe('the row under the cursor', () => {
  it('comes on screen whole, by no more than it takes where it is a neighbour', () => {
    const heightPx = 10 * STRIP_PX;
    expect(scrollToShow(5, 0, heightPx)).toBe(0);
    expect(scrollToShow(10, 0, heightPx)).toBe(STRIP_PX);
    expect(scrollToShow(3, 4 * STRIP_PX, heightPx)).toBe(3 * STRIP_PX);
    expect(scrollToShow(500, 0, heightPx)).toBe(500 * STRIP_PX - (heightPx - STRIP_PX) / 2);
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 2000 }),
        fc.integer({ min: 0, max: 50_000 }),
        heights,
        (place, scrollPx, high) => {
          const toPx = scrollToShow(place, scrollPx, high);
          expect(toPx).toBeGreaterThanOrEqual(0);
          expect(place * STRIP_PX).toBeGreaterThanOrEqual(toPx);
          expect((place + 1) * STRIP_PX).toBeLessThanOrEqual(toPx + high);
        },
      ),
      { seed },
    );
  });
});
