import { expect, it } from 'vitest';
import { queryOf } from './index';

it.each([
  ['https://a.example/x?page=2&q=a%20b#top', '?page=2&q=a%20b'],
  ['https://a.example/x?', '?'],
  ['https://a.example/x', ''],
  ['https://a.example/#/huts?page=9', ''],
  ['https://a.example/x?a=b?c', '?a=b?c'],
  ['not an address?but=queried', '?but=queried'],
  ['', ''],
])('the query of %j is %j', (url, query) => {
  expect(queryOf(url)).toBe(query);
});
