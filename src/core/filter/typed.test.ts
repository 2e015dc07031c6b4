import { describe, expect, it } from 'vitest';
import { printFilter } from './print';
import { readTyped } from './typed';

describe('what is typed', () => {
  it.each([
    ['kind = script', 'filter', 'kind = script'],
    ['', 'filter', ''],
    ['kind = scr', 'begun', ''],
    ['failed and kind = s', 'begun', 'failed'],
    ['kind = scrpt', 'text', '"kind = scrpt"'],
    ['kind = scr and failed', 'text', '"kind = scr and failed"'],
    ['kind = script and', 'begun', ''],
    ['kind = script and wait >', 'begun', 'kind = script'],
    ['failed and kind = data or wait > ', 'begun', 'failed and kind = data'],
    ['wait >', 'begun', ''],
    ['(kind = script and wait >', 'begun', ''],
    ['wait = soon beds', 'text', '"wait = soon beds"'],
    ['kind = data)', 'text', '"kind = data)"'],
  ] as const)('%j is a %s, and filters by %j', (text, reading, filter) => {
    const typed = readTyped(text);
    expect([typed.reading, printFilter(typed.filter)]).toEqual([reading, filter]);
    expect(typed.problem === undefined).toBe(reading === 'filter');
  });
});
