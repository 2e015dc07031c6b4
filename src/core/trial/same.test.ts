import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type Draft, EMPTY_DRAFT } from '../convert';
import {
  followsFrom,
  type HeldResponse,
  holdAgainst,
  readPasted,
  requestChanges,
  tellSameness,
  volatilePlaces,
} from './index';
import { generalPlace } from './same';

const response = (text: string, change: Partial<HeldResponse> = {}): HeldResponse => ({
  status: 200,
  headers: [{ name: 'Content-Type', value: 'application/json' }],
  body: { type: 'text', text },
  ...change,
});
const placesOf = (was: string, is: string): string[] =>
  holdAgainst(response(was), response(is)).differences.map(
    ({ place, changes }) => `${place}${changes === undefined ? '' : `, ${changes}`}`,
  );

describe('two responses that say the same', () => {
  it.each([
    ['the members in another order', '{"a":1,"b":2}', '{"b":2,"a":1}'],
    ['other blanks', '{"a":[1,2]}', '{ "a": [1, 2] }'],
    [
      'elements in another order, told by what identifies them',
      '[{"id":1,"a":1},{"id":2,"a":2}]',
      '[{"id":2,"a":2},{"id":1,"a":1}]',
    ],
  ])('%s', (_, was, is) => expect(holdAgainst(response(was), response(is)).verdict).toBe('same'));

  it('whatever says only when and by whom it was sent', () => {
    const of = (headers: Record<string, string>): HeldResponse =>
      response('{}', { headers: Object.entries(headers).map(([name, value]) => ({ name, value })) });
    const was = of({
      Date: 'Mon, 05 Oct 2026 08:00:00 GMT',
      ETag: '"a"',
      'Set-Cookie': 'sid=1; Path=/',
      'X-Request-Id': 'q',
    });
    const is = of({
      date: 'Tue, 06 Oct 2026 08:00:00 GMT',
      etag: '"b"',
      'set-cookie': 'sid=2; Path=/',
      Age: '3',
      'Server-Timing': 'db',
    });
    expect(holdAgainst(was, is).verdict).toBe('same');
    // Another cookie, another type, another place to go: these it does say.
    const other = of({ 'set-cookie': 'trail=1', location: '/next' });
    expect(holdAgainst(was, other).differences.map(({ place }) => place)).toEqual([
      'header location',
      'header set-cookie',
    ]);
  });
});

describe('what differs', () => {
  it.each([
    ['{"nights":3}', '{"nights":5}', ['$.nights']],
    ['{"a":1}', '{"a":"1"}', ['$.a']],
    // As doubles these are one number, and one list of one element.
    ['{"of":98765432109876543}', '{"of":98765432109876544}', ['$.of, guessed']],
    ['{"of":98765432109876543}', '{"of":7}', ['$.of']],
    ['[{"id":98765432109876543},{"id":98765432109876544}]', '[{"id":98765432109876543}]', ['$[1]']],
    ['{"a":null}', '{}', ['$.a']],
    ['{"items":[1,2]}', '{"items":[1]}', ['$.items[1]']],
    ['[{"id":1,"beds":3},{"id":2}]', '[{"id":2},{"id":3}]', ['$[0]', '$[1]']],
    ['{"until":"2026-10-05T09:18:21Z"}', '{"until":"2026-10-06T10:02:44Z"}', ['$.until, guessed']],
    ['{"id":"h-77120"}', '{"id":"h-77124"}', ['$.id, guessed']],
    ['{"nonce":"a8f5f167f44f4964e6c998de"}', '{"nonce":"0123f167f44f4964e6c9ffff"}', ['$.nonce, guessed']],
    // What only looks like it: a price, a name, another shape, a member that is gone.
    ['{"price":"45.00"}', '{"price":"46.00"}', ['$.price']],
    ['{"id":"alba"}', '{"id":"jara"}', ['$.id']],
    ['{"id":"h-7"}', '{"id":"error-7-x"}', ['$.id']],
    ['{"until":"2026-10-05T09:18:21Z"}', '{"until":"never"}', ['$.until']],
    ['{"until":"2026-10-05T09:18:21Z"}', '{}', ['$.until']],
    ['one\ntwo\nthree', 'one\n2\nthree\nfour', ['line 2', 'line 4']],
    // Pages are held by what they say; markup alone may be new each time.
    ['<!doctype html><p>Alba', '<!doctype html><p>Jara', ['text line 1']],
    ['<html><p>Alba  Norte', '<html><p class="x">Alba\nNorte<!-- n -->', ['markup, guessed']],
    ['<html><script>1 < 2</script>a<b>b', '<html><script>3</script><style>x</style>a<b>b', ['markup, guessed']],
    ['<html><script>never closed', '<html><script>', ['markup, guessed']],
    ['<p>one</p>', '<p>two</p>', ['line 1']],
  ])('%s and %s', (was, is, places) => expect(placesOf(was, is)).toEqual(places));

  it('is told by the status first, then by the shape, then by values', () => {
    const was = response('{"a":1,"b":2,"id":7}');
    const is = response('{"a":2,"c":2,"id":8}', { status: 401 });
    const held = holdAgainst(was, is);
    expect(held.differences.map(({ place }) => place)).toEqual(['status', '$.b', '$.c', '$.a', '$.id']);
    expect(tellSameness(held, 401)).toBe('401, not 200 as captured. It differs in 3 places.');
  });

  it('is known not to count where two unchanged trials differed, at every element of an array', () => {
    const was = response('{"items":[{"beds":3},{"beds":1}]}');
    const is = response('{"items":[{"beds":4},{"beds":2}]}');
    expect(holdAgainst(was, is).verdict).toBe('differs');
    const trials = ['{"items":[{"beds":7},{"beds":1}]}', '{"items":[{"beds":8},{"beds":1}]}'].map((one) =>
      response(one),
    );
    const held = holdAgainst(was, is, volatilePlaces(trials));
    expect(held.verdict).toBe('same-but');
    expect(tellSameness(held, 200)).toBe(
      '200, as captured. The same response but for 2 values that change by themselves.',
    );
  });

  it('is told of what is as deep or as long as nobody writes it', () => {
    const deep = (inner: string): string => '['.repeat(50_000) + inner + ']'.repeat(50_000);
    expect(holdAgainst(response(deep('1')), response(deep('1 '))).verdict).toBe('differs');
    const long = (from: number): string =>
      JSON.stringify(Array.from({ length: 30_000 }, (_, at) => ({ id: from + at, beds: at % 7 })));
    expect(holdAgainst(response(long(0)), response(long(15_000))).verdict).toBe('differs');
  });

  it('cannot be told of bodies that are not there', () => {
    const held = holdAgainst(response('', { body: undefined }), response('{}'));
    expect(tellSameness(held, 200)).toBe(
      '200, as captured. Status and headers are the same. The bodies cannot be compared: one of them is not there.',
    );
  });
});

