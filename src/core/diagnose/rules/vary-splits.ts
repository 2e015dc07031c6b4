import type { ExchangeRow } from '../../analysis';
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
  const namesOf = ({ index }: ExchangeRow): string[] => namedBy(subject.evidenceOf(index)?.responseHeaders.get('vary'));
  const split = staticFetches(subject).filter((row) => namesOf(row).length > 0);
  for (const [, rows] of groupBy(split, (row) => `${row.host} ${namesOf(row).join().toLowerCase()}`)) {
    const [first] = rows;
    const names = namesOf(first);
    yield {
      severity: 'note',
      claim: `${calledAll(rows)} from ${first.host} ${rows.length === 1 ? 'varies' : 'vary'} by ${names.join(', ')}`,
      detail: 'Caches on the way keep another copy for each value of these headers, and rarely have the right one.',
      evidence: indexes(rows),
      remedy: 'Leave these names out of Vary for files that are the same for all.',
      confidence: 'strong',
    };
  }
};
