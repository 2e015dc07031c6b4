import { afterEach, describe, expect, it } from 'vitest';
import { guardRequest, isOpenToOthers } from './guard';

const passes = (headers: Record<string, string>, path = '/api/captures', method = 'GET'): boolean => {
  // A Request would refuse to carry a Host header; the guard asks for no more than these two.
  const request = { method, headers: new Headers(headers) } as Request;
  try {
    guardRequest(request, path);
    return true;
  } catch {
    return false;
  }
};

afterEach(() => {
  delete process.env['TRAZADO_HOSTS'];
});

describe('guardRequest', () => {
  it.each(['localhost:4680', '127.0.0.1', '[::1]:80', 'LOCALHOST'])('knows %s as this machine', (host) => {
    expect(passes({ host })).toBe(true);
  });

  it.each([
    '',
    'localhost.evil.example',
    '127.0.0.1.evil.example',
    'evil.example:4680',
    'localhost@evil.example',
    '127.0.0.2',
  ])('does not take "%s" for it', (host) => {
    expect(passes({ host })).toBe(false);
  });

  it('takes an Origin only where it is the very same, port and all', () => {
    const host = 'localhost:4680';
    expect(passes({ host, origin: 'http://localhost:4680' })).toBe(true);
    for (const origin of [
      'http://localhost:4681',
      'http://127.0.0.1:4680',
      'null',
      'http://localhost:4680.evil.example',
    ]) {
      expect(passes({ host, origin })).toBe(false);
    }
  });

  it('lets another site open a page by a link, and nothing else', () => {
    const host = 'localhost:4680';
    const link = { host, 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'document' };
    expect(passes(link, '/c/x/waterfall')).toBe(true);
    expect(passes(link, '/api/captures')).toBe(false);
    expect(passes(link, '/', 'POST')).toBe(false);
    expect(passes({ ...link, 'sec-fetch-dest': 'iframe' }, '/')).toBe(false);
    expect(passes({ ...link, 'sec-fetch-site': 'same-site', 'sec-fetch-mode': 'cors' }, '/')).toBe(false);
  });

  it('knows the names under which the user opened it to others', () => {
    expect(isOpenToOthers()).toBe(false);
    process.env['TRAZADO_HOSTS'] = 'hut.example,10.0.0.7';
    expect(isOpenToOthers()).toBe(true);
    expect(passes({ host: '10.0.0.7:4680' })).toBe(true);
    expect(passes({ host: '10.0.0.8:4680' })).toBe(false);
  });
});
