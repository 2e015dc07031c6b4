import { describe, expect, it } from 'vitest';
import { readHttpDate } from './index';

describe('an HTTP date', () => {
  it.each([
    'Sun, 06 Nov 1994 08:49:37 GMT',
    'Sunday, 06-Nov-94 08:49:37 GMT',
    'Sun Nov  6 08:49:37 1994',
    'Sun, 06-Nov-1994 08:49:37 GMT',
  ])('%s is read in each of the standard’s forms', (text) => {
    expect(readHttpDate(text)).toBe(Date.UTC(1994, 10, 6, 8, 49, 37));
  });

  it.each([
    ...[
      '06 Nov 1994 08:49:37 GMT',
      'sun, 6 nov 1994 08:49:37 gmt',
      '1994-11-06T08:49:37Z',
      '1994-11-06T09:49:37.5+01:00',
    ],
    ...['Sun, 06 Nov 1994 08:49:37 +0000', 'Sun, 06 Nov 1994 03:49:37 EST', '"Sun, 06 Nov 1994 08:49:37 GMT"'],
    ...['Sun,  06  Nov  1994  08:49:37  GMT', 'November 6, 1994 08:49:37', 'Sun, 06 Nov 1994 09:49:37 +01:00'],
  ])('%s is taken for one by browsers', (text) => {
    expect(readHttpDate(text)).toBe(Date.UTC(1994, 10, 6, 8, 49, 37));
  });

  it('has a day alone from its beginning', () => {
    expect(readHttpDate('1994-11-06')).toBe(Date.UTC(1994, 10, 6));
    expect(readHttpDate('Sun, 06 Nov 1994 GMT')).toBe(Date.UTC(1994, 10, 6));
    expect(readHttpDate('Sun, 06 Nov 1994 08:49 GMT')).toBe(Date.UTC(1994, 10, 6, 8, 49));
  });

  it.each([
    ...[
      'Sun, 32 Nov 1994 08:49:37 GMT',
      'Sun, 31 Nov 1994 08:49:37 GMT',

      '1994-13-06',
    ],
    ...['06 Nov', 'Nov 1994', 'max-age=06 Nov', 'never on Nov 6'],
  ])('%s is none', (text) => {
    expect(readHttpDate(text)).toBeUndefined();
  });

  it.each(['0', '-1', '', '1994', 'Thu, 01 Foo 1970 00:00:00 GMT', undefined])('%j is none', (text) => {
    expect(readHttpDate(text)).toBeUndefined();
  });
});
