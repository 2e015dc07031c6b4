import { describe, expect, it } from 'vitest';
import { EMPTY_DRAFT, placeParameter } from '../index';
import { holdsParameter, placeTarget } from './parameter';

const at = (url: string, text?: string) => ({
  ...EMPTY_DRAFT,
  url: `https://a.example${url}`,
  ...(text === undefined ? {} : { payload: { type: 'text', text } as const }),
});

describe('the place of a parameter', () => {
  it.each([
    ['page', '/huts?page=7&size=2', '/huts?page=‹page›&size=2', '7'],
    ['page', '/huts?size=2&page=&x=%70age', '/huts?size=2&page=‹page›&x=%70age', ''],
    ['page', '/huts?%70age=7', '/huts?%70age=‹page›', '7'],
    ['page', '/huts?page=1&page=2', '/huts?page=‹page›&page=‹page›', '1'],
    ['page', '/huts?pages=7', '/huts?pages=7&page=‹page›', ''],
    ['page', '/huts', '/huts?page=‹page›', ''],
    ['page', '/huts?', '/huts?page=‹page›', ''],
    ['a b&', '/huts', '/huts?a%20b%26=‹page›', ''],
    ['path.2', '/huts/12/nights?x=/3', '/huts/‹page›/nights?x=/3', '12'],
    ['path.2', '/huts/page-12.json', '/huts/page-‹page›.json', '12'],
    ['path.2', '/huts/first', '/huts/‹page›', 'first'],
    // A segment that is not there, and a query parameter that is called so.
    ['path.3', '/huts/12', '/huts/12?path.3=‹page›', ''],
    ['path.2', '/huts/12?path.2=5', '/huts/12?path.2=‹page›', '5'],
  ])('%s in %s', (parameter, url, wanted, first) => {
    const { draft, first: found } = placeParameter(at(url), parameter, 'numbers');
    expect([draft.url, found]).toEqual([`https://a.example${wanted}`, first]);
  });

  it.each([
    ['page', '{"size":2,"page":7}', '{"size":2,"page":‹page›}'],
    ['page', '{"page":"7"}', '{"page":"‹page›"}'],
    ['page', '{"q":"\\"page\\": 3, ","page" : 4 }', '{"q":"\\"page\\": 3, ","page" : ‹page› }'],
    ['$.variables.page', '{"page":1,"variables":{"page":2}}', '{"page":1,"variables":{"page":‹page›}}'],
    ['$.variables["the page"]', '{"variables":{"the page":2}}', '{"variables":{"the page":‹page›}}'],
    ['page', 'size=2&page=7', 'size=2&page=‹page›'],
  ])('%s in the payload %s', (parameter, text, wanted) => {
    const { draft } = placeParameter(at('/huts', text), parameter, 'numbers');
    expect(draft.payload).toEqual({ type: 'text', text: wanted });
    expect(draft.url).toBe('https://a.example/huts');
  });

  it('is no member of another name, place or kind', () => {
    for (const [parameter, text] of [
      ['page', '{"pages":1,"apage":2}'],
      ['page', '{"page":[1]}'],
      ['$.page', '{"deep":{"page":1}}'],
      ['page', 'pages=1&apage=2'],
    ] as const)
      expect(holdsParameter(at('/huts', text), parameter), text).toBe(false);
  });

  it('is the whole piece for what may be nothing at first', () => {
    const none = placeParameter(at('/huts#top'), 'after', 'texts');
    expect(none).toMatchObject({ draft: { url: 'https://a.example/huts‹page›' }, first: '' });
    expect(none.writing).toEqual({ as: 'encoded', before: '?after=' });
    expect(placeParameter(at('/huts?a=1'), 'after', 'texts').writing.before).toBe('&after=');
    const json = placeParameter(at('/huts', '{"after":null}'), 'after', 'texts');
    expect(json).toMatchObject({ first: 'null', writing: { as: 'json' } });
  });

  it('of an address is all behind its host', () => {
    for (const [url, wanted, first] of [
      ['https://a.example/huts?x=1#top', 'https://a.example/‹page›', 'huts?x=1'],
      ['https://a.example:8080?x=1', 'https://a.example:8080/‹page›', '?x=1'],
      ['https://a.example', 'https://a.example/‹page›', ''],
    ] as const)
      expect(placeTarget({ ...EMPTY_DRAFT, url })).toMatchObject({ draft: { url: wanted }, first });
  });
});
