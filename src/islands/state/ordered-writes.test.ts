import { describe, expect, it } from 'vitest';
import { OrderedWrites, type Write } from './ordered-writes';

/** Writes that end when the test says so. */
function slow() {
  const begun: string[] = [];
  const ends: ((isGood: boolean) => void)[] = [];
  const writes = new OrderedWrites();
  const writeOf =
    (value: string): Write =>
    (isLeaving) => {
      begun.push(isLeaving ? `${value}, leaving` : value);
      return new Promise((resolve, reject) =>
        ends.push((isGood) => (isGood ? resolve(undefined) : reject(new Error('x')))),
      );
    };
  const put = (value: string, key = 'one'): void => writes.put(key, writeOf(value));
  const end = async (isGood = true): Promise<void> => {
    ends.shift()?.(isGood);
    await new Promise((resolve) => setTimeout(resolve));
  };
  return { writes, writeOf, put, begun, end };
}

describe('what changes while it is written', () => {
  it('is written one after the other, and of what waits under one key the latest alone', async () => {
    const { writes, put, begun, end } = slow();
    for (const value of ['a', 'b', 'c']) put(value);
    put('x', 'other');
    put('d');
    expect([begun, writes.unanswered]).toEqual([['a'], 3]);
    await end();
    await end();
    await end();
    put('e');
    expect([begun, writes.unanswered]).toEqual([['a', 'x', 'd', 'e'], 1]);
  });

  it('is settled once the last of it is written, and at once where nothing is', async () => {
    const { writes, put, end } = slow();
    await writes.settled();
    put('a');
    put('b');
    let isSettled = false;
    const settled = writes.settled().then(() => {
      isSettled = true;
    });
    await end();
    expect(isSettled).toBe(false);
    await end();
    await settled;
  });

  it('goes on behind a write that failed', async () => {
    const { writes, put, begun, end } = slow();
    put('a');
    put('b');
    await end(false);
    expect(begun).toEqual(['a', 'b']);
    await end();
    await writes.settled();
  });
});

describe('a page that is left', () => {
  it('writes at once what waits and what has no answer, the latest of each alone, and none of it again', async () => {
    const { writes, put, begun, end } = slow();
    put('a');
    put('x', 'other');
    put('y', 'other');
    writes.leave();
    writes.leave();
    expect(begun).toEqual(['a', 'a, leaving', 'y, leaving']);
    for (let at = 0; at < 3; at++) await end();
    put('b');
    put('c');
    writes.leave();
    expect(begun.slice(3)).toEqual(['b', 'c, leaving']);
  });

  it('writes nothing where all has been written, and what would have been put later instead of what is older', async () => {
    const { writes, writeOf, put, begun, end } = slow();
    put('a');
    await end();
    writes.leave();
    put('b');
    writes.leave([['one', writeOf('c')]]);
    expect(begun).toEqual(['a', 'b', 'c, leaving']);
  });
});
