import { atom } from 'nanostores';
import { $place } from '../state/address';
import type { Filtering } from './filtering';

/** What reads and applies filters; "unloaded" where its script could not be fetched. */
export const $filtering = atom<Filtering | 'unloaded' | undefined>(undefined);

let coming: Promise<void> | undefined;

/** Fetches what applies filters; again where it could not be had. Never rejects. */
export function fetchFiltering(): Promise<void> {
  coming ??= import('./filtering').then(
    ({ filtering }) => $filtering.set(filtering),
    () => {
      coming = undefined;
      $filtering.set('unloaded');
    },
  );
  return coming;
}

/** There once what the address filters by can be applied: else everything would be shown for a moment. */
export const filteringForAddress = (): Promise<void> =>
  $place.get().filter === '' ? Promise.resolve() : fetchFiltering();
