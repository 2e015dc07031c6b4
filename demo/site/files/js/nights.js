import { getJson } from './api.js';
import { readable } from './dates.js';
import { $, make } from './dom.js';
import { euros } from './numbers.js';
export async function showNights(slug) {
  const rows = [];
  for (let page = 0; page < 4; page++) {
    const answer = await getJson(`/huts/${slug}/availability?page=${page}`);
    rows.push(...answer.nights);
  }
  const table = make(
    'table',
    {},
    ...rows.map((night) =>
      make(
        'tr',
        {},
        make('td', {}, readable(night.date)),
        make('td', {}, `${night.free} beds`),
        make('td', {}, euros.format(night.price)),
      ),
    ),
  );
  $('#nights').append(table);
}
