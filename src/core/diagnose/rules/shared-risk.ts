import { groupBy } from '../../collections';
import type { Rule } from '../finding';
import { called, indexes } from '../say';

/** Answers that set a cookie or were given to somebody signed in, and that any cache on the way may hand to others. */
export const sharedRisk: Rule = function* (subject) {
  const risky = subject.rows.filter(({ index }) => {
    const evidence = subject.evidenceOf(index);
    const policy = evidence?.policy;
    if (policy?.isStorable !== true || policy.isPrivate) return false;
    const isShareable = policy.isPublic || (policy.sharedSeconds ?? 0) > 0;
    return (
      isShareable && ((evidence?.setCookies.length ?? 0) > 0 || evidence?.requestHeaders.has('authorization') === true)
    );
  });
  for (const [, rows] of groupBy(risky, ({ endpoint }) => endpoint)) {
    const [first] = rows;
    if (first === undefined) continue;
    const sets = (subject.evidenceOf(first.index)?.setCookies.length ?? 0) > 0;
    yield {
      severity: 'broken',
      claim: `${called(first)} ${sets ? 'sets a cookie' : 'was asked for with credentials'}, and any cache on the way may keep it`,
      detail: `Cache-Control: ${subject.evidenceOf(first.index)?.responseHeaders.get('cache-control') ?? ''}. One person’s answer can be handed to another.`,
      evidence: indexes(rows),
      cost: {},
      remedy: 'Send Cache-Control: private, or do not set cookies on what is kept for all.',
      confidence: 'strong',
    };
  }
};
