import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type JsonObject, normaliseEntry } from '../har';
import { findHeader, type NameValue } from '../model';
import { type Given, giveCaptured } from './answer';
import type { Asked } from './asked';
import {
  type ChangedResponse,
  ChangeError,
  joinChanges,
  RESPONSE_FAILURES,
  readChange,
  readChanges,
  withChange,
  writeChange,
} from './changed';
import { eventsOf, paceOf, playedMessages, writeEvent } from './pace';

const TEXT = 'twelve bytes';
const noInflate = (): undefined => undefined;

const listOf = (headers: Readonly<Record<string, string>>): NameValue[] =>
  Object.entries(headers).map(([name, value]) => ({ name, value }));

function captured(response: object, more: object = {}) {
  const entry = {
    startedDateTime: '2026-10-05T08:00:00.000Z',
    time: 30,
    request: { method: 'GET', url: 'https://api.cumbrera.example/huts', headers: [] },
    timings: { send: 1, wait: 20, receive: 9 },
    ...more,
    response,
  };
  return normaliseEntry(entry as unknown as JsonObject, 7);
}

const whole = (headers: Readonly<Record<string, string>> = {}, status = 200) =>
  captured({
    status,
    statusText: 'OK',
    headers: listOf(headers),
    content: { mimeType: 'text/plain', text: TEXT, size: TEXT.length },
  });

const asking = (headers: Readonly<Record<string, string>> = {}, method = 'GET'): Asked => ({
  method,
  origin: undefined,
  path: '/huts',
  query: '',
  headers: listOf(headers),
  body: new Uint8Array(),
});

const give = (exchange: ReturnType<typeof captured>, asked = asking()) => {
  const given = giveCaptured(asked, exchange, noInflate);
  if (given.type === 'none') throw new Error('there is a response');
  return { ...given, text: new TextDecoder().decode(given.body) };
};

