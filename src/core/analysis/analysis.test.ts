import { describe, expect, it } from 'vitest';
import { type JsonObject, normaliseEntry, normalisePage } from '../har';
import type { Completeness } from '../model';
import { analyse, type ExchangeRow, findConnections, nameExchange, savedShare, takeFacts } from './index';
import { classifyOutcome } from './outcome';

interface Sketch {
  readonly url?: string;
  readonly at?: number;
  readonly page?: string;
  readonly method?: string;
  readonly response?: Record<string, unknown>;
  readonly timings?: Record<string, number>;
  readonly request?: Record<string, unknown>;
  readonly extra?: Record<string, unknown>;
}

const ZERO = Date.UTC(2026, 9, 3, 9, 0, 0);
const instant = (ms: number): string => new Date(ZERO + ms).toISOString();

const entryOf = (sketch: Sketch): JsonObject =>
  ({
    ...(sketch.page === undefined ? {} : { pageref: sketch.page }),
    startedDateTime: instant(sketch.at ?? 0),
    request: {
      method: sketch.method ?? 'GET',
      url: sketch.url ?? 'https://www.cumbrera.example/',
      headers: [],
      ...sketch.request,
    },
    response: { status: 200, content: { size: 100, text: 'x' }, _transferSize: 150, ...sketch.response },
    timings: sketch.timings ?? { send: 1, wait: 20, receive: 4 },
    ...sketch.extra,
  }) as unknown as JsonObject;

const pageOf = (id: string, at: number, pageTimings: Record<string, number> = {}) =>
  normalisePage({ id, title: id, startedDateTime: instant(at), pageTimings }, 0);

const analyseSketches = (
  sketches: readonly Sketch[],
  pages = [pageOf('p', 0)],
  completeness: Completeness = { type: 'whole' },
) =>
  analyse(
    sketches.map((sketch, place) => takeFacts(normaliseEntry(entryOf(sketch), place))),
    pages,
    completeness,
  );

const rowOf = (sketch: Sketch): ExchangeRow => {
  const [row] = analyseSketches([sketch]).rows;
  if (row === undefined) throw new Error('no row');
  return row;
};

