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
    ['Age', '240', {}, 'A cache on the way had kept it for 4 min.'],
    ['Date', 'Sat, 03 Oct 2026 09:00:01 GMT', {}, 'The server’s clock and this machine’s agree.'],
    ['Expires', '0', {}, 'It is no date: caches take it as over already.'],
    ['Expires', 'Sat, 03 Oct 2026 10:00:00 GMT', {}, 'It was fresh 1 h more.'],
    ['Last-Modified', 'Sat, 03 Oct 2026 08:00:00 GMT', {}, 'It had not been changed for 1 h.'],
    ['ETag', '"a"', {}, 'The browser did not send it back with if-none-match this time.'],
    [
      'ETag',
      '"a"',
      { request: headers(['If-None-Match', '"a"']), response: { status: 304 } },
      'It had not changed since: answered 304.',
    ],
    [
      'ETag',
      '"a"',
      { request: headers(['If-None-Match', '"b"']) },
      'It had changed since the tag sent in if-none-match.',
    ],
    [
      'ETag',
      '"a"',
      { request: headers(['If-None-Match', '"b", W/"a"']) },
      'It is the tag that the request sent in if-none-match, and yet all of the content came again.',
    ],
    ['ETag', '"a"', { request: headers(['If-None-Match', '"b"']), response: { status: 500 } }, undefined],
    [
      'Date',
      'Sat, 03 Oct 2026 08:00:00 GMT',
      {},
      '1 h before the request started: an older answer, or clocks that differ.',
    ],
    ['Date', 'yesterday', {}, undefined],
    ['Expires', 'Sat, 03 Oct 2026 08:00:00 GMT', {}, 'It was over already.'],
    ['Content-Length', '1500', {}, '1.5 kB were to come.'],
    [
      'Content-Length',
      '1500',
      { response: { _failureText: 'closed' } },
      '1.5 kB were to come, but the transfer broke.',
    ],
    ['Content-Length', 'many', {}, 'It is no number.'],
    [
      'Content-Encoding',
      'br',
      { response: { _transferSize: 400, content: { size: 2000 } } },
      '2.0 kB travelled as 400 B, headers included, packed with br.',
    ],
    ['Content-Encoding', 'br', {}, undefined],
    ['Vary', 'Origin', {}, 'This request sent none of Origin.'],
    ['Location', '/huts', { response: { status: 302 } }, 'The browser went on to /huts.'],
    ['Location', '/huts/9', { response: { status: 201 } }, undefined],
    ['Retry-After', 'Sat, 03 Oct 2026 10:00:00 GMT', {}, undefined],
    ['Access-Control-Allow-Origin', '*', {}, 'The request named no Origin, so it had nothing to allow.'],
    [
      'Access-Control-Allow-Origin',
      '*',
      { request: headers(['Origin', 'https://c.example']) },
      'It lets any origin read the answer, https://c.example too, but not with credentials.',
    ],
    ['Access-Control-Max-Age', '600', {}, 'Browsers need not ask leave again for 10 min.'],
    [
      'Strict-Transport-Security',
      'includeSubDomains; max-age=3600',
      {},
      'Browsers use https alone for this host for 1 h.',
    ],
    ['Content-Type', 'text/plain', { rest: { _resourceType: 'document' } }, 'A document that is no HTML.'],
    ['Content-Type', 'text/plain', { rest: { _resourceType: 'fetch' } }, undefined],
    ['Vary', '*', {}, 'No kept copy may ever be used for another request.'],
    [
      'Vary',
      'Origin, Accept',
      { request: headers(['Accept', '*/*']) },
      'A kept copy serves only requests with the same Accept as this one.',
    ],
    ['Retry-After', '2', {}, 'Ask again 2 s later.'],
    [
      'Access-Control-Allow-Origin',
      'https://b.example',
      { request: headers(['Origin', 'https://c.example']) },
      'It does not let https://c.example read the answer.',
    ],
  ])('%s: %s', (name, value, change, says) => {
    expect(tellHeaderHere(name, value, 'response', exchange(change))).toBe(says);
  });

  it.each([
    ['If-None-Match', '"a"', { response: { status: 304 } }, 'The server answered 304: the kept copy is still good.'],
    ['If-None-Match', '"a"', {}, 'The server answered 200 with the whole content: the kept copy was outdated.'],
    [
      'If-None-Match',
      '"a"',
      { response: { status: 503 } },
      'The server answered 503, which says nothing of the kept copy.',
    ],
    ['If-Modified-Since', 'x', { response: { status: 0 } }, undefined],
    ['Accept-Encoding', 'br', {}, 'The answer came unpacked.'],
    ['Range', 'bytes=0-1', {}, 'The server sent all of it instead.'],
    ['Range', 'bytes=9-', { response: { status: 416 } }, undefined],
    [
      'Origin',
      'https://c.example',
      {},
      'The answer has no Access-Control-Allow-Origin: a page of another origin may not read it.',
    ],
    [
      'Origin',
      'https://c.example',
      { response: headers(['Access-Control-Allow-Origin', 'https://d.example']) },
      'The answer allows https://d.example, not it.',
    ],
    ['Pragma', 'no-cache', {}, 'The browser did not want a kept copy.'],
    ['Cache-Control', 'only-if-cached', {}, undefined],
    ['Accept-Encoding', 'br', { response: headers(['Content-Encoding', 'br']) }, 'The answer came packed with br.'],
    ['Range', 'bytes=0-1', { response: { status: 206 } }, 'The server sent that part.'],
    ['Cache-Control', 'no-cache', {}, 'The browser did not want a kept copy: a reload, or the cache was turned off.'],
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
      'The server answered 304, which the recorder shows as the page’s 200: the kept copy is still good.',
    );
    expect(tellHeaderHere('ETag', '"a"', 'response', confirmed)).toBe(
      'It had not changed since: answered 304, which the recorder shows as the page’s 200.',
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
      'Kept 10 min; it was 4 min old when it came.',
    );
  });

  it.each([
    ['max-age', '0', 'To be checked again each time.'],
    ['no-store', undefined, 'No copy of this was kept; the next visit fetches it again.'],
    ['no-cache', undefined, 'The next visit asks again; without ETag or Last-Modified it is always sent anew.'],
    ['s-maxage', '120', 'Shared caches keep it 2 min.'],
    ['private', undefined, 'Only this browser may keep it, no cache on the way.'],
    ['public', undefined, 'Any cache on the way may keep it, even where the request had credentials.'],
    ['immutable', undefined, 'A reload does not check it while it is fresh.'],
    ['must-revalidate', undefined, 'Once it is outdated it is never used without asking.'],
    ['stale-while-revalidate', '120', 'For 2 min after that it is used while it is checked behind.'],
    ['stale-if-error', '120', 'For 2 min after that it is used where the server fails.'],
    ['max-age', 'soon', undefined],
    ['proxy-only', undefined, undefined],
  ])('%s %s: %s', (name, setTo, says) => expect(tellDirectiveHere(name, setTo, exchange({}))).toBe(says));
});
