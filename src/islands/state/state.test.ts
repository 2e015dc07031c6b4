import { describe, expect, it } from 'vitest';
import { keyName } from './actions';
import { type Place, readPlace, writePlace } from './address';
import { readProblem } from './api';

const NOWHERE = readPlace('');

describe('the address', () => {
  it('brings back the place that it was written from', () => {
    const places: Place[] = [
      NOWHERE,
      { ...NOWHERE, page: 'page@1 & 2=?', exchange: 0, isOpen: true, zone: 'utc', search: 'a&b =', order: 'name' },
      {
        ...NOWHERE,
        page: 'all',
        exchange: 141,
        filter: 'kind = data and "a b"',
        hidden: ['extension', 'third'],
        window: { fromMs: -0.5, toMs: 860.125 },
        hit: 'response body 3',
      },
      { ...NOWHERE, lanes: 'host', measure: 'wire', isGrouped: true, turned: ['host:a b', 'GET x/{}?'], lane: 'host:' },
      { ...NOWHERE, endpoint: 'GET a.example/{}', mode: 'rc', term: 'vary' },
    ];
    for (const place of places) expect(readPlace(writePlace(place))).toEqual(place);
    expect(writePlace(NOWHERE)).toBe('');
  });

  it('names the view in its path', () => {
    expect(readPlace('', '/c/1/find').view).toBe('find');
    expect(readPlace('', '/c/1/nowhere').view).toBe('shelf');
    expect(readPlace('', '/reference').view).toBe('reference');
    expect(readPlace('', '/c/1/reference').view).toBe('reference');
    expect(readPlace('', '/c/1/shelf').view).toBe('shelf');
  });

  it('takes no nonsense from a hand-written address', () => {
    expect(readPlace('?exchange=-1&dossier&zone=moon&window=9_3&hide=a%20b')).toEqual(NOWHERE);
    expect(readPlace('?exchange=99999999999999999999')).toEqual(NOWHERE);
    expect(readPlace('?window=1e9_2e9').window).toBeUndefined();
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
