import { $place, goTo } from '../state/address';

/** Folds a lane or opens it, and leaves the cursor on its head. */
export function turnLane(key: string): void {
  const { turned } = $place.get();
  const next = turned.includes(key) ? turned.filter((one) => one !== key) : [...turned, key];
  goTo({ turned: next, lane: key, exchange: undefined, isOpen: false });
}
