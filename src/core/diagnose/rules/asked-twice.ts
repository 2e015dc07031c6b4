import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import { formatBytes } from '../../wording';
import type { Rule } from '../finding';
import { called, indexes, sum, those } from '../say';

/** The same address fetched over the network more than once on one page, and each time with success. */
export const askedTwice: Rule = function* (subject) {
  for (const { rows } of subject.pages) {
    const fetched = rows.filter(
      ({ method, status, source, kind, parentEvidence }) =>
        method === 'GET' &&
        status === 200 &&
        source === 'network' &&
        kind !== 'stream' &&
        kind !== 'document' &&
        // Where several redirects lead is asked for by each of them.
        parentEvidence !== 'redirect',
    );
    const twice = [...groupBy(fetched, ({ url }) => url).values()].filter(
      (group) =>
        group.length > 1 && !isPolled(group) && isSame(group.map(({ index }) => subject.evidenceOf(index)?.bodyHash)),
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
      changes: [{ type: 'leave-out', indexes: those(extra) }],
      wireBytes: sum(extra, ({ wireBytes }) => wireBytes),
      remedy: 'Share the first answer among those who need it, or let it be kept for a few seconds.',
      confidence: 'certain',
    };
  }
};

const isSame = (hashes: readonly (string | undefined)[]): boolean =>
  hashes[0] !== undefined && hashes.every((hash) => hash === hashes[0]);

/** A poll asks again and again, and pauses about as long each time. */
function isPolled(group: readonly ExchangeRow[]): boolean {
  const starts = group.map(({ startMs = 0 }) => startMs).sort((a, b) => a - b);
  const pauses = starts.slice(1).map((ms, at) => ms - (starts[at] ?? ms));
  const least = pauses.reduce((min, ms) => Math.min(min, ms), Number.POSITIVE_INFINITY);
  const most = pauses.reduce((max, ms) => Math.max(max, ms), 0);
  return pauses.length >= LEAST_PAUSES && least >= POLL_MS && most <= least * REGULAR;
}
const LEAST_PAUSES = 2;
const POLL_MS = 500;
const REGULAR = 2;
