import { describe, expect, it } from 'vitest';
import {
  formatBytes,
  formatCost,
  formatCount,
  formatInstant,
  formatInstantMs,
  formatMs,
  formatPlural,
  formatShare,
  formatSpan,
  formatZone,
} from './format';

describe('formatMs', () => {
  it.each([
    [undefined, 'unknown'],
    [0, '0 ms'],
    [0.04, '0.0 ms'],
    [9.94, '9.9 ms'],
    [9.96, '10 ms'],
    [245.4, '245 ms'],
    [999.4, '999 ms'],
    [999.6, '1.00 s'],
    [2856, '2.86 s'],
    [90_000, '90.00 s'],
    [-12, '−12 ms'],
    [-0.04, '0.0 ms'],
    [-0.05, '−0.1 ms'],
  ])('writes %s as %s', (ms, text) => expect(formatMs(ms)).toBe(text));
});

describe('formatBytes', () => {
  it.each([
    [undefined, 'unknown'],
    [0, '0 B'],
    [999, '999 B'],
    [1000, '1.0 kB'],
    [9960, '10 kB'],
    [612_400, '612 kB'],
    [999_600, '1.0 MB'],
    [1_940_000, '1.9 MB'],
    [2_000_000_000, '2.0 GB'],
  ])('writes %s as %s', (bytes, text) => expect(formatBytes(bytes)).toBe(text));
});

describe('counts, shares, instants and zones', () => {
  it('groups digits and agrees in number', () => {
    expect(formatCount(1_234_567)).toBe('1,234,567');
    expect(formatPlural(1, 'entry', 'entries')).toBe('1 entry');
    expect(formatPlural(2000, 'exchange')).toBe('2,000 exchanges');
  });
  it('writes a share in whole per cent', () => {
    expect([formatShare(0.384), formatShare(undefined)]).toEqual(['38 %', 'unknown']);
  });
  it('shows an instant in the zone asked for', () => {
    const at = Date.UTC(2026, 9, 3, 23, 4, 7);
    expect(formatInstant(at, 0)).toBe('3 Oct 2026, 23:04:07');
    expect(formatInstant(at, 120)).toBe('4 Oct 2026, 01:04:07');
    expect(formatInstantMs(Date.UTC(2026, 9, 3, 23, 4, 7, 50), 120)).toBe('4 Oct 2026, 01:04:07.050');
  });
  it('names a zone by its offset', () => {
    expect([0, 120, -210].map(formatZone)).toEqual(['UTC', 'UTC+2', 'UTC−3:30']);
  });
});

describe('formatSpan', () => {
  it.each([
    [1500, '1.50 s'],
    [1000, '1 s'],
    [59_000, '59 s'],
    [60_000, '1 min'],
    [119_000, '1 min 59 s'],
    [9 * 60_000 + 59_999, '9 min 59 s'],
    [14 * 60_000 + 59_000, '14 min'],
    [2 * 3_600_000 + 5 * 60_000, '2 h 5 min'],
    [3_600_000, '1 h'],
    [86_400_000, '1 day'],
    [2 * 86_400_000 + 3 * 3_600_000, '2 days 3 h'],
    [400 * 86_400_000, '400 days'],
  ])('writes %s ms as %s', (ms, text) => expect(formatSpan(ms)).toBe(text));
});

describe('formatCost', () => {
  it.each([
    [{}, ''],
    [{ routeMs: 142, wireBytes: 916_000 }, 'up to 142 ms of the load, 916 kB on the wire'],
    [{ routeMs: 1170, isFurther: true as const }, 'up to 1.17 s more of the load'],
    [{ routeMs: 0 }, 'up to 0 ms of the load'],
  ])('writes %j as %j', (cost, text) => expect(formatCost(cost)).toBe(text));
});
