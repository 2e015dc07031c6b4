import { describe, expect, it } from 'vitest';
import type { CaptureCard } from '#core/wire';
import { arrangeCards, findShelfOrder } from './arrange-cards';

const card = (
  name: string,
  rest: { at?: number; loadedMs?: number; failed?: number; note?: string; host?: string },
): CaptureCard =>
  ({
    name,
    note: rest.note ?? '',
    importedAt: rest.at ?? 0,
    overview: {
      sentence: 'Loaded.',
      tally: { exchanges: 1, failed: rest.failed ?? 0 },
      breakdown: { byHost: { [rest.host ?? 'a.example']: {} } },
      pages: [{ title: '', loadedMs: rest.loadedMs }],
    },
  }) as unknown as CaptureCard;

const CARDS = [
  card('visit 10', { at: 1, loadedMs: 900, note: 'for Ilse' }),
  card('visit 9', { at: 3, host: 'img.cumbrera.example' }),
  card('Booking', { at: 2, loadedMs: 2000, failed: 5 }),
];
const names = (search: string, order: Parameters<typeof arrangeCards>[2]): string[] =>
  arrangeCards(CARDS, search, order).map(({ name }) => name);

describe('arrangeCards', () => {
  it('orders by time, by name with its numbers, and by measure with the unknown last', () => {
    expect(names('', 'newest')).toEqual(['visit 9', 'Booking', 'visit 10']);
    expect(names('', 'name')).toEqual(['Booking', 'visit 9', 'visit 10']);
    expect(names('', 'slowest')).toEqual(['Booking', 'visit 10', 'visit 9']);
    expect(names('', 'failed')).toEqual(['Booking', 'visit 10', 'visit 9']);
  });

  it('finds every word in names, notes and hosts, whatever their case', () => {
    expect(names('VISIT ilse', 'newest')).toEqual(['visit 10']);
    expect(names('cumbrera', 'newest')).toEqual(['visit 9']);
    expect(names('visit nowhere', 'newest')).toEqual([]);
  });

  it('falls back to newest first for an order that is none', () => {
    expect([findShelfOrder('bytes'), findShelfOrder('sideways'), findShelfOrder(null)]).toEqual([
      'bytes',
      'newest',
      'newest',
    ]);
  });
});
