import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import type { PageId } from '../model';
import { type Finding, findingsOn, type RuleId } from './index';
import { call, DOCUMENT, findingsOf, foundIn, image, jwt, many, type Sketch, START } from './testing/sketch';

const SCRIPT: Sketch = { url: '/app.js', kind: 'script', type: 'text/javascript', body: 'show(hut.name)' };
const hutList = (count: number): string =>
  JSON.stringify(
    Array.from({ length: count }, (_, at) => ({ name: `Hut ${at}`, history: 'built long ago, and again after that' })),
  );
const closedWith = (code: number, opcode = 8) => ({
  type: 'receive',
  opcode,
  data: Buffer.from([code >> 8, code & 255]).toString('base64'),
});
const SOCKET = (...messages: ReturnType<typeof closedWith>[]): Sketch => ({
  url: 'wss://live.a.example/beds',
  kind: 'websocket',
  status: 101,
  messages,
});
const TEXT = 'walkers book beds in mountain huts. '.repeat(200);
/** Text that gzip cannot make much smaller. */
const noise = (length: number): string =>
  many(Math.ceil(length / 60), () => ({}))
    .map((_, at) => createHash('sha512').update(String(at)).digest('base64').slice(0, 60))
    .join('')
    .slice(0, length);
const preflight = (allowed: Record<string, string>, headers?: string): Sketch =>
  call(0, {
    method: 'OPTIONS',
    status: 204,
    request: { ...PREFLIGHT, ...(headers === undefined ? {} : { 'access-control-request-headers': headers }) },
    response: { 'access-control-allow-origin': '*', ...allowed },
  });
/** A preflight that asks leave for PUT with X-A, and the request that did not get it. */
const refused = (allowed: Record<string, string>, request: Record<string, string>): Sketch[] => [
  preflight(allowed, 'x-a'),
  call(0, {
    method: 'PUT',
    at: 20,
    status: 0,
    failure: 'net::ERR_FAILED',
    request: { origin: 'https://b.example', ...request },
  }),
];
const NAMED = { 'access-control-allow-origin': 'https://b.example' };
const LET = { ...NAMED, 'access-control-allow-credentials': 'true' };
const PREFLIGHT = { origin: 'https://b.example', 'access-control-request-method': 'PUT' };

/** For each rule captures in which it fires, with what it claims, and captures in which it must not. */
interface Cases {
  readonly fires: readonly (readonly [Sketch[], RegExp])[];
  readonly silent: readonly Sketch[][];
}
/** What needs a page with its milestones is tried below, in words. */
const BELOW = { fires: [], silent: [] } satisfies Cases;
/** About the start of the made captures. */
const NOW = 'Sat, 03 Oct 2026 09:00:00 GMT';
/** What an EventSource asks with. */
const EVENTS = { accept: 'text/event-stream', 'cache-control': 'no-cache' };
const eventsAs = (type: string, more: Partial<Sketch> = {}): Sketch =>
  call(0, { url: '/events', kind: 'eventsource', type, body: 'x', request: EVENTS, ...more });