describe('rows in their context', () => {
  it('counts nothing on the wire for a redirect that was never sent', () => {
    const sent = { request: { headers: [{ name: 'Host', value: 'www.cumbrera.example' }] } };
    const redirect = { response: { status: 301, headersSize: 155, _transferSize: 155 } };
    const { rows } = analyseSketches([sent, redirect, { ...sent, ...redirect }]);
    expect(rows.map(({ source, wireBytes }) => [source, wireBytes])).toEqual([
      ['network', 150],
      ['cache', 0],
      ['network', 155],
    ]);
  });

  it('puts an exchange without a page into the page in force when it started, and says so', () => {
    const pages = [pageOf('a', 0), pageOf('b', 1000)];
    const { rows } = analyseSketches(
      [{ at: 5, page: 'a' }, { at: 400 }, { at: 1000 }, { at: 1200, page: 'lost' }],
      pages,
    );
    expect(rows.map(({ pageId, pageInferred, startMs }) => [pageId, pageInferred, startMs])).toEqual([
      ['a', false, 5],
      ['a', true, 400],
      ['b', true, 0],
      ['b', true, 200],
    ]);
  });

  it('counts from the first exchange where there is no page', () => {
    expect(analyseSketches([{ at: 300 }, { at: 100 }], []).rows.map(({ startMs }) => startMs)).toEqual([200, 0]);
  });

  it('tells parties apart by registrable domain, and does not guess without a document', () => {
    const document = { url: 'https://www.cumbrera.example/', extra: { _resourceType: 'document' } };
    const others = ['https://api.cumbrera.example/x', 'https://stats.tallyfox.example/x'].map((url) => ({
      url,
      extra: { _resourceType: 'fetch' },
    }));
    expect(analyseSketches([document, ...others]).rows.map(({ party }) => party)).toEqual(['first', 'first', 'third']);
    expect(analyseSketches(others).rows.map(({ party }) => party)).toEqual([undefined, undefined]);
  });

  it('takes the hosts of the recording computer for one party', () => {
    const document = { url: 'http://app.localhost:4321/', extra: { _resourceType: 'document' } };
    const others = [
      'http://static.localhost/x',
      'http://127.0.0.1:8080/x',
      'http://[::1]:8080/x',
      'https://localhost.example/x',
      'https://notlocalhost/x',
    ].map((url) => ({ url, extra: { _resourceType: 'fetch' } }));
    expect(analyseSketches([document, ...others]).rows.map(({ party }) => party)).toEqual([
      'first',
      'first',
      'first',
      'first',
      'third',
      'third',
    ]);
  });

  it('finds the GraphQL operation by its name or in its query', () => {
    const payload = (text: string) => ({ request: { postData: { mimeType: 'application/json', text } } });
    expect(rowOf(payload('{"operationName":"HutCard","query":"query HutCard { a }"}')).operation).toBe('HutCard');
    expect(rowOf(payload('[{"query":"mutation HoldBeds($a: ID) { b }"}]')).operation).toBe('HoldBeds');
    expect(rowOf(payload('{"query":"{ huts }"}')).operation).toBeUndefined();
    // Searches for words that GraphQL knows are none.
    for (const words of ['how does the query optimizer work', 'a mutation rate', 'query optimizer', '# 1 query plan'])
      expect(rowOf(payload(JSON.stringify({ query: words, operationName: 'x' }))).operation, words).toBeUndefined();
    for (const query of [
      '# of huts\nquery Beds { a }',
      'fragment F on Hut { a } query Beds($a: ID) { b }',
      'query Beds @x { a }',
    ])
      expect(rowOf(payload(JSON.stringify({ query }))).operation, query).toBe('Beds');
    expect(rowOf(payload('{"query": broken')).operation).toBeUndefined();
  });

  it.each([
    ['?operationName=HutCard&query=query%20HutCard%7Ba%7D&variables=%7B%7D', 'HutCard'],
    ['?query=query+HutList+%7Ba%7D#x', 'HutList'],
    ['?query=%7Ba%7D', undefined],
    [
      '?operationName=HutCard&extensions=%7B%22persistedQuery%22%3A%7B%22sha256Hash%22%3A%22a1b2c3d4e5f6%22%7D%7D',
      'HutCard',
    ],
    ['?extensions=%7B%22persistedQuery%22%3A%7B%22sha256Hash%22%3A%22a1b2c3d4e5f6%22%7D%7D', 'hash a1b2c3d4'],
    // What looks like it and is not.
    ['?query=hut', undefined],
    ['?query=querying+huts', undefined],
    ['?operationName=HutCard', undefined],
    ['?extensions=png', undefined],
    ['?subquery=%7Ba%7D', undefined],
  ])('finds the operation that %j asks for by GET', (search, operation) => {
    expect(rowOf({ request: { method: 'GET', url: `https://a.example/graphql${search}` } }).operation).toBe(operation);
  });

  it('names a query that stands for itself by its hash', () => {
    const known = (more: string) => ({
      request: {
        postData: {
          mimeType: 'application/json',
          text: `{"extensions":{"persistedQuery":{"version":1,"sha256Hash":"a1b2c3d4e5f6"}}${more}}`,
        },
      },
    });
    expect(rowOf(known('')).operation).toBe('hash a1b2c3d4');
    expect(rowOf(known(',"operationName":"HutCard"')).operation).toBe('HutCard');
    expect(rowOf(known(',"query":"query HutList { a }"')).operation).toBe('HutList');
  });
});

describe('the outcome class', () => {
  it.each([
    [{ status: 500, source: 'network', failure: { type: 'status', status: 500, statusText: '' } }, 'failed'],
    [{ status: 301, source: 'cache', failure: undefined }, 'redirect'],
    [{ status: 304, source: 'revalidated', failure: undefined }, 'cached'],
    [{ status: 200, source: 'worker', failure: undefined }, 'cached'],
    [{ status: 200, source: 'network', failure: undefined }, 'plain'],
  ] as const)('of %j is %s', (row, outcome) => expect(classifyOutcome(row)).toBe(outcome));
});

