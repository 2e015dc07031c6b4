import type { CaptureCard } from '#core/wire';

/** The orders of the shelf, in display order; each puts first what is asked for most. */
export const SHELF_ORDERS = {
  newest: 'import date, newest first',
  recorded: 'recording date, newest first',
  name: 'name',
  slowest: 'slowest first',
  failed: 'most failed',
  exchanges: 'most exchanges',
  bytes: 'most bytes',
} as const;
export type ShelfOrder = keyof typeof SHELF_ORDERS;

/** The order of a name from an address; newest first where it is none. */
export const findShelfOrder = (name: string | null): ShelfOrder =>
  (Object.keys(SHELF_ORDERS) as ShelfOrder[]).find((order) => order === name) ?? 'newest';

/** What a card is ordered by: a larger number comes first; cards of which it is unknown come last. */
const MEASURE: Record<Exclude<ShelfOrder, 'name'>, (card: CaptureCard) => number | undefined> = {
  newest: (card) => card.importedAt,
  recorded: (card) => card.overview.recordedAt,
  slowest: (card) => {
    const loaded = card.overview.pages.flatMap((page) => page.loadedMs ?? []);
    return loaded.length === 0 ? undefined : Math.max(...loaded);
  },
  failed: (card) => card.overview.tally.failed,
  exchanges: (card) => card.overview.tally.exchanges,
  bytes: (card) => card.overview.tally.bodyBytes,
};

/** The cards that hold every word searched for, in order; equals keep the order in which they came. */
export function arrangeCards(cards: readonly CaptureCard[], search: string, order: ShelfOrder): CaptureCard[] {
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  const found = cards.filter((card) => {
    const text = textOf(card);
    return words.every((word) => text.includes(word));
  });
  if (order === 'name') return found.sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }));
  const measure = MEASURE[order];
  const rank = (card: CaptureCard): number => measure(card) ?? Number.NEGATIVE_INFINITY;
  return found.sort((a, b) => (rank(a) === rank(b) ? 0 : rank(b) - rank(a)));
}

const textOf = ({ name, note, recorder, browser, overview }: CaptureCard): string =>
  [
    name,
    note,
    recorder,
    browser,
    overview.sentence,
    ...Object.keys(overview.breakdown.byHost),
    ...overview.pages.map((page) => page.title),
  ]
    .join('\n')
    .toLowerCase();