describe('what is given', () => {
  it('has the captured headers but for those of the connection, each line by itself', () => {
    const exchange = whole({
      ':status': '200',
      Connection: 'close',
      'Content-Length': '3',
      'Set-Cookie': 'a=1\nb=2',
      'X-Hut': 'alba',
      'bad name': 'x',
    });
    expect(give(exchange).headers).toEqual([
      { name: 'Set-Cookie', value: 'a=1' },
      { name: 'Set-Cookie', value: 'b=2' },
      { name: 'X-Hut', value: 'alba' },
    ]);
  });

  it.each([
    ['the tag', { ETag: '"1"' }, { 'If-None-Match': '"0", "1"' }, 304],
    ['the tag, weakly', { ETag: 'W/"1"' }, { 'If-None-Match': '"1"' }, 304],
    ['any tag', {}, { 'If-None-Match': '*' }, 304],
    ['another tag', { ETag: '"2"' }, { 'If-None-Match': '"1"' }, 200],
    [
      'another tag, whatever its date',
      { ETag: '"2"', 'Last-Modified': 'Thu, 01 Oct 2026 08:00:00 GMT' },
      { 'If-None-Match': '"1"', 'If-Modified-Since': 'Thu, 01 Oct 2026 08:00:00 GMT' },
      200,
    ],
    [
      'the date',
      { 'Last-Modified': 'Thu, 01 Oct 2026 08:00:00 GMT' },
      { 'If-Modified-Since': 'Thu, 01 Oct 2026 08:00:00 GMT' },
      304,
    ],
    [
      'an earlier date',
      { 'Last-Modified': 'Thu, 01 Oct 2026 08:00:00 GMT' },
      { 'If-Modified-Since': 'Wed, 30 Sep 2026 08:00:00 GMT' },
      200,
    ],
    [
      'no date that can be read',
      { 'Last-Modified': 'Thu, 01 Oct 2026 08:00:00 GMT' },
      { 'If-Modified-Since': 'yesterday' },
      200,
    ],
  ])('honours validators (RFC 9110 13.1): %s', (_, headers, asked, status) => {
    expect(
      give(whole(headers as Record<string, string>), asking(asked as unknown as Record<string, string>)).status,
    ).toBe(status);
  });

  it('has nothing of the content in a 304, and is not conditional for what is sent (RFC 9110 13.1, 15.4.5)', () => {
    const exchange = whole({ ETag: '"1"', 'Content-Type': 'text/plain', 'Cache-Control': 'no-cache' });
    const given = give(exchange, asking({ 'If-None-Match': '"1"' }));
    expect([given.text, given.headers.map(({ name }) => name)]).toEqual(['', ['ETag', 'Cache-Control']]);
    expect(give(exchange, asking({ 'If-None-Match': '"1"' }, 'POST')).status).toBe(200);
  });

  it.each([
    ['bytes=0-5', 206, 'twelve', 'bytes 0-5/12'],
    ['bytes=7-', 206, 'bytes', 'bytes 7-11/12'],
    ['bytes=-5', 206, 'bytes', 'bytes 7-11/12'],
    ['bytes=-50', 206, TEXT, 'bytes 0-11/12'],
    ['bytes=7-500', 206, 'bytes', 'bytes 7-11/12'],
    ['bytes=12-', 416, '', 'bytes */12'],
    ['bytes=-0', 416, '', 'bytes */12'],
    ['bytes=5-2', 200, TEXT, undefined],
    ['bytes=0-1,3-4', 200, TEXT, undefined],
    ['lines=1-2', 200, TEXT, undefined],
  ])('gives the range %s (RFC 9110 14.1.2)', (range, status, text, contentRange) => {
    const given = give(whole({ ETag: '"1"' }), asking({ Range: range }));
    expect([given.status, given.text, findHeader(given.headers, 'content-range')]).toEqual([
      status,
      text,
      contentRange,
    ]);
  });

  it('gives a range only of what is still the same, and of what has ranges (RFC 9110 13.1.5, 14.3)', () => {
    const ranged = (headers: Record<string, string>, asked: Record<string, string>): number =>
      give(whole(headers), asking({ Range: 'bytes=0-1', ...asked })).status;
    expect(ranged({ ETag: '"1"' }, { 'If-Range': '"1"' })).toBe(206);
    expect(ranged({ ETag: '"2"' }, { 'If-Range': '"1"' })).toBe(200);
    expect(ranged({ ETag: 'W/"1"' }, { 'If-Range': 'W/"1"' })).toBe(200);
    expect(ranged({ 'Accept-Ranges': 'none' }, {})).toBe(200);
  });

  it('gives of a captured part what is in it', () => {
    const part = captured({
      status: 206,
      headers: listOf({ 'Content-Range': 'bytes 2-7/20' }),
      content: { text: 'cdefgh', size: 6 },
    });
    expect(give(part, asking({ Range: 'bytes=2-7' })).text).toBe('cdefgh');
    const inner = give(part, asking({ Range: 'bytes=3-4' }));
    expect([inner.text, findHeader(inner.headers, 'content-range')]).toEqual(['de', 'bytes 3-4/20']);
    const all = captured({
      status: 206,
      headers: listOf({ 'Content-Range': 'bytes 0-5/6' }),
      content: { text: 'cdefgh', size: 6 },
    });
    expect([give(all).status, give(all, asking({ Range: 'bytes=0-5' })).status]).toEqual([200, 206]);
  });

  it.each([
    // A server may send less than is asked for (RFC 9110 15.3.7): the client asks for the rest.
    ['bytes=4-11', 'efgh', 'bytes 4-7/20', 'captured as a part'],
    ['bytes=6-', 'gh', 'bytes 6-7/20', 'captured as a part'],
    ['bytes=0-3', 'cdefgh', 'bytes 2-7/20', 'another part than was asked for'],
    ['bytes=-2', 'cdefgh', 'bytes 2-7/20', 'another part than was asked for'],
    [undefined, 'cdefgh', 'bytes 2-7/20', 'captured as a part, though the whole was asked for'],
  ])(
    'gives of a captured part, asked for %s, what begins as asked, else says what it is',
    (range, text, is, remark) => {
      const part = captured({
        status: 206,
        headers: listOf({ 'Content-Range': 'bytes 2-7/20' }),
        content: { text: 'cdefgh', size: 6 },
      });
      const given = give(part, range === undefined ? asking() : asking({ Range: range }));
      expect([given.text, findHeader(given.headers, 'content-range'), given.remarks]).toEqual([text, is, [remark]]);
    },
  );

  it('of a 304 that the recorder had the body of is that body, for who has none', () => {
    const exchange = whole({ ETag: '"1"' }, 304);
    expect([give(exchange).status, give(exchange).text]).toEqual([200, TEXT]);
    expect(give(exchange, asking({ 'If-None-Match': '"1"' })).status).toBe(304);
  });

  it('says where the body was not captured, and has a redirect by its own field', () => {
    const lost = captured({ status: 200, headers: [], content: { size: 500, mimeType: 'text/plain' } });
    expect(give(lost).remarks).toEqual(['the capture does not hold the body']);
    const moved = captured({ status: 301, headers: [], redirectURL: '/huts/alba', content: { size: 0 } });
    expect(findHeader(give(moved).headers, 'location')).toBe('/huts/alba');
  });

  it.each([
    ['net::ERR_CONNECTION_RESET', 'reset'],
    ['net::ERR_CONNECTION_REFUSED', 'reset'],
    ['net::ERR_TIMED_OUT', 'silence'],
    ['net::ERR_ABORTED', 'silence'],
  ])('is nothing where nothing came: %s as a %s', (error, how) => {
    const exchange = captured({ status: 0, headers: [], content: { size: 0 }, _error: error });
    expect(giveCaptured(asking(), exchange, noInflate)).toMatchObject({ type: 'none', how });
  });
});

