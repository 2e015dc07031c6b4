import { describe, expect, it } from 'vitest';
import { readBody, readPayloadContent } from '../content';
import { findResponse, findStatus } from '../model';
import { readInstant } from './instant';
import { normaliseEntry } from './normalise';
import type { Json, JsonObject } from './shape';

// What recorders write that is not quite HAR 1.2: each is read by what it plainly means, and noted.

const START = '2026-10-03T09:14:07.250Z';
const noInflate = () => undefined;

const exchange = (parts: {
  readonly entry?: Record<string, Json>;
  readonly request?: Record<string, Json>;
  readonly response?: Record<string, Json>;
}) =>
  normaliseEntry(
    {
      startedDateTime: START,
      request: { method: 'GET', url: 'https://api.cumbrera.example/huts', headers: [], ...parts.request },
      response: { status: 200, headers: [], content: { size: 0 }, ...parts.response },
      ...parts.entry,
    } as JsonObject,
    0,
  );

const PNG = 'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNkYPhfDwAChwGA60e6kgAAAABJRU5ErkJggg==';
const pngBytes = Uint8Array.from(atob(PNG), (character) => character.charCodeAt(0));

const bodyOf = (content: Record<string, Json>, headers: Json = [], bodySize: Json = -1) => {
  const read = exchange({ response: { headers, bodySize, content: content as JsonObject } });
  return { ...readBody(findResponse(read), noInflate), notes: read.notes, bodyBytes: read.bodyBytes };
};

describe('instants', () => {
  const at = Date.UTC(2024, 4, 1, 10);
  it.each<[Json, number | undefined]>([
    ['2024-05-01T12:00:00+02', 120],
    ['20240501T100000Z', 0],
    ['2024-05-01T12:00:00+02:00[Europe/Madrid]', 120],
    ['/Date(1714557600000)/', undefined],
    ['1714557600', undefined],
    [1714557600, undefined],
    [1714557600000, undefined],
    ['Wed, 01 May 2024 10:00:00 GMT', 0],
  ])('reads %j', (written, utcOffsetMinutes) => {
    expect(readInstant(written)).toEqual({ at, utcOffsetMinutes });
  });

  it.each<[Json]>([
    ['2024-13-18T10:00:00Z'],
    ['2024-02-30T10:00:00Z'],
    ['2024-05-01T25:00:00Z'],
    ['1'],
    [7],
    ['request 7'],
    ['5/1/2024, 10:00:00 AM'],
    ['May 1 2024'],
    [true],
  ])('guesses at nothing in %j, and says what stood there', (written) => {
    expect(readInstant(written)).toBeUndefined();
    const read = exchange({ entry: { startedDateTime: written } });
    expect(read.startedAt).toBeUndefined();
    expect(read.notes).toEqual([`its start cannot be read as an instant: ${JSON.stringify(written)}`]);
  });
});

describe('headers', () => {
  const wanted = [
    { name: 'Accept', value: 'text/html' },
    { name: 'X-Count', value: '3' },
  ];
  it.each<[string, Json]>([
    ['an object', { Accept: 'text/html', 'X-Count': 3 }],
    [
      'pairs',
      [
        ['Accept', 'text/html'],
        ['X-Count', '3'],
      ],
    ],
    [
      'objects of key and value',
      [
        { key: 'Accept', value: 'text/html' },
        { key: 'X-Count', value: '3' },
      ],
    ],
    ['lines', ['Accept: text/html', 'X-Count: 3']],
    ['one text', 'Accept: text/html\r\nX-Count: 3\r\n'],
  ])('are read from %s, and that is noted', (_name, headers) => {
    const read = exchange({ request: { headers } });
    expect(read.request.headers).toEqual(wanted);
    expect(read.notes).toEqual(["its request headers were not in HAR's form and were read all the same"]);
  });

  it('keep values that are numbers, null, lists or objects as texts that say so', () => {
    const headers = [
      { name: 'a', value: 5 },
      { name: 'b', value: null },
      { name: 'c', value: ['x', 'y'] },
      { name: 'd', value: { e: 1 } },
      { name: ':path', value: '/' },
    ];
    expect(exchange({ request: { headers } }).request.headers.map(({ name, value }) => `${name}=${value}`)).toEqual([
      'a=5',
      'b=',
      'c=x',
      'c=y',
      'd={"e":1}',
      ':path=/',
    ]);
  });

  it.each<[string, string, number, string[]]>([
    ['commas', 'a=1; Path=/, b=2', 0, ['a=1; Path=/', 'b=2']],
    [
      'commas with dates',
      'a=1; Expires=Wed, 01 May 2030 10:00:00 GMT, b=2; Secure',
      0,
      ['a=1; Expires=Wed, 01 May 2030 10:00:00 GMT', 'b=2; Secure'],
    ],
    ['line feeds', 'a=1\nb=2', 0, ['a=1', 'b=2']],
    ['commas, where as many are listed', 'a=1, b=2', 2, ['a=1', 'b=2']],
  ])('take cookies apart that were joined by %s', (_name, value, listed, wantedCookies) => {
    const cookies = Array.from({ length: listed }, () => ({ name: 'x', value: 'y' }));
    const read = exchange({ response: { headers: [{ name: 'Set-Cookie', value }], cookies } });
    expect(findResponse(read)?.headers.map((header) => header.value)).toEqual(wantedCookies);
  });

  it.each(['a=1, b=2', 'list=x,y=z; Path=/', 'a=1; Expires=Wed, 01 May 2030 10:00:00 GMT'])(
    'leave one cookie whole in which a comma stands: %s',
    (value) => {
      const read = exchange({
        response: { headers: [{ name: 'set-cookie', value }], cookies: [{ name: 'a', value: '1' }] },
      });
      expect(findResponse(read)?.headers).toEqual([{ name: 'set-cookie', value }]);
      expect(read.notes).toEqual([]);
    },
  );
});

