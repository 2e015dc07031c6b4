import type { Rule } from '../finding';
import { called } from '../say';

/** Sockets that did not come to be, or broke. */
export const socketDropped: Rule = function* (subject) {
  for (const row of subject.rows) {
    if (row.kind !== 'socket' || (row.failure === undefined && (row.status === 101 || row.status === undefined)))
      continue;
    yield {
      severity: 'broken',
      claim: `The socket ${called(row)} ${row.status === 101 ? 'broke' : 'was not opened'}`,
      detail: row.failure === undefined ? `It was answered ${row.status}.` : `The recorder wrote: ${row.failure}.`,
      evidence: [row.index],
      cost: {},
      remedy: 'See whether the server and every proxy on the way let the connection be upgraded, and for how long.',
      confidence: 'certain',
    };
  }
};
