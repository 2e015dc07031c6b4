import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Mark, MarkTarget } from '#core/marks';
import { $notice } from '../state/notices';
import { $marks, changeMark, loadMarks, markOf, toggleMark } from './marks-store';

// The server's side: what it has by target, and how long each of its answers takes.
let stored: Map<string, Mark>;
let answersMs: number[];
let failing: number;

beforeEach(() => {
  vi.useFakeTimers();
  stored = new Map();
  answersMs = [];
  failing = 0;
  $marks.set({ captureId: '', byTarget: new Map() });
  $notice.set(undefined);
  vi.stubGlobal('addEventListener', () => undefined);
  vi.stubGlobal('fetch', async (path: string, options?: RequestInit) => {
    const tookMs = answersMs.shift() ?? 0;
    const isFailing = failing-- > 0;
    expect(path).toBe('/api/captures/c1/marks');
    if (options?.method === 'PATCH' && !isFailing) {
      const change = JSON.parse(String(options.body)) as Partial<Mark> & Pick<Mark, 'target'>;
      stored.set(change.target, { isMarked: false, note: '', ...stored.get(change.target), ...change });
    }
    // What it answers with is what it has now; it arrives later.
    const all = [...stored.values()];
    await new Promise((resolve) => setTimeout(resolve, tookMs));
    if (isFailing) throw new TypeError('no connection');
    return Response.json(all);
  });
});
afterEach(() => {
  vi.unstubAllGlobals();
  vi.useRealTimers();
});

const settled = (): Promise<unknown> => vi.advanceTimersByTimeAsync(3000);
/** The list as the server has it, come in. */
const load = async (): Promise<void> => {
  const loading = loadMarks('c1');
  await settled();
  await loading;
};
const ONE: MarkTarget = { type: 'exchange', index: 1 };
const shown = (): Mark => markOf($marks.get(), ONE);
const kept = (): Mark | undefined => stored.get('exchange 1');

describe('marks as they are set', () => {
  it('stay as set last while earlier answers are still coming in', async () => {
    await load();
    answersMs = [100, 100, 100];
    toggleMark(ONE, '#1');
    toggleMark(ONE, '#1');
    await vi.advanceTimersByTimeAsync(150);
    // The first answer, of a mark that is set, is there by now: it has been taken back since.
    expect(shown().isMarked).toBe(false);
    toggleMark(ONE, '#1');
    await settled();
    expect(shown().isMarked).toBe(true);
    expect(kept()?.isMarked).toBe(true);
  });

  it('are not lost to the list that was asked for before them', async () => {
    stored.set('exchange 2', { target: 'exchange 2', isMarked: true, note: '' });
    answersMs = [500, 50];
    const loading = loadMarks('c1');
    changeMark(ONE, { note: 'slow' }, 'Noted.');
    expect(shown().note).toBe('slow');
    await settled();
    await loading;
    expect(shown().note).toBe('slow');
    expect(markOf($marks.get(), { type: 'exchange', index: 2 }).isMarked).toBe(true);
  });

  it('leave the note that stands there where the list could not be read', async () => {
    stored.set('exchange 1', { target: 'exchange 1', isMarked: false, note: 'ask the warden' });
    failing = 1;
    await load();
    toggleMark(ONE, '#1');
    await settled();
    expect(kept()).toEqual({ target: 'exchange 1', isMarked: true, note: 'ask the warden' });
    expect(shown().note).toBe('ask the warden');
    $notice.get()?.action?.run();
    await settled();
    expect(kept()).toEqual({ target: 'exchange 1', isMarked: false, note: 'ask the warden' });
  });

  it('last until the page is closed where they cannot be kept, and that is said', async () => {
    await load();
    failing = 1;
    toggleMark(ONE, '#1');
    await settled();
    expect(shown().isMarked).toBe(true);
    expect($notice.get()?.detail).toBe('What you marked or noted just now lasts until you close this page.');
  });
});
