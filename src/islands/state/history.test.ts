import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { $place, addressOf, followHistory, goTo, readPlace } from './address';

// The browser's address without a browser: what is pushed can be gone back to, what is replaced cannot.

let entries: string[];
let refusals: number;
let beganAtMs = 0;
const page = new EventTarget();
const address = { pathname: '/c/1/waterfall', search: '' };

function show(url: string): void {
  const at = url.indexOf('?');
  address.pathname = at === -1 ? url : url.slice(0, at);
  address.search = at === -1 ? '' : url.slice(at);
}

beforeEach(() => {
  vi.useFakeTimers();
  entries = ['/c/1/waterfall'];
  refusals = 0;
  show('/c/1/waterfall');
  vi.stubGlobal('location', address);
  vi.stubGlobal('addEventListener', page.addEventListener.bind(page));
  vi.stubGlobal('removeEventListener', page.removeEventListener.bind(page));
  vi.stubGlobal('history', {
    pushState: (_state: unknown, _title: string, url: string) => {
      entries.push(url);
      show(url);
    },
    replaceState: (_state: unknown, _title: string, url: string) => {
      if (refusals-- > 0) throw new Error('too many');
      entries.splice(-1, 1, url);
      show(url);
    },
  });
  $place.set(readPlace('', '/c/1/waterfall'));
  // Each test's clock begins at 0, and what an earlier one wrote has to be long ago.
  beganAtMs += 10_000;
  vi.advanceTimersByTime(beganAtMs);
});
afterEach(() => {
  vi.runAllTimers();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe('going to another place', () => {
  it('is undone by Back where it is a step, and takes the entry along where it is a move', () => {
    goTo({ exchange: 3 });
    expect(entries).toEqual(['/c/1/waterfall?exchange=3']);
    goTo({ isOpen: true });
    expect(entries).toEqual(['/c/1/waterfall?exchange=3', '/c/1/waterfall?exchange=3&dossier']);
    goTo({ view: 'find' });
    expect(entries.at(-1)).toBe('/c/1/find?exchange=3&dossier');
    expect(entries).toHaveLength(3);
  });

  it('writes the address once zooming rests', () => {
    for (let step = 1; step <= 40; step++) {
      goTo({ window: { fromMs: step, toMs: 500 } });
      vi.advanceTimersByTime(16);
    }
    expect(entries).toEqual(['/c/1/waterfall']);
    vi.advanceTimersByTime(250);
    expect(entries).toEqual(['/c/1/waterfall?window=40_500']);
  });

  it('writes no oftener than browsers bear, and the last place in the end', () => {
    const written = vi.spyOn(history, 'replaceState');
    for (let exchange = 0; exchange < 30; exchange++) {
      goTo({ exchange });
      vi.advanceTimersByTime(10);
    }
    vi.advanceTimersByTime(100);
    expect(written.mock.calls.length).toBeLessThanOrEqual(8);
    expect(entries).toEqual(['/c/1/waterfall?exchange=29']);
  });

  it('leaves the entry that it steps away from as it was left', () => {
    goTo({ window: { fromMs: 10, toMs: 90 } });
    goTo({ filter: 'kind = data' });
    expect(entries).toEqual(['/c/1/waterfall?window=10_90', '/c/1/waterfall?filter=kind+%3D+data&window=10_90']);
  });

  it('tries again where the browser refuses', () => {
    refusals = 1;
    goTo({ exchange: 7 });
    expect(entries).toEqual(['/c/1/waterfall']);
    vi.advanceTimersByTime(2100);
    expect(entries).toEqual(['/c/1/waterfall?exchange=7']);
  });
});

describe('Back and Forward', () => {
  it('bring back what the address says, and drop what was still to be written', () => {
    const stop = followHistory();
    goTo({ window: { fromMs: 10, toMs: 90 } });
    show('/c/1/endpoints?endpoint=GET+a');
    page.dispatchEvent(new Event('popstate'));
    expect($place.get()).toMatchObject({ view: 'endpoints', endpoint: 'GET a', window: undefined });
    vi.advanceTimersByTime(1000);
    expect(address.pathname).toBe('/c/1/endpoints');
    stop();
    show('/c/1/find');
    page.dispatchEvent(new Event('popstate'));
    expect($place.get().view).toBe('endpoints');
  });

  it('a page that is left writes what was still to be written', () => {
    const stop = followHistory();
    goTo({ window: { fromMs: 10, toMs: 90 } });
    page.dispatchEvent(new Event('pagehide'));
    expect(entries).toEqual(['/c/1/waterfall?window=10_90']);
    stop();
  });
});

describe('the address of a place', () => {
  it('is of the capture that is open, or of the views that are of none', () => {
    const place = $place.get();
    expect(addressOf({ ...place, view: 'brief' })).toBe('/c/1/brief');
    expect(addressOf({ ...place, view: 'shelf' })).toBe('/');
    expect(addressOf({ ...place, view: 'reference', term: 'vary' })).toBe('/c/1/reference?term=vary');
    show('/reference');
    expect(addressOf({ ...place, view: 'reference', search: 'vary' })).toBe('/reference?search=vary');
    show('/');
    expect(addressOf({ ...place, view: 'brief' })).toBe('/');
  });
});
