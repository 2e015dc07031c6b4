import { groupBy } from '../../collections';
import { formatPlural } from '../../wording';
import type { Rule } from '../finding';
import { calledAll, indexes } from '../say';

/** Over HTTP/2 a hundred streams are what most servers allow at once (RFC 9113 6.5.2): more wait for their mere number. */
const MANY = 100;

/** Pages made of very many pieces. */
export const tooMany: Rule = function* (subject) {
  for (const { rows } of subject.pages) {
    const crossed = rows.filter(({ source }) => source === 'network' || source === 'revalidated');
    if (crossed.length <= MANY) continue;
    const kinds = [...groupBy(crossed, ({ kind }) => kind).values()].sort((a, b) => b.length - a.length);
    yield {
      severity: 'wasteful',
      claim: `The page made ${formatPlural(crossed.length, 'network request')}`,
      detail: `Mostly for ${kinds.slice(0, 3).map(calledAll).join(', ')}.`,
      evidence: indexes(kinds[0] ?? []),
      remedy: 'Bundle what is always loaded together, and load what is out of sight only when it comes into sight.',
      confidence: 'certain',
    };
  }
};
