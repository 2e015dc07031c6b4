import { groupBy } from '../../collections';
import type { Rule } from '../finding';
import { calledAll, indexes } from '../say';
import { staticFetches } from './kept';

/** Static files that a cache on the way did not have. */
export const sharedMiss: Rule = function* (subject) {
  const missed = staticFetches(subject).filter(({ index }) => subject.evidenceOf(index)?.policy?.shared === 'miss');
  for (const [host, rows] of groupBy(missed, (row) => row.host)) {
    yield {
      severity: 'note',
      claim: `${calledAll(rows)} from ${host} had to be fetched from behind the cache on the way`,
      detail: 'Its own headers say that it did not have a copy.',
      evidence: indexes(rows),
      remedy: 'Ask twice: where the second answer is a miss too, see what keeps the cache from keeping it.',
      confidence: 'strong',
    };
  }
};
