import { atom } from 'nanostores';

/** What stands in the filter bar while it is being typed; undefined where that is what the address has. */
export const $typed = atom<string | undefined>(undefined);
