import { describe, expect, it } from 'vitest';
import { keyName } from './actions';
import { readPlace, writePlace } from './address';
import { readProblem } from './api';

describe('the address', () => {
  it('brings back the place that it was written from', () => {
    const places = [
      { page: undefined, exchange: undefined, isOpen: false, zone: 'recorded', search: '', order: undefined },
      { page: 'page@1 & 2=?', exchange: 0, isOpen: true, zone: 'utc', search: 'a&b =', order: 'name' },
      { page: 'all', exchange: 141, isOpen: false, zone: 'machine', search: '', order: undefined },
    ] as const;
    for (const place of places) expect(readPlace(writePlace(place))).toEqual(place);
    expect(writePlace(places[0])).toBe('');
  });

  it('takes no nonsense from a hand-written address', () => {
    expect(readPlace('?exchange=-1&dossier&zone=moon')).toEqual({
      page: undefined,
      exchange: undefined,
      isOpen: false,
      zone: 'recorded',
      search: '',
      order: undefined,
    });
    expect(readPlace('?exchange=99999999999999999999')).toMatchObject({ exchange: undefined });
  });
});

describe('keyName', () => {
  const press = (
    key: string,
    held: Partial<Record<'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey', boolean>> = {},
  ): string => keyName({ key, ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, ...held });
  it('writes keys as the list of actions does', () => {
    expect(press('j')).toBe('j');
    expect(press('C', { shiftKey: true })).toBe('Shift+C');
    expect(press('J')).toBe('j');
    expect(press('?', { shiftKey: true })).toBe('?');
    expect(press('k', { metaKey: true })).toBe('Ctrl+k');
    expect(press('Tab', { shiftKey: true })).toBe('Shift+Tab');
  });
});

describe('readProblem', () => {
  it('reads our own problems, and takes anything else for the server being away', () => {
    const own = { code: 'unreadable', sentence: 'It is no capture.', advice: 'Choose another.' };
    expect(readProblem(JSON.stringify(own))).toEqual(own);
    for (const text of ['', '<html>', '{"error":1}']) expect(readProblem(text).code).toBe('unreachable');
  });
});
