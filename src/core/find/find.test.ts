import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type JsonObject, normaliseEntry } from '../har';
import { type FindQuery, findInBody, findInExchange, findMention, foldHits, type Hit, prepareSearch } from './index';

const PLAIN: FindQuery = { text: '', isRegex: false, matchesCase: false, wholeWord: false };
const searchFor = (text: string, more: Partial<FindQuery> = {}) => {
  const prepared = prepareSearch({ ...PLAIN, text, ...more });
  if (!prepared.ok) throw new Error(prepared.problem.code);
  return prepared.search;
};
const found = (needle: string, text: string, more: Partial<FindQuery> = {}) =>
  searchFor(needle, more)
    .inText(text, 100)
    .map(({ offset, length, form }) => [text.slice(offset, offset + length), form]);

describe('finding in a text', () => {
  it('gives the longer of two spellings that begin at one place', () => {
    // Seconds since 1970 begin as the milliseconds of the same instant do.
    expect(found('1759521600', 'at=1759521600000;')).toEqual([['1759521600000', 'date']]);
    expect(found('a"b', 'x a\\"b y')).toEqual([['a\\"b', 'json']]);
  });

  it('counts a match that begins at a line feed to the line that ends there', () => {
    const hits = findInBody(3, 'response body', { text: 'one\ntwo\nthree', shape: 'text' }, searchFor('\ntwo'));
    expect(hits.map(({ path, offset }) => [path, offset])).toEqual([['line 1', 3]]);
    const next = findInBody(3, 'response body', { text: 'one\ntwo\nthree', shape: 'text' }, searchFor('two'));
    expect(next.map(({ path }) => path)).toEqual(['line 2']);
  });

  it('leaves case aside unless it is asked for, and keeps places right behind letters that change their length', () => {
    expect(found('Alba', 'x alba ALBA Alba')).toEqual([
      ['alba', 'plain'],
      ['ALBA', 'plain'],
      ['Alba', 'plain'],
    ]);
    expect(found('Alba', 'x alba ALBA Alba', { matchesCase: true })).toEqual([['Alba', 'plain']]);
    expect(found('alba', 'İİİ ALBA')).toEqual([['ALBA', 'plain']]);
  });

  it('finds whole words where asked', () => {
    expect(found('hut', 'hut huts hut_2 (hut) über-hut éhut', { wholeWord: true })).toEqual([
      ['hut', 'plain'],
      ['hut', 'plain'],
      ['hut', 'plain'],
    ]);
  });

  it.each([
    ['a b&c', 'q=a%20b%26c', 'a%20b%26c', 'url'],
    ['a b&c', 'q=a+b%26c', 'a+b%26c', 'url'],
    ['é', '/caf%c3%a9', '%c3%a9', 'url'],
    ['say "hi"', '{"x":"say \\"hi\\""}', 'say \\"hi\\"', 'json'],
    ['Ü/x', '"\\u00dc/x"', '\\u00dc/x', 'json'],
    ['https://a/', '"https:\\/\\/a\\/"', 'https:\\/\\/a\\/', 'json'],
  ])('finds %j in %j', (needle, text, match, form) => expect(found(needle, text)).toEqual([[match, form]]));

  it('finds a value in base64 whatever stands before and after it', () => {
    fc.assert(
      fc.property(
        fc.string({ maxLength: 9 }),
        fc.string({ maxLength: 9 }),
        fc.constantFrom('base64', 'base64url'),
        (before, after, encoding) => {
          const text = Buffer.from(`${before}tok-5f2a91c0é${after}`).toString(encoding as BufferEncoding);
          expect(found('tok-5f2a91c0é', text).map(([, form]) => form)).toEqual(['base64']);
        },
      ),
    );
  });

  it('finds whole numbers where whole words are asked for', () => {
    expect(found('34', '34.52 34 1.34 [34,5] 34. 134 €34 v34', { wholeWord: true }).length).toBe(4);
    expect(found('34.5', '34.52 34.5 34.5.1', { wholeWord: true }).length).toBe(1);
  });

  it.each([
    ['34.00', '{"price":34,"was":340,"at":34.5,"id":"x34"}', ['34']],
    ['€34.00', '[1,34,5]', ['34']],
    ['34,50 €', 'price=34.5', ['34.5']],
    ['2,992.65', '{"total":2992.65,"no":12992.65}', ['2992.65']],
    ['2.992,65', '{"total":2992.65}', ['2992.65']],
    ['2 992,65', '{"total":2992.65}', ['2992.65']],
    ['2992.65', 'EUR 2.992,65, or 2,992.65', ['2.992,65', '2,992.65']],
    ['1,234', '1234 and 1.234', ['1234', '1.234']],
    ['1234567', '1\u202f234\u202f567', ['1\u202f234\u202f567']],
    // Codes, addresses, versions and clocks are no amounts.
    ['007.50', '7.5', []],
    ['10.0.0.1', '10001', []],
    ['1.2.3', '123', []],
    ['12,34,56', '123456', []],
    ['-', '0', []],
  ])('finds the number %j in %j', (needle, text, matches) =>
    expect(found(needle, text)).toEqual(matches.map((match) => [match, 'number'])),
  );

  it.each([
    ['2027-07-14', '14.07.2027 7/14/2027 20270714 14 July 2027 Jul 14, 2027 2027/07/14T8:00 12027/07/14 x20270714', 6],
    ['14 July 2027', '{"from":"2027-07-14","to":"2027-07-15"}', 1],
    ['Jul 14, 2027', 'expires=Wed, 14 Jul 2027 10:00:00 GMT', 1],
    ['14.07.2027', 'from=14%2F07%2F2027 "14\\/07\\/2027"', 2],
    // It may be the third of February or the second of March.
    ['03/02/2027', '2027-02-03 2027-03-02 2027-02-02', 2],
    ['2027-07-14T12:00:00+02:00', '{"at":1815559200,"ms":1815559200000,"iso":"2027-07-14T10:00:00.000Z"}', 3],
    ['1815559200', 'Wed, 14 Jul 2027 10:00:00 GMT', 1],
    ['31.02.2027', '2027-02-31 2027-03-03', 0],
    ['20271314', '2027-13-14', 0],
    ['2027-7.14', '2027-07-14', 0],
  ])('finds the date %j in %j', (needle, text, count) => {
    const dates = found(needle, text).filter(([, form]) => form === 'date');
    expect(dates.length).toBe(count);
  });

  it('finds every amount however it is written', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 9_999_999_999 }), (cents) => {
        const value = cents / 100;
        const kept = `[0,${JSON.stringify(value)},0]`;
        for (const locale of ['en-GB', 'de-DE', 'fr-FR', 'de-CH']) {
          const written = value.toLocaleString(locale, { minimumFractionDigits: 2 });
          const match = found(written, kept)[0]?.[0];
          expect([written, match]).toEqual([written, JSON.stringify(value)]);
        }
      }),
    );
  });

  it('finds by regular expression, which may match nothing forever', () => {
    expect(found('a+', 'aab Aaa', { isRegex: true })).toEqual([
      ['aa', 'plain'],
      ['Aaa', 'plain'],
    ]);
    expect(found('x*', 'abc', { isRegex: true })).toEqual([]);
    expect(prepareSearch({ ...PLAIN, text: '(', isRegex: true })).toMatchObject({
      ok: false,
      problem: { code: 'bad-regex' },
    });
    expect(prepareSearch(PLAIN)).toMatchObject({ ok: false, problem: { code: 'empty' } });
  });

  it('finds what plain looking through every place finds', () => {
    const word = fc.string({ unit: fc.constantFrom('a', 'b', 'A'), minLength: 1, maxLength: 3 });
    fc.assert(
      fc.property(
        word,
        fc.string({ unit: fc.constantFrom('a', 'b', 'A', 'B', ' '), maxLength: 40 }),
        (needle, text) => {
          const plain: number[] = [];
          for (let at = 0; at + needle.length <= text.length; at++) {
            if (text.slice(at, at + needle.length).toLowerCase() !== needle.toLowerCase()) continue;
            plain.push(at);
            at += needle.length - 1;
          }
          expect(
            searchFor(needle)
              .inText(text, 100)
              .map(({ offset }) => offset),
          ).toEqual(plain);
        },
      ),
    );
  });
});

