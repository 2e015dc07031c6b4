import { describe, expect, it } from 'vitest';
import type { Kind } from '../model';
import { readAnswerClue } from './answer-clue';
import { nameEndpoints } from './endpoint';

/** What an answer holds, by its address; `undefined` for one without JSON. */
type Answers = Readonly<Record<string, unknown>>;

const clueOf = (answer: unknown, status = 200) =>
  readAnswerClue({
    status,
    statusText: '',
    protocol: undefined,
    headers: [],
    redirectUrl: undefined,
    mimeType: 'application/json; charset=utf-8',
    body: { encoding: 'text', text: typeof answer === 'string' ? answer : JSON.stringify(answer) },
  });

const nameAnswered = (answers: Answers, kind: Kind = 'data', method = 'GET') =>
  nameEndpoints(
    Object.entries(answers).map(([path, answer]) => ({
      method,
      url: `https://a.example${path}`,
      operation: undefined,
      kind,
      answerClue: answer === undefined ? undefined : clueOf(answer),
    })),
  ).map((name) => name.replace('GET a.example', ''));

const named = (...paths: string[]) => nameAnswered(Object.fromEntries(paths.map((path) => [path, undefined])));
const namedFiles = (...paths: string[]) =>
  nameAnswered(Object.fromEntries(paths.map((path) => [path, undefined])), 'image');

const hut = (slug: string) => ({ slug, beds: 24, heightMetres: 1990, warden: { name: 'M.' } });