describe('a response that is pasted', () => {
  const like = response('{"a":1}');
  it.each([
    ['{"a":1}', { status: 200, body: { text: '{"a":1}' } }],
    [
      'HTTP/1.1 404 Not Found\r\nA: b: c\r\n\r\n{"x":\r\n\r\n1}',
      { status: 404, headers: [{ name: 'A', value: 'b: c' }] },
    ],
    ['HTTP/2 204', { status: 204, headers: [], body: { text: '' } }],
    ['HTTP/1.1 200 OK\n\nbody', { status: 200, headers: [], body: { text: 'body' } }],
  ])('%j', (text, wanted) => expect(readPasted(text, like)).toMatchObject(wanted));
});

describe('what follows from a change of the request', () => {
  const of = (url: string, text: string): Draft => ({ ...EMPTY_DRAFT, url, payload: { type: 'text', text } });
  const changes = requestChanges(
    of('https://a.example/?page=1&size=5', '{"nights":3,"hut":"alba"}'),
    of('https://a.example/?page=2&size=5', '{"nights":5,"hut":"jara"}'),
  );
  it.each([
    ['$.booking.nights', '3', '5', 'nights'],
    ['$.items[0].hut', '"alba"', '"jara"', 'hut'],
    ['$.page', '"1"', '"2"', 'page'],
    // The same values under another name, the other way round, or another change of it.
    ['$.beds', '3', '5', undefined],
    ['$.nights', '5', '3', undefined],
    ['$.nights', '3', '4', undefined],
    ['$.nights', '3', undefined, undefined],
  ])('%s from %s to %s', (place, was, is, name) => expect(followsFrom({ place, was, is }, changes)?.name).toBe(name));
});

describe('the laws', () => {
  const json = fc.jsonValue({ maxDepth: 3 }).map((value) => JSON.stringify(value));
  const text = fc.oneof(
    json,
    fc.string(),
    fc.constantFrom('{"id":1}', '{"id":2}', '[{"id":1},{"id":2}]', '[{"id":2},{"id":3}]'),
  );
  const held = fc.record({
    status: fc.constantFrom(200, 201, 404),
    headers: fc.array(fc.record({ name: fc.constantFrom('a', 'b', 'date', 'set-cookie'), value: fc.string() }), {
      maxLength: 3,
    }),
    body: fc.option(
      fc.oneof(
        text.map((one) => ({ type: 'text', text: one }) as const),
        fc.uint8Array({ maxLength: 4 }).map((bytes) => ({ type: 'bytes', bytes }) as const),
      ),
      { nil: undefined },
    ),
  });

  it('a response is the same as itself, and holds both ways round', () => {
    fc.assert(
      fc.property(held, held, (one, other) => {
        expect(holdAgainst(one, one)).toEqual({ verdict: 'same', differences: [], lacksBody: false });
        expect(holdAgainst(one, other).verdict).toBe(holdAgainst(other, one).verdict);
      }),
      { seed: 7, numRuns: 400 },
    );
  });

  it('knowing more to change by itself never makes the same differ', () => {
    const rank = { same: 0, 'same-but': 1, differs: 2 };
    fc.assert(
      fc.property(held, held, fc.array(fc.nat(20)), (one, other, picks) => {
        const before = holdAgainst(one, other);
        const known = new Set(picks.flatMap((at) => before.differences[at]?.place ?? []).map(generalPlace));
        expect(rank[holdAgainst(one, other, known).verdict]).toBeLessThanOrEqual(rank[before.verdict]);
      }),
      { seed: 7, numRuns: 400 },
    );
  });
});
