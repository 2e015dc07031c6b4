import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { hashPayload } from '../analysis';
import { type JsonObject, normaliseEntry } from '../har';
import type { Exchange, NameValue } from '../model';
import { originOf } from './addresses';
import type { Asked } from './asked';
import { compareRequests, verdictOf } from './differences';
import { type Match, ResponseFinder } from './finder';
import { tellMiss, tellVerdict } from './tell';

interface Made {
  readonly method?: string;
  readonly url: string;
  readonly headers?: Readonly<Record<string, string>>;
  readonly type?: string;
  readonly text?: string;
  readonly bodySize?: number;
  readonly response?: {
    readonly status?: number;
    readonly headers?: Readonly<Record<string, string>>;
    readonly text?: string;
    readonly mimeType?: string;
  };
}

const listOf = (headers: Readonly<Record<string, string>> = {}): NameValue[] =>
  Object.entries(headers).map(([name, value]) => ({ name, value }));

function exchangeOf(
  { method = 'GET', url, headers, type = '', text, bodySize, response = {} }: Made,
  at: number,
): Exchange {
  const { status = 200, text: body = 'body', mimeType = 'text/plain' } = response;
  const entry = {
    startedDateTime: '2026-10-05T08:00:00.000Z',
    time: 1,
    request: {
      method,
      url,
      headers: listOf(headers),
      bodySize: bodySize ?? -1,
      ...(text === undefined && bodySize === undefined ? {} : { postData: { mimeType: type, text: text ?? '' } }),
    },
    response: { status, headers: listOf(response.headers), content: { mimeType, text: body, size: body.length } },
    timings: { send: 0, wait: 1, receive: 0 },
  };
  return normaliseEntry(entry as unknown as JsonObject, at);
}

function finderOf(made: readonly Made[], isExact = false): ResponseFinder {
  const exchanges = made.map(exchangeOf);
  const requests = exchanges.map(({ index, request, kind }) => ({
    index,
    method: request.method,
    url: request.url,
    isSocket: kind.value === 'socket',
    payloadHash: hashPayload(request),
  }));
  const mainOrigin = originOf(made[0]?.url ?? '');
  return new ResponseFinder(requests, (index) => exchanges[index] as Exchange, { mainOrigin, isExact });
}

interface AskedMade {
  readonly method?: string;
  /** With a host; or a path, asked at a plain loopback address. */
  readonly url: string;
  readonly headers?: Readonly<Record<string, string>>;
  readonly text?: string;
}

function askedOf({ method = 'GET', url, headers, text = '' }: AskedMade): Asked {
  const [, , path = '', query = ''] = /^([a-z]+:\/\/[^/?]*)?([^?]*)(\?.*)?$/i.exec(url) ?? [];
  return {
    method,
    origin: originOf(url),
    path,
    query,
    headers: listOf(headers),
    body: new TextEncoder().encode(text),
  };
}

const takenOf = (match: Match): number | undefined => (match.type === 'fits' ? match.exchange.index : undefined);
const take = (made: readonly Made[], asked: AskedMade, isExact = false): number | undefined =>
  takenOf(finderOf(made, isExact).find(askedOf(asked)));

const API = 'https://api.cumbrera.example';
const JSON_TYPE = 'application/json';

