import { describe, expect, it } from 'vitest';
import { type JsonObject, normaliseEntry } from '../har';
import type { Exchange } from '../model';
import { tellDirectiveHere, tellHeaderHere } from './index';

function exchange(change: { request?: object; response?: object; rest?: object }): Exchange {
  const entry = {
    startedDateTime: '2026-10-03T09:00:00Z',
    request: { method: 'GET', url: 'https://a.example/x', headers: [], ...change.request },
    response: { status: 200, headers: [], content: {}, ...change.response },
    ...change.rest,
  };
  return normaliseEntry(entry as unknown as JsonObject, 0);
}

const headers = (...list: [string, string][]) => ({ headers: list.map(([name, value]) => ({ name, value })) });

describe('what a header did here', () => {
  it.each([
    ['Age', '240', {}, 'A shared cache had stored it for 4 min.'],
    ['Date', 'Sat, 03 Oct 2026 09:00:01 GMT', {}, 'The server’s clock and the recording computer’s agree.'],
    ['Expires', '0', {}, 'Not a valid date: caches treat the response as stale.'],
    ['Expires', 'Sat, 03 Oct 2026 10:00:00 GMT', {}, 'Fresh for 1 h more.'],
    ['Last-Modified', 'Sat, 03 Oct 2026 08:00:00 GMT', {}, 'Last changed before this request by 1 h.'],
    ['ETag', '"a"', {}, 'This request sent no If-None-Match, so the full response came.'],
    [
      'ETag',
      '"a"',
      { request: headers(['If-None-Match', '"a"']), response: { status: 304 } },
      'Unchanged: the server returned 304.',
    ],
    [
      'ETag',
      '"a"',
      { request: headers(['If-None-Match', '"b"']) },
      'Changed: the request’s If-None-Match named another version.',
    ],
    [
      'ETag',
      '"a"',
      { request: headers(['If-None-Match', '"b", W/"a"']) },
      'The server returned the full body although the ETag is unchanged.',
    ],
    ['ETag', '"a"', { request: headers(['If-None-Match', '"b"']), response: { status: 500 } }, undefined],
    [
      'Date',
      'Sat, 03 Oct 2026 08:00:00 GMT',
      {},
      '1 h before the request started: an older response, or the clocks differ.',
    ],
    ['Date', 'yesterday', {}, undefined],
    ['Expires', 'Sat, 03 Oct 2026 08:00:00 GMT', {}, 'Already stale on arrival.'],
    ['Content-Length', '1500', {}, '1.5 kB were announced.'],
    [
      'Content-Length',
      '1500',
      { response: { _failureText: 'closed' } },
      '1.5 kB were announced, but the transfer was cut off.',
    ],
    ['Content-Length', 'many', {}, 'Not a number.'],
    [
      'Content-Encoding',
      'br',
      { response: { _transferSize: 400, content: { size: 2000 } } },
      '2.0 kB were sent as 400 B, headers included, compressed with br.',
    ],
    ['Content-Encoding', 'br', {}, undefined],
    ['Vary', 'Origin', {}, 'This request sent none of Origin.'],
    ['Location', '/huts', { response: { status: 302 } }, 'It leads on to /huts.'],
    ['Location', '/huts/9', { response: { status: 201 } }, undefined],
    ['Retry-After', 'Sat, 03 Oct 2026 10:00:00 GMT', {}, undefined],
    ['Access-Control-Max-Age', '600', {}, 'Browsers need no new preflight for 10 min.'],
    [
      'Access-Control-Max-Age',
      '86400',
      {},
      'Browsers need no new preflight for 2 h at least; some keep permission no longer.',
    ],
    ['Access-Control-Max-Age', '-1', {}, 'Browsers keep no permission: each request needs a preflight of its own.'],
    ['Access-Control-Max-Age', '10m', {}, 'No number of seconds: browsers keep the permission for 5 s.'],
    ['Access-Control-Allow-Origin', '*', {}, 'The request named no Origin, so it had nothing to allow.'],
    [
      'Access-Control-Allow-Origin',
      '*',
      { request: headers(['Origin', 'https://c.example']) },
      'Any origin may read the response, https://c.example too, but not with credentials.',
    ],
    ['Access-Control-Max-Age', '600', {}, 'Browsers need no new preflight for 10 min.'],
    [
      'Strict-Transport-Security',
      'includeSubDomains; max-age=3600',
      {},
      'Browsers use https alone for this host and all below it for 1 h.',
    ],
    ['Strict-Transport-Security', 'Max-Age="3600"', {}, 'Browsers use https alone for this host for 1 h.'],
    ['Strict-Transport-Security', 'max-age=0', {}, 'Browsers forget that this host is to be reached over https alone.'],
    ['Strict-Transport-Security', 'x-max-age=60', {}, 'Passed over: it says no max-age.'],
    [
      'Strict-Transport-Security',
      'max-age=60',
      { request: { url: 'http://a.example/' } },
      'Passed over: it counts over https only.',
    ],
    [
      'Strict-Transport-Security',
      'max-age=60',
      { request: { url: 'https://127.0.0.1/' } },
      'Passed over: it counts for host names, not for addresses.',
    ],
    [
      'Expires',
      '0',
      { response: headers(['Cache-Control', 'max-age=600']) },
      'Passed over: max-age in Cache-Control says how long.',
    ],
    [
      'Expires',
      'Sat, 03 Oct 2026 10:00:00 GMT',
      { response: headers(['Date', 'Sat, 03 Oct 2026 09:30:00 GMT'], ['Cache-Control', 's-maxage=600']) },
      'Fresh for 30 min more.',
    ],
    ['Last-Modified', 'Sat, 03 Oct 2026 10:00:00 GMT', {}, '1 h after this request: the clocks differ.'],
    ['ETag', '"a"', { response: { status: 404 } }, undefined],
    ['ETag', '"a"', { request: { method: 'HEAD' } }, undefined],
    ['ETag', '"a"', { response: { _fromCache: 'disk' } }, undefined],
    ['Vary', 'Accept, *', {}, 'A stored copy can never be reused for another request.'],
    [
      'Access-Control-Allow-Origin',
      'https://c.example',
      { request: headers(['Origin', 'https://c.example'], ['Cookie', 'a=b']) },
      'https://c.example may read the response, but not with the cookies that were sent: Access-Control-Allow-Credentials is not true.',
    ],
    [
      'Access-Control-Allow-Origin',
      'https://c.example',
      { request: headers(['Origin', 'https://c.example']) },
      'https://c.example may read the response.',
    ],
    ['Content-Type', 'text/plain', { rest: { _resourceType: 'document' } }, 'A document that is not HTML.'],
    ['Content-Type', 'text/plain', { rest: { _resourceType: 'fetch' } }, undefined],
    ['Vary', '*', {}, 'A stored copy can never be reused for another request.'],
    [
      'Vary',
      'Origin, Accept',
      { request: headers(['Accept', '*/*']) },
      'A stored copy is reused only for requests with the same Accept as this one, and without Origin.',
    ],
    ['Retry-After', '2', {}, 'Try again 2 s later.'],
    [
      'Access-Control-Allow-Origin',
      'https://b.example',
      { request: headers(['Origin', 'https://c.example']) },
      'https://c.example may not read the response.',
    ],
  ])('%s: %s', (name, value, change, says) => {
    expect(tellHeaderHere(name, value, 'response', exchange(change))).toBe(says);
  });

  it.each([
    ['If-None-Match', '"a"', { response: { status: 304 } }, 'The server returned 304: the stored copy is still valid.'],
    ['If-None-Match', '"a"', {}, 'The server returned 200 with a full response.'],
    [
      'If-None-Match',
      '"a"',
      { response: { status: 503 } },
      'The server returned 503, which says nothing about the stored copy.',
    ],
    ['If-Modified-Since', 'x', { response: { status: 0 } }, undefined],
    ['Accept-Encoding', 'br', {}, 'The response came uncompressed.'],
    ['Range', 'bytes=0-1', {}, 'The server sent all of it instead.'],
    ['Range', 'bytes=9-', { response: { status: 416 } }, undefined],
    [
      'Origin',
      'https://c.example',
      {},
      'The response has no Access-Control-Allow-Origin: a page of another origin may not read it.',
    ],
    [
      'Origin',
      'https://c.example',
      { response: headers(['Access-Control-Allow-Origin', 'https://d.example']) },
      'The response allows https://d.example, not it.',
    ],
    ['Origin', 'https://c.example', { response: { status: 0 } }, undefined],
    ['Origin', 'https://a.example', {}, 'Its own origin, which needs no permission.'],
    ['Origin', 'https://c.example', { rest: { _resourceType: 'websocket' } }, undefined],
    ['Origin', 'https://c.example', { rest: { _resourceType: 'document' } }, undefined],
    ['Accept-Encoding', 'br', { response: { status: 0 } }, undefined],
    [
      'Cache-Control',
      'max-age=0',
      {},
      'Asked that stored copies be checked with the server: a reload, or the page’s own fetch option.',
    ],
    ['Cache-Control', 'max-age=600', {}, undefined],
    ['Pragma', 'no-cache', {}, 'Asked caches to be bypassed.'],
    ['Cache-Control', 'only-if-cached', {}, undefined],
    [
      'Accept-Encoding',
      'br',
      { response: headers(['Content-Encoding', 'br']) },
      'The response came compressed with br.',
    ],
    ['Range', 'bytes=0-1', { response: { status: 206 } }, 'The server sent that part.'],
    [
      'Cache-Control',
      'no-cache',
      {},
      'Asked caches to be bypassed: a reload, a disabled cache, or the page’s own fetch option.',
    ],
  ])('%s: %s, of the request', (name, value, change, says) => {
    expect(tellHeaderHere(name, value, 'request', exchange(change))).toBe(says);
  });

  it('takes a confirmed copy for one where the recorder shows the page’s 200', () => {
    const confirmed = exchange({
      request: headers(['If-None-Match', '"a"']),
      response: {
        ...headers(['ETag', '"a"']),
        bodySize: 0,
        _transferSize: 150,
        headersSize: 150,
        content: { size: 2000 },
      },
    });
    expect(confirmed.source.value).toBe('revalidated');
    expect(tellHeaderHere('If-None-Match', '"a"', 'request', confirmed)).toBe(
      'The server returned 304, which the recorder shows as the page’s 200: the stored copy is still valid.',
    );
    expect(tellHeaderHere('ETag', '"a"', 'response', confirmed)).toBe(
      'Unchanged: the server returned 304, which the recorder shows as the page’s 200.',
    );
  });

  it('says nothing of what it knows nothing about, and of names that objects inherit', () => {
    for (const name of ['x-own', 'constructor', '__proto__']) {
      expect(tellHeaderHere(name, '1', 'response', exchange({}))).toBeUndefined();
    }
  });
});

