import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { mayHoldRuns, runsOf, signatureOf } from './signature';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const may = (needle: string, ...texts: string[]): boolean =>
  mayHoldRuns(signatureOf(texts.map(bytes)), runsOf({ text: needle }));

describe('a signature', () => {
  it('knows each letter in both cases', () => {
    const letters = 'abcdefghijklmnopqrstuvwxyz';
    for (let at = 0; at + 3 <= letters.length; at++) {
      const run = letters.slice(at, at + 3);
      expect(may(run.toUpperCase(), run), run).toBe(true);
      expect(may(run, run.toUpperCase()), run).toBe(true);
      expect(may(run, run[0] === 'x' ? 'abc' : 'xyz'), run).toBe(false);
    }
  });

  it('never denies what stands in a text, whatever its case', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: 'binary' }),
        fc.string({ unit: fc.constantFrom(...'abAB-_9"é ') }),
        fc.string(),
        (before, needle, after) => {
          expect(may(needle, 'other', before + needle.toUpperCase() + after)).toBe(true);
          expect(may(needle, before + needle + after)).toBe(true);
        },
      ),
    );
  });

  it('denies nearly all else', () => {
    const text = 'The hut has twelve beds, a stove and a view over the northern ridge. '.repeat(40);
    expect(may('stands-nowhere', text)).toBe(false);
    const denied = Array.from({ length: 500 }, (_, at) => may(`tok${(at * 7919).toString(36)}x`, text)).filter(
      (is) => !is,
    );
    expect(denied.length).toBeGreaterThan(490);
  });

  it('does not merged what stands in two texts, and knows nothing of shorter needles', () => {
    expect(may('abcdef', 'abc', 'def')).toBe(false);
    expect(may('zz', 'abc')).toBe(true);
    expect(may('a"b', 'xyz')).toBe(true);
  });

  it('is small', () => {
    expect(signatureOf([new Uint8Array(20_000)]).length).toBe(512);
    expect(signatureOf([]).length).toBe(64);
    expect(signatureOf([new Uint8Array(50_000_000)]).length).toBe(4096);
  });
});
