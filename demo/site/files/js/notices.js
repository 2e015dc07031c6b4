import { getJson } from './api.js';
import { readable } from './dates.js';
import { $, make } from './dom.js';
export async function showNotices() {
  const pages = await Promise.all([0, 1, 2].map((page) => getJson(`/notices?page=${page}`)));
  for (const { items } of pages)
    for (const notice of items)
      $('#notices').append(
        make(
          'article',
          {},
          make('h3', {}, notice.title),
          make('p', {}, `${notice.text} ${readable(notice.writtenAt)}`),
        ),
      );
}
