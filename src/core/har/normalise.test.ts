import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { findFailure, findResponse } from '../model';
import { wordFailure } from '../wording';
import { normaliseEntry } from './normalise';
import type { JsonObject } from './shape';

const entry = (parts: Record<string, unknown>): JsonObject =>
  ({
    startedDateTime: '2026-10-03T09:14:07.250Z',
    request: { method: 'GET', url: 'https://api.cumbrera.example/huts', headers: [] },
    response: { status: 200, headers: [], content: { size: 0 } },
    ...parts,
  }) as unknown as JsonObject;

const clockOf = (url: string, timings: Record<string, number>, time?: number) => {
  const { phases, timeMs, notes } = normaliseEntry(entry({ request: { method: 'GET', url }, timings, time }), 0);
  return { phases, timeMs, notes };
};

describe('the clock of an entry', () => {
  it('takes TLS out of connect, and -1 as a phase that does not apply', () => {
    const { phases, timeMs } = clockOf('https://x.example/', {
      blocked: 3,
      dns: -1,
      connect: 40,
      ssl: 25,
      send: 1,
      wait: 100,
      receive: 6,
    });
    expect(phases).toEqual({
      blockedMs: 3,
      dnsMs: undefined,
      connectMs: 15,
      tlsMs: 25,
      sendMs: 1,
      waitMs: 100,
      receiveMs: 6,
    });
    expect(timeMs).toBe(150);
  });

  it('does not take what was received for the whole where the wait for it was not recorded', () => {
    const only = { blocked: -1, dns: -1, connect: -1, ssl: -1, send: -1, wait: -1, receive: 2 };
    const note = 'its wait for the response was not recorded; 2 ms of receiving were';
    for (const total of [undefined, -1, 2, 2.5]) {
      const { phases, timeMs, notes } = clockOf('https://x.example/', only, total);
      expect(Object.values(phases).filter((ms) => ms !== undefined)).toEqual([]);
      expect([timeMs, notes]).toEqual([undefined, [note]]);
    }
    expect(clockOf('https://x.example/', only, 135)).toMatchObject({ timeMs: 135, notes: [note] });
    // What a cache gave was not waited for; what never came, neither.
    expect(clockOf('https://x.example/', { ...only, send: 0 })).toMatchObject({ timeMs: 2, notes: [] });
    const other = (parts: object) => normaliseEntry(entry({ timings: only, ...parts }), 0).timeMs;
    expect(other({ _fromCache: 'memory' })).toBe(2);
    expect(other({ response: { status: 0 } })).toBe(2);
  });

  it('takes TLS that is longer than connect as beside it, where the total says so, and within it where nothing does', () => {
    const timings = { dns: 10, connect: 20, ssl: 100, send: 0, wait: 100, receive: 20 };
    const beside = clockOf('https://x.example/', timings, 250);
    expect(beside).toMatchObject({ timeMs: 250, phases: { connectMs: 20, tlsMs: 100 } });
    expect(beside.notes).toEqual(['its TLS time is not within its connect time, but beside it: so its total says']);
    for (const total of [150, undefined, 900]) {
      const within = clockOf('https://x.example/', timings, total);
      expect(within).toMatchObject({ timeMs: 150, phases: { connectMs: 0, tlsMs: 20 } });
      expect(within.notes[0]).toBe('its TLS time is longer than its connect time');
    }
    // A total that was summed up without a thought says nothing where TLS fits.
    expect(clockOf('https://x.example/', { ...timings, connect: 120 }, 350).phases).toMatchObject({ connectMs: 20 });
  });

  it('leaves TLS on plain http out and says so', () => {
    const { phases, timeMs, notes } = clockOf(
      'http://x.example/',
      { connect: 40, ssl: 41, send: 0, wait: 5, receive: 5 },
      91,
    );
    expect(phases).toMatchObject({ connectMs: 40, tlsMs: undefined });
    expect(timeMs).toBe(50);
    expect(notes).toEqual(['TLS time on plain http was left out']);
  });

  it('lets the phases win over a stale total and notes the difference beyond 5 %', () => {
    expect(clockOf('https://x.example/', { send: 0, wait: 100, receive: 0 }, 104).notes).toEqual([]);
    const { timeMs, notes } = clockOf('https://x.example/', { send: 0, wait: 100, receive: 0 }, 120);
    expect(timeMs).toBe(100);
    expect(notes).toEqual(['its recorded time of 120 ms is not the sum of its phases, 100 ms']);
  });

  it('takes the total where no phase was recorded, and knows nothing where that is missing too', () => {
    expect(clockOf('https://x.example/', { send: -1, wait: -1, receive: -1 }, 15.8).timeMs).toBe(15.8);
    expect(clockOf('https://x.example/', { send: -1, wait: -1, receive: -1 }, -1).timeMs).toBeUndefined();
  });
});

