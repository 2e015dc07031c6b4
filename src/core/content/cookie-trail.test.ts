import { describe, expect, it } from 'vitest';
import { type CookieUse, followCookie } from './index';

const START = Date.UTC(2026, 9, 3, 9);
const use = (index: number, change: Partial<CookieUse>): CookieUse => ({
  index,
  url: 'https://www.cumbrera.example/huts',
  startedAt: START + index * 1000,
  isCrossSite: false,
  manner: 'request',
  sent: [],
  set: [],
  ...change,
});

/** Set by the first, then one later request. */
const later = (set: string, change: Partial<CookieUse>) =>
  followCookie('walker', [use(0, { set: [set] }), use(1, { sent: ['other=1'], ...change })], 0);

describe('a cookie followed through a capture', () => {
  it('was first seen, changed and was deleted where it stands', () => {
    const trail = followCookie(
      'walker',
      [
        use(0, { sent: ['a=1; walker=w1'] }),
        use(1, { sent: ['walker=w1'], set: ['walker=w2; Path=/'] }),
        use(2, { sent: ['walker=w2'] }),
        use(3, { set: ['walker=; Max-Age=0'] }),
      ],
      1,
    );
    expect(trail.steps).toEqual([
      { index: 0, how: 'sent', value: 'w1' },
      { index: 1, how: 'set', value: 'w2' },
      { index: 3, how: 'deleted', value: '' },
    ]);
    expect([trail.sentLater, trail.neverSent]).toEqual([1, undefined]);
  });

  it.each([
    ['walker=1; Path=/book', {}, 'other-path'],
    ['walker=1; Path=/', { url: 'http://www.cumbrera.example/x' }, 'unknown'],
    ['walker=1; Path=/; Secure', { url: 'http://www.cumbrera.example/x' }, 'plain-http'],
    ['walker=1; Path=/; Max-Age=1', { startedAt: START + 9000 }, 'over'],
    ['walker=1; Path=/; SameSite=None', {}, 'dropped'],
    ['walker=1; Path=/', { sent: [] }, 'without-credentials'],
    ['walker=1; Path=/', { isCrossSite: true }, 'other-site'],
    ['walker=1; Path=/', { isCrossSite: true, manner: 'visit' as const }, 'unknown'],
    ['walker=1; Path=/; SameSite=Odd', { isCrossSite: true, manner: 'visit' as const }, 'unknown'],
    ['walker=1; Path=/', { isCrossSite: true, manner: 'document' as const }, 'other-site'],
    ['walker=1; Path=/; SameSite=Strict', { isCrossSite: true, manner: 'visit' as const }, 'other-site'],
    ['walker=1; Path=/', { sent: [], manner: 'visit' as const }, 'unknown'],
    ['walker=1; Path=/', { url: 'https://api.cumbrera.example/' }, 'no-later-request'],
    ['walker=1; Path=/; Domain=cumbrera.example', { url: 'https://api.cumbrera.example/' }, 'unknown'],
    ['walker=1; Path=/huts', { url: 'https://www.cumbrera.example/hutsy' }, 'other-path'],
  ])('%s, then %o: %s', (set, change, reason) => expect(later(set, change).neverSent).toBe(reason));

  it('names the first request that it was meant for and that did not carry it', () => {
    const trail = followCookie(
      'walker',
      [use(0, { set: ['walker=1; Path=/'] }), use(1, { sent: ['walker=1'] }), use(2, {})],
      0,
    );
    expect([trail.sentLater, trail.missedBy]).toEqual([1, { index: 2, reason: 'without-credentials' }]);
  });
});
