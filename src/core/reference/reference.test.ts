import { describe, expect, it } from 'vitest';
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
    for (const { says, section } of REFERENCE) {
      expect(says.length).toBeLessThan(170);
      expect(says).toMatch(/[.]$|: (close|13)/);
      expect(section).not.toBe('');
    }
    expect(REFERENCE.length).toBeGreaterThan(190);
  });

  it('is looked up whatever the case of a header', () => {
    expect(findHeaderEntry('Cache-Control')?.section).toBe('RFC 9111 5.2');
    expect(findHeaderEntry('x-unheard-of')).toBeUndefined();
    expect(findStatusEntry(304)?.says).toContain('still valid');
    expect(findMethodEntry('PATCH')?.section).toBe('RFC 5789 2');
  });

  it('is searched by name first, then by what it says', () => {
    expect(searchReference('cache-control')[0]?.name).toBe('cache-control');
    expect(searchReference('reload revalidate').map(({ name }) => name)).toEqual(['immutable']);
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
