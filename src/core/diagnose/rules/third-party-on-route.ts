import { groupBy } from '../../collections';
import { formatMs } from '../../wording';
import type { Rule } from '../finding';
import { called, indexes, sum, those } from '../say';

/** Three frames of a screen: less is seen by nobody. */
const WORTH_MS = 50;

/** Third parties that the load waited for. */
export const thirdPartyOnRoute: Rule = function* (subject) {
  for (const { rows } of subject.pages) {
    const third = rows.filter(({ party, index }) => party === 'third' && subject.routeMsOf(index) > 0);
    for (const [host, group] of groupBy(third, (row) => row.host)) {
      const cost = sum(group, ({ index }) => subject.routeMsOf(index));
      const [first] = group;
      if (first === undefined || cost < WORTH_MS) continue;
      yield {
        severity: 'costly',
        claim: `The load waited ${formatMs(cost)} for ${host}, a third party`,
        detail: `For ${group
          .map((row) => `${called(row)} (#${row.index})`)
          .slice(0, 3)
          .join(', ')}.`,
        evidence: indexes(group),
        changes: [{ type: 'leave-out', indexes: those(group) }],
        remedy: 'Self-host it or load it asynchronously (async, defer, lazy).',
        confidence: 'strong',
      };
    }
  }
};
