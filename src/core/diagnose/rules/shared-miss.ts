import { groupBy } from '../../collections';
import type { Rule } from '../finding';
import { calledAll, indexes } from '../say';
import { staticFetches } from './kept';

/** Static files that no cache on the way responded to from a copy. */
export const sharedMiss: Rule = function* (subject) {
  const missed = staticFetches(subject).filter(({ index }) => subject.evidenceOf(index)?.policy?.shared === 'miss');
  for (const [host, rows] of groupBy(missed, (row) => row.host)) {
    yield {
      severity: 'note',
      claim: `${calledAll(rows)} from ${host} missed the shared cache (CDN, proxy)`,
      detail: 'Its own headers say that it did not respond from a copy.',
      evidence: indexes(rows),
      remedy: 'Request it again; if it misses again, check why the cache does not store it.',
      confidence: 'strong',
    };
  }
};
