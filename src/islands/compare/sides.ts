import { $place, goTo } from '../state/address';

// Which loads are chosen for which side: the address has them.

/** One side alone needs several; with both any number will do. */
export const isWhole = (a: readonly string[], b: readonly string[]): boolean =>
  (a.length > 0 && b.length > 0) || a.length > 1;

/** Puts a load on a side, takes it off the other, or takes it back. */
export function turnSide(side: 'A' | 'B', name: string): void {
  const { sideA, sideB } = $place.get();
  const turn = (list: readonly string[], isOwn: boolean): readonly string[] => {
    const others = list.filter((one) => one !== name);
    return isOwn && others.length === list.length ? [...list, name] : others;
  };
  goTo({ sideA: turn(sideA, side === 'A'), sideB: turn(sideB, side === 'B') });
}