describe('which captured response fits', () => {
  it('is told by method, path and host', () => {
    const made = [
      { url: `${API}/huts` },
      { url: `${API}/huts`, method: 'POST' },
      { url: 'https://img.cumbrera.example/huts' },
      { url: `${API}/huts/` },
    ];
    expect(take(made, { url: `${API}/huts`, method: 'POST' })).toBe(1);
    expect(take(made, { url: 'https://img.cumbrera.example/huts' })).toBe(2);
    expect(take(made, { url: `${API}/huts/` })).toBe(3);
    expect(take(made, { url: 'https://other.cumbrera.example/huts' })).toBeUndefined();
    expect(take(made, { url: `${API}/HUTS` })).toBeUndefined();
  });

  it('at a plain loopback address is of the host of the page first, else of whichever has the path', () => {
    const made = [
      { url: `${API}/huts` },
      { url: 'https://www.cumbrera.example/huts' },
      { url: 'https://img.cumbrera.example/a.webp' },
    ];
    expect(take([...made].reverse(), { url: '/huts' })).toBeDefined();
    expect(take(made, { url: '/huts' })).toBe(0);
    expect(take(made, { url: '/a.webp' })).toBe(2);
  });

  it('does not hang on how a path is escaped, nor on a query of another order', () => {
    const made = [{ url: `${API}/h%C3%BCtten/a%20b?x=1&y=a+b&x=2` }];
    expect(take(made, { url: `${API}/h%c3%bctten/%61%20b?y=a%20b&x=2&x=1` })).toBe(0);
    expect(take(made, { url: `${API}/hütten/a b?x=1&x=2&y=a b` })).toBe(0);
  });

  it('takes a query as a multiset: once is not twice, and an id is no token', () => {
    const made = [{ url: `${API}/huts?id=1001&tag=a` }, { url: `${API}/huts?id=1002&tag=a&tag=a` }];
    expect(take(made, { url: `${API}/huts?tag=a&id=1002&tag=a` })).toBe(1);
    expect(take(made, { url: `${API}/huts?id=1002&tag=a` })).toBeUndefined();
    expect(take(made, { url: `${API}/huts?id=1003&tag=a` })).toBeUndefined();
    expect(take(made, { url: `${API}/huts?id=1001` })).toBeUndefined();
  });

  it.each([
    ['a cursor', 'cursor=eyJpZCI6MX0', 'cursor=eyJpZCI6Mn0'],
    ['a date', 'night=2026-10-03', 'night=2026-10-04'],
    ['an instant that is asked for', 'until=1796000000000', 'until=1796000060000'],
    ['a uuid', 'hut=0b8f8e8c-1111-4222-8333-444455556666', 'hut=0b8f8e8c-1111-4222-8333-444455557777'],
    ['a page', 'page=1', 'page=2'],
    ['a code', 'code=FR', 'code=ES'],
  ])('is not that of %s of another value', (_, captured, asked) => {
    expect(take([{ url: `${API}/huts?${captured}` }], { url: `${API}/huts?${asked}` })).toBeUndefined();
  });

  it.each([
    ['a token', 'access_token=abcdef123456', 'access_token=fedcba654321'],
    ['a moment that keeps caches out', '_=1796000000000', '_=1796000999000'],
    ['a random number', 'rnd=0.71271', 'rnd=0.11231'],
    ['a signature', 'signature=aGVsbG8td29ybGQ', 'signature=d29ybGQtaGVsbG8'],
    ['an id of the call', 'requestId=7f3a9c0d11', 'requestId=88aa0c0d12'],
  ])('may have %s of another value, unless all has to be the same', (_, captured, asked) => {
    const made = [{ url: `${API}/huts?page=1&${captured}` }];
    expect(take(made, { url: `${API}/huts?page=1&${asked}` })).toBe(0);
    expect(take(made, { url: `${API}/huts?page=1&${asked}` }, true)).toBeUndefined();
    expect(take(made, { url: `${API}/huts?page=1&${captured}` }, true)).toBe(0);
  });

  it('takes JSON by its values, ids of any length digit by digit', () => {
    const post = (text: string): Made => ({ method: 'POST', url: `${API}/book`, type: JSON_TYPE, text });
    const made = [
      post('{"hut":"a","nights":[1,2],"id":9007199254740993}'),
      post('{"hut":"a","nights":[2,1],"id":9007199254740993}'),
      post('{"hut":"a","nights":[]}'),
    ];
    const asked = (text: string) => ({
      method: 'POST',
      url: `${API}/book`,
      headers: { 'Content-Type': JSON_TYPE },
      text,
    });
    expect(take(made, asked('{ "id": 9007199254740993, "nights": [2, 1.0], "hut": "\\u0061" }'))).toBe(1);
    expect(take(made, asked('{"hut":"a","nights":[1,2],"id":9007199254740992}'))).toBeUndefined();
    expect(take(made, asked('{"hut":"a","nights":[]}'))).toBe(2);
    expect(take(made, asked('{"hut":"a"}'))).toBeUndefined();
  });

  it('tells GraphQL by operation and variables, not by how the query is laid out', () => {
    const query = 'query Hut($slug: String!) { hut(slug: $slug) { name beds } }';
    const post = (slug: string): Made => ({
      method: 'POST',
      url: `${API}/graphql`,
      type: JSON_TYPE,
      text: JSON.stringify({ query, variables: { slug } }),
    });
    const made = [post('alba-norte'), post('faro-sur')];
    const laidOut = 'query Hut(\n  $slug: String!\n) {\n  hut(slug: $slug) {\n    name\n    beds\n  }\n}';
    const asked = (text: unknown) => ({
      method: 'POST',
      url: `${API}/graphql`,
      headers: { 'content-type': JSON_TYPE },
      text: JSON.stringify(text),
    });
    expect(take(made, asked({ query: laidOut, variables: { slug: 'faro-sur' } }))).toBe(1);
    expect(take(made, asked({ query: laidOut, variables: { slug: 'jara' } }))).toBeUndefined();
    expect(
      take(made, asked({ query: laidOut.replace('beds', 'wardens'), variables: { slug: 'faro-sur' } })),
    ).toBeUndefined();
  });

  it('takes forms by their fields, and multipart ones whatever their boundary', () => {
    const form = { method: 'POST', url: `${API}/book`, type: 'application/x-www-form-urlencoded', text: 'a=1&b=x+y' };
    expect(
      take([form], { method: 'POST', url: `${API}/book`, headers: { 'content-type': form.type }, text: 'b=x%20y&a=1' }),
    ).toBe(0);
    const parts = (boundary: string, value: string): string =>
      `--${boundary}\r\nContent-Disposition: form-data; name="hut"\r\n\r\n${value}\r\n--${boundary}--\r\n`;
    const multipart = {
      method: 'POST',
      url: `${API}/photo`,
      type: 'multipart/form-data; boundary=one',
      text: parts('one', 'alba'),
    };
    const asked = (value: string) => ({
      method: 'POST',
      url: `${API}/photo`,
      headers: { 'content-type': 'multipart/form-data; boundary=two' },
      text: parts('two', value),
    });
    expect(take([multipart], asked('alba'))).toBe(0);
    expect(take([multipart], asked('faro'))).toBeUndefined();
  });

  it('takes what the capture does not hold only where nothing that it holds fits, by its length', () => {
    const post = (more: Partial<Made>): Made => ({ method: 'POST', url: `${API}/raw`, type: 'text/plain', ...more });
    const made = [post({ bodySize: 9 }), post({ bodySize: 4 }), post({ text: 'four' })];
    const asked = (text: string) => ({
      method: 'POST',
      url: `${API}/raw`,
      headers: { 'content-type': 'text/plain' },
      text,
    });
    expect(take(made, asked('four'))).toBe(2);
    expect(take(made, asked('five'))).toBe(1);
    expect(take(made, asked('nine char'))).toBe(0);
  });

  it('takes a request whose payload only its headers tell of for whatever is sent', () => {
    const form = 'multipart/form-data; boundary=b';
    const made: Made[] = [
      { method: 'POST', url: `${API}/photo`, headers: { 'Content-Type': form, 'Content-Length': '1625' } },
      { method: 'POST', url: `${API}/photo`, headers: { 'Content-Type': form } },
      { method: 'POST', url: `${API}/raw`, headers: { 'Transfer-Encoding': 'chunked' } },
      { method: 'POST', url: `${API}/none`, headers: { 'Content-Length': '0' } },
    ];
    const asked = (path: string, text: string) => ({ method: 'POST', url: `${API}${path}`, text });
    const finder = finderOf(made);
    const taken = (path: string, text: string) => takenOf(finder.find(askedOf(asked(path, text))));
    expect(taken('/photo', 'x'.repeat(1625))).toBe(0);
    expect(taken('/raw', 'x')).toBe(2);
    expect(taken('/raw', '')).toBe(2);
    expect(taken('/none', 'x')).toBeUndefined();
    expect(taken('/none', '')).toBe(3);
  });

  it('is given in captured order where several fit alike, the last one again and again', () => {
    const made = [503, 503, 200].map((status): Made => ({ url: `${API}/job`, response: { status } }));
    const finder = finderOf(made);
    const give = (): number | undefined => takenOf(finder.find(askedOf({ url: `${API}/job` })));
    expect([give(), give(), give(), give(), give()]).toEqual([0, 1, 2, 2, 2]);
    finder.rewind();
    expect(give()).toBe(0);
    expect([finder.look(askedOf({ url: `${API}/job` }))?.index, give()]).toEqual([0, 1]);
  });

  it('goes by the headers that the response varies by, but never fails by them', () => {
    const words = (language: string): Made => ({
      url: `${API}/words`,
      headers: { 'Accept-Language': language },
      response: { headers: { Vary: 'Accept-Language, Accept-Encoding' } },
    });
    const made = [words('en'), words('de')];
    expect(take(made, { url: `${API}/words`, headers: { 'accept-language': 'de' } })).toBe(1);
    expect(take(made, { url: `${API}/words`, headers: { 'accept-language': 'fr' } })).toBe(0);
  });

  it('gives what was not modified only to who has it', () => {
    const made: Made[] = [
      { url: `${API}/a`, headers: { 'If-None-Match': '"1"' }, response: { status: 304, text: '' } },
      { url: `${API}/a` },
    ];
    expect(take(made, { url: `${API}/a` })).toBe(1);
    expect(take(made, { url: `${API}/a`, headers: { 'If-None-Match': '"1"' } })).toBe(0);
  });

  it('gives of several parts the one in which the asked range is, else the one in which it begins', () => {
    const part = (range: string, is: string): Made => ({
      url: `${API}/film`,
      headers: { Range: range },
      response: { status: 206, headers: { 'Content-Range': is }, text: 'x'.repeat(4) },
    });
    const parts = [
      part('bytes=0-3', 'bytes 0-3/12'),
      part('bytes=4-7', 'bytes 4-7/12'),
      part('bytes=8-', 'bytes 8-11/12'),
    ];
    const given = (range: string | undefined): number | undefined =>
      take(parts, { url: `${API}/film`, ...(range === undefined ? {} : { headers: { Range: range } }) });
    expect(['bytes=4-7', 'bytes=5-6', 'bytes=6-9', 'bytes=8-', 'bytes=9-', 'bytes=-2'].map(given)).toEqual([
      1, 1, 1, 2, 2, 2,
    ]);
    // The whole, where it was captured, is what every range is in.
    const all: Made = { url: `${API}/film`, response: { text: 'x'.repeat(12) } };
    expect(take([...parts, all], { url: `${API}/film`, headers: { Range: 'bytes=2-9' } })).toBe(3);
    expect(take([...parts, all], { url: `${API}/film` })).toBe(3);
  });

  it('names an empty value as such where nothing fits', () => {
    const made: Made = { method: 'POST', url: `${API}/huts`, type: 'application/json', text: '{"name":""}' };
    const asked = {
      method: 'POST',
      url: `${API}/huts`,
      headers: { 'Content-Type': 'application/json' },
      text: '{"name":"Alba"}',
    };
    const match = finderOf([made]).find(askedOf(asked));
    expect(match.type === 'none' ? tellMiss(match.nearest) : '').toContain(
      'its payload field $.name is empty, not Alba.',
    );
  });

  it('gives HEAD what GET has, and a HEAD that was captured first', () => {
    expect(take([{ url: `${API}/a` }], { url: `${API}/a`, method: 'HEAD' })).toBe(0);
    expect(take([{ url: `${API}/a` }, { url: `${API}/a`, method: 'HEAD' }], { url: `${API}/a`, method: 'HEAD' })).toBe(
      1,
    );
    expect(take([{ url: `${API}/a`, method: 'HEAD' }], { url: `${API}/a` })).toBeUndefined();
  });

  it('lets a counter count other values, but no list of data', () => {
    const counter: Made = { url: `${API}/count?visit=v-1a&page=/`, response: { status: 204, text: '' } };
    expect(take([counter], { url: `${API}/count?visit=v-9z&page=/huts` })).toBe(0);
    expect(take([counter], { url: `${API}/count?visit=v-9z&leaving=1` })).toBeUndefined();
    const data: Made = { url: `${API}/huts?visit=v-1a&page=/`, response: { text: '{"huts":[]}', mimeType: JSON_TYPE } };
    expect(take([data], { url: `${API}/huts?visit=v-9z&page=/` })).toBeUndefined();
  });

  it('finds one of thousands on one path by its payload', () => {
    const made = Array.from(
      { length: 2000 },
      (_, at): Made => ({ method: 'POST', url: `${API}/rpc`, type: JSON_TYPE, text: `{"call":${at}}` }),
    );
    expect(
      take(made, { method: 'POST', url: `${API}/rpc`, headers: { 'content-type': JSON_TYPE }, text: '{"call": 1789}' }),
    ).toBe(1789);
    expect(
      take(made, { method: 'POST', url: `${API}/rpc`, headers: { 'content-type': JSON_TYPE }, text: '{"call": 2001}' }),
    ).toBeUndefined();
  });

  it('gives each captured request its own response, whatever else was captured', () => {
    const name = fc.constantFrom('a', 'b', 'page', 'q', 'tag');
    const value = fc.constantFrom('1', '2', '', 'x y', 'ü', 'a&b', '%');
    const request = fc.record({
      path: fc.constantFrom('/huts', '/huts/1', '/'),
      query: fc.array(fc.tuple(name, value), { maxLength: 4 }),
      body: fc.option(
        fc.dictionary(name, fc.oneof(fc.integer(), fc.string(), fc.array(fc.integer(), { maxLength: 3 }))),
        { nil: undefined },
      ),
    });
    fc.assert(
      fc.property(
        fc.uniqueArray(request, {
          minLength: 1,
          maxLength: 12,
          selector: (one) => JSON.stringify([one.path, [...one.query].sort(), one.body]),
        }),
        (requests) => {
          const made = requests.map(({ path, query, body }): Made => {
            const url = `${API}${path}${query.length === 0 ? '' : `?${new URLSearchParams(query)}`}`;
            return body === undefined ? { url } : { method: 'POST', url, type: JSON_TYPE, text: JSON.stringify(body) };
          });
          const finder = finderOf(made);
          made.forEach((one, at) => {
            const { url, method, text, type } = one;
            const match = finder.find(
              askedOf({
                url,
                ...(method === undefined ? {} : { method }),
                ...(text === undefined ? {} : { text, headers: { 'Content-Type': type ?? '' } }),
              }),
            );
            // Fields of the same names and values in another order make the same request.
            const taken = takenOf(match);
            const exchange = exchangeOf(made[taken ?? 0] as Made, 0);
            expect(match.type === 'fits' && match.differs).toEqual([]);
            expect(
              taken === at ||
                verdictOf(
                  compareRequests(exchange, askedOf({ ...one, headers: { 'Content-Type': type ?? '' } } as AskedMade)),
                ) !== 'differs',
            ).toBe(true);
          });
        },
      ),
    );
  });
});

