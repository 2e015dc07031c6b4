import { groupBy } from '../../collections';
import { formatBytes } from '../../wording';
import type { Rule } from '../finding';
import { called, indexes, lastOf, sum, timeCost } from '../say';

/** The same address fetched over the network more than once on one page, and each time with success. */
export const askedTwice: Rule = function* (subject) {
  for (const { rows } of subject.pages) {
    const fetched = rows.filter(
      ({ method, status, source, kind }) =>
        method === 'GET' && status === 200 && source === 'network' && kind !== 'stream' && kind !== 'document',
    );
    const twice = [...groupBy(fetched, ({ url }) => url).values()].filter(
      (group) => group.length > 1 && isSame(group.map(({ index }) => subject.evidenceOf(index)?.bodyHash)),
    );
    if (twice.length === 0) continue;
    const extra = twice.flatMap((group) => group.slice(1));
    const [first] = twice[0] ?? [];
    if (first === undefined) continue;
    yield {
      severity: 'wasteful',
      claim:
        twice.length === 1
          ? `${called(first)} was fetched ${(twice[0] ?? []).length} times on one page`
          : `${twice.length} addresses were fetched more than once on one page, ${called(first)} among them`,
      detail: `Each time with the same answer; the repeats come to ${formatBytes(sum(extra, ({ wireBytes }) => wireBytes))}.`,
      evidence: indexes(twice.flat()),
      cost: {
        ...timeCost(
          extra,
          (row) => lastOf(row, row.timeMs ?? 0),
          ({ index }) => subject.routeMsOf(index),
        ),
        wireBytes: sum(extra, ({ wireBytes }) => wireBytes),
      },
      remedy: 'Share the first answer among those who need it, or let it be kept for a few seconds.',
      confidence: 'certain',
    };
  }
};

const isSame = (hashes: readonly (string | undefined)[]): boolean =>
  hashes[0] !== undefined && hashes.every((hash) => hash === hashes[0]);