describe('finding in an exchange', () => {
  const exchange = normaliseEntry(
    {
      startedDateTime: '2026-10-03T09:00:00Z',
      request: {
        method: 'POST',
        url: 'https://a.example/x?key=1',
        headers: [{ name: 'X-Key', value: 'abc' }],
        postData: { mimeType: 'application/json', text: '{"key": 1}' },
      },
      response: {
        status: 503,
        statusText: 'Key Server Gone',
        headers: [{ name: 'etag', value: 'key-9' }],
        content: {},
      },
      _webSocketMessages: [
        { type: 'send', time: 1, opcode: 1, data: 'no' },
        { type: 'receive', time: 2, opcode: 1, data: 'a key' },
      ],
    } as unknown as JsonObject,
    4,
  );

  it('tells the place of each hit, in the order of the dossier', () => {
    const hits = findInExchange(exchange, { text: '{"key": 1}', shape: 'json' }, searchFor('key'));
    expect(hits.map(({ index, place, path, match, offset }) => [index, place, path, match, offset])).toEqual([
      [4, 'address', undefined, 'key', 25],
      [4, 'status', undefined, 'Key', 11],
      [4, 'request header', 'X-Key', 'Key', 2],
      [4, 'request payload', '$.key', 'key', 2],
      [4, 'response header', 'etag', 'key', 6],
      [4, 'message', '1', 'key', 2],
    ]);
  });

  it('tells lines where there are no paths, and what stands around on one line', () => {
    const text = `first\n\n${'x'.repeat(100)} key\tvalue\nlast key`;
    const hits = findInBody(4, 'response body', { text, shape: 'text' }, searchFor('key'));
    expect(hits.map(({ path, before, after }) => [path, before.length, after])).toEqual([
      ['line 3', 48, ' value last key'],
      ['line 4', 48, ''],
    ]);
  });
});

