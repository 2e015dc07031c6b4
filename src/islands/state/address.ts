import { atom } from 'nanostores';

/** The zone in which instants are shown. */
export type Zone = 'recorded' | 'utc' | 'machine';
export const ZONES = ['recorded', 'utc', 'machine'] as const satisfies readonly Zone[];

/** What the address holds beside the capture and the view: it brings all of this back. */
export interface Place {
  /** Id of the page that is looked at; absent for all of them. */
  readonly page: string | undefined;
  /** Number of the exchange under the cursor. */
  readonly exchange: number | undefined;
  /** Whether its dossier is open. */
  readonly isOpen: boolean;
  readonly zone: Zone;
  /** On the shelf: the words searched for, and the name of the order. */
  readonly search: string;
  readonly order: string | undefined;
}

export function readPlace(search: string): Place {
  const query = new URLSearchParams(search);
  const exchange = query.get('exchange');
  const zone = query.get('zone');
  const isNumber = exchange !== null && /^\d{1,9}$/.test(exchange);
  return {
    page: query.get('page') ?? undefined,
    exchange: isNumber ? Number(exchange) : undefined,
    isOpen: isNumber && query.has('dossier'),
    zone: ZONES.find((known) => known === zone) ?? 'recorded',
    search: query.get('search') ?? '',
    order: query.get('order') ?? undefined,
  };
}

export function writePlace(place: Place): string {
  const query = new URLSearchParams();
  if (place.page !== undefined) query.set('page', place.page);
  if (place.exchange !== undefined) query.set('exchange', String(place.exchange));
  if (place.isOpen) query.set('dossier', '');
  if (place.zone !== 'recorded') query.set('zone', place.zone);
  if (place.search !== '') query.set('search', place.search);
  if (place.order !== undefined) query.set('order', place.order);
  const text = query.toString().replace(/=(?=&|$)/g, '');
  return text === '' ? '' : `?${text}`;
}

export const $place = atom<Place>(readPlace(typeof location === 'undefined' ? '' : location.search));

/**
 * Goes to another place in the same view. Opening and closing the dossier can be undone by the browser's Back; moving
 * from exchange to exchange takes the current entry of the history along.
 */
export function goTo(change: Partial<Place>): void {
  const before = $place.get();
  const place = { ...before, ...change };
  $place.set(place);
  const address = location.pathname + writePlace(place);
  if (before.isOpen !== place.isOpen || before.page !== place.page) history.pushState(null, '', address);
  else history.replaceState(null, '', address);
}

/** Follows Back and Forward. Returns the way to stop. */
export function followHistory(): () => void {
  const onPop = (): void => $place.set(readPlace(location.search));
  addEventListener('popstate', onPop);
  return () => removeEventListener('popstate', onPop);
}
