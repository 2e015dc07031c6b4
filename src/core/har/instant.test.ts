import { describe, expect, it } from 'vitest';
import { readInstant } from './instant';

describe('readInstant', () => {
  it.each([
    ['2026-10-03T09:14:07Z', Date.UTC(2026, 9, 3, 9, 14, 7), 0],
    ['2026-10-03T09:14:07.123456+02:00', Date.UTC(2026, 9, 3, 7, 14, 7) + 123.456, 120],
    ['2026-10-03T09:14:07-0330', Date.UTC(2026, 9, 3, 12, 44, 7), -210],
    ['2026-10-03 09:14:07,5', Date.UTC(2026, 9, 3, 9, 14, 7, 500), undefined],
  ])('reads %s', (text, at, utcOffsetMinutes) => {
    const instant = readInstant(text);
    expect(instant?.at).toBeCloseTo(at, 3);
    expect(instant?.utcOffsetMinutes).toBe(utcOffsetMinutes);
  });

  it('is unknown for what is no instant', () => {
    for (const text of [undefined, '', 'yesterday', '12:00']) expect(readInstant(text)).toBeUndefined();
  });
});
