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
    ['Vary', '*', {}, 'No kept copy may ever be used for another request.'],
    [
      'Vary',
      'Origin, Accept',
      { request: headers(['Accept', '*/*']) },
      'A kept copy serves only requests with the same Accept as this one.',
    ],
    ['Retry-After', '2', {}, 'Ask again 2.00 s later.'],
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
    ['Accept-Encoding', 'br', { response: headers(['Content-Encoding', 'br']) }, 'The answer came packed with br.'],
    ['Range', 'bytes=0-1', { response: { status: 206 } }, 'The server sent that part.'],
    ['Cache-Control', 'no-cache', {}, 'The browser did not want a kept copy: a reload, or the cache was turned off.'],
  ])('%s: %s, of the request', (name, value, change, says) => {
    expect(tellHeaderHere(name, value, 'request', exchange(change))).toBe(says);
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
    ['max-age', 'soon', undefined],
    ['proxy-only', undefined, undefined],
  ])('%s %s: %s', (name, setTo, says) => expect(tellDirectiveHere(name, setTo, exchange({}))).toBe(says));
});
