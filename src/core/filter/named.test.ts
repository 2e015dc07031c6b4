import { describe, expect, it } from 'vitest';
import { type JsonObject, normaliseEntry } from '../har';
import type { Exchange } from '../model';
import { NameCounter, namedValue } from './named';

function exchange(request: readonly [string, string][], response: readonly [string, string][]): Exchange {
  const list = (pairs: readonly [string, string][]) => pairs.map(([name, value]) => ({ name, value }));
  const entry = {
    startedDateTime: '2026-10-03T09:00:00Z',
    request: { method: 'GET', url: 'https://a.example/x', headers: list(request) },
    response: { status: 200, headers: list(response), content: {} },
  };
  return normaliseEntry(entry as unknown as JsonObject, 0);
}

const one = exchange(
  [
    ['Accept', 'text/html'],
    ['Cookie', 'walker=w-1; theme=dark=er; =nameless; lonely'],
  ],
  [
    ['ETag', '"a"'],
    ['Set-Cookie', 'walker=w-2; Path=/; HttpOnly'],
    ['Vary', 'Accept'],
    ['vary', 'Origin'],
  ],
);

describe('the value of a named field', () => {
  it.each([
    ['req.accept', 'text/html'],
    ['res.etag', '"a"'],
    ['res.accept', undefined],
    ['req.etag', undefined],
    ['res.vary', 'Accept\nOrigin'],
    ['cookie.walker', 'w-1\nw-2'],
    ['cookie.theme', 'dark=er'],
    ['cookie.Walker', undefined],
    ['cookie.lonely', undefined],
    ['cookie.', undefined],
    ['cookie.Path', undefined],
    ['req.constructor', undefined],
  ])('%s is %j', (column, value) => {
    expect(namedValue(one, column)).toBe(value);
  });

  it('stands there once where it was sent twice', () => {
    const twice = exchange([['X-Hut', 'alba']].concat([['x-hut', 'alba']]) as [string, string][], []);
    expect(namedValue(twice, 'req.x-hut')).toBe('alba');
  });

  it('keeps the dots of a cookie’s own name', () => {
    expect(namedValue(exchange([['Cookie', 'a.b=1']], []), 'cookie.a.b')).toBe('1');
  });
});

describe('the names that there are', () => {
  it('are counted once for each exchange and put in order, whatever their case', () => {
    const counter = new NameCounter();
    counter.add(one);
    counter.add(exchange([['ACCEPT', '*/*']], [['Vary', 'Cookie']]));
    expect(counter.names()).toEqual([
      { name: 'cookie.theme', count: 1 },
      { name: 'cookie.walker', count: 1 },
      { name: 'req.accept', count: 2 },
      { name: 'req.cookie', count: 1 },
      { name: 'res.etag', count: 1 },
      { name: 'res.set-cookie', count: 1 },
      { name: 'res.vary', count: 2 },
    ]);
  });

  it('may be those of an object’s own members', () => {
    const counter = new NameCounter();
    counter.add(exchange([['__proto__', '1']], [['constructor', '2']]));
    expect(counter.names()).toEqual([
      { name: 'req.__proto__', count: 1 },
      { name: 'res.constructor', count: 1 },
    ]);
  });
});