const framed = (response: Readonly<Record<string, string>>): Sketch => ({
  url: '/frame',
  kind: 'document',
  failure: 'net::ERR_BLOCKED_BY_RESPONSE',
  response,
});
const CASES: Readonly<Record<RuleId, Cases>> = {
  'found-late': BELOW,
  gap: BELOW,
  'ready-to-loaded': BELOW,
  'redirect-cost': BELOW,
  'third-party-on-route': BELOW,
  'http-error': {
    fires: [
      [[DOCUMENT, call(50, { status: 404 })], /^50 returned 404$/],
      // Three files that are missing are not one that is missing three times.
      [
        [DOCUMENT, ...['a', 'b', 'c'].map((name) => image(50, { url: `/${name}-1.png`, status: 404 }))],
        /^3 images returned 404$/,
      ],
      [many(3, (at) => call(at, { url: '/a', status: 404 })), /^a returned 404 3 times$/],
      // No preflight by anything that was recorded.
      [[DOCUMENT, call(50, { method: 'OPTIONS', status: 500 })], /^50 returned 500$/],
    ],
    silent: [
      [DOCUMENT, call(50, { status: 399 })],
      [DOCUMENT, call(50, { method: 'OPTIONS', status: 500, request: PREFLIGHT })],
      [call(10, { url: '/a', status: 500 }), call(90, { url: '/a' })],
    ],
  },
  'unused-fields': {
    fires: [
      [
        [SCRIPT, call(50, { body: hutList(2000) })],
        /^\d\d % of GET www\.cumbrera\.example\/api\/beds\/\{\} is in fields/,
      ],
      // Bytes are counted, not letters: these take two each.
      [
        [
          SCRIPT,
          call(50, {
            body: JSON.stringify(
              Array.from({ length: 1500 }, () => ({ name: 'x'.repeat(60), history: 'й'.repeat(25) })),
            ),
          }),
        ],
        /^47 % of /,
      ],
    ],
    silent: [
      // Small; named by the script; nothing known of scripts.
      [SCRIPT, call(50, { body: hutList(100) })],
      [{ ...SCRIPT, body: 'hut.name + hut.history' }, call(50, { body: hutList(2000) })],
      [DOCUMENT, call(50, { body: hutList(2000) })],
      [SCRIPT, call(50, { body: `${hutList(2000)} cut` })],
    ],
  },
  'no-answer': {
    fires: [
      [[DOCUMENT, call(50, { status: 0, failure: 'net::ERR_CONNECTION_REFUSED' })], /the connection was refused/],
    ],
    silent: [
      [DOCUMENT, call(50)],
      [DOCUMENT, call(50, { url: 'about:blank', status: 0, failure: 'aborted' })],
      // What may be CORS is told as that.
      [DOCUMENT, call(50, { status: 0, failure: 'net::ERR_FAILED', request: { origin: 'https://b.example' } })],
    ],
  },
  unreadable: {
    fires: [
      [[call(0, { body: '{"beds": [1, 2' })], /says that it is JSON and does not parse/],
      [[image(0, { body: 'no such photo' })], /is text, where an image was asked for/],
      [
        [{ url: '/a.js', kind: 'script', type: 'text/plain', response: { 'x-content-type-options': 'nosniff' } }],
        /is a script of type text\/plain, which browsers refuse with nosniff/,
      ],
      // What is wrong with it is not known: it may be damaged, or in another coding than is said.
      [
        [image(0, { failure: 'net::ERR_CONTENT_DECODING_FAILED', response: { 'content-encoding': 'gzip' } })],
        /could not be decompressed$/,
      ],
      [
        [
          image(0, {
            failure: 'net::ERR_CONTENT_DECODING_FAILED',
            request: { 'accept-encoding': 'gzip, deflate, br;q=0' },
            response: { 'content-encoding': 'br' },
          }),
        ],
        /came compressed by br, which its request did not accept$/,
      ],
      ...['br', '*', 'gzip, BR;q=0.1'].map((accepted): readonly [Sketch[], RegExp] => [
        [
          image(0, {
            failure: 'net::ERR_CONTENT_DECODING_FAILED',
            request: { 'accept-encoding': accepted },
            response: { 'content-encoding': 'br' },
          }),
        ],
        /could not be decompressed$/,
      ]),
    ],
    silent: [
      [call(0, { body: '{"beds": [1, 2]}' })],
      // A guard against being run as a script; lines of JSON; what its recorder kept only in part.
      [call(0, { body: ')]}\',\n{"beds": 1}' })],
      [call(0, { body: '{"a":1}\n{"a":2}', type: 'application/x-ndjson' })],
      [call(0, { body: '{"beds": [1, 2', size: 900 })],
      [image(0, { body: '<svg xmlns="http://www.w3.org/2000/svg"/>', type: 'image/svg+xml' })],
      [image(0, { body: 'GIF89a then bytes' })],
      [{ url: '/a.js', kind: 'script', type: 'text/javascript', response: { 'x-content-type-options': 'nosniff' } }],
      [{ url: '/a.js', kind: 'script', type: 'text/plain' }],
    ],
  },
  'slow-connection': {
    fires: [
      [
        many(4, (at) => ({ ...image(at * 400, { wait: 330 }), connect: at === 0 ? 300 : undefined }) as Sketch),
        /^The way to www\.cumbrera\.example and back takes 300 ms$/,
      ],
      [many(4, (at) => image(at * 400, { wait: 330 })), /^The way to www\.cumbrera\.example and back may take 330 ms$/],
      [
        many(4, (at) => image(at, { wire: 50_000, download: 4000 })),
        /^The connection was full for 4\.00 s: it gave 50 kB\/s and no more$/,
      ],
    ],
    silent: [
      many(4, (at) => image(at * 400, { wait: 140 })),
      many(2, (at) => image(at * 400, { wait: 330 })),
      // One download alone may be slow for its server's sake.
      [image(0, { wire: 200_000, download: 4000 })],
    ],
  },
  'slow-set-up': {
    fires: [[[{ ...DOCUMENT, connect: 300 }], /^Setting up the connection to www\.cumbrera\.example took 300 ms$/]],
    silent: [
      [{ ...DOCUMENT, connect: 299 }],
      [DOCUMENT, image(30, { url: 'https://maps.example/a.png', connect: 900, by: '/huts' })],
    ],
  },
  'preflight-each-time': {
    fires: [
      [
        many(3, (at) => ({ ...preflight({ 'access-control-allow-methods': 'PUT' }), at })),
        /^3 preflights went to www\.cumbrera\.example, whose permission browsers keep for 5 seconds only$/,
      ],
      ...[
        ['0', 'do not keep'],
        ['-1', 'do not keep'],
        ['4', 'keep for 4 seconds only'],
        ['60s', 'keep for 5 seconds only'],
      ].map(([maxAge = '', how]): Cases['fires'][number] => [
        many(3, (at) => ({
          ...preflight({ 'access-control-allow-methods': 'PUT', 'access-control-max-age': maxAge }),
          at,
        })),
        new RegExp(`^3 preflights went to www\\.cumbrera\\.example, whose permission browsers ${how}$`),
      ]),
    ],
    silent: [
      many(3, (at) => ({
        ...preflight({ 'access-control-allow-methods': 'PUT', 'access-control-max-age': '600' }),
        at,
      })),
      many(2, (at) => ({ ...preflight({ 'access-control-allow-methods': 'PUT' }), at })),
    ],
  },
  'cross-origin': {
    fires: [
      [
        [DOCUMENT, call(50, { status: 0, failure: 'net::ERR_FAILED', request: { origin: 'https://b.example' } })],
        /^1 call to www\.cumbrera\.example failed, possibly because CORS headers are missing$|^50 to www\.cumbrera\.example failed, possibly/,
      ],
      [
        [DOCUMENT, call(50, { failure: 'net::ERR_FAILED', request: { origin: 'https://b.example' } })],
        /returned 200, and CORS kept the response from the page: it has no Access-Control-Allow-Origin/,
      ],
      [
        [
          call(0, {
            failure: 'net::ERR_FAILED',
            request: { origin: 'https://b.example', cookie: 'a=1' },
            response: { 'access-control-allow-origin': '*' },
          }),
        ],
        /is \*, which does not cover cookies/,
      ],
      [[call(0, { method: 'OPTIONS', status: 204, request: PREFLIGHT })], /has no Access-Control-Allow-Origin/],
      [
        [
          call(0, {
            method: 'OPTIONS',
            status: 204,
            request: PREFLIGHT,
            response: { 'access-control-allow-origin': '*' },
          }),
        ],
        /lacks PUT/,
      ],
      [[preflight({ 'access-control-allow-methods': 'put' })], /lacks PUT/],
      [
        [preflight({ 'access-control-allow-methods': '*', 'access-control-allow-headers': '*' }, 'Authorization')],
        /Access-Control-Allow-Headers lacks authorization/,
      ],
      // With cookies, "*" is a name like any other.
      ...(
        [
          [{ 'access-control-allow-methods': 'PUT' }, /refused: Access-Control-Allow-Origin is \*, which does not/],
          [{ ...NAMED, 'access-control-allow-methods': 'PUT' }, /refused: it lacks Access-Control-Allow-Credentials/],
          [{ ...LET, 'access-control-allow-methods': '*' }, /refused: Access-Control-Allow-Methods lacks PUT/],
          [
            { ...LET, 'access-control-allow-methods': 'PUT', 'access-control-allow-headers': '*' },
            /refused: Access-Control-Allow-Headers lacks x-a/,
          ],
        ] as const
      ).map(([allowed, claim]) => [refused(allowed, { cookie: 'a=1' }), claim] as const),
      // Whether there were any, a request that failed does not say.
      [
        refused({ ...LET, 'access-control-allow-methods': 'PUT', 'access-control-allow-headers': '*' }, {}),
        /possibly refused: Access-Control-Allow-Headers is \*, which does not cover cookies/,
      ],
    ],
    silent: [
      // Same origin; read by the page, whatever its recorder kept of the headers; a mode that asks for no leave; a socket.
      [call(0, { status: 0, failure: 'net::ERR_FAILED', request: { origin: 'https://www.cumbrera.example' } })],
      [call(0, { body: 'read', request: { origin: 'https://b.example' } })],
      [call(0, { method: 'POST', request: { origin: 'https://b.example', 'sec-fetch-mode': 'no-cors' } })],
      [{ ...SOCKET(), request: { origin: 'https://b.example' } }],
      // A reason that says more.
      [call(0, { status: 0, failure: 'net::ERR_CONNECTION_REFUSED', request: { origin: 'https://b.example' } })],
      [
        call(0, {
          method: 'OPTIONS',
          status: 204,
          request: PREFLIGHT,
          response: { 'access-control-allow-origin': '*', 'access-control-allow-methods': 'PUT' },
        }),
      ],
      [preflight({ 'access-control-allow-methods': '*' })],
      [preflight({ 'access-control-allow-methods': 'GET, PUT', 'access-control-allow-headers': '*' }, 'x-a, x-b')],
      [
        preflight(
          { 'access-control-allow-methods': 'PUT', 'access-control-allow-headers': 'X-A,authorization' },
          'Authorization',
        ),
      ],
    ],
  },
  'redirect-loop': {
    fires: [
      [
        many(3, (at) => ({ url: '/in', status: 302, at: at * 30, response: { location: '/in' } })),
        /redirects to itself: 3 times in a row/,
      ],
      // Two that send to one another, and what the browser makes of it in the end, are one matter.
      [
        [
          ...many(7, (at) => ({
            url: at % 2 === 0 ? '/in' : '/out',
            kind: 'document',
            status: 302,
            at: at * 30,
            response: { location: at % 2 === 0 ? '/out' : '/in' },
          })),
          { url: '/out', kind: 'document', at: 210, status: 0, failure: 'net::ERR_TOO_MANY_REDIRECTS' },
        ],
        /^\/in and \/out redirect to one another: 7 redirects in a loop$/,
      ],
    ],
    silent: [
      many(2, (at) => ({ url: '/in', status: 302, at: at * 30, response: { location: '/in' } })),
      // Asked for again and again, and each time it leads where it is to.
      many(8, (at) =>
        at % 2 === 0
          ? { url: '/photo', status: 302, at: at * 30, response: { location: '/a.webp' } }
          : { url: '/a.webp', kind: 'image', at: at * 30 },
      ),
      // A guard that sends to the sign-in each time.
      many(6, (at) =>
        at % 2 === 0
          ? { url: '/huts', status: 302, at: at * 900, response: { location: '/in' } }
          : { url: '/in', at: at * 900 },
      ),
    ],
  },
  'error-in-success': {
    fires: [
      [[call(0, { body: '{"errors":[{"message":"no beds left"}],"data":null}' })], /returned 200 with an error inside/],
      [[call(0, { body: '{"error":"gone"}' })], /error inside/],
    ],
    silent: [
      [call(0, { body: '{"errors":[],"error":null,"data":1}' })],
      [call(0, { status: 500, body: '{"error":"x"}' })],
    ],
  },
  'cut-short': {
    fires: [
      [
        [call(0, { body: 'abc', wire: 9, response: { 'content-length': '10' } })],
        /was cut off: 9 B arrived on the wire, headers included, of 10 B/,
      ],
      [[call(0, { failure: 'net::ERR_CONNECTION_RESET' })], /was cut off after its headers had arrived/],
      [[call(0, { failure: 'net::ERR_ABORTED' })], /was cancelled in the browser after its headers had arrived/],
      [[DOCUMENT, framed({ 'x-frame-options': 'DENY' })], /was not shown in its frame: its X-Frame-Options is DENY$/],
      // The newer of the two counts.
      [
        [
          DOCUMENT,
          framed({ 'x-frame-options': 'DENY', 'content-security-policy': "img-src *; frame-ancestors 'none'" }),
        ],
        /its Content-Security-Policy says frame-ancestors 'none'$/,
      ],
      [[DOCUMENT, framed({ 'content-security-policy': 'img-src *' })], /kept the response from the page$/],
      ...[
        { 'x-frame-options': 'SAMEORIGIN' },
        { 'x-frame-options': 'ALLOWALL' },
        { 'x-frame-options': 'DENY', 'content-security-policy': 'frame-ancestors *' },
        { 'content-security-policy': "frame-ancestors 'self'" },
      ].map((headers): readonly [Sketch[], RegExp] => [
        [DOCUMENT, framed(headers)],
        /kept the response from the page$/,
      ]),
      [
        [DOCUMENT, { ...framed({ 'x-frame-options': 'SameOrigin' }), url: 'https://other.example/frame' }],
        /its X-Frame-Options is SAMEORIGIN$/,
      ],
      // The window itself went there.
      [[framed({ 'x-frame-options': 'DENY' })], /kept the response from the page$/],
      [
        [image(0, { failure: 'net::ERR_BLOCKED_BY_RESPONSE', response: { 'x-frame-options': 'DENY' } })],
        /kept the response from the page$/,
      ],
    ],
    silent: [
      [call(0, { body: 'abc', response: { 'content-length': '3' } })],
      [call(0, { body: 'abc', response: { 'content-length': '10', 'content-encoding': 'br' } })],
      // The recorder decoded it: other characters took as many bytes as were promised.
      [call(0, { body: 'abc', wire: 210, response: { 'content-length': '10' } })],
      // No content has no bytes to lack.
      [call(0, { status: 304, body: 'abc', wire: 9, response: { 'content-length': '10' } })],
      // Given up on its error: that is told by http-error.
      [call(0, { status: 404, failure: 'net::ERR_ABORTED' })],
    ],
  },
  'wrong-type': {
    fires: [
      // Other calls of the endpoint were answered with JSON.
      [
        [
          call(0, { body: '{}' }),
          call(50, { url: '/api/beds/9', type: 'text/html', body: '<!doctype html><p>sign in' }),
        ],
        /a page of HTML where JSON was asked for/,
      ],
      [
        [{ url: '/a.js', kind: 'script', body: '<!doctype html><p>sign in' }],
        /a page of HTML where a script was asked for/,
      ],
      [[image(0, { type: 'image/png', body: '<!doctype html><p>sign in' })], /where an image was asked for$/],
      [[eventsAs('application/json')], /is of type application\/json, where an event stream was asked for$/],
    ],
    silent: [
      [DOCUMENT, { url: '/a.js', kind: 'script', body: 'a()' }],
      [eventsAs('text/event-stream; charset=utf-8')],
      // It ends the stream for good; a fetch may take what comes.
      [eventsAs('text/plain', { status: 204 })],
      [eventsAs('application/json', { request: { accept: 'text/event-stream' } })],
      [eventsAs('application/json', { request: { ...EVENTS, accept: 'text/event-stream, application/json' } })],
      [{ ...DOCUMENT, body: '<!doctype html>' }],
      // A fragment that was asked for as HTML.
      [call(0, { type: 'text/html', body: '<!doctype html>', request: { accept: 'text/html, application/json' } })],
    ],
  },
  'token-expired': {
    fires: [
      [[call(0, { status: 401, request: { authorization: jwt(START / 1000 - 60) } })], /its token had expired 1 min/],
      [
        [
          call(0, { url: '/in', response: { 'set-cookie': 'walker=w1; Max-Age=2; Path=/' } }),
          call(1000, { request: { cookie: 'walker=w1' } }),
          call(3000, { status: 401 }),
        ],
        /^3000 was refused: the cookie walker, set by in \(#0\), had expired 1 s before$/,
      ],
      [
        [
          call(0, {
            status: 403,
            request: { authorization: jwt(START / 1000 - 60) },
            response: { 'www-authenticate': 'Bearer error="invalid_token"' },
          }),
        ],
        /its token had expired 1 min/,
      ],
    ],
    silent: [
      [call(0, { status: 401, request: { authorization: jwt(START / 1000 + 60) } })],
      [call(0, { request: { authorization: jwt(START / 1000 - 60) } })],
      // A 403 may have any reason; by the server's clock, an hour behind, the token still held.
      [call(0, { status: 403, request: { authorization: jwt(START / 1000 - 60) } })],
      many(3, (at) =>
        call(at, {
          status: at === 2 ? 401 : 200,
          request: { authorization: jwt(START / 1000 - 60) },
          response: { date: 'Sat, 03 Oct 2026 08:00:00 GMT' },
        }),
      ),
      // No earlier call was accepted with the cookie; it was deleted, which is no expiry.
      [
        call(0, { url: '/in', response: { 'set-cookie': 'banner=1; Max-Age=2; Path=/' } }),
        call(1000, { request: { cookie: 'walker=w1' } }),
        call(3000, { status: 401 }),
      ],
      [
        call(0, { request: { cookie: 'walker=w1' } }),
        call(1000, { url: '/out', response: { 'set-cookie': 'walker=; Max-Age=0; Path=/' } }),
        call(3000, { status: 401 }),
      ],
      // It still held; it was for another path; it was sent, and refused all the same.
      ...['Max-Age=9; Path=/', 'Max-Age=2; Path=/admin'].map((rest) => [
        call(0, { url: '/in', response: { 'set-cookie': `walker=w1; ${rest}` } }),
        call(3000, { status: 403 }),
      ]),
      [
        call(0, { url: '/in', response: { 'set-cookie': 'walker=w1; Max-Age=2; Path=/' } }),
        call(3000, { status: 403, request: { cookie: 'walker=w1' } }),
      ],
    ],
  },
  retried: {
    fires: [
      // A token that is still good explains no refusal.
      [
        [
          call(0, { url: '/a', status: 401, request: { authorization: jwt(START / 1000 + 3600) } }),
          call(500, { url: '/a', request: { authorization: jwt(START / 1000 + 3600) } }),
        ],
        /failed \(401\) and was sent again once, then it worked/,
      ],
      [
        [call(0, { url: '/a', status: 503, response: { 'retry-after': '1' } }), call(500, { url: '/a' })],
        /failed \(503\) and was sent again once, then it worked/,
      ],
    ],
    silent: [
      [call(0, { url: '/a' }), call(500, { url: '/a' })],
      // Neither was sent.
      [0, 500].map((at) => call(at, { url: '/a', status: 0, failure: 'mixed-content' })),
      // A person's new try; a poll that goes on as before.
      [call(0, { url: '/a', status: 503 }), call(10_100, { url: '/a' })],
      many(5, (at) => call(at * 2000, { url: '/a', status: at === 3 ? 503 : 200 })),
      [
        call(0, { url: '/a', status: 401, request: { authorization: jwt(START / 1000 - 60) } }),
        call(500, { url: '/a', request: { authorization: jwt(START / 1000 + 60) } }),
      ],
    ],
  },
  'rate-limited': { fires: [[[call(0, { status: 429 })], /too many requests/]], silent: [[call(0, { status: 428 })]] },
  'mixed-content': {
    fires: [
      [[DOCUMENT, image(40, { url: 'http://img.cumbrera.example/a.png' })], /over plain http from an https page/],
    ],
    silent: [
      [DOCUMENT, image(40, { url: 'http://localhost/a.png' })],
      [{ ...DOCUMENT, url: 'http://a.example/' }, image(40, { url: 'http://a.example/a.png' })],
    ],
  },
  'slow-server': {
    fires: [[[call(0, { wait: 400 })], /respond to 0 took 400 ms/]],
    silent: [
      [call(0, { wait: 399 })],
      // The way there and back takes most of it; held open until there is news; a report.
      many(4, (at) => call(at * 700, { wait: 620 })),
      many(4, (at) => call(at * 6010, { url: '/news', wait: 6000 })),
      [{ ...call(0, { wait: 900 }), kind: 'ping' }],
    ],
  },
  'slow-download': {
    fires: [
      [[image(0, { wire: 100_000, download: 50 }), image(100, { wire: 20_000, download: 400 })], /the best from there/],
    ],
    silent: [
      [image(0, { wire: 100_000, download: 500 }), image(100, { wire: 100_000, download: 600 })],
      // What looks slow has queued.
      many(12, (at) =>
        image(0, { url: `/photos/${at}`, wire: 20_000, download: at < 6 ? 60 : 300, protocol: 'http/1.1' }),
      ),
    ],
  },
  'set-up-again': {
    fires: [
      [many(4, (at) => call(at, { connect: 30 })), /^4 connections were set up to .+, where one or two would do$/],
      [
        many(8, (at) => call(at % 2 === 0 ? at : at * 9000, { connect: 30, page: at < 5 ? 'p' : 'q' })),
        /^5 connections were set up to www\.cumbrera\.example in one load, where one or two would do$/,
      ],
      [
        [DOCUMENT, image(30, { url: 'https://maps.example/a.png', connect: 20, by: '/huts' })],
        /^The load waited 20 ms for connections to maps\.example, a third party, to be set up$/,
      ],
    ],
    silent: [
      many(2, (at) => call(at, { connect: 30 })),
      // Each load has its own: in between they are closed, as they may be.
      many(8, (at) => call(at * 9000, { connect: 30, page: `p${at}` })),
      [DOCUMENT, image(30, { url: 'https://maps.example/a.png', connect: 19, by: '/huts' })],
      [DOCUMENT, image(30, { connect: 20, by: '/huts' })],
      // Nothing can announce a host before there is a document; the load did not wait for it.
      [{ ...DOCUMENT, url: 'https://maps.example/', connect: 90 }],
      [DOCUMENT, image(30, { url: 'https://maps.example/a.png', connect: 20, by: '/huts' }), image(31, { wait: 90 })],
    ],
  },
  'held-in-queue': {
    fires: [
      [
        many(7, (at) =>
          image(at, { url: `/photos/${at}`, download: 80, blocked: at === 6 ? 50 : 0, protocol: 'http/1.1' }),
        ),
        /^6 to www\.cumbrera\.example waited up to 50 ms for a connection$/,
      ],
      [
        many(12, (at) => image(0, { url: `/photos/${at}`, download: at < 6 ? 60 : 300, protocol: 'http/1.1' })),
        /^6 images .* waited up to 80 ms for a connection$/,
      ],
    ],
    silent: [
      [image(0, { blocked: 300, protocol: 'http/1.1' })],
      // Sockets are not among the six.
      [
        ...many(6, (at) => ({
          ...SOCKET(),
          url: `ws://www.cumbrera.example/${at}`,
          at,
          wait: 900,
          protocol: 'http/1.1',
        })),
        image(100, { blocked: 80, protocol: 'http/1.1' }),
      ],
      [image(0, { blocked: 300 })],
      // Six at once have a connection each; over HTTP/2 all share one.
      many(6, (at) => image(at, { download: 300, protocol: 'http/1.1' })),
      many(12, (at) => image(at, { download: 300 })),
    ],
  },
  'in-a-row': {
    fires: [
      [many(3, (at) => call(at * 40, { url: `/api/beds?day=${at}` })), /^3 calls like .* one after the other$/],
      [
        ['huts', 'weather', 'notices'].map((name, at) => call(at * 40, { url: `/api/${name}` })),
        /^3 calls were made one after the other: huts, weather, notices$/,
      ],
      // The longest wait between two calls; what the first two share is not what the third was told.
      [
        many(3, (at) => call(at * 85, { url: `/api/beds?hut=alba-norte&day=${at}`, body: '{"hut":"alba-norte"}' })),
        /^3 calls like/,
      ],
      // What one call gave is used by the next; the three after it know nothing of one another.
      [
        [
          call(0, { url: '/api/session', body: '{"visit":"w-2871-5f0c"}' }),
          ...many(3, (at) => call(40 + at * 40, { url: `/api/beds/${at}?visit=w-2871-5f0c`, body: '{"free":3}' })),
        ],
        /^3 calls like/,
      ],
    ],
    silent: [
      // Each uses what the one before gave: an id, a place to go on at, a cookie, an address.
      many(3, (at) => call(at * 40, { url: `/api/beds?after=id-${at}`, body: `{"last":"id-${at + 1}"}` })),
      many(3, (at) => call(at * 40, { url: `/api/beds?page=${at}`, body: `{"next":${at + 1}}` })),
      many(3, (at) => call(at * 40, { url: `/api/hut-${at}/beds`, body: `{"more":"/api/hut-${at + 1}/beds"}` })),
      many(3, (at) =>
        call(at * 40, {
          url: '/api/beds',
          body: '{}',
          request: { cookie: `at=step-${at}` },
          response: { 'set-cookie': `at=step-${at + 1}; Path=/` },
        }),
      ),
      // A call that writes lies between; the gap is too long for code.
      [call(0), call(40), call(80, { method: 'POST' }), call(120)],
      many(3, (at) => call(at * 86, { url: `/api/beds?day=${at}` })),
      many(3, (at) => call(at, { url: `/api/beds?day=${at}` })),
      many(2, (at) => call(at * 40, { url: `/api/beds?day=${at}` })),
    ],
  },
  'asked-twice': {
    fires: [[[call(0, { url: '/a', body: 'x' }), call(90, { url: '/a', body: 'x' })], /fetched 2 times on one page/]],
    silent: [
      [call(0, { url: '/a', body: 'x' }), call(90, { url: '/a', body: 'y' })],
      // A poll asks again and again.
      many(4, (at) => call(at * 2000, { url: '/a', body: 'x' })),
    ],
  },
  'too-many': { fires: [[many(101, image), /made 101 network requests/]], silent: [many(100, image)] },
  'old-protocol': {
    fires: [[many(6, (at) => image(at, { protocol: 'http/1.1' })), /6 requests over http\/1\.1/i]],
    silent: [many(5, (at) => image(at, { protocol: 'http/1.1' })), many(9, (at) => image(at))],
  },
  'sent-uncompressed': {
    fires: [
      [
        [{ url: '/a.js', kind: 'script', type: 'text/javascript', body: TEXT, wire: 7400 }],
        /sent uncompressed: 7\.2 kB that gzip makes \d+ B/,
      ],
      ...['gzip, deflate', 'br;q=1.0', 'identity;q=0.5, *;q=0.1'].map((accepted): Cases['fires'][number] => [
        [call(0, { body: TEXT, wire: 7400, request: { 'accept-encoding': accepted } })],
        /sent uncompressed/,
      ]),
    ],
    silent: [
      // Nobody asked for it.
      ...['identity', 'identity;q=1, *;q=0', 'gzip;q=0', 'bridge', ''].map((accepted) => [
        call(0, { body: TEXT, wire: 7400, request: { 'accept-encoding': accepted } }),
      ]),
      [{ url: '/a.js', kind: 'script', type: 'text/javascript', body: TEXT, response: { 'content-encoding': 'gzip' } }],
      [image(0, { body: TEXT })],
      // What fits into the packets that go anyway; savings below a thousand bytes; what came from cache.
      [call(0, { body: 'walkers '.repeat(174), wire: 1600 })],
      [call(0, { body: noise(2000), wire: 2200 })],
      // Something packed it on the way, whatever its headers say.
      [{ url: '/a.js', kind: 'script', type: 'text/javascript', body: TEXT, wire: 900 }],
      [call(0, { body: TEXT, wire: 0 })],
    ],
  },
  'heavy-script': {
    fires: [[[{ url: '/a.js', kind: 'script', size: 300_001 }], /heavy for a script/]],
    silent: [[{ url: '/a.js', kind: 'script', size: 300_000 }]],
  },
  'heavy-style': {
    fires: [[[{ url: '/a.css', kind: 'stylesheet', size: 100_001 }], /heavy for a style/]],
    silent: [[{ url: '/a.css', kind: 'stylesheet', size: 100_000 }]],
  },
  'heavy-font': {
    fires: [[[{ url: '/a.woff2', kind: 'font', wire: 100_001, size: 100_001 }], /heavy for a font/]],
    silent: [[{ url: '/a.woff2', kind: 'font', wire: 100_000, size: 100_000 }]],
  },
  'socket-dropped': {
    fires: [
      [
        [{ url: 'wss://live.a.example/beds', kind: 'websocket', status: 0, failure: 'net::ERR_FAILED' }],
        /was not opened/,
      ],
      [[{ url: 'wss://live.a.example/beds', kind: 'websocket', status: 403 }], /was not opened/],
      [[SOCKET(closedWith(1011))], /^The socket beds broke, closed with 1011$/],
    ],
    // 1000 and 1001 are how sockets end well; a message is no close frame.
    silent: [[SOCKET()], [SOCKET(closedWith(1000))], [SOCKET(closedWith(1001))], [SOCKET(closedWith(1011, 1))]],
  },
  'shared-miss': {
    fires: [[[image(0, { response: { 'x-cache': 'MISS' } })], /missed the shared cache/]],
    silent: [[image(0, { response: { 'x-cache': 'HIT' } })], [image(0)]],
  },
  'clock-skew': {
    fires: [
      [
        [
          ...many(3, (at) => image(at, { response: { date: 'Sat, 03 Oct 2026 10:00:00 GMT' } })),
          ...many(3, (at) => image(at, { url: `https://a.example/${at}`, response: { date: NOW } })),
        ],
        /^The clock of www\.cumbrera\.example is 1 h ahead of those of the other hosts$/,
      ],
    ],
    silent: [
      // Of one host alone it cannot be told whose clock is wrong; where all are off alike, it is the recording computer's.
      many(3, (at) => image(at, { response: { date: 'Sat, 03 Oct 2026 10:00:00 GMT' } })),
      many(6, (at) =>
        image(at, {
          url: `https://${at < 3 ? 'a' : 'b'}.example/${at}`,
          response: { date: 'Sat, 03 Oct 2026 10:00:00 GMT' },
        }),
      ),
      // A cache on the way has had it for an hour.
      many(6, (at) =>
        image(at, {
          url: `https://${at < 3 ? 'a' : 'b'}.example/${at}`,
          response: at < 3 ? { date: 'Sat, 03 Oct 2026 08:00:00 GMT', age: '3600' } : { date: NOW },
        }),
      ),
      many(3, (at) => image(at, { response: { date: 'Sat, 03 Oct 2026 09:00:01 GMT' } })),
    ],
  },
  'heavy-image': {
    fires: [[[image(0, { wire: 300_001, size: 300_001 })], /heavy for an image/]],
    silent: [[image(0, { wire: 300_000 })]],
  },
  'cookie-weight': {
    fires: [
      [[call(0, { request: { cookie: 'a'.repeat(1000) } })], /^A request to .+ carries 1\.0 kB of cookies$/],
      [
        many(2, (at) => call(at, { request: { cookie: 'a'.repeat(1000) } })),
        /^Requests to .+ 1\.0 kB of cookies each$/,
      ],
      [
        many(2, (at) => call(at, { request: { cookie: 'a'.repeat(1000 + at * 2000) } })),
        /^Requests to .+ 2\.0 kB of cookies on average$/,
      ],
    ],
    silent: [[call(0, { request: { cookie: 'a'.repeat(999) } })]],
  },
  'never-kept': {
    fires: [
      [
        [{ url: '/a.41ab.js', kind: 'script', response: { 'cache-control': 'no-store' } }],
        /is not cacheable, although its URL contains a version/,
      ],
      // A short life is a life.
      [
        [{ url: '/a.41ab.js', kind: 'script', response: { 'cache-control': 'max-age=30', etag: '"a"' } }],
        /is cacheable for at most 30 s, although its URL contains a version$/,
      ],
      [
        [{ url: '/a.41ab.js', kind: 'script', response: { 'cache-control': 'no-cache', etag: '"a"' } }],
        /is revalidated on each visit, although/,
      ],
      [
        many(2, (at) => ({ url: `/a.41a${at}.js`, kind: 'script' })),
        /^2 scripts from .+ are downloaded again on each visit, although their URLs contain a version$/,
      ],
    ],
    silent: [
      [{ url: '/a.41ab.js', kind: 'script', response: { 'cache-control': 'max-age=3600' } }],
      [{ url: '/a.js', kind: 'script', response: { 'cache-control': 'no-store' } }],
    ],
  },
  'kept-too-short': {
    fires: [
      [[{ url: '/a.js', kind: 'script', response: { 'cache-control': 'max-age=3600' } }], /cacheable for at most 1 h$/],
      [
        [{ url: '/a.js', kind: 'script', response: { 'cache-control': 'max-age=86399' } }],
        /cacheable for at most 23 h 59 min/,
      ],
    ],
    silent: [
      [{ url: '/a.js', kind: 'script', response: { 'cache-control': 'max-age=86400' } }],
      // A guess is no lifetime that somebody chose.
      [
        {
          url: '/a.js',
          kind: 'script',
          response: { date: 'Sat, 03 Oct 2026 09:00:00 GMT', 'last-modified': 'Sat, 03 Oct 2026 08:00:00 GMT' },
        },
      ],
    ],
  },
  'checked-in-vain': {
    fires: [[[image(0, { status: 304 })], /revalidated although unchanged/]],
    silent: [[image(0)]],
  },
  'no-validator': {
    fires: [
      [
        [{ url: '/a.css', kind: 'stylesheet', response: { 'cache-control': 'max-age=60' } }],
        /neither ETag nor Last-Modified/,
      ],
    ],
    silent: [[{ url: '/a.css', kind: 'stylesheet', response: { 'cache-control': 'max-age=60', etag: '"a"' } }]],
  },
  'fetched-again-unchanged': {
    fires: [
      [
        [image(0, { url: '/a.webp', body: 'x' }), image(60_000, { url: '/a.webp', body: 'x', page: 'q' })],
        /downloaded again on a later page/,
      ],
    ],
    silent: [[image(0, { url: '/a.webp', body: 'x' }), image(60_000, { url: '/a.webp', body: 'y', page: 'q' })]],
  },
  'shared-risk': {
    fires: [
      [
        [call(0, { response: { 'cache-control': 'public, max-age=60', 'set-cookie': 'a=1' } })],
        /sets a cookie, and any cache on the way may keep it/,
      ],
      [[call(0, { response: { 'cache-control': 'max-age=60', 'set-cookie': 'a=1' } })], /sets a cookie/],
      [
        [
          call(0, {
            request: { authorization: 'Bearer x' },
            response: { 'cache-control': 'max-age=60, must-revalidate' },
          }),
        ],
        /asked for with credentials/,
      ],
    ],
    silent: [
      ...['private, max-age=60', 'no-cache, max-age=60', 'public, max-age=60, s-maxage=0', 'public'].map((control) => [
        call(0, { response: { 'cache-control': control, 'set-cookie': 'a=1' } }),
      ]),
      [call(0, { response: { 'cache-control': 'max-age=60', vary: 'Cookie', 'set-cookie': 'a=1' } })],
      [call(0, { request: { authorization: 'Bearer x' }, response: { 'cache-control': 'max-age=60' } })],
      [
        call(0, {
          request: { authorization: 'Bearer x' },
          response: { 'cache-control': 'public, max-age=60', vary: 'Authorization' },
        }),
      ],
    ],
  },
  'vary-splits': {
    fires: [[[image(0, { response: { vary: 'Accept, User-Agent' } })], /varies by User-Agent$/]],
    silent: [[image(0, { response: { vary: 'Accept' } })]],
  },
};

it.each([
  ['1', 500, 'Retry-After asked for 1 s; the page waited 475 ms, too short.'],
  ['1', 1600, 'Retry-After asked for 1 s; the page waited 1.57 s.'],
  ['Sat, 03 Oct 2026 09:00:02 GMT', 500, 'Retry-After asked for 2 s; the page waited 475 ms, too short.'],
  ['soon', 500, 'The page waited 475 ms before the next try.'],
  [undefined, 500, 'The page waited 475 ms before the next try.'],
])('a try again is compared with Retry-After: %s', (asked, at, detail) => {
  const response = { date: 'Sat, 03 Oct 2026 09:00:00 GMT', ...(asked === undefined ? {} : { 'retry-after': asked }) };
  const [found] = findingsOf([call(0, { url: '/a', status: 503, response }), call(at, { url: '/a' })]).filter(
    ({ rule }) => rule === 'retried',
  );
  expect(found?.detail).toBe(detail);
});

describe.each(Object.entries(CASES).filter(([, own]) => own !== BELOW))('the rule %s', (rule, { fires, silent }) => {
  it.each(fires)('fires (%#)', (sketches, claim) => {
    const own = findingsOf(sketches).filter((finding) => finding.rule === rule);
    expect(own.map((finding) => finding.claim)).toEqual([expect.stringMatching(claim)]);
    expect(own[0]?.evidence.length).toBeGreaterThan(0);
    expect(own[0]?.remedy).not.toBe('');
  });

  it.each(silent.map((sketches) => [sketches]))('is silent (%#)', (sketches) => {
    expect(findingsOf(sketches).filter((finding) => finding.rule === rule)).toEqual([]);
  });
});

it.each([
  [404, {}, 'Correct the URL, or provide what it names.'],
  [401, {}, 'Sign in, or send credentials that are still valid.'],
  [418, {}, 'Find out what the server does not accept in the request.'],
  [500, { body: 'oops' }, 'Check the server’s log for this request.'],
  [
    422,
    { body: '{"beds":"must be a number"}' },
    'Read its body, which may say what is wrong. Correct the parameters or the payload.',
  ],
])(
  'what to do about %i is what that status asks for, and its body is named where there is one',
  (status, more, remedy) => {
    const [found] = findingsOf([DOCUMENT, call(50, { status, ...more })]).filter(({ rule }) => rule === 'http-error');
    expect(found?.remedy).toBe(remedy);
  },
);

it.each([
  [
    'none came',
    [call(50, { url: '/a', status: 401 }), call(20_000, { url: '/b' })],
    /GET .+; no later request for it succeeded\.$/,
  ],
  [
    'it was sent again too late to be a retry',
    [call(50, { url: '/a', status: 401 }), call(20_000, { url: '/a', status: 403 }), call(40_000, { url: '/a' })],
    /; sent again later, as #3, it succeeded\.$/,
  ],
  [
    'it had succeeded before',
    [call(50, { url: '/a' }), call(20_000, { url: '/a', status: 404 })],
    /no later request for it/,
  ],
  [
    'some of several were sent again',
    [
      ...['a', 'b', 'c'].map((name) => image(50, { url: `/${name}.png`, status: 404 })),
      image(20_000, { url: '/b.png' }),
    ],
    /; 1 of them succeeded when sent again later\.$/,
  ],
])('an error tells what came of the same request later: %s', (_, sketches, detail) => {
  const [found] = findingsOf([DOCUMENT, ...sketches]).filter(({ rule }) => rule === 'http-error');
  expect(found?.detail).toMatch(detail);
});

describe('what is said of a matter beside its claim', () => {
  const PIXELS = 'x'.repeat(3000);
  const oneOf = (rule: RuleId, sketches: Sketch[], timings = {}): Finding | undefined =>
    findingsOf(sketches, timings).find((finding) => finding.rule === rule);

  it.each([
    [
      { request: { 'cache-control': 'max-age=0' } },
      /The request itself asked for it/,
      /^Nothing where the page was reloaded/,
    ],
    [{ request: { 'cache-control': 'max-age=05' } }, /^Answered 304; the round trip took \d+ ms\.$/, /^Set max-age/],
    [{ response: { 'cache-control': 'no-cache' } }, /demands it each time \(no-cache\)\.$/, /^Leave that out/],
    [{ response: { pragma: 'no-cache', 'cache-control': 'max-age=60' } }, /\(Pragma: no-cache\)\.$/, /^Leave that out/],
    [{ response: { vary: '*' } }, /\(Vary: \*\)\.$/, /^Name in Vary/],
    [{ response: { 'cache-control': 'max-age=60' } }, /ms\.$/, /^Set a longer max-age/],
    [
      { response: { 'cache-control': 'max-age=60', age: '60' } },
      /comes older than it stays fresh\.$/,
      /^Set max-age above/,
    ],
    [{ response: { 'cache-control': 'max-age=60', age: '59' } }, /ms\.$/, /^Set a longer max-age/],
    [{}, /ms\.$/, /^Set max-age/],
  ])('why something was revalidated: %j', (more, detail, remedy) => {
    const found = oneOf('checked-in-vain', [image(0, { status: 304, ...more })]);
    expect(found?.detail).toMatch(detail);
    expect(found?.remedy).toMatch(remedy);
  });

  it('things revalidated for different reasons are different matters', () => {
    const found = findingsOf([
      image(0, { status: 304, response: { 'cache-control': 'max-age=60' } }),
      image(10, { status: 304 }),
      image(20, { status: 304, response: { 'cache-control': 'no-cache' } }),
      image(30, { status: 304, response: { 'cache-control': 'private, no-cache' } }),
    ]).filter(({ rule }) => rule === 'checked-in-vain');
    expect(found.map(({ evidence }) => evidence).toSorted()).toEqual([[0], [1], [2, 3]]);
  });

  it.each([
    [{ 'cache-control': 'no-store' }, {}, /was not to be stored\.$/],
    [{}, {}, /no time for which it is fresh, and nothing to revalidate it by\.$/],
    [{ 'cache-control': 'max-age=600', pragma: 'no-cache' }, {}, /no time for which it is fresh/],
    [{ 'cache-control': 'max-age=30' }, {}, /no longer fresh/],
    [{ 'cache-control': 'max-age=600' }, {}, /could have been reused, or revalidated\.$/],
    [{ etag: '"a"' }, {}, /could have been reused, or revalidated\.$/],
    [{ etag: '"a"' }, { 'if-none-match': '"a"' }, /asked whether it had changed, and the server sent it whole\.$/],
  ])('why bytes came again: %j, asked for with %j', (response, request, detail) => {
    const found = oneOf('fetched-again-unchanged', [
      image(0, { url: '/a.webp', body: PIXELS, wire: 3400, response: { ...response } }),
      image(60_000, { url: '/a.webp', body: PIXELS, wire: 3400, page: 'q', request: { ...request } }),
    ]);
    expect(found?.detail).toMatch(detail);
  });

  it('which preflights would have been spared, and that is all that they cost', () => {
    const asked = (url: string, at: number): Sketch => ({
      ...preflight({ 'access-control-allow-methods': 'PUT' }),
      url,
      at,
    });
    const others = oneOf(
      'preflight-each-time',
      many(3, (at) => asked(`/beds/${at}`, at * 6000)),
    );
    expect(others?.detail).toMatch(/Each asked for something else/);
    const again = oneOf(
      'preflight-each-time',
      many(4, (at) => asked(`/beds/${at % 3}`, at * 6000)),
    );
    expect(again?.detail).toMatch(/1 of the 4 asked for what had been granted before\.$/);
  });

  it('what a short life costs: bytes only of what cannot be revalidated', () => {
    const style = (name: string, etag?: string): Sketch => ({
      url: `/${name}.css`,
      kind: 'stylesheet',
      wire: 700,
      response: { 'cache-control': 'max-age=600', ...(etag === undefined ? {} : { etag }) },
    });
    const short = (...sketches: Sketch[]) => {
      const found = oneOf('kept-too-short', sketches);
      return [found?.detail, found?.cost.wireBytes];
    };
    expect(short(style('a'))).toEqual(['A visit the next day downloads 700 B again.', 700]);
    expect(short(style('a', '"a"'))).toEqual(['A visit the next day revalidates it.', undefined]);
    expect(short(style('a', '"a"'), style('b', '"b"'))).toEqual([
      'A visit the next day revalidates all of them.',
      undefined,
    ]);
    expect(short(style('a', '"a"'), style('b'), style('c'))).toEqual([
      'A visit the next day downloads 1.4 kB again, and revalidates 1 of them.',
      1400,
    ]);
  });

  it.each([
    [1006, /every proxy on the way/],
    [1008, /what was sent last/],
    [1011, /See the server’s log; have the page connect again/],
  ])('what to do about a socket that was closed with %i', (code, remedy) => {
    expect(oneOf('socket-dropped', [SOCKET(closedWith(code))])?.remedy).toMatch(remedy);
  });

  it('that HTTP/2 needs TLS, where a queue is to a host of plain http', () => {
    const queue = (origin: string) =>
      oneOf(
        'held-in-queue',
        many(12, (at) =>
          image(0, { url: `${origin}/${at}.webp`, protocol: 'http/1.1', blocked: at < 6 ? 0 : 300, wait: 300 }),
        ),
      )?.remedy;
    expect(queue('https://img.example')).toMatch(/^Enable HTTP\/2/);
    expect(queue('http://img.example')).toMatch(/^Serve this host over https/);
  });

  it('what cookies cost on the wire only where they travel as they are', () => {
    const carried = (protocol: string) =>
      oneOf(
        'cookie-weight',
        many(3, (at) => call(at, { protocol, request: { cookie: 'a'.repeat(1000) } })),
      );
    expect(carried('http/1.1')?.cost.wireBytes).toBe(3000);
    expect(carried('h2')?.cost.wireBytes).toBeUndefined();
    expect(carried('h2')?.detail).toMatch(/may be packed into a few bytes/);
  });

  it('what of a connection’s set-up is known, and that a second may be a lost packet', () => {
    const slow = oneOf('slow-set-up', [{ ...DOCUMENT, connect: 1040 }]);
    expect(slow?.detail).toBe('For /huts: connect 1.04 s.');
    expect(slow?.remedy).toMatch(/^A packet was probably lost/);
    expect(oneOf('slow-set-up', [{ ...DOCUMENT, connect: 400 }])?.remedy).toMatch(/^Serve from nearer/);
  });

  it('what came of a request whose token had expired', () => {
    const expired = { authorization: jwt(START / 1000 - 60) };
    const refused = call(0, { url: '/a', status: 401, request: expired });
    expect(oneOf('token-expired', [refused])?.detail).toBe('No later request for it succeeded.');
    // Too late to be a retry.
    expect(oneOf('token-expired', [refused, call(30_000, { url: '/a' })])).toMatchObject({
      severity: 'broken',
      detail: 'Sent again later, as #1, it succeeded.',
    });
    expect(oneOf('token-expired', [refused, call(900, { url: '/a' })])?.detail).toBe(
      'The request was sent again with success.',
    );
  });
});

describe('a slow response among many requests', () => {
  const slowest = (sketches: Sketch[]): Finding | undefined =>
    findingsOf([{ ...DOCUMENT, connect: 2, wait: 3 }, ...sketches]).find(({ rule }) => rule === 'slow-server');
  const modules = (count: number, waitOf: (at: number) => number): Sketch[] =>
    many(count, (at) => ({ url: `/m/${at}.js`, kind: 'script', at: 30 + at / 4, wait: waitOf(at) }));

  it('may have waited for its turn where most of them waited alike: no share is called the server’s', () => {
    const found = slowest(modules(300, (at) => 150 + at));
    expect(found).toMatchObject({ confidence: 'weak', detail: expect.stringMatching(/^Most of what was requested/) });
    expect(found?.detail).not.toContain('the server’s');
    expect(found?.remedy).toMatch(/^Request fewer at once/);
  });

  it.each([
    ['the others came soon', modules(300, (at) => (at === 150 ? 600 : 20))],
    ['there were few others', modules(10, () => 600)],
    [
      'the others were over, or not begun',
      many(40, (at) => ({ ...call(30 + at * 700, { wait: 600 }), url: `/${at % 3}` })),
    ],
    [
      'the others were another host’s',
      modules(300, (at) => (at === 0 ? 600 : 590)).map((one, at) =>
        at === 0 ? one : { ...one, url: `https://maps.example${one.url}`, connect: 500 },
      ),
    ],
  ])('is the server’s where %s', (_, sketches) => {
    const found = slowest(sketches);
    expect(found).toMatchObject({
      confidence: 'strong',
      detail: expect.stringMatching(/^About \d+ ms of it are the server’s/),
    });
  });
});

describe('findings about the route', () => {
  const chain: Sketch[] = [
    DOCUMENT,
    { url: '/a.js', kind: 'script', at: 30, by: '/huts' },
    { url: '/b.js', kind: 'script', at: 60, by: '/a.js' },
    { url: '/c.js', kind: 'script', at: 250, wait: 100, by: '/b.js' },
  ];

  it('name what was found late, with the start that it could have had and what that gains', () => {
    const late = findingsOf(chain, { onLoad: 370 }).find(({ rule }) => rule === 'found-late');
    expect(late?.claim).toBe('c.js starts 230 ms after the document could have referenced it');
    // Not the 230: the gap before it stays, whenever it comes.
    expect(late?.cost.routeMs).toBe(105);
  });

  it('gain by naming it early no more than the rest of the load allows', () => {
    const late = (wait: number): Finding | undefined =>
      findingsOf([...chain, image(30, { wait, by: '/huts' })], { onLoad: 370 }).find(
        ({ rule }) => rule === 'found-late',
      );
    expect(late(265)).toMatchObject({ severity: 'costly', cost: { routeMs: 55 } });
    // What held nothing up may be found as late as it likes.
    expect(late(320)).toBeUndefined();
  });

  it('take for the start of what was found late its first sending', () => {
    const late = findingsOf([...chain.slice(0, -1), { ...chain.at(-1), status: 503 }, { ...chain.at(-1), at: 900 }], {
      onLoad: 1025,
    }).find(({ rule }) => rule === 'found-late');
    expect(late?.claim).toBe('c.js starts 230 ms after the document could have referenced it');
    expect(late?.evidence).toEqual([3]);
  });

  it('take no call that a document cannot name for one that was found late', () => {
    // The image waits for the call that names it.
    const late = (last: Partial<Sketch>, timings = { onLoad: 500 }): unknown[] =>
      findingsOf(
        [
          ...chain.slice(0, -1),
          { ...call(250), url: '/api/photos', by: '/b.js', wait: 100, ...last },
          image(365, { by: '/api/photos' }),
        ],
        timings,
      ).flatMap(({ rule, evidence }) => (rule === 'found-late' ? [evidence] : []));
    expect(late({})).toEqual([[3, 4]]);
    // No link carries credentials; and without a milestone the call may follow what somebody did.
    expect(late({ request: { authorization: 'Bearer x' } })).toEqual([[4]]);
    expect(late({}, {} as { onLoad: number })).toEqual([[4]]);
  });

  it('cost what the load gains where it is played without, and nothing off the route', () => {
    const slow = (...others: Sketch[]) =>
      findingsOf([DOCUMENT, image(30, { url: '/a', wait: 500, by: '/huts' }), ...others], { onLoad: 540 }).find(
        ({ rule }) => rule === 'slow-server',
      );
    expect(slow()).toMatchObject({ severity: 'costly', cost: { routeMs: 300 } });
    // Another one beside it that takes nearly as long leaves less to gain.
    expect(slow(image(31, { url: '/b', wait: 380, by: '/huts' }))?.cost).toEqual({ routeMs: 119 });
    const off = findingsOf([DOCUMENT, call(30, { wait: 500, by: '/huts' })], { onLoad: 40 });
    expect(off.find(({ rule }) => rule === 'slow-server')).toMatchObject({ severity: 'wasteful', cost: {} });
  });

  it('promise no time twice: what stands on the same exchanges has what it gains beside the other', () => {
    const findings = findingsOf(
      [DOCUMENT, image(30, { url: 'https://maps.example/a.webp', connect: 60, wait: 500, by: '/huts' })],
      { onLoad: 600 },
    );
    const costs = findings.flatMap(({ rule, cost }) => (cost.routeMs === undefined ? [] : [[rule, cost]]));
    expect(costs).toEqual([['third-party-on-route', { routeMs: 570 }]]);
  });

  it('tell a circle once: neither as time lost to redirects nor as an answer that lacks', () => {
    const rules = findingsOf(
      [
        ...many(4, (at) => ({ ...DOCUMENT, status: 302, at: at * 30, response: { location: '/huts' } })),
        { ...DOCUMENT, at: 120, status: 0, failure: 'net::ERR_TOO_MANY_REDIRECTS' },
      ],
      { onLoad: 200 },
    ).map(({ rule }) => rule);
    expect(rules).toEqual(['redirect-loop']);
  });

  it.each([
    [{ status: 204 }, /^\/huts returned 204: there is no page to go to$/],
    [
      { response: { 'content-disposition': 'attachment; filename="beds.csv"' } },
      /^\/huts was saved as a file, not shown$/,
    ],
  ] as [Partial<Sketch>, RegExp][])('take a navigation that was to bring no page for no fault: %j', (more, claim) => {
    const [finding] = findingsOf([{ ...DOCUMENT, failure: 'net::ERR_ABORTED', size: 0, ...more }]);
    expect(finding).toMatchObject({ rule: 'cut-short', severity: 'note', claim: expect.stringMatching(claim) });
    const torn = findingsOf([{ ...DOCUMENT, failure: 'net::ERR_CONNECTION_RESET', size: 0 }]);
    expect(torn[0]).toMatchObject({ rule: 'cut-short', severity: 'broken' });
  });

  it('say nothing of a gap where the document never came', () => {
    const lost = findingsOf([{ ...DOCUMENT, status: 0, failure: 'net::ERR_CONNECTION_REFUSED' }], { onLoad: 900 });
    expect(lost.map(({ rule }) => rule)).toEqual(['no-answer']);
  });

  it('say nothing of gaps and waits between exchanges that have no times', () => {
    const untimed = { isUntimed: true };
    const found = findingsOf(
      [
        { ...DOCUMENT, ...untimed },
        { url: '/a.js', kind: 'script', at: 900, by: '/huts', ...untimed },
        call(1000, { url: '/a', status: 503, ...untimed }),
        call(3000, { url: '/a', ...untimed }),
      ],
      { onLoad: 4000 },
    );
    expect(found.map(({ rule }) => rule)).not.toContain('gap');
    const again = found.find(({ rule }) => rule === 'retried');
    expect(again?.detail).toBe('How long the page waited before the next try was not recorded.');
  });

  it('tell of several that were blocked as of several', () => {
    const blocked = { kind: 'fetch', status: 0, failure: 'net::ERR_UNSAFE_PORT', size: 0 };
    const found = findingsOf([
      DOCUMENT,
      { ...blocked, url: 'https://a.example:1/a' },
      { ...blocked, url: 'https://a.example:1/b' },
    ]);
    expect(found.find(({ rule }) => rule === 'no-answer')?.claim).toMatch(/were blocked before they were sent: /);
  });

  it('name gaps from 200 ms on', () => {
    const work = (at: number) =>
      findingsOf([DOCUMENT, { url: '/a.js', kind: 'script', at, by: '/huts' }], { onLoad: at + 25 }).filter(
        ({ rule }) => rule === 'gap',
      );
    expect(work(226).map(({ cost }) => cost.routeMs)).toEqual([201]);
    expect(work(224)).toEqual([]);
  });

  it('name a large share of the load between its two milestones', () => {
    const of = (onContentLoad: number): string[] =>
      findingsOf([DOCUMENT, image(100, { wait: 800 })], { onContentLoad, onLoad: 1000 }).flatMap(({ rule, claim }) =>
        rule === 'ready-to-loaded' ? claim : [],
      );
    expect(of(500)).toEqual(['500 ms between DOM ready and loaded, 50 % of the load']);
    expect(of(501)).toEqual([]);
  });

  it.each([
    [[image(100, { wait: 800 })], 'Filled by 100.webp.', /^Lazy-load/],
    [
      many(3, (at) => ({ url: `/${at}.js`, kind: 'script', at: 500, wait: 300, by: '/huts' })),
      'Filled by 3 scripts.',
      /^Load scripts that the first screen does not need/,
    ],
    // Calls and sockets hold no milestone up, whatever they are about.
    [
      many(9, () => call(500, { wait: 300 })),
      'Nothing was recorded meanwhile that a load waits for.',
      /^Record a perf/,
    ],
  ])(
    'tell what filled the time between the milestones, as far as a load waits for it: %#',
    (sketches, detail, remedy) => {
      const found = findingsOf([DOCUMENT, ...sketches], { onContentLoad: 400, onLoad: 1000 }).find(
        ({ rule }) => rule === 'ready-to-loaded',
      );
      expect(found?.detail).toBe(detail);
      expect(found?.remedy).toMatch(remedy);
    },
  );

  it('name third parties and redirects that the load waited for', () => {
    const rules = findingsOf(
      [
        { url: '/', status: 302, kind: 'document', response: { location: '/huts' } },
        { ...DOCUMENT, at: 25 },
        { url: 'https://maps.example/m.js', kind: 'script', at: 60, wait: 90, by: '/huts' },
      ],
      { onLoad: 160 },
    ).map(({ rule }) => rule);
    expect(rules).toEqual(expect.arrayContaining(['redirect-cost', 'third-party-on-route']));
  });

  it('take the answer to a form for no redirect that delayed the load', () => {
    const rules = findingsOf(
      [
        { url: '/book', method: 'POST', status: 303, kind: 'document', wait: 90, response: { location: '/huts' } },
        { ...DOCUMENT, at: 95 },
      ],
      { onLoad: 130 },
    ).map(({ rule }) => rule);
    expect(rules).not.toContain('redirect-cost');
  });

  it('leave small waits for third parties and short redirects alone', () => {
    const rulesOf = (wait: number, hop: number): string[] =>
      findingsOf(
        [
          { url: '/', status: 302, kind: 'document', wait: hop, download: 0, response: { location: '/huts' } },
          { ...DOCUMENT, at: hop },
          { url: 'https://maps.example/m.js', kind: 'script', at: hop + 25, wait, download: 0, by: '/huts' },
        ],
        { onLoad: hop + 25 + wait },
      ).flatMap(({ rule }) => (rule === 'redirect-cost' || rule === 'third-party-on-route' ? rule : []));
    expect(rulesOf(50, 20).sort()).toEqual(['redirect-cost', 'third-party-on-route']);
    expect(rulesOf(49, 19)).toEqual([]);
  });

  it('cost a failed try until the one that worked, with the pause between', () => {
    const of = (onLoad: number): number | undefined =>
      findingsOf(
        [
          DOCUMENT,
          image(100, { url: '/a', status: 503, response: { 'retry-after': '1' }, by: '/huts' }),
          image(1125, { url: '/a', by: '/huts' }),
        ],
        { onLoad },
      ).find(({ rule }) => rule === 'retried')?.cost.routeMs;
    expect(of(1150)).toBe(1025);
    // The load was over before the second try: nothing of it was lost to the pause.
    expect(of(130)).toBe(100);
  });

  it('take a server that asks who is there, and is told, for no fault; and no session for a pause', () => {
    const retried = (between: number, status: number): Finding | undefined =>
      findingsOf(
        [
          DOCUMENT,
          image(100, { url: '/a', status, by: '/huts' }),
          ...many(between, (at) => call(200 + at * 100, { by: '/huts' })),
          image(200 + between * 100, { url: '/a', by: '/huts' }),
        ],
        { onLoad: 225 + between * 100 },
      ).find(({ rule }) => rule === 'retried');
    expect(retried(1, 401)).toMatchObject({ severity: 'note' });
    expect(retried(1, 503)).toMatchObject({ severity: 'costly', cost: { routeMs: 200 } });
    expect(retried(6, 503)?.cost.routeMs ?? 0).toBeLessThan(100);
  });

  it('cost calls whose tokens expired side by side what they lost together', () => {
    const authorization = jwt(START / 1000 - 60);
    const [finding] = findingsOf(
      [
        DOCUMENT,
        call(100, { url: '/a', status: 401, request: { authorization }, by: '/huts' }),
        call(110, { url: '/b', status: 401, request: { authorization }, by: '/huts' }),
        call(140, { url: '/renew', by: '/huts' }),
        call(170, { url: '/a', by: '/huts' }),
        call(170, { url: '/b', by: '/huts', wait: 60 }),
        image(240, { by: '/b' }),
      ],
      { onLoad: 270 },
    ).filter(({ rule }) => rule === 'token-expired');
    expect(finding?.cost.routeMs).toBe(60);
    expect(finding?.evidence).toHaveLength(4);
  });

  it('come dearest first, notes last', () => {
    const findings = findingsOf(
      [...chain, call(70, { status: 500 }), image(80, { status: 404, url: '/favicon.ico' })],
      { onLoad: 520 },
    );
    const costs = findings.map(({ cost }) => cost.routeMs ?? 0);
    expect([...costs].sort((a, b) => b - a)).toEqual(costs);
    expect(findings.at(-1)?.severity).toBe('note');
  });
});

describe('several pages', () => {
  const pages = [
    DOCUMENT,
    image(30, { url: '/a', wait: 600, by: '/huts' }),
    { ...DOCUMENT, at: 60_000, page: 'q' },
    image(60_030, { url: '/a', wait: 420, by: '/huts', page: 'q' }),
    image(60_040, { url: '/b.webp', body: 'x', page: 'q' }),
  ];

  it('have findings of their own, with what each costs its own load; the capture has them merged', () => {
    const { findings, byPage } = foundIn(pages, { onLoad: 700 });
    const slow = (list: readonly Finding[]) =>
      list.flatMap(({ rule, evidence, cost }) => (rule === 'slow-server' ? [[evidence, cost]] : []));
    expect(slow(findings)).toEqual([[[1, 3], { routeMs: 580 }]]);
    expect(Object.keys(byPage)).toEqual(['p', 'q']);
    expect(slow(findingsOn({ findings, byPage }, 'p' as PageId))).toEqual([[[1], { routeMs: 380 }]]);
    expect(slow(findingsOn({ findings, byPage }, 'q' as PageId))).toEqual([[[3], { routeMs: 200 }]]);
  });

  it('are still compared with what came before them', () => {
    const { byPage } = foundIn([DOCUMENT, image(40, { url: '/b.webp', body: 'x' }), ...pages.slice(2)]);
    const again = (page: string) => byPage[page as PageId]?.find(({ rule }) => rule === 'fetched-again-unchanged');
    expect(again('p')).toBeUndefined();
    expect(again('q')?.evidence).toEqual([4]);
  });

  it('are not told apart where there is but one', () => {
    const one = foundIn([DOCUMENT, call(30, { status: 500 })]);
    expect(one.byPage).toEqual({});
    expect(findingsOn(one, 'p' as PageId)).toBe(one.findings);
  });
});

it('diagnoses more exchanges to one host than a call can have arguments', () => {
  // With a small stack that is fewer than 20,000 of them, so that they are diagnosed in seconds.
  const script = `
    import { findingsOf, image, many } from './src/core/diagnose/testing/sketch.ts';
    try {
      Math.max(...many(20_000, () => 0));
    } catch ({ name }) {
      const held = findingsOf(many(20_000, (at) => image(at % 900, { blocked: 60, protocol: 'http/1.1' })));
      console.log(name, held.find(({ rule }) => rule === 'held-in-queue')?.claim);
    }`;
  const args = ['--stack-size=150', '--import', 'tsx', '--input-type=module', '--eval', script];
  const said = execFileSync(process.execPath, args, { cwd: new URL('../../..', import.meta.url), encoding: 'utf8' });
  expect(said).toMatch(/^RangeError 1\d,\d{3} images to .+ up to 60 ms/);
});