describe('what a cache directive did here', () => {
  it('tells the lifetime against the age', () => {
    expect(tellDirectiveHere('max-age', '600', exchange({ response: headers(['Age', '240']) }))).toBe(
      'Fresh for 10 min from when it was generated; it was 4 min old on arrival.',
    );
  });

  it.each([
    ['max-age', '0', 'Must be revalidated each time.'],
    ['no-store', undefined, 'Must not be stored; the next visit should download it again.'],
    [
      'no-cache',
      undefined,
      'Revalidated on the next visit; without ETag or Last-Modified the full body is sent again.',
    ],
    ['s-maxage', '120', 'Fresh in shared caches for 2 min.'],
    ['private', undefined, 'Only this browser may store it, no shared cache.'],
    ['public', undefined, 'Any shared cache may store it, even if the request had credentials.'],
    ['immutable', undefined, 'While it is fresh some browsers do not revalidate it on a reload either.'],
    ['no-cache', 'set-cookie', undefined],
    ['private', 'set-cookie', undefined],
    ['must-revalidate', undefined, 'When stale it is never used without revalidation.'],
    ['stale-while-revalidate', '120', 'For 2 min after that it may be used while it is revalidated in the background.'],
    ['stale-if-error', '120', 'For 2 min after that it may be used when the server fails.'],
    ['max-age', 'soon', undefined],
    ['proxy-only', undefined, undefined],
  ])('%s %s: %s', (name, setTo, says) => expect(tellDirectiveHere(name, setTo, exchange({}))).toBe(says));
});
