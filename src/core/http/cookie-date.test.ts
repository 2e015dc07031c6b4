import { describe, expect, it } from 'vitest';
import { readCookieDate } from './cookie-date';

const AT = Date.UTC(2026, 9, 21, 7, 28, 0);

describe('a cookie’s date', () => {
  it.each([
    'Wed, 21 Oct 2026 07:28:00 GMT',
    'Wednesday, 21-Oct-26 07:28:00 GMT',
    'Wed Oct 21 07:28:00 2026',
    '2026 October 21 7:28:0',
    'oct-21-2026 07:28:00 PST',
    '21st Oct 2026th 07:28:00.5',
  ])('is read of %s', (text) => expect(readCookieDate(text)).toBe(AT));

  it.each([
    ['Thu, 01 Jan 1970 00:00:00 GMT', 0],
    ['1 Jan 69 00:00:00', Date.UTC(2069, 0, 1)],
    ['1 Jan 99 00:00:00', Date.UTC(1999, 0, 1)],
  ])('is read of %s as %d', (text, at) => expect(readCookieDate(text)).toBe(at));

  // General readers of dates take the first three for one.
  it.each([
    '0',
    '-1',
    '2026-10-21T07:28:00Z',
    '30 Feb 2026 07:28:00',
    '32 Oct 2026 07:28:00',
    '21 Oct 2026 24:00:00',
    '21 Oct 1600 07:28:00',
    '21 Oct 2026',
    'tomorrow',
    '',
  ])('is none in %j', (text) => expect(readCookieDate(text)).toBeUndefined());
});