describe('the outcome of an entry', () => {
  it.each([
    [{ status: 0, _error: 'net::ERR_NAME_NOT_RESOLVED' }, 'no response: net::ERR_NAME_NOT_RESOLVED'],
    [{ status: -1, _failureText: 'net::ERR_CONNECTION_REFUSED' }, 'no response: net::ERR_CONNECTION_REFUSED'],
    [{ status: 0, statusText: 'blocked' }, 'no response: blocked'],
    [{}, 'no response'],
    [{ status: 404, statusText: 'Not Found' }, 'status 404 Not Found'],
    [
      { status: 200, _failureText: 'net::ERR_CONTENT_LENGTH_MISMATCH' },
      'cut off after status 200: net::ERR_CONTENT_LENGTH_MISMATCH',
    ],
    [{ status: 399 }, undefined],
    [{ status: 400, statusText: '' }, 'status 400'],
  ])('reads %j as %s', (response, failure) => {
    const found = findFailure(normaliseEntry(entry({ response }), 0));
    expect(found === undefined ? undefined : wordFailure(found)).toBe(failure);
  });

  it('does not count an event stream that the page closed as failed', () => {
    const stream = { status: 200, _failureText: 'net::ERR_ABORTED', content: { mimeType: 'text/event-stream' } };
    expect(findFailure(normaliseEntry(entry({ response: stream }), 0))).toBeUndefined();
  });
});

describe('sizes', () => {
  const sizes = (response: Record<string, unknown>) => {
    const { wireBytes, bodyBytes } = normaliseEntry(entry({ response: { status: 200, ...response } }), 0);
    return [wireBytes, bodyBytes];
  };
  it('takes the very body for what a size of 0 beside it denies', () => {
    expect(sizes({ bodySize: 5, content: { size: 0, text: 'hé' } })).toEqual([5, 3]);
    expect(sizes({ bodySize: 5, content: { size: 0, text: '' } })).toEqual([5, 0]);
  });

  it('takes _transferSize first, then headers and body, then body alone, and is else unknown', () => {
    expect(sizes({ _transferSize: 0, headersSize: 100, bodySize: 5, content: { size: 9 } })).toEqual([0, 9]);
    expect(sizes({ _transferSize: -1, headersSize: 100, bodySize: 5, content: { size: 9 } })).toEqual([105, 9]);
    expect(sizes({ headersSize: -1, bodySize: 5 })).toEqual([5, undefined]);
    expect(sizes({ headersSize: 100, bodySize: -1, content: { size: -1 } })).toEqual([undefined, undefined]);
  });
  it('counts nothing on the wire for a copy, whatever its recorder measured when that came', () => {
    const copied = (response: Record<string, unknown>) =>
      normaliseEntry({ ...entry({ response: { status: 200, ...response } }), _fromCache: 'disk' }, 0).wireBytes;
    expect(copied({ headersSize: 155, bodySize: 0, content: { size: 9 } })).toBe(0);
    expect(copied({ _transferSize: 155, headersSize: 155 })).toBe(0);
    expect(sizes({ headersSize: 155, bodySize: 0 })[0]).toBe(155);
  });
  it('measures the recorded text where the length is missing', () => {
    expect(sizes({ content: { text: 'mañana' } })[1]).toBe(7);
    for (const [text, bytes] of [
      ['aGVsbG8=', 5],
      ['aGVsbA==', 4],
      ['aGVs', 3],
      ['aGVsbA', 4],
      ['aGVs\r\nbA==', 4],
      ['', 0],
    ] as const)
      expect(sizes({ content: { text, encoding: 'base64' } })[1], text).toBe(bytes);
  });
});

