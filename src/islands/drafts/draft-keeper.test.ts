import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { EMPTY_DRAFT } from '#core/convert';
import { type KeptDraft, keptFrom } from '#core/sheet';
import type { Answer } from '../state/api';
import { DraftKeeper, KEEP_AFTER_MS } from './draft-keeper';

const draft = (id: string, name: string): KeptDraft => keptFrom(id, name, EMPTY_DRAFT, undefined);
const PROBLEM: Answer<unknown> = {
  ok: false,
  problem: { code: 'unreachable', sentence: 'Gone.', advice: 'Start it again.' },
};

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

/** A keeper whose writes take as long as is said, and what it wrote, in the order in which it arrived. */
function keeper(tookMs: (name: string) => number = () => 0, answer: Answer<unknown> = { ok: true, value: null }) {
  const arrived: string[] = [];
  const problems: string[] = [];
  const later = (what: string, ms: number): Promise<Answer<unknown>> =>
    new Promise((resolve) =>
      setTimeout(() => {
        arrived.push(what);
        resolve(answer);
      }, ms),
    );
  const one = new DraftKeeper(
    {
      keep: ({ name }, isLeaving) => later(isLeaving ? `${name}, leaving` : name, tookMs(name)),
      drop: (id, isLeaving) => later(isLeaving ? `drop ${id}, leaving` : `drop ${id}`, 0),
    },
    ({ name }, { problem }) => problems.push(`${name}: ${problem.sentence}`),
  );
  return { keeper: one, arrived, problems };
}

it('keeps the last of many changes, once typing rests, and each draft for itself', async () => {
  const { keeper: one, arrived } = keeper();
  one.keepLater(draft('a', 'a1'));
  await vi.advanceTimersByTimeAsync(KEEP_AFTER_MS - 1);
  one.keepLater(draft('a', 'a2'));
  one.keepLater(draft('b', 'b1'));
  await vi.advanceTimersByTimeAsync(KEEP_AFTER_MS - 1);
  expect(arrived).toEqual([]);
  await vi.advanceTimersByTimeAsync(10);
  expect(arrived).toEqual(['a2', 'b1']);
});

it('never lets a write overtake one before it, nor a deletion', async () => {
  const { keeper: one, arrived } = keeper((name) => (name === 'slow' ? 5000 : 0));
  one.keepNow(draft('a', 'slow'));
  one.keepLater(draft('a', 'quick'));
  one.keepNow(draft('b', 'b'));
  await vi.advanceTimersByTimeAsync(KEEP_AFTER_MS);
  one.drop(draft('a', 'quick'));
  await vi.advanceTimersByTimeAsync(6000);
  one.keepNow(draft('a', 'had back'));
  await vi.advanceTimersByTimeAsync(10);
  expect(arrived).toEqual(['slow', 'b', 'drop a', 'had back']);
});

it('does not bring back what was dropped while a change of it waited', async () => {
  const { keeper: one, arrived } = keeper();
  one.keepLater(draft('a', 'changed'));
  one.drop(draft('a', 'changed'));
  await vi.advanceTimersByTimeAsync(2 * KEEP_AFTER_MS);
  expect(arrived).toEqual(['drop a']);
});

it('writes what waits at once where the page is left, and once only', async () => {
  const { keeper: one, arrived } = keeper();
  one.keepLater(draft('a', 'a'));
  one.drop(draft('b', 'b'));
  one.drop(draft('c', 'c'));
  one.keepLater(draft('d', 'd'));
  one.leave();
  one.leave();
  await vi.advanceTimersByTimeAsync(2 * KEEP_AFTER_MS);
  expect(arrived).toEqual(['drop b', 'drop b, leaving', 'drop c, leaving', 'a, leaving', 'd, leaving']);
});

it('tells which draft could not be kept, and goes on with the next', async () => {
  const { keeper: one, arrived, problems } = keeper(() => 0, PROBLEM);
  one.keepNow(draft('a', 'first'));
  one.keepNow(draft('b', 'second'));
  await vi.advanceTimersByTimeAsync(10);
  expect(arrived).toEqual(['first', 'second']);
  expect(problems).toEqual(['first: Gone.', 'second: Gone.']);
});
