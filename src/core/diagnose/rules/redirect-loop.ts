import type { Rule } from '../finding';
import { called, groupBy, indexes, sum } from '../say';

/** The same address redirected so often on one page goes round in a circle. */
const LEAST_ROUNDS = 3;

/** Redirects that lead back to where they came from. */
export const redirectLoop: Rule = function* (subject) {
  const redirects = subject.rows.filter(
    ({ status }) => status !== undefined && status >= 300 && status < 400 && status !== 304,
  );
  for (const [, rows] of groupBy(redirects, ({ pageId, url }) => `${pageId} ${url}`)) {
    const [first] = rows;
    if (first === undefined || rows.length < LEAST_ROUNDS) continue;
    yield {
      severity: 'broken',
      claim: `${called(first)} was redirected ${rows.length} times, in a circle`,
      detail: `Each time with ${first.status}; the browser gives up after some twenty rounds.`,
      evidence: indexes(rows),
      cost: { routeMs: sum(rows, ({ index }) => subject.routeMsOf(index)) },
      remedy: 'Compare the Location of each hop: two rules send to one another, often for https, www or a sign-in.',
      confidence: 'certain',
    };
  }
};
