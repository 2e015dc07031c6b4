import { existsSync, readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { HarReader, type JsonObject, normaliseEntry } from '../har';
import { exchangeIndex } from '../model';
import {
  type CachePolicy,
  DELAYS,
  forecastVisit,
  foretell,
  nextVisitOf,
  readPolicy,
  takeVisitItem,
  type VisitItem,
} from './index';

const START = '2026-10-03T09:00:00Z';
const DATE: [string, string] = ['Date', 'Sat, 03 Oct 2026 09:00:00 GMT'];

function policyOf(
  headers: readonly [string, string][],
  change: { status?: number; method?: string } = {},
): CachePolicy {
  const entry = {
    startedDateTime: START,
    request: { method: change.method ?? 'GET', url: 'https://a.example/x' },
    response: { status: change.status ?? 200, headers: headers.map(([name, value]) => ({ name, value })) },
  };
  const policy = readPolicy(normaliseEntry(entry as unknown as JsonObject, 0));
  if (policy === undefined) throw new Error('there was a response');
  return policy;
}

describe('what a response allows', () => {
  it.each([
    ['08:59:59', undefined, 0],
    ['08:59:58', undefined, 2],
    ['09:00:30', undefined, 0],
    ['08:59:58', '5', 5],
    ['08:59:50', '5', 10],
    ['09:00:00', '-1', 0],
  ])('is %s old where Date is %s and Age %s', (time, age, seconds) => {
    const date: [string, string] = ['Date', `Sat, 03 Oct 2026 ${time} GMT`];
    expect(policyOf(age === undefined ? [date] : [date, ['Age', age]]).ageSeconds).toBe(seconds);
  });

  it.each([
    [599, true],
    [600, false],
    [601, false],
  ])('is used without asking %d s after it came with a lifetime of 600: %s (RFC 9111 4.2)', (after, isUsed) => {
    const policy = policyOf([DATE, ['Cache-Control', 'max-age=600'], ['ETag', '"a"']]);
    expect(nextVisitOf(policy, after) === 'reused').toBe(isUsed);
  });

  it.each([
    [[['Cache-Control', 'max-age=600']], 600, 'max-age'],
    [[['Cache-Control', 'public, MAX-AGE="60"']], 60, 'max-age'],
    [[['Cache-Control', 'max-age=soon']], undefined, 'none'],
    [[['Cache-Control', 'max-age=soon'], DATE, ['Expires', 'Sat, 03 Oct 2026 10:00:00 GMT']], 3600, 'expires'],
    [[DATE, ['Expires', 'Sat, 03 Oct 2026 10:00:00 GMT']], 3600, 'expires'],
    [[DATE, ['Expires', '0']], 0, 'expires'],
    [
      [
        ['Cache-Control', 'max-age=5'],
        ['Expires', 'Sat, 03 Oct 2026 10:00:00 GMT'],
      ],
      5,
      'max-age',
    ],
    [[DATE, ['Last-Modified', 'Sat, 03 Oct 2026 08:00:00 GMT']], 360, 'heuristic'],
    [[DATE, ['Last-Modified', 'Sat, 03 Oct 2026 09:00:00 GMT']], undefined, 'none'],
    [[DATE, ['Last-Modified', 'Sat, 03 Oct 2026 09:00:01 GMT']], undefined, 'none'],
    [[DATE, ['Expires', 'Sat, 03 Oct 2026 08:59:59 GMT']], 0, 'expires'],
    [[], undefined, 'none'],
  ] as [[string, string][], number | undefined, string][])('%j is fresh for %s s, by %s', (headers, seconds, basis) => {
    expect(policyOf(headers)).toMatchObject({ freshSeconds: seconds, basis });
  });

  it.each([
    [[['Cache-Control', 'no-store, max-age=9']], {}, 'no-store'],
    [[['Cache-Control', 'max-age=9']], { method: 'POST' }, 'POST'],
    [[], { status: 500 }, 'status 500'],
    [[], { status: 206 }, 'status 206'],
  ] as [[string, string][], { status?: number; method?: string }, string][])(
    '%j %o may not be kept',
    (headers, change, because) => {
      const policy = policyOf(headers, change);
      expect([policy.isStorable, policy.steps[0]?.because]).toEqual([false, because]);
    },
  );

  it.each([
    ['max-age=60, immutable', 'immutable', 'RFC 8246 2'],
    ['max-age=60, stale-while-revalidate=30', 'stale-while-revalidate=30', 'RFC 5861 3'],
    ['max-age=60, stale-if-error=86400', 'stale-if-error=86400', 'RFC 5861 4'],
    ['max-age=60, must-revalidate', 'must-revalidate', 'RFC 9111 5.2.2.2'],
    ['max-age=60, private', 'private', 'RFC 9111 5.2.2.7'],
    ['max-age=60, s-maxage=600', 's-maxage=600', 'RFC 9111 5.2.2.10'],
    ['max-age=60, public', 'public', 'RFC 9111 5.2.2.9'],
  ])('%s has a step of its own, with its section', (control, because, section) => {
    const { steps } = policyOf([['Cache-Control', control]]);
    expect(steps).toContainEqual({ says: expect.any(String), because, section });
    const without = policyOf([['Cache-Control', 'max-age=60']]).steps;
    expect(without.map((step) => step.section)).not.toContain(section);
  });

  it('says nothing of how long a copy is fresh, or used when outdated, that is never used without asking', () => {
    const said = (control: string) =>
      policyOf([DATE, ['Last-Modified', 'Sat, 03 Oct 2026 08:00:00 GMT'], ['Cache-Control', control]]).steps.map(
        ({ says }) => says,
      );
    expect(said('no-cache')).toEqual([
      'May be stored.',
      'Never used without revalidation.',
      'It can be revalidated (304).',
    ]);
    expect(said('no-cache, max-age=60, immutable, stale-while-revalidate=30, stale-if-error=9')).toEqual([
      'May be stored.',
      'Fresh for 1 min.',
      'All the same never used without revalidation, fresh or not.',
      'It can be revalidated (304).',
    ]);
  });

  it('names what a copy is kept apart by', () => {
    const { steps } = policyOf([['Vary', 'Accept-Language']]);
    expect(steps.at(-1)).toMatchObject({ because: 'Vary: Accept-Language', section: 'RFC 9111 4.1' });
    const lines = policyOf([
      ['Vary', 'Accept-Language'],
      ['vary', 'Origin, Cookie'],
    ]);
    expect(lines.steps.at(-1)).toMatchObject({ because: 'Vary: Accept-Language, Origin, Cookie' });
    const asks = policyOf([
      ['Vary', 'Origin'],
      ['Vary', '*'],
    ]);
    expect(asks.mustAsk).toBe(true);
  });

  it.each([
    ['Cache-Control', 'max-age=60'],
    ['Cache-Control', 'private'],
    ['Expires', 'Sat, 03 Oct 2026 10:00:00 GMT'],
  ])('stores what is not cacheable by itself where %s: %s says so (RFC 9111 3)', (name, value) => {
    expect(policyOf([[name, value]], { status: 302 }).isStorable).toBe(true);
    expect(policyOf([], { status: 302 }).isStorable).toBe(false);
  });

  it('tells how the shared caches (CDN, proxy) dealt with it', () => {
    expect(policyOf([['Cache-Status', 'edge; hit; ttl=30']]).shared).toBe('hit');
    expect(policyOf([['Cache-Status', 'near; fwd=miss, far; hit=?1; detail="a, b"']]).shared).toBe('hit');
    expect(policyOf([['Cache-Status', 'edge; fwd=stale; detail="no; hit"']]).shared).toBe('miss');
    expect(policyOf([['Cache-Status', 'edge; hit=?0; fwd=bypass']]).shared).toBe('miss');
    expect(policyOf([['Cache-Status', 'edge; ttl=30; detail=hit']]).shared).toBe('unknown');
    expect(policyOf([['X-Cache', 'Miss from edge']]).shared).toBe('miss');
    expect(policyOf([['X-Cache', 'TCP_MEM_HIT from a-23']]).shared).toBe('hit');
    expect(policyOf([['X-Cache', 'TCP_MISS']]).shared).toBe('miss');
    expect(policyOf([['X-Cache', 'MISS, HIT']]).shared).toBe('hit');
    expect(policyOf([['X-Cache', 'RefreshHit from edge']]).shared).toBe('unknown');
    expect(policyOf([['X-Cache', 'white, passable']]).shared).toBe('unknown');
    expect(policyOf([['Age', '3']]).shared).toBe('hit');
    expect(policyOf([]).shared).toBe('unknown');
  });

  it('gives for each step the header that decided it', () => {
    const { steps } = policyOf([
      ['Cache-Control', 'max-age=600'],
      ['Age', '240'],
      ['ETag', '"a"'],
    ]);
    expect(steps.map(({ says, because }) => `${says} ${because}`)).toEqual([
      'May be stored. status 200',
      'Fresh for 10 min. max-age=600',
      'It was 4 min old on arrival. Age',
      'When stale it can be revalidated (304). etag',
    ]);
  });
});

describe('the next visit', () => {
  it.each([
    [
      [
        ['Cache-Control', 'max-age=600'],
        ['ETag', '"a"'],
      ],
      ['reused', 'revalidated', 'revalidated', 'revalidated'],
    ],
    [
      [
        ['Cache-Control', 'max-age=600'],
        ['Age', '590'],
        ['ETag', '"a"'],
      ],
      ['revalidated', 'revalidated', 'revalidated', 'revalidated'],
    ],
    [[['Cache-Control', 'max-age=90000']], ['reused', 'reused', 'reused', 'fetched']],
    [
      [
        ['Cache-Control', 'no-cache'],
        ['ETag', '"a"'],
      ],
      ['revalidated', 'revalidated', 'revalidated', 'revalidated'],
    ],
    [[['Cache-Control', 'no-cache']], ['fetched', 'fetched', 'fetched', 'fetched']],
    [
      [
        ['Cache-Control', 'no-store'],
        ['ETag', '"a"'],
      ],
      ['fetched', 'fetched', 'fetched', 'fetched'],
    ],
    [
      [
        ['Cache-Control', 'max-age=600'],
        ['Pragma', 'no-cache'],
      ],
      ['fetched', 'fetched', 'fetched', 'fetched'],
    ],
    [
      [
        ['Vary', '*'],
        ['Cache-Control', 'max-age=600'],
        ['ETag', '"a"'],
      ],
      ['revalidated', 'revalidated', 'revalidated', 'revalidated'],
    ],
  ] as [[string, string][], string[]][])('of %j: %j after a minute, an hour, a day, a month', (headers, visits) => {
    expect(Object.values(DELAYS).map((delay) => nextVisitOf(policyOf(headers), delay))).toEqual(visits);
  });

  it('adds up to every exchange, and never spares more than there was', () => {
    const item = (place: number, policy: CachePolicy | undefined) => ({
      index: exchangeIndex(place),
      policy,
      leaveSeconds: undefined,
      preflightFor: undefined,
    });
    const kept = { ...item(0, policyOf([['Cache-Control', 'max-age=600']])), wireBytes: 5000, bodyBytes: 9000 };
    const asked = { ...item(1, policyOf([['ETag', '"a"']])), wireBytes: 3000, bodyBytes: 4000 };
    const unknown = { ...item(2, undefined), wireBytes: undefined, bodyBytes: undefined };
    expect(forecastVisit([kept, asked, unknown], 60)).toEqual({
      reused: 1,
      revalidated: 1,
      fetched: 1,
      wireBytes: 200,
      sparedBytes: 7800,
    });
  });
});

describe('a preflight on the next visit', () => {
  const preflight = (maxAge: string | undefined, change: { status?: number; method?: string } = {}) => {
    const asks = { name: 'Access-Control-Request-Method', value: 'PUT' };
    const entry = {
      startedDateTime: START,
      request: { method: change.method ?? 'OPTIONS', url: 'https://a.example/x', headers: [asks] },
      response: {
        status: change.status ?? 204,
        headers: maxAge === undefined ? [] : [{ name: 'Access-Control-Max-Age', value: maxAge }],
      },
    };
    return takeVisitItem(normaliseEntry(entry as unknown as JsonObject, 0), exchangeIndex(1));
  };
  const request = (headers: readonly [string, string][]) => ({
    index: exchangeIndex(1),
    policy: policyOf(headers),
    leaveSeconds: undefined,
    preflightFor: undefined,
  });
  const SHORT: [string, string][] = [['Cache-Control', 'no-store']];

  it.each([
    ['600', ['reused', 'fetched', 'fetched']],
    ['86400', ['reused', 'reused', 'fetched']],
    // Without a word, or with one that is none, it is five seconds.
    [undefined, ['fetched', 'fetched', 'fetched']],
    ['soon', ['fetched', 'fetched', 'fetched']],
    ['-1', ['fetched', 'fetched', 'fetched']],
    ['0', ['fetched', 'fetched', 'fetched']],
  ])('whose leave counts %s s is %j after a minute, an hour and a day', (maxAge, visits) => {
    const items = [preflight(maxAge), request(SHORT)];
    expect([60, 3600, 86_400].map((delay) => foretell(items, delay)[0])).toEqual(visits);
  });

  it('is made within five seconds only without a leave, never where it was refused or is none', () => {
    expect(foretell([preflight(undefined)], 4)).toEqual(['reused']);
    expect(foretell([preflight('60s')], 4)).toEqual(['reused']);
    expect(foretell([preflight('-1')], 4)).toEqual(['fetched']);
    expect(foretell([preflight('600', { status: 403 })], 4)).toEqual(['fetched']);
    expect(foretell([preflight('600', { method: 'GET' })], 4)).toEqual(['fetched']);
  });

  it('is spared with the request that it asks leave for', () => {
    const items = [preflight('0'), request([['Cache-Control', 'max-age=600']])];
    expect(foretell(items, 60)).toEqual(['reused', 'reused']);
    expect(foretell(items, 900)).toEqual(['fetched', 'fetched']);
  });
});

describe('what a page asks of its cache each time', () => {
  let index = 0;
  const item = (
    request: Readonly<Record<string, string>>,
    response: Readonly<Record<string, string>>,
    host = 'a.example',
  ) => {
    const listOf = (headers: Readonly<Record<string, string>>) =>
      Object.entries(headers).map(([name, value]) => ({ name, value }));
    const entry = {
      startedDateTime: START,
      request: { method: 'GET', url: `https://${host}/${index++}`, headers: listOf(request) },
      response: { status: 200, headers: listOf(response) },
    };
    return takeVisitItem(normaliseEntry(entry as unknown as JsonObject, index), undefined);
  };
  const KEPT = { 'Cache-Control': 'max-age=600', ETag: '"a"' };
  const plain = () => item({}, KEPT);

  it.each([
    [{ 'Cache-Control': 'no-cache', Pragma: 'no-cache' }, 'fetched'],
    [{ 'Cache-Control': 'no-store' }, 'fetched'],
    [{ 'Cache-Control': 'max-age=0' }, 'revalidated'],
    [{}, 'reused'],
  ] as const)('%j: it is %s next time, whatever the response allows', (request, next) => {
    expect(foretell([item(request, KEPT), plain(), plain()], 60)[0]).toBe(next);
  });

  it('is not the page’s doing where the recording had the cache off', () => {
    const off = () => item({ 'Cache-Control': 'no-cache' }, KEPT);
    expect(foretell([off(), off(), plain()], 60)).toEqual(['reused', 'reused', 'reused']);
  });

  it('finds no copy that varies by Cookie for a request with the cookies that this load set', () => {
    const varied = (cookie: string | undefined, host?: string) =>
      item(cookie === undefined ? {} : { Cookie: cookie }, { ...KEPT, Vary: 'Cookie, Accept' }, host);
    const sets = (line: string, host?: string) => item({}, { 'Set-Cookie': line }, host);
    const next = (...items: ReturnType<typeof item>[]) => foretell(items, 60)[0];
    expect(next(varied(undefined), sets('session=1'))).toBe('fetched');
    expect(next(varied('session=1'), sets('session=2'))).toBe('reused');
    expect(next(varied(undefined), sets('session=1', 'b.example'))).toBe('reused');
    expect(next(varied(undefined, 'img.a.example'), sets('session=1; Domain=a.example', 'a.example'))).toBe('fetched');
    expect(next(varied(undefined, 'img.a.example'), sets('session=1', 'a.example'))).toBe('reused');
    expect(next(varied(undefined), sets('session=; Max-Age=0'))).toBe('reused');
  });
});

const LAB = '../shared/captures/cache-lab-sametab';
/** The one resource whose server gave it another tag meanwhile: nobody could have foretold that. */
const UNFORESEEABLE = ['/r/etag-changes.css'];

it.runIf(existsSync(`${LAB}.har`))('foretells what a real browser did on its second visit', () => {
  const truth = JSON.parse(readFileSync(`${LAB}.truth.json`, 'utf8')) as {
    resources: Record<string, { second_load: string }>;
  };
  const policies = new Map<string, CachePolicy | undefined>();
  const reader = new HarReader({
    onEntry: ({ value, place }) => {
      const exchange = normaliseEntry(value as JsonObject, place);
      const { pathname } = new URL(exchange.request.url);
      if (!policies.has(pathname)) policies.set(pathname, readPolicy(exchange));
    },
  });
  reader.push(readFileSync(`${LAB}.har`));
  reader.end();
  const wrong = Object.entries(truth.resources).flatMap(([path, { second_load: did }]) => {
    const wanted = /not requested/.test(did) ? 'reused' : /304/.test(did) ? 'revalidated' : 'fetched';
    const foretold = nextVisitOf(policies.get(path), 2.6);
    return foretold === wanted ? [] : [path];
  });
  expect(wrong).toEqual(UNFORESEEABLE);
});

it('a request that varies by its cookies has no copy where the load set one for it that it did not have', () => {
  const HOSTS = ['example', 'a.example', 'b.a.example', 'ba.example'] as const;
  const host = fc.constantFrom(...HOSTS);
  const name = fc.constantFrom('s', 't', 'u');
  const cookies = fc.array(fc.record({ name, host, isExact: fc.boolean() }), { maxLength: 4 });
  const policy = policyOf([['Cache-Control', 'max-age=600']]);
  const plain = { policy, leaveSeconds: undefined, preflightFor: undefined };
  fc.assert(
    fc.property(cookies, host, fc.uniqueArray(name), (sets, asked, had) => {
      const sent = new Set(had);
      const items: VisitItem[] = [
        { ...plain, index: exchangeIndex(0), sets },
        { ...plain, index: exchangeIndex(1), variesFor: { host: asked, sent } },
      ];
      const isNew = sets.some(
        (one) => !sent.has(one.name) && (one.host === asked || (!one.isExact && asked.endsWith(`.${one.host}`))),
      );
      expect(foretell(items, 60)).toEqual(['reused', isNew ? 'fetched' : 'reused']);
    }),
    { numRuns: 2000 },
  );
});
