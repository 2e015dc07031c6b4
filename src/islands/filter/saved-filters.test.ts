import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { $notice } from '../state/notices';
import {
  $savedFilters,
  forgetNamed,
  keepUnderName,
  loadSavedFilters,
  remember,
  type SavedFilters,
} from './saved-filters';

// The server's side: what it has, what was written, and how long each answer takes.
let stored: SavedFilters | null = null;
let written: SavedFilters[] = [];
let answersMs: number[] = [];
let isGone = false;

beforeEach(() => {
  vi.useFakeTimers();
  stored = null;
  written = [];
  answersMs = [];
  isGone = false;
  $savedFilters.set({ recent: [], named: [] });
  $notice.set(undefined);
  vi.stubGlobal('addEventListener', () => undefined);
  vi.stubGlobal('fetch', async (_path: string, options?: RequestInit) => {
    const tookMs = answersMs.shift() ?? 0;
    await new Promise((resolve) => setTimeout(resolve, tookMs));
    if (isGone) throw new TypeError('no connection');
    if (options?.method !== 'PUT') return Response.json(stored);
    stored = JSON.parse(String(options.body)) as SavedFilters;
    written.push(stored);
    return Response.json({});
  });
});
afterEach(() => {
  vi.unstubAllGlobals();
  vi.useRealTimers();
});

const settled = (): Promise<unknown> => vi.advanceTimersByTimeAsync(10_000);

describe('recent filters', () => {
  it('stand with the last one first, each once, and no more than twelve', async () => {
    for (let at = 0; at < 20; at++) remember(`status = ${400 + at}`);
    remember('status = 410');
    remember('status = 410');
    remember('');
    await settled();
    const { recent } = $savedFilters.get();
    expect(recent).toHaveLength(12);
    expect(recent.slice(0, 3)).toEqual(['status = 410', 'status = 419', 'status = 418']);
    expect(new Set(recent).size).toBe(12);
    expect(written.at(-1)).toEqual($savedFilters.get());
  });

  it('come from the server behind those that were used while they were on their way', async () => {
    stored = { recent: ['old', 'both'], named: [{ name: 'slow', text: 'wait > 1 s' }] };
    answersMs = [500];
    const loading = loadSavedFilters();
    remember('both');
    keepUnderName('slow', 'wait > 2 s');
    await settled();
    await loading;
    expect($savedFilters.get()).toEqual({ recent: ['both', 'old'], named: [{ name: 'slow', text: 'wait > 2 s' }] });
  });

  it('stay as they are where the server has none or is away', async () => {
    remember('mine');
    await settled();
    await Promise.all([loadSavedFilters(), settled()]);
    isGone = true;
    await Promise.all([loadSavedFilters(), settled()]);
    expect($savedFilters.get().recent).toEqual(['mine']);
  });
});

describe('named filters', () => {
  it('are replaced by another of the same name', async () => {
    keepUnderName('slow', 'wait > 1 s');
    keepUnderName('slow', 'wait > 2 s');
    await settled();
    expect($savedFilters.get().named).toEqual([{ name: 'slow', text: 'wait > 2 s' }]);
  });

  it('come back by undo, with all that was used and kept meanwhile', async () => {
    keepUnderName('slow', 'wait > 1 s');
    forgetNamed('slow');
    const undo = $notice.get()?.action?.run;
    expect($savedFilters.get().named).toEqual([]);
    remember('status = 404');
    keepUnderName('lost', 'status = 404');
    undo?.();
    await settled();
    const wanted = {
      recent: ['status = 404'],
      named: [
        { name: 'lost', text: 'status = 404' },
        { name: 'slow', text: 'wait > 1 s' },
      ],
    };
    expect($savedFilters.get()).toEqual(wanted);
    expect(written.at(-1)).toEqual(wanted);
  });
});

describe('writing', () => {
  it('is done one after the other, so that the last one arrives last', async () => {
    answersMs = [3000, 0];
    remember('first');
    remember('second');
    await settled();
    expect(written.at(-1)?.recent).toEqual(['second', 'first']);
  });

  it('that fails is told, and loses nothing of the page', async () => {
    isGone = true;
    remember('mine');
    await vi.advanceTimersByTimeAsync(10);
    expect($notice.get()?.detail).toBe('Your filters last until you close this page.');
    isGone = false;
    expect($savedFilters.get().recent).toEqual(['mine']);
    remember('next');
    await settled();
    expect(written.at(-1)?.recent).toEqual(['next', 'mine']);
  });
});
