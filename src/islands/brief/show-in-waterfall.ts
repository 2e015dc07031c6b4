import { goTo } from '../state/address';

/** Goes to the waterfall on just what a sift lets through. */
export const showInWaterfall = (sift: string): void =>
  goTo({ view: 'waterfall', sift, hidden: [], exchange: undefined, lane: undefined, isOpen: false });
