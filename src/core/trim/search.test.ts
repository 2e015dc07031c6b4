import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type Found, type Question, questionsAtMost, type Reply, TrimSearch } from './search';

interface Toy {
  readonly key: string;
  readonly inside: readonly Toy[];
}
const toy = (key: string, inside: readonly Toy[] = []): Toy => ({ key, inside });
const namesOf = (parts: readonly Toy[]): string[] => parts.map(({ key }) => key);

/** Runs a search against a server whose need is a test of what it gets; whatever is in something is only sent with it. */
function searched(
  parts: readonly Toy[],
  needs: (kept: ReadonlySet<string>) => boolean,
  { mostQuestions = 1000, atOnce = (_: Toy): boolean => false, stopAfter = Number.POSITIVE_INFINITY } = {},
) {
  const search = new TrimSearch<Toy>({ parts, atOnce, inside: ({ inside }) => inside, mostQuestions });
  const all = parts.flatMap((part) => [part, ...part.inside]);
  const asked: Question<Toy>[] = [];
  const replies = search.run();
  let next = replies.next();
  while (next.done !== true && asked.length < stopAfter) {
    const gone = new Set(next.value.leftOut.flatMap((part) => [part.key, ...namesOf(part.inside)]));
    asked.push(next.value);
    const isSame = needs(new Set(namesOf(all).filter((key) => !gone.has(key))));
    const reply: Reply = isSame ? { isSame } : { isSame, reason: '401' };
    next = replies.next(reply);
  }
  return { found: search.found as Found<Toy>, asked, isDone: next.done === true };
}

const keptOf = ({ needed }: Found<Toy>): string[] => needed.map(({ part }) => part.key);

/** Needs as sums of products: all of one of the groups have to be there. */
type Need = readonly (readonly number[])[];
const meets = (need: Need, kept: ReadonlySet<string>): boolean =>
  need.some((group) => group.every((one) => kept.has(`p${one}`)));

const cases = fc.integer({ min: 1, max: 60 }).chain((count) =>
  fc.record({
    count: fc.constant(count),
    need: fc.array(fc.array(fc.nat(count - 1), { maxLength: 8 }), { minLength: 1, maxLength: 4 }),
    browserOnly: fc.nat(count),
  }),
);

describe('the search for what is needed', () => {
  it('is right, minimal and within its bound, whatever the server needs', () => {
    fc.assert(
      fc.property(cases, ({ count, need, browserOnly }) => {
        const parts = Array.from({ length: count }, (_, at) => toy(`p${at}`));
        const atOnce = ({ key }: Toy): boolean => Number(key.slice(1)) < browserOnly;
        const { found, asked } = searched(parts, (kept) => meets(need, kept), { atOnce });
        const kept = new Set(keptOf(found));
        expect(meets(need, kept)).toBe(true);
        for (const one of kept) expect(meets(need, new Set([...kept].filter((other) => other !== one)))).toBe(false);
        expect(found.isProven).toBe(true);
        expect(found.needed.every(({ reason }) => reason === '401')).toBe(true);
        expect(
          namesOf(found.leftOut)
            .concat([...kept])
            .sort(),
        ).toEqual(namesOf(parts).sort());
        // What would do instead of a part does, by itself and with the rest.
        for (const { part, orElse } of found.needed) {
          if (orElse.length === 0) continue;
          const other = [...[...kept].filter((one) => one !== part.key), ...namesOf(orElse)];
          expect(meets(need, new Set(other))).toBe(true);
        }
        // The draft unchanged, twice, and the result once more count, too.
        expect(asked.length + 3).toBeLessThanOrEqual(questionsAtMost(count, kept.size));
      }),
      { seed: 2026, numRuns: 3000 },
    );
  });

  it('is minimal on a server that is put off by something, too', () => {
    fc.assert(
      fc.property(cases, fc.nat(59), ({ count, need }, spoiler) => {
        const parts = Array.from({ length: count }, (_, at) => toy(`p${at}`));
        // The spoiler is refused unless its neighbour explains it.
        const accepts = (kept: ReadonlySet<string>): boolean =>
          meets(need, kept) && (!kept.has(`p${spoiler}`) || kept.has(`p${spoiler + 1}`) || spoiler + 1 >= count);
        const { found } = searched(parts, accepts);
        const kept = keptOf(found);
        expect(accepts(new Set(kept))).toBe(true);
        for (const one of kept) expect(accepts(new Set(kept.filter((other) => other !== one)))).toBe(false);
      }),
      { seed: 11, numRuns: 1000 },
    );
  });

  it('searches in what is needed, and leaves out what is in what is not', () => {
    const parts = [toy('a', [toy('a1'), toy('a2'), toy('a3')]), toy('b', [toy('b1')]), toy('c')];
    const { found, asked } = searched(parts, (kept) => kept.has('a') && kept.has('a2'));
    expect(keptOf(found)).toEqual(['a', 'a2']);
    expect(namesOf(found.leftOut)).toEqual(['a1', 'a3', 'b', 'c']);
    expect(asked.flatMap(({ leftOut }) => namesOf(leftOut))).not.toContain('b1');
  });

  it('names either of two that are enough, and several that are it together', () => {
    const parts = ['own', 'token', 'sid', 'theme', 'csrf', 'lang'].map((key) => toy(key));
    const need = (kept: ReadonlySet<string>): boolean => kept.has('token') || (kept.has('sid') && kept.has('csrf'));
    const { found } = searched(parts, need);
    expect(found.needed.map(({ part, orElse }) => [part.key, namesOf(orElse)])).toEqual([['token', ['sid', 'csrf']]]);
  });

  it('tells what is known wherever it is stopped: the shortest request that got the same', () => {
    const parts = Array.from({ length: 20 }, (_, at) => toy(`p${at}`));
    const need: Need = [[3, 11]];
    for (let stopAfter = 0; stopAfter < 20; stopAfter++) {
      const { found, isDone } = searched(parts, (kept) => meets(need, kept), { stopAfter });
      expect(meets(need, new Set(keptOf(found)))).toBe(true);
      if (!isDone && stopAfter < 5) expect(found.isProven).toBe(false);
    }
  });
});
