import { describe, expect, it } from 'vitest';
import { nameEndpoints } from './endpoint';

const named = (...urls: string[]) =>
  nameEndpoints(urls.map((url) => ({ method: 'GET', url: `https://a.example${url}`, operation: undefined }))).map(
    (name) => name.replace('GET a.example', ''),
  );

describe('an endpoint', () => {
  it.each([
    ['/huts/17/beds', '/huts/{}/beds'],
    ['/huts/0b9f0c52-7f3e-4d0e-9a43-2f1f0a4f6f11', '/huts/{}'],
    ['/commit/9f2c41ab0d', '/commit/{}'],
    ['/beds/2026-10-03', '/beds/{}'],
    ['/decade', '/decade'],
    ['/', '/'],
  ])('of %s is %s by the shape of its segments alone', (url, pattern) => expect(named(url)).toEqual([pattern]));

  it('leaves open what differs between otherwise equal paths', () => {
    expect(named('/huts/alba-norte/beds', '/huts/brisa-alta/beds')).toEqual(['/huts/{}/beds', '/huts/{}/beds']);
    expect(named('/photos/a1.webp', '/photos/b2.webp', '/photos/c3.webp', '/photos/base.css')).toEqual([
      '/photos/{}.webp',
      '/photos/{}.webp',
      '/photos/{}.webp',
      '/photos/base.css',
    ]);
  });

  it('keeps apart what are different things to do', () => {
    expect(named('/sign-in', '/sign-up')).toEqual(['/sign-in', '/sign-up']);
    expect(named('/beds', '/huts', '/ridges')).toEqual(['/beds', '/huts', '/ridges']);
  });

  it('names its method and its GraphQL operation, and what is no address as it stands', () => {
    const url = 'https://a.example/graphql?x=1';
    expect(
      nameEndpoints([
        { method: 'POST', url, operation: 'HutCard' },
        { method: 'GET', url: 'about:blank', operation: undefined },
      ]),
    ).toEqual(['POST a.example/graphql HutCard', 'GET about:blank']);
  });

  it('does not take long over an address of a million segments', () => {
    expect(named('/a'.repeat(500_000))[0]?.length).toBeLessThan(100);
  });
});