describe('changed responses', () => {
  const plain: Given = {
    type: 'response',
    status: 200,
    statusText: 'OK',
    headers: [{ name: 'X-Hut', value: 'a' }],
    body: new TextEncoder().encode('{"items":[{"a":1}],"tags":["x"]}'),
    mimeType: undefined,
    coding: 'br',
    breaksOff: false,
    staysOpen: false,
    remarks: [],
  };
  const changed = (change: Partial<ChangedResponse>): Given => withChange(plain, { exchange: 1, ...change });
  const textOf = (given: Given): string => (given.type === 'none' ? given.how : new TextDecoder().decode(given.body));

  it('have another status, headers, body, an empty list, or none at all', () => {
    expect(changed({ status: 503 })).toMatchObject({ status: 503, statusText: '' });
    expect(changed({ headers: [{ name: 'x-hut' }, { name: 'Retry-After', value: '10' }] })).toMatchObject({
      headers: [{ name: 'Retry-After', value: '10' }],
    });
    expect(textOf(changed({ body: 'ü' }))).toBe('ü');
    expect(textOf(changed({ emptiesList: true }))).toBe('{"items":[],"tags":["x"]}');
    expect(RESPONSE_FAILURES.map((failure) => textOf(changed({ failure })))).toEqual([
      'reset',
      'silence',
      textOf(plain),
    ]);
    expect(changed({ failure: 'breaks-off' })).toMatchObject({ breaksOff: true });
  });

  it('that only take longer are the captured ones; a response can stand where none came', () => {
    expect(changed({ delayMs: 5000 })).toBe(plain);
    expect(
      withChange({ type: 'none', how: 'reset', remarks: [] }, { exchange: 1, status: 200, body: 'x' }),
    ).toMatchObject({ type: 'response', status: 200 });
  });

  it.each([
    ['12 status=99', 'no status'],
    ['12 status=abc', 'no status'],
    ['12 delay=soon', 'no delay'],
    ['12 delay=3600s', 'no delay'],
    ['12 header=nothing', 'no header'],
    ['12 list=full', 'list=empty'],
    ['12 fails=loudly', 'reset, silence, breaks-off'],
    ['12 colour=red', 'is no change'],
    ['status=503', 'is no change'],
  ])('written as "%s" are refused in a sentence', (text, why) => {
    expect(() => readChange(text)).toThrow(ChangeError);
    expect(() => readChange(text)).toThrow(why);
  });

  it('are read as they are written, bodies over several lines as well', () => {
    expect(readChanges('#12 status=503\n12 header=Retry-After: 10\n\n13 body={\n  "a": 1\n}\n14 delay=1.5s')).toEqual([
      { exchange: 12, status: 503, headers: [{ name: 'Retry-After', value: '10' }] },
      { exchange: 13, body: '{\n  "a": 1\n}' },
      { exchange: 14, delayMs: 1500 },
    ]);
    const change = fc.record(
      {
        exchange: fc.nat(9999),
        status: fc.integer({ min: 200, max: 599 }),
        headers: fc.array(
          fc.record({ name: fc.constantFrom('X-A', 'Vary'), value: fc.constantFrom('1', 'a: b', 'x y') }),
          { minLength: 1, maxLength: 2 },
        ),
        emptiesList: fc.constant(true as const),
        delayMs: fc.integer({ min: 0, max: 600_000 }),
        failure: fc.constantFrom(...RESPONSE_FAILURES),
        body: fc
          .array(fc.constantFrom('{', 'text', '  x=1', '12 beds', 'é'), { minLength: 1, maxLength: 4 })
          .map((lines) => lines.join('\n')),
      },
      { requiredKeys: ['exchange'] },
    );
    fc.assert(
      fc.property(fc.uniqueArray(change, { maxLength: 4, selector: ({ exchange }) => exchange }), (changes) => {
        const wanted = changes.filter((one) => Object.keys(one).length > 1);
        expect(readChanges(wanted.flatMap(writeChange).join('\n'))).toEqual(joinChanges(wanted));
      }),
    );
  });
});

