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

  it.each(['0', '-1', '', '1994', 'Thu, 01 Foo 1970 00:00:00 GMT', undefined])('%j is none', (text) => {
    expect(readHttpDate(text)).toBeUndefined();
  });
});
