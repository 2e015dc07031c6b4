import { atom } from 'nanostores';
import { goTo } from '../state/address';
import { $notice, tell } from '../state/notices';

/** Number of the exchange that was marked, to be compared with the next one; absent where none is. */
export const $marked = atom<number | undefined>(undefined);

/** Marks an exchange. With another one marked, opens this one compared with it; with itself marked, takes the mark back. */
export function compareMark(exchange: number): void {
  const marked = $marked.get();
  if (marked === undefined) {
    $marked.set(exchange);
    tell(`#${exchange} is marked.`, { detail: 'Go to another exchange and press m there to compare the two.' });
    return;
  }
  $marked.set(undefined);
  $notice.set(undefined);
  if (marked === exchange) tell(`#${exchange} is no longer marked.`);
  else goTo({ exchange, lane: undefined, isOpen: true, hit: undefined, against: marked });
}
