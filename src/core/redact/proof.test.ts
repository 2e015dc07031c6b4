import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Prover } from './proof';
import type { Secret } from './store';

describe('the proof’s search', () => {
  const secretOf = (value: string): Secret => ({
    value,
    kind: 'own',
    by: 'own',
    name: '',
    placeholder: 'x',
    isEverywhere: true,
    firstAt: undefined,
  });

  it('finds just the values that stand in a text, however short or long they are', () => {
    const signs = (maxLength: number) => fc.string({ unit: fc.constantFrom(...'!?.,;→'), minLength: 1, maxLength });
    fc.assert(
      fc.property(fc.uniqueArray(signs(20), { minLength: 1, maxLength: 6 }), signs(80), (values, text) => {
        const prover = new Prover(values.map(secretOf));
        prover.text(text, 'x');
        const found = prover.leaks.map(({ secret }) => secret.value);
        expect(new Set(found)).toEqual(new Set(values.filter((value) => text.includes(value))));
      }),
      { seed: 20261130, numRuns: 3000 },
    );
  });

  it('finds a value in base64 and in hex at every offset, whatever stands around it, and however often clean ones came', () => {
    const value = 'hut-4711-Zephyr';
    const around = fc.string({ unit: fc.constantFrom(...'aZ9/-+= .:{"é'), maxLength: 40 });
    fc.assert(
      fc.property(around, around, fc.string({ maxLength: 5 }), fc.boolean(), (before, after, inside, isHex) => {
        const prover = new Prover([secretOf(value), secretOf('ab!')]);
        const clean = `${before}!${after}`;
        for (let times = 0; times < 2; times++) prover.text(clean, 'clean');
        expect(prover.leaks).toEqual([]);
        const packed = Buffer.from(inside + value).toString(isHex ? 'hex' : 'base64');
        // What stands beside it goes on with the run, and moves where it begins.
        prover.text(`${before}.${packed} ${after}`, 'x');
        prover.text(`${before}${packed}`, 'y');
        expect(prover.leaks.map(({ path }) => path)).toContain('x');
        expect(prover.leaks.map(({ path }) => path)).toContain('y');
      }),
      { seed: 20261130, numRuns: 2000 },
    );
  });

  it('finds what stands as it is recorded where its bytes are taken for windows-1252, and what was kept so', () => {
    for (const [kept, stands] of [
      ['Peña Alta', 'PeÃ±a Alta'],
      ['Peña – Alta', 'PeÃ±a â€“ Alta'],
      ['PeÃ±a Alta', 'Peña Alta'],
    ] as const) {
      const prover = new Prover([secretOf(kept)]);
      prover.text('Pena Alta, PeÃ±o Alta, Peñón', 'clean');
      prover.text(`name;${stands};3`, 'x');
      expect(prover.leaks.map(({ path }) => path)).toEqual(['x']);
    }
  });
});