describe('bodies', () => {
  it.each<[string, Record<string, Json>]>([
    ['surplus padding', { text: `${PNG}==`, encoding: 'base64' }],
    ['no padding', { text: PNG.replace(/=+$/, ''), encoding: 'base64' }],
    ['line breaks', { text: PNG.replace(/(.{20})/g, '$1\r\n'), encoding: 'base64' }],
    ['an encoding written otherwise', { text: PNG, encoding: ' Base64 ' }],
    ['a data: address', { text: `data:image/png;base64,${PNG}` }],
    ['one character a byte', { text: atob(PNG) }],
    ['one character a byte and a size', { text: atob(PNG), size: pngBytes.length }],
  ])('of images are the same bytes with %s', (_name, content) => {
    const { decoded, bodyBytes } = bodyOf({ mimeType: 'image/png', ...content });
    expect(decoded?.bytes).toEqual(pngBytes);
    expect(bodyBytes).toBe(pngBytes.length);
  });

  it('are text where they are marked base64 and are none', () => {
    const { text, notes } = bodyOf({ mimeType: 'text/plain', text: 'no beds left, sorry!', encoding: 'base64' });
    expect({ text, notes }).toEqual({
      text: 'no beds left, sorry!',
      notes: ['its body is marked base64 and is none; it was read as text'],
    });
  });

  it('stay text in Latin letters where nothing says that each was a byte', () => {
    for (const content of [{ text: 'caf\u00e9' }, { text: 'caf\u00e9', size: 5 }]) {
      expect(bodyOf({ mimeType: 'text/plain', ...content })).toMatchObject({
        text: 'caf\u00e9',
        bodyBytes: 5,
        notes: [],
      });
    }
  });

  it('stay text where their recorder counted characters, and are bytes where only bytes make sense of them', () => {
    for (const text of ['Peña', '¡Adiós!', 'Ã sola', 'ÿ']) {
      expect(bodyOf({ mimeType: 'application/json', text, size: text.length })).toMatchObject({ text, notes: [] });
    }
    for (const wanted of ['Peña', '¡Adiós! 東京', '\u{1f3d4}']) {
      const text = String.fromCharCode(...new TextEncoder().encode(wanted));
      const read = bodyOf({ mimeType: 'application/json', text, size: text.length });
      expect(read).toMatchObject({ text: wanted, notes: ['its body was recorded as bytes, one to a character'] });
    }
  });

  describe('that were taken for windows-1252', () => {
    const wanted = 'beds: 3, "Peña" – 20 €, 東京\n';
    // What a browser gave of these bytes without a charset.
    const text = 'beds: 3, "PeÃ±a" â€“ 20 â‚¬, æ\u009d±äº¬\n';
    const note = 'its body is UTF-8 that was recorded as windows-1252; it is read as UTF-8';
    const sentBytes = new TextEncoder().encode(wanted).length;
    const takenBytes = new TextEncoder().encode(text).length;
    const length = (bytes: number): Json => [{ name: 'Content-Length', value: String(bytes) }];

    it.each<[string, Record<string, Json>, Json?, Json?]>([
      ['an event stream', { mimeType: 'text/event-stream' }],
      ['a table', { mimeType: 'text/csv', size: sentBytes }],
      ['plain text of a known length', { mimeType: 'text/plain' }, length(sentBytes)],
      ['plain text that was counted on the wire', { mimeType: 'text/plain', size: sentBytes }, [], sentBytes],
    ])('are the bytes that were sent: %s', (_name, content, headers, bodySize) => {
      const read = bodyOf({ ...content, text }, headers, bodySize);
      expect(read).toMatchObject({ text: wanted, bodyBytes: sentBytes, notes: [note] });
    });

    it.each<[string, Record<string, Json>, Json?, Json?]>([
      ['of a type that names its charset', { mimeType: 'text/plain; charset=utf-8' }],
      [
        'whose charset is in the header alone',
        { mimeType: 'text/plain' },
        [{ name: 'content-type', value: 'text/plain;charset=utf-8' }],
      ],
      ['of types that are read as UTF-8', { mimeType: 'application/json' }],
      ['of pages', { mimeType: 'text/html' }],
      ['that are as long as they stand', { mimeType: 'text/csv' }, length(takenBytes)],
      ['whose bytes were counted so on the wire', { mimeType: 'text/csv' }, [], takenBytes],
    ])('are not those %s', (_name, content, headers, bodySize) => {
      expect(bodyOf({ ...content, text }, headers, bodySize)).toMatchObject({ text, notes: [] });
    });

    it('keep the size that was recorded', () => {
      expect(bodyOf({ mimeType: 'text/csv', text, size: takenBytes })).toMatchObject({
        text: wanted,
        bodyBytes: takenBytes,
      });
    });

    it.each(['Peña', 'Ã sola', 'Ãa Ã±', '東京', 'â‚', '€ 20', 'plain'])(
      'are not those that would be no UTF-8: %s',
      (own) => {
        expect(bodyOf({ mimeType: 'text/csv', text: own })).toMatchObject({ text: own, notes: [] });
      },
    );
  });
});

