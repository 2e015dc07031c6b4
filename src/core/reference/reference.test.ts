import { describe, expect, it } from 'vitest';
import { CLOSE_REASONS } from '../diagnose/close-code';
import { readFailReason } from '../http';
import { FAIL_REASONS } from '../model';
import { TOPICS } from './entry';
import {
  explainDirectives,
  findHeaderEntry,
  findMethodEntry,
  findStatusEntry,
  groupHeaders,
  headerGroup,
  searchReference,
} from './index';
import { REFERENCE } from './look-up';

describe('the reference', () => {
  it('explains each thing once, in a sentence or two, with where it is laid down', () => {
    const names = REFERENCE.map(({ topic, name }) => `${topic} ${name}`);
    expect(new Set(names).size).toBe(names.length);
    for (const { name, says, section } of REFERENCE) {
      expect(says.length, name).toBeLessThan(230);
      expect(says, name).toMatch(/[.]$|: (close|13)/);
      expect(section, name).not.toBe('');
    }
  });

  it('lists every topic', () => expect(new Set(REFERENCE.map(({ topic }) => topic)).size).toBe(TOPICS.length));

  it('explains every close code that a finding names', () => {
    const codes = REFERENCE.filter(({ topic }) => topic === 'close code').map(({ name }) => name);
    expect(codes).toEqual(expect.arrayContaining([...CLOSE_REASONS.keys()].map(String)));
  });

  it('names network errors that are read as the reason they stand for', () => {
    const errors = REFERENCE.filter(({ topic }) => topic === 'network error');
    const written = errors.flatMap(({ name, also = [] }) =>
      [name, ...also].filter((word) => /^[A-Z0-9_]+$/.test(word)).map((word) => [word, name] as const),
    );
    expect(written.length).toBeGreaterThan(50);
    for (const [word, name] of written) expect(searchReference(`net::${word}`)[0]?.name, word).toBe(name);
    expect(new Set(errors.map(({ name }) => readFailReason(name))).size).toBe(FAIL_REASONS.length - 1);
  });

  it.each([
    ['ttfb', 'time to first byte'],
    ['TTFB?', 'time to first byte'],
    ['why 304', '304'],
    ['why is it not cached', 'network'],
    ['samesite', 'SameSite'],
    ['net::ERR_CONNECTION_REFUSED', 'ERR_CONNECTION_REFUSED'],
    ['ERR_SSL_BAD_RECORD_MAC_ALERT', 'ERR_SSL_PROTOCOL_ERROR'],
    ['ECONNREFUSED', 'ERR_CONNECTION_REFUSED'],
    ['what does stale mean', 'stale'],
    ['what is the critical path', 'route'],
    ['domcontentloaded', 'DOM ready'],
    ['onload', 'loaded'],
    ['1006', '1006'],
    ['4401', '4000–4999'],
    ['http/2', 'h2'],
    ['brotli', 'br'],
    ['cors', 'CORS'],
    ['cors error', 'CORS'],
    ['simple request', 'request without preflight'],
    ['fwd=stale', 'fwd=stale'],
    ['jwt expired', 'exp'],
    ['queued', 'blocked'],
    ['ssl error', 'ERR_SSL_PROTOCOL_ERROR'],
    ['close codes', '1000'],
    ['phase', 'blocked'],
    ['wait', 'wait'],
    ['host', 'host'],
    ['if-none-match', 'if-none-match'],
    ['etag', 'etag'],
    ['max-age', 'max-age'],
    ['no-cache', 'no-cache'],
  ])('leads who types %s to %s', (typed, name) => expect(searchReference(typed)[0]?.name).toBe(name));

  it('is looked up whatever the case of a header', () => {
    expect(findHeaderEntry('Cache-Control')?.section).toBe('RFC 9111 5.2');
    expect(findHeaderEntry('x-unheard-of')).toBeUndefined();
    expect(findStatusEntry(304)?.says).toContain('still valid');
    expect(findMethodEntry('PATCH')?.section).toBe('RFC 5789 2');
  });

  it('is searched by name first, then by what it says', () => {
    expect(searchReference('cache-control')[0]?.name).toBe('cache-control');
    expect(searchReference('reload revalidate').map(({ name }) => name)).toEqual(['immutable', 'reload']);
    expect(searchReference('')).toHaveLength(REFERENCE.length);
  });

  it('explains the directives of a value, each with what it was set to', () => {
    expect(
      explainDirectives('max-age=600, PRIVATE, odd=1, s-maxage="5"').map(({ entry, setTo }) => [entry.name, setTo]),
    ).toEqual([
      ['max-age', '600'],
      ['private', undefined],
      ['s-maxage', '5'],
    ]);
  });
});

describe('the groups of headers', () => {
  it.each([
    ['Content-Type', 'content'],
    ['ETag', 'caching'],
    ['X-Session', 'credentials'],
    ['X-Sort-Key', 'own'],
    ['sec-ch-viewport-width', 'hints'],
    ['sec-unheard-of', 'browser'],
    ['access-control-new', 'cross-origin'],
    [':authority', 'connection'],
    ['x-hut', 'own'],
  ])('%s is for %s', (name, group) => expect(headerGroup(name)).toBe(group));

  it('keep the order of the headers inside, and stand in one order themselves', () => {
    const headers = ['x-b', 'date', 'accept', 'x-a', 'age'].map((name) => ({ name }));
    expect(groupHeaders(headers).map(({ group, items }) => [group, items.map(({ name }) => name)])).toEqual([
      ['content', ['accept']],
      ['caching', ['date', 'age']],
      ['own', ['x-b', 'x-a']],
    ]);
  });
});