describe('the overview', () => {
  it('leaves unknown bytes out of its sums, and shares are of body bytes', () => {
    const unknown = { response: { _transferSize: -1, headersSize: -1, bodySize: -1, content: { size: -1 } } };
    const cached = { response: { _transferSize: 0, content: { size: 300 } } };
    const { tally } = analyseSketches([{}, unknown, cached]).overview;
    expect(tally).toEqual({ exchanges: 3, failed: 0, wireBytes: 150, bodyBytes: 400, savedBytes: 300 });
    expect(savedShare(tally)).toBe(0.75);
    expect(savedShare(analyseSketches([unknown]).overview.tally)).toBeUndefined();
  });

  it.each([
    [[pageOf('p', 0, { onLoad: 2856 })], 'Loaded in 2.86 s, 1 failed.'],
    [[pageOf('p', 0, { onContentLoad: 900 })], 'DOM ready after 900 ms, loaded unknown, 1 failed.'],
    [[pageOf('p', 0)], 'Its last exchange ended after 425 ms, loaded unknown, 1 failed.'],
    [[pageOf('p', 0, { onLoad: 70 }), pageOf('q', 9000)], 'Loaded in 70 ms; 1 more page, 1 failed.'],
  ])('says in one sentence how it loaded: %#', (pages, sentence) => {
    const { overview } = analyseSketches([{}, { at: 400, response: { status: 404 } }], pages);
    expect(overview.sentence).toBe(sentence);
  });

  const ids = (sketches: readonly Sketch[], pages = [pageOf('p', 0)], completeness?: Completeness) =>
    analyseSketches(sketches, pages, completeness).overview.condition.map(({ id }) => id);
  const document: Sketch = { extra: { _resourceType: 'document' } };
  const header = (name: string, value: string) => ({ headers: [{ name, value }] });
  const bare: Sketch = { ...document, response: { content: { size: 100 } } };
  const many = (count: number, sketch: Sketch): Sketch[] => Array.from({ length: count }, () => sketch);

  it.each<[string, readonly string[], readonly Sketch[], Parameters<typeof ids>[1]?, Completeness?]>([
    ['nothing of a good capture', [], [document, {}]],
    ['an empty one', ['empty'], []],
    ['no bodies', ['no-bodies'], [bare, bare]],
    ['bodies for some', ['some-bodies'], [document, bare, bare]],
    ['bodies for most as good', [], [...many(9, document), bare]],
    ['no timings', ['no-timings'], [{ ...document, timings: { send: -1, wait: -1, receive: -1 } }]],
    ['no page', ['no-page'], [document], []],
    [
      "a start after the load's",
      ['late-start'],
      [
        { at: 5, ...document },
        { at: 2, extra: { _resourceType: 'image' } },
      ],
    ],
    ['several pages', ['several-pages'], [document], [pageOf('a', 0), pageOf('b', 9)]],
    ['extensions', ['extension-traffic'], [document, { url: 'chrome-extension://abc/x.js' }]],
    [
      'a file cut off and damaged',
      ['cut-off', 'damaged'],
      [document],
      undefined,
      { type: 'cut', atByte: 1200, damagedEntries: 2 },
    ],
    [
      'a cache that was off',
      ['cache-bypassed'],
      many(2, { ...document, request: header('Cache-Control', 'no-cache') }),
    ],
    ['a cache off for half as on', [], [document, { request: header('pragma', 'no-cache') }]],
    ['a cache in use', ['cache-in-use'], [document, { response: { status: 304 } }]],
    ['one kept image in twenty as nothing', [], [...many(19, document), { response: { status: 304 } }]],
    ['removed credentials', ['credentials-removed'], [{ ...document, response: header('Set-Cookie', 's=1') }, {}]],
    [
      'no removed credentials where one is sent',
      [],
      [{ ...document, response: header('Set-Cookie', 's=1') }, { request: header('Cookie', 's=1') }],
    ],
    [
      'no removed credentials where the cookie was not to be kept, or is for some paths',
      [],
      [
        { ...document, response: header('Set-Cookie', 's=; Max-Age=0') },
        { url: '/in/now', response: header('Set-Cookie', 's=1') },
        { response: header('Set-Cookie', 's=1; Domain=other.example') },
        { response: header('Set-Cookie', 's=1; Path=/in') },
        { url: 'https://ads.example/a.png', response: header('Set-Cookie', 's=1; Path=/') },
        { url: 'https://ads.example/b.png' },
        {},
      ],
    ],
    ['repairs', ['repaired'], [document, { request: { url: '' } }]],
  ])('reports %s', (_name, expected, sketches, pages, completeness) => {
    expect(ids(sketches, pages, completeness)).toEqual(expected);
  });

  it.each<[string, Sketch[], string | undefined]>([
    [
      'none',
      [document, bare],
      'No request asked to bypass the cache, and no response came from it: this is what a first visit looks like.',
    ],
    [
      'some, too few to be remarked on',
      [...many(19, document), { request: header('pragma', 'no-cache') }, { response: { status: 304 } }],
      '1 of 21 requests asked to bypass the cache, and 1 response came from it.',
    ],
    ['much', [document, { response: { status: 304 } }], undefined],
  ])('says of a cache that did %s no more than that', (_, sketches, sentence) => {
    const { fine } = analyseSketches(sketches).overview;
    expect(fine.find((one) => /bypass the cache/.test(one))).toBe(sentence);
  });

  it.each([
    [1500, undefined],
    [
      -40_000,
      "The clock of www.cumbrera.example is 40 s behind the recording computer's, and one server alone cannot tell which of them is wrong.",
    ],
    [
      7_200_400,
      "The clock of www.cumbrera.example is 2 h ahead of the recording computer's, which matches an offset of UTC+2, and one server alone cannot tell which of them is wrong.",
    ],
    // No place on earth keeps half an hour from UTC.
    [
      1_800_400,
      "The clock of www.cumbrera.example is 30 min ahead of the recording computer's, and one server alone cannot tell which of them is wrong.",
    ],
    [
      20_700_400,
      "The clock of www.cumbrera.example is 5 h 45 min ahead of the recording computer's, which matches an offset of UTC+5:45, and one server alone cannot tell which of them is wrong.",
    ],
  ])('states a clock that is %s ms off', (offset, sentence) => {
    const date = new Date(ZERO + offset + 20).toUTCString();
    const { condition } = analyseSketches([
      { ...document, at: 500, response: header('Date', date), timings: { wait: 20 } },
    ]).overview;
    const found = condition.find(({ id }) => id === 'clocks-differ');
    if (sentence === undefined) expect(found).toBeUndefined();
    else expect(found?.sentence).toBe(sentence);
  });
});

