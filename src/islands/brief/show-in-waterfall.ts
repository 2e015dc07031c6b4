import { goTo } from '../state/address';

/** Goes to the waterfall on just what a filter lets through. */
export const showInWaterfall = (filter: string): void =>
  goTo({ view: 'waterfall', filter, hidden: [], exchange: undefined, lane: undefined, isOpen: false });
