import { groupBy } from '../../collections';
import type { Rule } from '../finding';
import { calledAll, indexes } from '../say';
import { staticFetches } from './kept';

/** Request headers that differ from browser to browser, or from person to person. */
const SPLITTING = /^(user-agent|cookie|referer|accept-language|authorization)$/i;

/** Static files of which caches must keep a copy for nearly everybody. */
export const varySplits: Rule = function* (subject) {
  const namedBy = (value: string | undefined): string[] =>
    (value ?? '')
      .split(',')
      .map((name) => name.trim())
      .filter((name) => SPLITTING.test(name));
  const split = staticFetches(subject).filter(
    ({ index }) => namedBy(subject.evidenceOf(index)?.responseHeaders.get('vary')).length > 0,
  );
  for (const [host, rows] of groupBy(split, (row) => row.host)) {
    const [first] = rows;
    const names = first === undefined ? [] : namedBy(subject.evidenceOf(first.index)?.responseHeaders.get('vary'));
    yield {
      severity: 'note',
      claim: `${calledAll(rows)} from ${host} vary by ${names.join(', ')}`,
      detail: 'Caches on the way keep another copy for each value of these headers, and rarely have the right one.',
      evidence: indexes(rows),
      cost: {},
      remedy: 'Leave these names out of Vary for files that are the same for all.',
      confidence: 'strong',
    };
  }
};
