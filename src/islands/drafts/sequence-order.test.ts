import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { inOrder, readOrder, writeOrder } from './sequence-order';

const draft = (id: string, exchange?: number) => ({ id, exchange });
const ids = (list: readonly { readonly id: string }[]): string => list.map(({ id }) => id).join(' ');

describe('the order in which drafts are sent', () => {
  const all = [draft('late', 19), draft('pasted'), draft('early', 13), draft('other')];

  it('is that of the capture until somebody sets another; what was begun by hand comes last', () => {
    expect(ids(inOrder(all, { order: [], leftOut: [] }))).toBe('early late pasted other');
  });

  it('is what was set, with what has come since behind it', () => {
    expect(ids(inOrder(all, { order: ['pasted', 'gone', 'late'], leftOut: [] }))).toBe('pasted late early other');
  });
});

describe('what is kept of it', () => {
  let stored: Map<string, string>;
  beforeEach(() => {
    stored = new Map();
    vi.stubGlobal('localStorage', {
      getItem: (key: string) => stored.get(key) ?? null,
      setItem: (key: string, value: string) => stored.set(key, value),
    });
  });
  afterEach(() => vi.unstubAllGlobals());

  it('is kept for each capture by itself', () => {
    writeOrder('a', { order: ['x'], leftOut: ['y'] });
    expect(readOrder('a')).toEqual({ order: ['x'], leftOut: ['y'] });
    expect(readOrder('b')).toEqual({ order: [], leftOut: [] });
  });

  it.each(['{', 'null', '{"order":1}', '[]'])('is none where %s is kept', (text) => {
    stored.set('sequence of a', text);
    expect(readOrder('a')).toEqual({ order: [], leftOut: [] });
  });

  it('lasts as long as the view where nothing can be kept', () => {
    vi.stubGlobal('localStorage', {
      getItem: () => {
        throw new Error('denied');
      },
      setItem: () => {
        throw new Error('full');
      },
    });
    expect(() => writeOrder('a', { order: [], leftOut: [] })).not.toThrow();
    expect(readOrder('a')).toEqual({ order: [], leftOut: [] });
  });
});
