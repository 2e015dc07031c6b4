import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { $notice } from './notices';
import { Setting } from './setting';

// The server's side: what it has, and whether it is there.
let stored: readonly string[] | null;
let isGone: boolean;
let page: EventTarget;

beforeEach(() => {
  vi.useFakeTimers();
  page = new EventTarget();
  vi.stubGlobal('addEventListener', page.addEventListener.bind(page));
  stored = null;
  isGone = false;
  $notice.set(undefined);
  vi.stubGlobal('fetch', async (_path: string, options?: RequestInit) => {
    // What a page that was left goes on with by itself; all else ends with it.
    if (options?.keepalive === true) stored = JSON.parse(String(options.body)) as readonly string[];
    await new Promise((resolve) => setTimeout(resolve, 50));
    if (isGone) throw new TypeError('no connection');
    if (options?.method === 'PUT' && String(options.body).includes('refused'))
      return Response.json({ code: 'invalid-input', sentence: 'No.', advice: 'Change it.' }, { status: 400 });
    if (options?.method === 'PUT') stored = JSON.parse(String(options.body)) as readonly string[];
    return Response.json(stored);
  });
});
afterEach(() => {
  vi.unstubAllGlobals();
  vi.useRealTimers();
});

const settled = (): Promise<unknown> => vi.advanceTimersByTimeAsync(2000);
const settingOf = () => new Setting<readonly string[]>('filters', [], 'It lasts until you close this page.');
const with_ = (one: string) => (all: readonly string[]) => [...all, one];

describe('a setting', () => {
  it('is seen at once, and kept beside what another page kept since this one read it', async () => {
    stored = ['a'];
    const [here, there] = [settingOf(), settingOf()];
    void here.load();
    void there.load();
    await settled();
    there.change(with_('b'));
    await settled();
    here.change(with_('c'));
    expect(here.$value.get()).toEqual(['a', 'c']);
    await settled();
    expect([stored, here.$value.get()]).toEqual([
      ['a', 'b', 'c'],
      ['a', 'b', 'c'],
    ]);
  });

  it('is not lost to a page that could not read it', async () => {
    stored = ['a'];
    isGone = true;
    const setting = settingOf();
    void setting.load();
    await settled();
    isGone = false;
    setting.change(with_('b'));
    await settled();
    expect(stored).toEqual(['a', 'b']);
  });

  it('that cannot be kept lasts, is told of, and is kept with the next that can', async () => {
    const setting = settingOf();
    isGone = true;
    setting.change(with_('a'));
    await settled();
    expect([stored, setting.$value.get(), $notice.get()?.detail]).toEqual([
      null,
      ['a'],
      'It lasts until you close this page.',
    ]);
    isGone = false;
    setting.change(with_('b'));
    await settled();
    expect(stored).toEqual(['a', 'b']);
  });

  it('that the server refuses is taken back, told of, and stands in the way of no other', async () => {
    stored = ['a'];
    const setting = settingOf();
    setting.change(with_('refused'));
    await settled();
    expect([setting.$value.get(), $notice.get()?.text, $notice.get()?.detail]).toEqual([['a'], 'No.', 'Change it.']);
    setting.change(with_('b'));
    await settled();
    expect(stored).toEqual(['a', 'b']);
  });

  it('is changed as often as one likes while it is written', async () => {
    const setting = settingOf();
    for (const one of ['a', 'b', 'c']) setting.change(with_(one));
    await vi.advanceTimersByTimeAsync(120);
    setting.change((all) => all.filter((one) => one !== 'a'));
    expect(setting.$value.get()).toEqual(['b', 'c']);
    await settled();
    expect(stored).toEqual(['b', 'c']);
  });

  it('is not lost by leaving the page while it is written, or while another is', async () => {
    stored = ['a'];
    const setting = settingOf();
    void setting.load();
    await settled();
    setting.change(with_('b'));
    setting.change(with_('c'));
    page.dispatchEvent(new Event('pagehide'));
    expect(stored).toEqual(['a', 'b', 'c']);
  });

  it('that is longer than browsers send for a page that is gone is sent while it may still be there', async () => {
    stored = [];
    const setting = settingOf();
    void setting.load();
    await settled();
    const sent = vi.spyOn(globalThis, 'fetch');
    // Each takes three bytes: 40,000 of them are too many, though they are fewer than 60,000 characters.
    setting.change(with_('→'.repeat(40_000)));
    page.dispatchEvent(new Event('pagehide'));
    expect(sent.mock.calls.map(([, options]) => options?.keepalive)).toContain(false);
    expect(sent.mock.calls.map(([, options]) => options?.keepalive)).not.toContain(true);
  });

  it('is not written over by a page that is left before it could read it, nor by one that changed nothing', async () => {
    stored = ['a'];
    const [early, idle] = [settingOf(), settingOf()];
    void idle.load();
    await settled();
    stored = ['a', 'later'];
    early.change(with_('b'));
    page.dispatchEvent(new Event('pagehide'));
    expect(stored).toEqual(['a', 'later']);
    // It was kept open after all, as browsers do for Back.
    await settled();
    expect(stored).toEqual(['a', 'later', 'b']);
  });
});
