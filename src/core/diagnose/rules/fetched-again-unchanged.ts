import { formatBytes } from '../../wording';
import type { Rule } from '../finding';
import { calledAll, groupBy, indexes, sum, timeCost } from '../say';

/** The same bytes fetched again on a later page of the capture, although they could have been kept from before. */
export const fetchedAgainUnchanged: Rule = function* (subject) {
  const own = new Set(subject.rows);
  const fetched = subject.all.filter(
    ({ index, method, status, source, kind }) =>
      method === 'GET' &&
      status === 200 &&
      source === 'network' &&
      kind !== 'data' &&
      subject.evidenceOf(index)?.bodyHash !== undefined,
  );
  const again = [
    ...groupBy(fetched, ({ index, url }) => `${url} ${subject.evidenceOf(index)?.bodyHash}`).values(),
  ].flatMap((group) => {
    const [first, ...rest] = group.sort((a, b) => (a.startedAt ?? 0) - (b.startedAt ?? 0));
    return rest.filter((row) => row.pageId !== first?.pageId && own.has(row));
  });
  if (again.length === 0) return;
  yield {
    severity: 'wasteful',
    claim: `${calledAll(again)} ${again.length === 1 ? 'was' : 'were'} fetched again on a later page, byte for byte the same`,
    detail: `${formatBytes(sum(again, ({ wireBytes }) => wireBytes))} that a kept copy would have spared.`,
    evidence: indexes(again),
    cost: {
      ...timeCost(
        again,
        ({ timeMs = 0 }) => timeMs,
        ({ index }) => subject.routeMsOf(index),
      ),
      wireBytes: sum(again, ({ wireBytes }) => wireBytes),
    },
    remedy: 'Give them a lifetime with max-age; see whether the cache was turned off for the recording.',
    confidence: 'certain',
  };
};
