import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Hit } from '#core/find';
import type { FindProgress } from '#core/wire';
import { Merge } from './merge';
import type { FromFindWorker } from './protocol';

const hit = (index: number): Hit => ({
  index,
  place: 'address',
  path: undefined,
  offset: 0,
  before: '',
  match: 'x',
  after: '',
  form: 'plain',
});

/** What each of so many threads says of these blocks, of which it has every so-many-th. */
const saidBy = (blocks: readonly number[][], parts: number): FromFindWorker[][] =>
  Array.from({ length: parts }, (_, part) => [
    ...blocks.flatMap((indexes, block): FromFindWorker[] =>
      block % parts === part
        ? [{ type: 'found', blocks: [{ block, searched: block + 1, hits: indexes.map(hit) }] }]
        : [],
    ),
    { type: 'ended', problem: undefined, rest: [] },
  ]);

const indexesOf = (told: readonly FindProgress[]): number[] =>
  told.flatMap((one) => (one.type === 'found' ? one.hits.map(({ index }) => index) : []));

describe('what several threads find', () => {
  it('is told in the order of the file, whichever of them is quicker, and ends once, behind all of it', () => {
    const blocks = fc.array(fc.array(fc.nat(), { maxLength: 3 }), { maxLength: 12 });
    fc.assert(
      fc.property(blocks, fc.integer({ min: 1, max: 4 }), fc.infiniteStream(fc.nat(3)), (found, parts, turns) => {
        const said = saidBy(found, parts);
        const merge = new Merge(parts);
        const told: FindProgress[] = [];
        for (const turn of turns) {
          const open = said.flatMap((messages, part) => (messages.length > 0 ? [part] : []));
          const part = open[turn % Math.max(1, open.length)];
          const message = part === undefined ? undefined : said[part]?.shift();
          if (part === undefined || message === undefined) break;
          told.push(...merge.take(part, message));
        }
        expect(indexesOf(told)).toEqual(found.flat());
        expect(told.filter(({ type }) => type === 'ended')).toEqual([
          { type: 'ended', isWhole: true, problem: undefined },
        ]);
        expect(told.at(-1)?.type).toBe('ended');
      }),
    );
  });

  it('ends at so many hits, and says so', () => {
    const merge = new Merge(2, 3);
    merge.take(1, { type: 'found', blocks: [{ block: 1, searched: 64, hits: [hit(3), hit(4)] }] });
    const told = merge.take(0, { type: 'found', blocks: [{ block: 0, searched: 32, hits: [hit(1), hit(2)] }] });
    expect(indexesOf(told)).toEqual([1, 2, 3]);
    expect(told.at(-1)).toEqual({
      type: 'ended',
      isWhole: false,
      problem: 'The search ended at 3 hits: refine it to see all.',
    });
    expect(merge.take(0, { type: 'ended', problem: undefined, rest: [] })).toEqual([]);
  });

  it('breaks off where one of them did, with all that stands before', () => {
    const merge = new Merge(2);
    expect(merge.take(1, { type: 'ended', problem: 'It takes too long.', rest: [hit(40)] })).toEqual([]);
    const told = merge.take(0, { type: 'found', blocks: [{ block: 0, searched: 32, hits: [hit(1)] }] });
    expect(told).toEqual([
      { type: 'found', hits: [hit(1), hit(40)], searched: 32 },
      { type: 'ended', isWhole: false, problem: 'It takes too long.' },
    ]);
  });

  it('says of which places more stands than is given', () => {
    const merge = new Merge(1);
    const [found] = merge.take(0, {
      type: 'found',
      blocks: [{ block: 0, searched: 1, hits: [{ ...hit(0), hasMore: true }] }],
    });
    expect(found).toMatchObject({ type: 'found', searched: 1 });
    expect(merge.take(0, { type: 'ended', problem: undefined, rest: [] })).toEqual([
      {
        type: 'ended',
        isWhole: false,
        problem: expect.stringMatching(/^Only the first \d+ hits are given of the address/),
      },
    ]);
  });
});
