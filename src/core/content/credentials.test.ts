import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { findObstacles, readCredentials, readSentCookies, readServerTiming, readSetCookie, standingAt } from './index';

const token = (claims: unknown, header: unknown = { alg: 'HS256', typ: 'JWT' }): string =>
  [header, claims]
    .map((part) => Buffer.from(JSON.stringify(part)).toString('base64url'))
    .join('.')
    .concat('.c2lnbmF0dXJl');

describe('credentials', () => {
  it('are taken apart: a token into its claims, basic into user and password', () => {
    const found = readCredentials(`Bearer ${token({ sub: 'Inés', exp: 1_790_000_000, iat: 1_789_999_000 })}`);
    expect(found).toMatchObject({
      type: 'jwt',
      claims: { sub: 'Inés' },
      expiresAt: 1_790_000_000_000,
      issuedAt: 1_789_999_000_000,
    });
    expect(readCredentials(`Basic ${Buffer.from('warden:s:é').toString('base64')}`)).toEqual({
      type: 'basic',
      user: 'warden',
      password: 's:é',
    });
    expect(readCredentials(token({ a: 1 }))).toMatchObject({ type: 'jwt', expiresAt: undefined });
  });

  it.each([
    '',
    'Bearer abc',
    'a.b.c',
    'Basic !!',
    'Basic bm9jb2xvbg==',
    'www.cumbrera.example',
    '1.2.3',
    `${token([])}`,
    token({}, { no: 'alg' }),
  ])('are not seen in %j', (value) => expect(readCredentials(value)).toBeUndefined());

  it('never throw, whatever the value', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), (value) => {
        expect(() => [readCredentials(`Basic ${value}`), readCredentials(`${value}.${value}.x`)]).not.toThrow();
      }),
    );
  });

  it('stand or have expired by their own claims at the time of the exchange', () => {
    const jwt = readCredentials(token({ exp: 100, nbf: 50 }));
    if (jwt?.type !== 'jwt') throw new Error('no token');
    expect(standingAt(jwt, 99_000)).toEqual({ type: 'valid', forMs: 1000 });
    expect(standingAt(jwt, 100_000)).toEqual({ type: 'expired', sinceMs: 0 });
    expect(standingAt(jwt, 49_000)).toEqual({ type: 'not-yet', inMs: 1000 });
    expect(standingAt(jwt, undefined)).toEqual({ type: 'unknown' });
  });
});

describe('cookies', () => {
  const AT = Date.UTC(2026, 9, 3);
  const set = (value: string) => {
    const cookie = readSetCookie(value, AT);
    if (cookie === undefined) throw new Error('no cookie');
    return cookie;
  };

  it('are read as browsers read them: attributes without case, the last of each, Max-Age before Expires', () => {
    expect(
      set(
        'a = b=c ; PATH=/x; path=/y; Domain=.Cumbrera.example; secure; HttpOnly; SameSite=Lax; Max-Age=60; Expires=Wed, 21 Oct 2026 07:28:00 GMT; Odd=1',
      ),
    ).toEqual({
      name: 'a',
      value: 'b=c',
      domain: 'cumbrera.example',
      path: '/y',
      isSecure: true,
      isHttpOnly: true,
      isPartitioned: false,
      hasControls: false,
      sameSite: 'Lax',
      endsAt: AT + 60_000,
      unknown: ['Odd=1'],
    });
    expect(set('a=b').endsAt).toBe('session');
    expect(set('a=b; expires=nonsense').endsAt).toBe('session');
    expect(set('a=b; expires=0').endsAt).toBe('session');
    expect(readSetCookie('a=b; max-age=5', undefined)?.endsAt).toBeUndefined();
    expect(readSetCookie(' ', AT)).toBeUndefined();
    expect(readSentCookies('a=1; b=; =c; d; ')).toEqual([
      { name: 'a', value: '1' },
      { name: 'b', value: '' },
      { name: '', value: 'c' },
      { name: '', value: 'd' },
    ]);
  });

  it.each([
    ['a=b; Secure', 'http://www.cumbrera.example/', ['insecure-page']],
    ['a=b; Secure', 'http://app.localhost:81/', []],
    ['a=b; Domain=other.example', 'https://www.cumbrera.example/', ['other-domain']],
    ['a=b; Domain=cumbrera.example', 'https://www.cumbrera.example/', []],
    ['a=b; SameSite=None', 'https://www.cumbrera.example/', ['same-site-none-insecure']],
    ['__Host-a=b; Secure; Path=/x', 'https://www.cumbrera.example/', ['prefix-broken']],
    ['__Secure-a=b', 'https://www.cumbrera.example/', ['prefix-broken']],
    ['a=b; Max-Age=0', 'https://www.cumbrera.example/', ['already-over']],
    ['=; Path=/', 'https://www.cumbrera.example/', ['no-name']],
    // What a recorder left behind a line is no part of it.
    ['a=b\r\n', 'https://www.cumbrera.example/', []],
    ['a=b\u0001', 'https://www.cumbrera.example/', ['control-character']],
  ])('%s set by %s meets %j', (value, url, obstacles) => {
    expect(findObstacles(set(value), url, AT)).toEqual(obstacles);
  });
});

it('reads the metrics of Server-Timing, and leaves out what is none', () => {
  expect(readServerTiming(['db;dur=488;desc="beds, nights", cache;desc=hit', 'total;dur=x, ;dur=3, "bad"'])).toEqual([
    { name: 'db', durationMs: 488, description: 'beds, nights' },
    { name: 'cache', durationMs: undefined, description: 'hit' },
    { name: 'total', durationMs: undefined, description: undefined },
  ]);
});