describe('payloads', () => {
  it.each<[string, Json, string]>([
    ['a text', 'a=1&b=2', 'a=1&b=2'],
    ['a text that is an object', { mimeType: 'application/json', text: { a: [1] } }, '{"a":[1]}'],
    ['parameters in an object', { mimeType: 'application/x-www-form-urlencoded', params: { a: '1', b: 2 } }, 'a=1&b=2'],
  ])('are read from %s', (_name, postData, wanted) => {
    const { request, notes } = exchange({ request: { method: 'POST', postData } });
    const content = request.payload === undefined ? undefined : readPayloadContent(request.payload, undefined);
    expect(content?.type === 'bytes' && new TextDecoder().decode(content.bytes)).toBe(wanted);
    expect(notes).toEqual(["its payload was not in HAR's form and was read all the same"]);
  });
});

describe('the rest of an entry', () => {
  it('has its status also with the reason behind it, and never in hexadecimal', () => {
    const statusOf = (status: Json) => findStatus(exchange({ response: { status } }));
    expect(['200 OK', ' 404', '503', 301.0].map(statusOf)).toEqual([200, 404, 503, 301]);
    expect(['0x1f4', 'OK', null, '', '-1'].map(statusOf)).toEqual([
      undefined,
      undefined,
      undefined,
      undefined,
      undefined,
    ]);
  });

  it('names each version of HTTP in one way', () => {
    const protocols = ['h2', 'HTTP/2', 'http/2.0', 'HTTP/2.0', 'http/1.1', 'HTTP/3', 'quic/99'];
    expect(protocols.map((httpVersion) => findResponse(exchange({ response: { httpVersion } }))?.protocol)).toEqual([
      'h2',
      'h2',
      'h2',
      'h2',
      'HTTP/1.1',
      'h3',
      'quic/99',
    ]);
  });

  it.each<[Json, string]>([
    ['Memory', 'memory'],
    ['DISK', 'disk'],
    ['memory cache', 'memory'],
    ['disk-cache', 'disk'],
    ['false', 'network'],
    [false, 'network'],
    ['', 'network'],
    ['true', 'cache'],
    [true, 'cache'],
  ])('came from where _fromCache %j says', (_fromCache, source) => {
    expect(exchange({ entry: { _fromCache } }).source.value).toBe(source);
  });

  it('came from the cache that a response names, or that HAR itself does where nothing crossed the network', () => {
    expect(exchange({ response: { _fromDiskCache: true } }).source.value).toBe('disk');
    const cache = { beforeRequest: { lastAccess: START, eTag: '"a"', hitCount: 3 } };
    const content = { size: 500, text: 'x' };
    const timings = { send: 0, wait: 0, receive: 0 };
    const named = (bodySize: number, wait: number) =>
      exchange({ entry: { cache, timings: { ...timings, wait } }, response: { bodySize, content } }).source.value;
    expect([named(0, 0), named(480, 0), named(0, 40)]).toEqual(['cache', 'network', 'network']);
  });

  it('has what it is known by elsewhere: sizes on the entry, initiators as text', () => {
    expect(exchange({ entry: { _transferSize: 812 } }).wireBytes).toBe(812);
    const initiator = JSON.stringify({ type: 'script', stack: { callFrames: [{ url: 'https://x.example/a.js' }] } });
    expect(exchange({ entry: { _initiator: initiator } }).initiatorUrl).toBe('https://x.example/a.js');
    expect(exchange({ entry: { _initiator: '{"url":' } }).initiatorUrl).toBeUndefined();
  });
});
