import { CLOCK_TOLERANCE_MS, clockOffsetMs } from '../../analysis';
import { groupBy } from '../../collections';
import { formatSpan } from '../../wording';
import { dateOf } from '../evidence';
import type { Rule } from '../finding';
import { indexes } from '../say';

/** One answer may have waited on its way: several tell. */
const LEAST_ANSWERS = 3;

/** Hosts whose clock differs from the recorder's: lifetimes by Expires are wrong by as much. */
export const clockSkew: Rule = function* (subject) {
  const apart = (row: (typeof subject.rows)[number]): number | undefined => {
    const evidence = subject.evidenceOf(row.index);
    // What a cache on the way answered has the Date of when it was made.
    return evidence?.responseHeaders.has('age') === true ? undefined : clockOffsetMs(dateOf(evidence, 'date'), row);
  };
  for (const [host, rows] of groupBy(subject.rows, (row) => (apart(row) === undefined ? undefined : row.host))) {
    const offsets = rows.map((row) => apart(row) ?? 0).sort((a, b) => a - b);
    const median = offsets[offsets.length >> 1] ?? 0;
    if (rows.length < LEAST_ANSWERS || Math.abs(median) < CLOCK_TOLERANCE_MS) continue;
    yield {
      severity: 'note',
      claim: `The clock of ${host} is ${formatSpan(Math.abs(median))} ${median > 0 ? 'ahead of' : 'behind'} this recording’s`,
      detail: `Seen in the Date of ${rows.length} answers. Expires counts by the server’s clock, max-age does not.`,
      evidence: indexes(rows.slice(0, 20)),
      cost: {},
      remedy: 'Set the server’s clock by NTP; give lifetimes by max-age.',
      confidence: 'strong',
    };
  }
};