describe('a page that is a tab with several navigations', () => {
  const goTo = (at: number, response: Record<string, unknown> = {}, frame = 'f1'): Sketch => ({
    at,
    page: 'tab',
    url: `https://www.cumbrera.example/${at}`,
    request: {
      headers: [
        { name: 'Sec-Fetch-Mode', value: 'navigate' },
        { name: 'Sec-Fetch-Dest', value: 'document' },
      ],
    },
    response,
    extra: { _resourceType: 'document', _frameref: frame },
  });
  const fetches = (at: number): Sketch => ({ at, page: 'tab', extra: { _resourceType: 'fetch' } });
  const tab = [pageOf('tab', 0, { onContentLoad: 1100, onLoad: 1500 })];

  it('is taken apart at its top-level documents; the milestones belong to the last', () => {
    const { rows, overview } = analyseSketches([goTo(10), fetches(50), goTo(1000), fetches(1200)], tab);
    expect(rows.map(({ pageId, startMs }) => [pageId, startMs])).toEqual([
      ['tab#1', 10],
      ['tab#1', 50],
      ['tab#2', 0],
      ['tab#2', 200],
    ]);
    expect(overview.pages.map(({ domReadyMs, loadedMs }) => [domReadyMs, loadedMs])).toEqual([
      [undefined, undefined],
      [100, 500],
    ]);
    expect(overview.condition.find(({ id }) => id === 'several-pages')?.sentence).toContain('inferred');
  });

  it('stays whole over redirects and documents in frames', () => {
    const { overview } = analyseSketches(
      [goTo(10, { status: 302 }), goTo(30, { status: 301 }), goTo(60), goTo(90, {}, 'f2')],
      tab,
    );
    expect(overview.pages.map(({ id, loadedMs }) => [id, loadedMs])).toEqual([['tab', 1500]]);
  });
});

describe('names', () => {
  it.each([
    ['https://img.cumbrera.example/photos/ridge-1600.webp', {}, 'ridge-1600.webp'],
    ['https://api.cumbrera.example/availability?page=1', {}, 'availability?page=1'],
    ['https://www.cumbrera.example/huts/alba-norte', { _resourceType: 'document' }, '/huts/alba-norte'],
    ['https://www.cumbrera.example/pay/', {}, 'pay/'],
    ['https://www.cumbrera.example', {}, '/'],
    ['https://x.example/ma%C3%B1ana.png', {}, 'mañana.png'],
    ['https://x.example/%E0%A4%A', {}, '%E0%A4%A'],
    // Line breaks and turned directions would make another text of it.
    ['https://x.example/a%0Ab', {}, 'a%0Ab'],
    ['https://x.example/exe%E2%80%AEgnp.a', {}, 'exe%E2%80%AEgnp.a'],
    ['data:image/png;base64,AAAA', {}, 'data:image/png;base64,AAAA'],
  ])('%s is called by what stands last', (url, extra, name) => {
    expect(nameExchange(rowOf({ url, extra }))).toBe(name);
  });
});

describe('connections', () => {
  const over = (connection: string, at: number, timings: Record<string, number> = {}, host = 'a.example') => ({
    url: `https://${host}/${at}`,
    at,
    timings: { send: 1, wait: 20, receive: 4, ...timings },
    extra: { connection },
  });

  it('have their hosts and the exchange that they were opened for, whatever the order of the file', () => {
    const { rows } = analyseSketches([
      over('7', 90, {}, 'b.example'),
      over('7', 10, { connect: 30, ssl: 20 }),
      over('7', 60, { connect: 5 }),
      over('8', 20, { dns: 9, connect: 0 }),
      { at: 5 },
    ]);
    const told = [...findConnections(rows)].map(([id, { hosts, openedBy, exchanges }]) => [
      id,
      hosts,
      openedBy?.index,
      exchanges,
    ]);
    expect(told).toEqual([
      ['7', ['a.example', 'b.example'], 1, 3],
      ['8', ['a.example'], undefined, 1],
    ]);
  });
});
