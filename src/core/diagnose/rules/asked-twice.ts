import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import { formatBytes } from '../../wording';
import type { Rule } from '../finding';
import { called, indexes, most, sum, those } from '../say';

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
          : `${twice.length} URLs were downloaded more than once on one page, ${called(first)} among them`,
      detail: `Each time with the same response; the repeats add up to ${formatBytes(sum(extra, ({ wireBytes }) => wireBytes))}.`,
      evidence: indexes(twice.flat()),
      changes: [{ type: 'leave-out', indexes: those(extra) }],
      wireBytes: sum(extra, ({ wireBytes }) => wireBytes),
      remedy: 'Reuse the first response, or allow caching for a few seconds.',
      confidence: 'certain',
    };
  }
};

const isSame = (hashes: readonly (string | undefined)[]): boolean =>
  hashes[0] !== undefined && hashes.every((hash) => hash === hashes[0]);

/**
 * A poll asks again when it was answered, and pauses about as long each time, or is kept waiting on purpose; from start to
 * start it may be as even.
 */
function isPolled(group: readonly ExchangeRow[]): boolean {
  const sendings = group.toSorted((a, b) => startOf(a) - startOf(b));
  const pauses = sendings.slice(1).map((row, at) => startOf(row) - answeredOf(sendings[at] ?? row));
  const intervals = sendings.slice(1).map((row, at) => startOf(row) - startOf(sendings[at] ?? row));
  if (pauses.length < LEAST_PAUSES) return false;
  // On a busy machine timers run late; but nobody asks again and again, each time some while after the answer, by mistake.
  if (pauses.length >= SURE_PAUSES && least(pauses) >= PAUSE_MS) return true;
  const isHeld = least(sendings.map(({ timeMs = 0 }) => timeMs)) >= HELD_MS;
  return (
    (least(pauses) >= (isHeld ? -1 : PAUSE_MS) && isEven(pauses)) || (least(intervals) >= POLL_MS && isEven(intervals))
  );
}

const startOf = ({ startMs = 0 }: ExchangeRow): number => startMs;
/** A page acts on a response once its headers have come (Fetch 5.6, the promise of fetch). */
const answeredOf = (row: ExchangeRow): number => startOf(row) + (row.timeMs ?? 0) - (row.phases.receiveMs ?? 0);
const least = (values: readonly number[]): number =>
  values.reduce((min, value) => Math.min(min, value), Number.POSITIVE_INFINITY);
const isEven = (values: readonly number[]): boolean =>
  most(values, (value) => value) <= least(values) * REGULAR + JITTER_MS;

const LEAST_PAUSES = 2;
const SURE_PAUSES = 3;
/** Timers of less are as good as none: pages ask at once then. */
const PAUSE_MS = 40;
/** A server that keeps so long waiting each time does it on purpose. */
const HELD_MS = 1000;
const POLL_MS = 500;
const REGULAR = 2;
const JITTER_MS = 100;
