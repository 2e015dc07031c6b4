import { describe, expect, it } from 'vitest';
import { LatestWriter } from './latest-writer';

/** Writes that end when the test says so. */
function slow() {
  const begun: string[] = [];
  const ends: ((isGood: boolean) => void)[] = [];
  const writer = new LatestWriter<string>((value) => {
    begun.push(value);
    return new Promise((resolve, reject) =>
      ends.push((isGood) => (isGood ? resolve(undefined) : reject(new Error('x')))),
    );
  });
  const end = async (isGood = true): Promise<void> => {
    ends.shift()?.(isGood);
    await new Promise((resolve) => setTimeout(resolve));
  };
  return { writer, begun, end };
}

describe('values that change while they are written', () => {
  it('are written one after the other, of those that wait the latest alone', async () => {
    const { writer, begun, end } = slow();
    for (const value of ['a', 'b', 'c']) writer.put(value);
    expect(begun).toEqual(['a']);
    await end();
    expect(begun).toEqual(['a', 'c']);
    await end();
    writer.put('d');
    expect(begun).toEqual(['a', 'c', 'd']);
  });

  it('are settled once the last of them is written, and at once where none is', async () => {
    const { writer, end } = slow();
    await writer.settled();
    writer.put('a');
    writer.put('b');
    let isSettled = false;
    const settled = writer.settled().then(() => {
      isSettled = true;
    });
    await end();
    expect(isSettled).toBe(false);
    await end();
    await settled;
  });

  it('go on behind a write that failed', async () => {
    const { writer, begun, end } = slow();
    writer.put('a');
    writer.put('b');
    await end(false);
    expect(begun).toEqual(['a', 'b']);
    await end();
    await writer.settled();
  });
});
