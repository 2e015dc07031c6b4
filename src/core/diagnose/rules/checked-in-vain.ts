import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import { formatMs } from '../../wording';
import type { Rule } from '../finding';
import { calledAll, indexes, most, those } from '../say';

/** Checks that all came back with "not changed": round trips that a lifetime would spare. */
export const checkedInVain: Rule = function* (subject) {
  const checked = subject.rows.filter(({ source, kind }) => source === 'revalidated' && kind !== 'document');
  for (const [host, rows] of groupBy(checked, (row) => row.host)) {
    // What queued for a connection was not on its way.
    const tripMs = ({ index, timeMs = 0 }: ExchangeRow): number =>
      Math.max(0, timeMs - (subject.queueOf(index)?.ms ?? 0));
    yield {
      severity: 'costly',
      claim: `${calledAll(rows)} from ${host} ${rows.length === 1 ? 'was' : 'were'} revalidated although unchanged`,
      detail: `Answered 304${rows.length === 1 ? '' : ' each time'}; ${rows.length === 1 ? `the round trip took ${formatMs(most(rows, tripMs))}` : `each round trip took up to ${formatMs(most(rows, tripMs))}`}.`,
      evidence: indexes(rows),
      changes: [{ type: 'from-cache', indexes: those(rows) }],
      remedy: 'Set max-age: fresh responses need no revalidation.',
      confidence: 'certain',
    };
  }
};