describe('where a body names an address', () => {
  const url = 'https://www.cumbrera.example/assets/js/beds.js?v=2';
  it.each([
    ['<script src="https://www.cumbrera.example/assets/js/beds.js?v=2">', 'whole', 13],
    ['src=//www.cumbrera.example/assets/js/beds.js?v=2', 'without scheme', 4],
    ['{"u":"\\/assets\\/js\\/beds.js?v=2"}', 'path', 6],
    ['a /assets/js/beds.js b', 'path', 2],
    ["import './beds.js'", 'file name', 10],
  ])('%s', (text, form, offset) => expect(findMention(text, url)).toMatchObject({ form, offset }));

  it('is nowhere where only a short file name would fit', () => {
    expect(findMention('x.js', 'https://a.example/x.js')).toBeUndefined();
  });
});

describe('the hits of one list', () => {
  const hit = (path: string, place: Hit['place'] = 'response body'): Hit => ({
    index: 0 as Hit['index'],
    place,
    path,
    offset: Number(/\d+/.exec(path)?.[0] ?? 0),
    before: '',
    match: 'x',
    after: '',
    form: 'plain',
  });
  const folded = (hits: readonly Hit[]): string[] =>
    foldHits(hits).map((one) => ('hits' in one ? `${one.path} x ${one.hits.length}` : (one.path ?? '')));

  it('are one line from four on, at the place of the first', () => {
    const prices = [0, 1, 2, 3].map((at) => hit(`$.nights[${at}].price`));
    expect(folded([hit('$.total'), ...prices.slice(0, 2), hit('$.nights[1].name'), ...prices.slice(2)])).toEqual([
      '$.total',
      '$.nights[*].price x 4',
      '$.nights[1].name',
    ]);
    expect(folded(prices.slice(1))).toEqual(['$.nights[1].price', '$.nights[2].price', '$.nights[3].price']);
  });

  it('are told apart by where they stand, and headers and lines are no lists', () => {
    const four = (place: Hit['place']): Hit[] => [0, 1, 2, 3].map((at) => hit(`$[${at}]`, place));
    expect(folded([...four('response body'), ...four('request payload')])).toEqual(['$[*] x 4', '$[*] x 4']);
    expect(folded([0, 1, 2, 3].map((at) => hit(`x[${at}]`, 'request header'))).length).toBe(4);
    expect(folded([0, 1, 2, 3].map(() => hit('line 7'))).length).toBe(4);
  });
});