describe('the times of a rehearsal', () => {
  it('are those of the server, times a factor, and bounded', () => {
    const exchange = whole();
    expect(paceOf(exchange, 1)).toEqual({ waitMs: 21, receiveMs: 9 });
    expect(paceOf(exchange, 0)).toEqual({ waitMs: 0, receiveMs: 0 });
    expect(paceOf(exchange, 2)).toEqual({ waitMs: 42, receiveMs: 18 });
    expect(paceOf({ phases: { ...exchange.phases, waitMs: 1e9 }, timeMs: 1 }, 1).waitMs).toBe(120_000);
  });

  it('have each message of a socket at its time, behind what the client had sent by then', () => {
    const messages = [
      { type: 'send', time: 1000, opcode: 1, data: 'watch' },
      { type: 'receive', time: 1000.4, opcode: 1, data: 'one' },
      { type: 'receive', time: 1000.9, opcode: 1, data: 'two' },
    ];
    const { messages: read } = captured({ status: 101, headers: [], content: {} }, { _webSocketMessages: messages });
    const played = playedMessages(read, 0.5).map(({ message, atMs, behind }) => [
      message.data,
      Math.round(atMs),
      behind,
    ]);
    expect(played).toEqual([
      ['one', 200, 1],
      ['two', 450, 1],
    ]);
  });

  it('keep events whole', () => {
    const text = 'event: beds\ndata: 1\n\ndata: 2\r\n\r\nid: 3\ndata: 3';
    expect(eventsOf(text)).toEqual(['event: beds\ndata: 1\n\n', 'data: 2\r\n\r\n', 'id: 3\ndata: 3']);
    expect(eventsOf(text).join('')).toBe(text);
    expect(writeEvent('a\nb')).toBe('data: a\ndata: b\n\n');
  });
});