describe('phases', () => {
  it('are never below nothing, whatever their recorder wrote', () => {
    const ms = fc.oneof(fc.double({ min: -2, max: 500, noNaN: true }), fc.constantFrom(-1, 0, 1, undefined));
    const timings = fc.record({ blocked: ms, dns: ms, connect: ms, ssl: ms, send: ms, wait: ms, receive: ms });
    fc.assert(
      fc.property(timings, (recorded) => {
        const { phases, timeMs } = normaliseEntry(entry({ timings: recorded as unknown as JsonObject }), 0);
        for (const length of Object.values(phases)) expect(length ?? 0).toBeGreaterThanOrEqual(0);
        expect(timeMs ?? 0).toBeGreaterThanOrEqual(0);
      }),
      { examples: [[{ blocked: 1, dns: 1, connect: 10, ssl: 40, send: 1, wait: 1, receive: 1 }]] },
    );
  });
});

describe('a navigation', () => {
  const goes = (headers: Record<string, string>, more: Record<string, unknown> = {}) =>
    normaliseEntry(
      entry({
        request: {
          method: 'GET',
          url: 'https://a.example/',
          headers: Object.entries(headers).map(([name, value]) => ({ name, value })),
        },
        ...more,
      }),
      0,
    ).isNavigation;

  it.each([
    [{ 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'document' }, true],
    [{ 'sec-fetch-mode': 'navigate' }, true],
    [{ 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'iframe' }, false],
    [{ 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'frame' }, false],
    [{ 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'embed' }, false],
    [{ 'sec-fetch-mode': 'no-cors', 'sec-fetch-dest': 'image' }, false],
    [{ 'sec-fetch-mode': 'cors', 'sec-fetch-dest': 'document' }, false],
    [{}, false],
  ])('by %j is one of the window as a whole: %s', (headers, is) => expect(goes(headers)).toBe(is));
});

describe('repairs', () => {
  it('take joined Set-Cookie headers apart, and say so', () => {
    const headers = [
      { name: 'set-cookie', value: 'a=1; Path=/\nb=2' },
      { name: 'x-text', value: 'two\nlines' },
    ];
    const exchange = normaliseEntry(entry({ response: { status: 200, headers } }), 0);
    expect(findResponse(exchange)?.headers.map(({ name, value }) => `${name}: ${value}`)).toEqual([
      'set-cookie: a=1; Path=/',
      'set-cookie: b=2',
      'x-text: two\nlines',
    ]);
    expect(exchange.notes).toEqual(['several Set-Cookie headers were joined in one']);
  });

  it('name what is missing', () => {
    expect(normaliseEntry(entry({ request: {} }), 0).notes).toEqual([
      'it names no method; GET was taken',
      'it names no address',
    ]);
  });
});

describe('tolerance', () => {
  it.each([
    ['nothing at all', {}],
    [
      'wrong types everywhere',
      { request: [], response: 'x', timings: null, time: 'soon', pageref: 7, startedDateTime: 12, _initiator: [] },
    ],
    [
      'headers that are no headers',
      { request: { url: 'u', headers: [null, 1, { name: 2 }, { name: 'a', value: 3 }] } },
    ],
    ['hostile keys', JSON.parse('{"__proto__":{"status":1},"request":{"__proto__":{"url":"x"},"constructor":1}}')],
  ])('reads an entry with %s', (_name, parts) => {
    const exchange = normaliseEntry(parts as JsonObject, 3);
    expect(exchange.index).toBe(3);
    expect(exchange.wireBytes).toBeUndefined();
    expect(({} as { status?: unknown }).status).toBeUndefined();
  });

  it('keeps a header value that is not text as text', () => {
    const headers = [
      { name: 'x-count', value: 3 },
      { name: 'x-none', value: null },
    ];
    const exchange = normaliseEntry(entry({ response: { status: 200, headers } }), 0);
    expect(findResponse(exchange)?.headers).toEqual([
      { name: 'x-count', value: '3' },
      { name: 'x-none', value: '' },
    ]);
  });

  it('reads message times in s and in ms since 1970 alike', () => {
    const messages = [
      { type: 'send', time: 1_790_000_000.25, opcode: 1, data: 'a' },
      { type: 'receive', time: 1_790_000_000_250, opcode: 1, data: 'b' },
    ];
    const read = normaliseEntry(entry({ _webSocketMessages: messages }), 0).messages;
    expect(read.map(({ direction, at }) => [direction, at])).toEqual([
      ['sent', 1_790_000_000_250],
      ['received', 1_790_000_000_250],
    ]);
  });
});
