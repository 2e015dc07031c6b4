import fc from 'fast-check';
import { expect, it } from 'vitest';
import { ScriptWords } from './script-words';

const WORD = /[\p{L}_$][\p{L}\p{N}_$-]*/gu;

it('knows every word of what it was given, and hardly any other', () => {
  const texts = fc.array(fc.string({ unit: fc.constantFrom(...'ab_$Z9-é漢ß ."{}:;\u00a0\u3002\n'), maxLength: 60 }), {
    minLength: 1,
    maxLength: 8,
  });
  let [others, taken] = [0, 0];
  fc.assert(
    fc.property(texts, fc.array(fc.stringMatching(/^[ab_$Z][ab_$Z9-]{0,12}$/)), (given, asked) => {
      const words = new ScriptWords();
      for (const text of given) words.add(text);
      const known = new Set(given.flatMap((text) => text.match(WORD) ?? []));
      for (const word of known) expect(words.has(word)).toBe(true);
      for (const word of asked) {
        if (known.has(word)) continue;
        others++;
        if (words.has(word) === true) taken++;
      }
    }),
    { seed: 20261130, numRuns: 2000 },
  );
  expect(others).toBeGreaterThan(5000);
  expect(taken).toBe(0);
});

it('has a name whose every word it has, and claims nothing of no text or of too much', () => {
  const words = new ScriptWords();
  expect(words.has('price')).toBeUndefined();
  words.add('room.price+extra');
  expect([words.has('room/price'), words.has('@price'), words.has('room/bed'), words.has('pric')]).toEqual([
    true,
    true,
    false,
    false,
  ]);
  words.add(Array.from({ length: 510_000 }, (_, at) => `w${at}`).join(' '));
  expect(words.has('price')).toBeUndefined();
});