describe('an endpoint', () => {
  it.each([
    ['/huts/17/beds', '/huts/{}/beds'],
    ['/huts/0b9f0c52-7f3e-4d0e-9a43-2f1f0a4f6f11', '/huts/{}'],
    ['/commit/9f2c41ab0d', '/commit/{}'],
    ['/beds/2026-10-03', '/beds/{}'],
    ['/stays/01JB7M3Q9ZK4T8V2X5N6R0W1YC', '/stays/{}'],
    ['/weather/45.1234,-7.43', '/weather/{}'],
    ['/links/eyJhbGciOiJIUzI1NiJ9.eyJzdWIiOiJtYXJhIn0.c2ln/open', '/links/{}/open'],
    ['/huts;jsessionid=9F8E7D6C5B4A/7;rev=3', '/huts/{}'],
    ['/decade', '/decade'],
    ['/1.2/huts', '/1.2/huts'],
    ['/eyJump', '/eyJump'],
    ['/;/x', '/;/x'],
    ['/', '/'],
  ])('of %s is %s by the form of its segments alone', (url, pattern) => expect(named(url)).toEqual([pattern]));

  it('leaves open what differs where answers have the same members', () => {
    expect(nameAnswered({ '/huts/alba': hut('x'), '/huts/brisa': hut('y') })).toEqual(['/huts/{}', '/huts/{}']);
    expect(nameAnswered({ '/huts/alba': hut('x'), '/huts/brisa': { ...hut('y'), dogs: true } })).toEqual([
      '/huts/{}',
      '/huts/{}',
    ]);
    expect(
      nameAnswered({
        '/huts/alba-norte/beds': { items: [{ bed: 1, free: true }], total: 4 },
        '/huts/brisa-alta/beds': { items: [{ bed: 1, free: true }], total: 9 },
      }),
    ).toEqual(['/huts/{}/beds', '/huts/{}/beds']);
  });

  it('leaves open what answers or queries hold as values under one name', () => {
    expect(
      nameAnswered({
        '/huts': { items: [{ slug: 'alba' }, { slug: 'brisa' }, { slug: 'cima' }] },
        '/huts/alba/photo': undefined,
        '/huts/brisa/photo': undefined,
      }),
    ).toEqual(['/huts', '/huts/{}/photo', '/huts/{}/photo']);
    expect(named('/nights?hut=alba', '/nights?hut=brisa', '/huts/alba', '/huts/brisa')).toEqual([
      '/nights',
      '/nights',
      '/huts/{}',
      '/huts/{}',
    ]);
    expect(nameAnswered({ '/list': { huts: ['alba', 'brisa'] }, '/huts/alba': {}, '/huts/brisa': {} })).toEqual([
      '/list',
      '/huts/{}',
      '/huts/{}',
    ]);
  });

  it('keeps apart what only looks alike', () => {
    const list = (item: object) => ({ items: [item], page: 1, total: 40 });
    for (const answers of [
      // Words alone, however many.
      { '/users': undefined, '/orders': undefined, '/items': undefined, '/cart': undefined, '/me': undefined, '/q': 1 },
      { '/getUser': undefined, '/getOrders': undefined, '/getCart': undefined },
      { '/user-profile': undefined, '/price-list': undefined, '/order-history': undefined },
      { '/oauth2': undefined, '/s3': undefined },
      // Answers that differ, or hold too little to tell by.
      { '/alba': hut('alba'), '/search': list({ slug: 'alba' }) },
      { '/likes': { count: 1 }, '/views': { count: 2 } },
      { '/q': { path: '/q', raw: '/q?a', query: [] }, '/same': { path: '/same', raw: '/same', query: [] } },
      // One envelope about different things, collections of one form.
      { '/profile': { data: { name: 1, mail: 2 }, ok: true }, '/basket': { data: { rows: [], sum: 0 }, ok: true } },
      { '/users': list({ id: 1, name: 'a' }), '/teams': list({ id: 2, name: 'b' }) },
      { '/price-list': list({ id: 1, name: 'a' }), '/guest-list': list({ id: 2, name: 'b' }) },
      // Versions, kinds by their name, and values whose answers differ.
      { '/v1/users': list({ id: 1, name: 'a' }), '/v2/users': list({ id: 1, name: 'a' }) },
      { '/huts': { data: [{ type: 'huts', id: 1 }] }, '/nights': { data: [{ type: 'nights', id: 2 }] } },
      { '/nav?tab=alba&x=1': { tabs: [{ go: 'alba' }, { go: 'search' }] }, '/alba': hut('a'), '/search': list({}) },
    ]) {
      expect(nameAnswered(answers)).toEqual(Object.keys(answers).map((path) => path.replace(/\?.*/, '')));
    }
  });

  it('opens a thing wherever its name stands, by any method, also where it failed', () => {
    const url = (path: string) => `https://a.example/huts/${path}`;
    const call = { method: 'GET', operation: undefined, kind: 'data' as const };
    expect(
      nameEndpoints([
        { ...call, url: url('alba-norte'), answerClue: clueOf(hut('1')) },
        { ...call, url: url('brisa-alta'), answerClue: clueOf(hut('2')) },
        { ...call, url: url('gone-hut'), answerClue: clueOf({ error: 'none', code: 1, id: 'x' }, 404) },
        { ...call, url: url('search'), answerClue: undefined },
        { ...call, method: 'PUT', url: url('alba-norte'), answerClue: undefined },
        { ...call, url: url('alba-norte/beds'), answerClue: undefined },
      ]),
    ).toEqual([
      'GET a.example/huts/{}',
      'GET a.example/huts/{}',
      'GET a.example/huts/{}',
      'GET a.example/huts/search',
      'PUT a.example/huts/{}',
      'GET a.example/huts/{}/beds',
    ]);
  });

  it('opens a name with a number that an answer gave, also alone', () => {
    const call = { method: 'POST', url: 'https://a.example/holds', operation: undefined, kind: 'data' as const };
    const change = { ...call, method: 'PATCH', answerClue: undefined };
    const led = readAnswerClue({
      status: 201,
      statusText: '',
      protocol: undefined,
      headers: [{ name: 'Location', value: '/holds/h-77120?x' }],
      redirectUrl: undefined,
      mimeType: undefined,
      body: undefined,
    });
    const named = (url: string, answerClue = led) =>
      nameEndpoints([
        { ...call, answerClue },
        { ...change, url: `https://a.example${url}` },
      ])[1];
    expect(named('/holds/h-77120')).toBe('PATCH a.example/holds/{}');
    expect(named('/holds/h-77121')).toBe('PATCH a.example/holds/h-77121');
    // Where it leads to has fixed segments, too.
    expect(
      nameEndpoints([
        { ...call, answerClue: led },
        { ...change, url: 'https://a.example/holds/new' },
        { ...change, url: 'https://a.example/hold/new' },
      ]).slice(1),
    ).toEqual(['PATCH a.example/holds/new', 'PATCH a.example/hold/new']);
    expect(named('/holds/h7', clueOf({ hold: { id: 'h7' } }))).toBe('PATCH a.example/holds/{}');
    // Numbers of the encoding are none of the word; a plain word may stand anywhere.
    expect(named('/holds/%E6%9D%B1', clueOf({ id: '%E6%9D%B1' }))).toBe('PATCH a.example/holds/%E6%9D%B1');
    expect(named('/holds/holds', led)).toBe('PATCH a.example/holds/holds');
    expect(named('/v2/list', clueOf({ next: 'v2' }))).toBe('PATCH a.example/v2/list');
  });

  it('tells files by their names and types', () => {
    expect(namedFiles('/photos/a1.webp', '/photos/b2.webp', '/photos/c3.webp', '/photos/base.css')).toEqual([
      '/photos/{}.webp',
      '/photos/{}.webp',
      '/photos/{}.webp',
      '/photos/base.css',
    ]);
    expect(namedFiles('/static/app.js', '/static/vendor.js')).toEqual(['/static/app.js', '/static/vendor.js']);
  });

  it('names its method and its GraphQL operation, and what is no address as it stands', () => {
    const call = { method: 'GET', kind: 'data' as const, answerClue: undefined };
    expect(
      nameEndpoints([
        { ...call, method: 'POST', url: 'https://a.example/graphql?x=1', operation: 'HutCard' },
        { ...call, url: 'about:blank', operation: undefined },
      ]),
    ).toEqual(['POST a.example/graphql HutCard', 'GET about:blank']);
  });

  it('does not take long over an address of a million segments', () => {
    expect(named('/a'.repeat(500_000))[0]?.length).toBeLessThan(100);
  });
});

describe('the clue in an answer', () => {
  it('is its members by their paths, from as much of the text as is there', () => {
    const text = '{"items":[{"id":"alba","a\\"b":"{}[],:","deep":{"er":{"est":1}}}],"total":2,"brok';
    expect(clueOf(text)?.members?.split('\n')).toEqual([
      '.items',
      '.items[].a\\"b',
      '.items[].deep',
      '.items[].deep.er',
      '.items[].id',
      '.total',
    ]);
  });

  it('is none of tables by key, of failures and of what is no JSON', () => {
    expect(clueOf(Object.fromEntries(Array.from({ length: 90 }, (_, at) => [`hut${at}`, 1])))?.members).toBeUndefined();
    expect(clueOf({ a: 1, b: 2, c: 3 }, 500)).toBeUndefined();
    expect(clueOf('<html>')?.members).toBeUndefined();
    expect(clueOf(']]}}"'.repeat(9))?.members).toBeUndefined();
  });
});
