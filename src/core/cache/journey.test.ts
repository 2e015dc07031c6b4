import { describe, expect, it } from 'vitest';
import { type JsonObject, normaliseEntry } from '../har';
import type { Source } from '../model';
import { readPolicy, tellJourney } from './index';

interface Asked {
  readonly method?: string;
  readonly request?: readonly [string, string][];
  readonly response?: readonly [string, string][];
  readonly status?: number;
}

const listOf = (headers: readonly [string, string][] = []) => headers.map(([name, value]) => ({ name, value }));

function stopsOf(source: Source, { method = 'GET', request, response, status = 200 }: Asked = {}): string[] {
  const exchange = normaliseEntry(
    {
      startedDateTime: '2026-10-03T09:00:00Z',
      request: { method, url: 'https://a.example/x', headers: listOf(request) },
      response: { status, headers: listOf(response) },
    } as unknown as JsonObject,
    0,
  );
  return tellJourney(exchange, source, readPolicy(exchange)).map(
    ({ station, did, says }) => `${station} ${did}: ${says}`,
  );
}

describe('the journey of a look-up', () => {
  it.each(['worker', 'memory', 'disk', 'cache', 'prefetched', 'pushed'] as const)(
    'of what came from %s stops there, and asks nobody behind',
    (source) => {
      const dids = stopsOf(source).map((stop) => / ([a-z-]+):/.exec(stop)?.[1]);
      const at = dids.indexOf('answered');
      expect(at).toBe(source === 'worker' ? 0 : 1);
      expect(dids.slice(at + 1).every((did) => did === 'not-asked')).toBe(true);
    },
  );

  it.each([
    [{}, 'No sign of a stored copy: the request was not conditional.'],
    [{ method: 'POST' }, 'Responses to POST are not looked up in caches.'],
    [{ request: [['Cache-Control', 'no-cache']] }, 'Bypassed (the request says no-cache).'],
    [
      { request: [['cache-control', 'max-age=0']] },
      'No sign of a stored copy: the request was not conditional, and says max-age=0, which lets none be used unasked.',
    ],
    // As browsers send it where a page is reloaded.
    [
      {
        request: [
          ['cache-control', 'max-age=0'],
          ['if-modified-since', 'Sat, 03 Oct 2026 09:00:00 GMT'],
        ],
      },
      'Had a stored copy and revalidated it (If-Modified-Since); the server sent a full response.',
    ],
    [{ request: [['Pragma', 'no-cache']] }, 'Bypassed (the request says Pragma: no-cache).'],
    [
      { request: [['If-None-Match', '"a"']] },
      'Had a stored copy and revalidated it (If-None-Match); the server sent a full response.',
    ],
  ] as [Asked, string][])('of %j over the network says why the browser had nothing', (asked, says) => {
    expect(stopsOf('network', asked)[1]).toBe(`browser passed: ${says}`);
  });

  it('of a copy that was checked names what it was checked by', () => {
    expect(stopsOf('revalidated', { request: [['If-Modified-Since', 'x']], status: 304 })).toEqual([
      'worker passed: No service worker is recorded as having responded.',
      'browser passed: Had a stored copy and revalidated it (If-Modified-Since).',
      'on-the-way unknown: No header tells of one.',
      'origin answered: Confirmed the stored copy (304) (or an unidentified cache did).',
    ]);
  });

  it.each([
    [[['X-Cache', 'HIT']], 'on-the-way answered: One of them had a copy (x-cache: HIT).', 'origin not-asked'],
    [[['Age', '30']], 'on-the-way answered: One of them had a copy (Age: 30).', 'origin not-asked'],
    [
      [['Cache-Status', 'edge; fwd=miss']],
      'on-the-way passed: None of them responded from a copy (Cache-Status: edge; fwd=miss).',
      'origin answered: Responded 200.',
    ],
    [
      [['Via', '1.1 edge']],
      'on-the-way unknown: There is one (Via: 1.1 edge); it does not say whether it had a copy.',
      'origin answered: Responded 200 (or an unidentified cache did)',
    ],
  ] as [[string, string][], string, string][])(
    'with %j tells who answered on the way',
    (response, onTheWay, origin) => {
      const stops = stopsOf('network', { response });
      expect(stops[2]).toBe(onTheWay);
      expect(stops[3]).toContain(origin);
    },
  );

  it('of no response, and of an unknown source, claims nothing', () => {
    expect(stopsOf('none').slice(2)).toEqual(['on-the-way unknown: No response.', 'origin unknown: No response.']);
    expect(
      stopsOf('unknown')
        .slice(1)
        .every((stop) => stop.includes(' unknown: Not recorded.')),
    ).toBe(true);
  });
});