describe('what is told of a request', () => {
  const captured: Made = {
    method: 'POST',
    url: `${API}/book?step=2`,
    headers: {
      Accept: '*/*',
      'X-Client': 'web',
      Cookie: 'sid=abc; theme=dark',
      Authorization: 'Bearer one',
      Host: 'api.cumbrera.example',
    },
    type: JSON_TYPE,
    text: '{"hut":"alba","nights":2,"csrfToken":"k81js02ns"}',
  };
  const same: AskedMade = {
    method: 'POST',
    url: captured.url,
    headers: captured.headers ?? {},
    text: captured.text ?? '',
  };
  const tell = (change: Partial<AskedMade>) =>
    compareRequests(exchangeOf(captured, 0), askedOf({ ...same, ...change }));

  it('is nothing where it is the captured one, letter by letter', () => {
    expect(tell({})).toEqual([]);
    expect(tellVerdict([])).toBe('As captured.');
  });

  it('names what is added, missing and other, and does not count tokens, cookies and the connection', () => {
    const found = tell({
      url: `${API}/book?step=3&debug=1`,
      text: '{"hut":"alba","nights":3,"csrfToken":"zz9js02ns"}',
      headers: {
        'X-Client': 'script',
        Cookie: 'sid=xyz',
        Authorization: 'Bearer two',
        Host: 'localhost',
        'User-Agent': 'me',
      },
    });
    expect(
      found
        .filter(({ excuse }) => excuse === undefined)
        .map(({ part, name, captured: was, asked }) => [part, name, was, asked]),
    ).toEqual([
      ['query', 'step', '2', '3'],
      ['query', 'debug', undefined, '1'],
      ['payload', '$.nights', '2', '3'],
      ['header', 'accept', '*/*', undefined],
      ['header', 'x-client', 'web', 'script'],
      ['header', 'user-agent', undefined, 'me'],
    ]);
    const excused = found.filter(({ excuse }) => excuse !== undefined).map(({ name, excuse }) => `${name}: ${excuse}`);
    expect(excused).toEqual([
      '$.csrfToken: changing',
      'cookie sid: changing',
      'cookie theme: changing',
      'authorization: changing',
      'host: connection',
    ]);
    expect(verdictOf(found)).toBe('differs');
    expect(tellVerdict(found)).toBe(
      'Differs from the captured request in 6 places: parameter step, parameter debug added, payload $.nights, header accept missing and 2 more.',
    );
  });

  it('says that the headers came in another order, which does not count', () => {
    const { Accept, ...rest } = captured.headers as Record<string, string>;
    const found = tell({ headers: { ...rest, accept: Accept ?? '' } });
    expect(found.map(({ part, excuse }) => [part, excuse])).toEqual([['order', 'order']]);
    expect(tellVerdict(found)).toBe('As captured, but for the order of headers.');
  });

  it('says what came nearest where nothing fits, and why that does not fit', () => {
    const made = [captured, { url: `${API}/huts?page=0` }, { url: `${API}/huts/alba/beds` }];
    const missed = (asked: AskedMade): string => {
      const match = finderOf(made).find(askedOf(asked));
      return match.type === 'none' ? tellMiss(match.nearest) : 'it fits';
    };
    expect(missed({ url: `${API}/huts?page=7` })).toBe(
      `No captured request fits. Nearest is #1, GET ${API}/huts?page=0: its parameter "page" is 0, not 7.`,
    );
    expect(missed({ url: `${API}/huts/faro/beds` })).toContain('Nearest is #2');
    expect(missed({ url: `${API}/huts?page=0`, method: 'DELETE' })).toContain('its method is GET');
    expect(missed({ url: 'https://www.cumbrera.example/huts?page=0' })).toContain(`it went to ${API}`);
    expect(missed({ url: 'https://elsewhere.example/nothing/alike' })).toBe('Nothing like it was captured.');
  });
});
