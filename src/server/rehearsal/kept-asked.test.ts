import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { KeptAsked } from './kept-asked';
import { notesWithout } from './notes';
import type { AskedRecord } from './rehearsal-server';

const record = (bytes = 0): AskedRecord => ({
  entry: { request: {}, response: { content: { text: 'x'.repeat(bytes) } } },
  notes: notesWithout('none', ''),
});

describe('what a rehearsal was asked', () => {
  beforeEach(() => void vi.useFakeTimers({ toFake: ['performance'] }));
  afterEach(() => void vi.useRealTimers());

  it('is kept whole for a page’s load, then a hundred a second, and always counted', () => {
    const kept = new KeptAsked();
    const made = vi.fn(record);
    const askFor = (count: number): void => {
      for (let at = 0; at < count; at++) kept.add(at % 2 === 0, made);
    };
    askFor(1500);
    expect(kept.take()).toMatchObject({ asked: 1500, missed: 750, notKept: 500 });
    // What is not kept is not made, either.
    expect(made).toHaveBeenCalledTimes(1000);
    vi.advanceTimersByTime(1000);
    askFor(300);
    expect(kept.take()).toMatchObject({ asked: 300, notKept: 200 });
    expect(kept.take()).toBeUndefined();
  });

  it('is bounded in bytes between two messages', () => {
    const kept = new KeptAsked();
    for (let at = 0; at < 30; at++) kept.add(false, () => record(2 * 1024 * 1024));
    const first = kept.take();
    expect([first?.records.length, first?.asked]).toEqual([12, 30]);
    kept.add(false, () => record());
    expect(kept.take()).toMatchObject({ asked: 1, notKept: 0 });
  });
});
