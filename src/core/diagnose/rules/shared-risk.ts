import { groupBy } from '../../collections';
import type { Evidence } from '../evidence';
import type { Rule } from '../finding';
import { called, indexes } from '../say';

/** Answers that set a cookie or were given to somebody signed in, and that any cache on the way may hand to others. */
export const sharedRisk: Rule = function* (subject) {
  const risky = subject.rows.filter(({ index }) => {
    const evidence = subject.evidenceOf(index);
    return evidence !== undefined && mayBeShared(evidence);
  });
  for (const [, rows] of groupBy(risky, ({ endpoint }) => endpoint)) {
    const [first] = rows;
    if (first === undefined) continue;
    const sets = (subject.evidenceOf(first.index)?.setCookies.length ?? 0) > 0;
    yield {
      severity: 'broken',
      claim: `${called(first)} ${sets ? 'sets a cookie' : 'was asked for with credentials'}, and any cache on the way may keep it`,
      detail: `Cache-Control: ${subject.evidenceOf(first.index)?.responseHeaders.get('cache-control') ?? ''}. One person’s response can be given to another.`,
      evidence: indexes(rows),
      remedy: 'Send Cache-Control: private, or do not set cookies on responses that are stored for everybody.',
      confidence: 'strong',
    };
  }
};

/**
 * Whether a shared cache may store a response that sets a cookie or was made for somebody's credentials (RFC 9111 3, 3.5),
 * and may use it for another: it has a lifetime, and nothing that keeps it apart.
 */
function mayBeShared({ policy, setCookies, requestHeaders, responseHeaders }: Evidence): boolean {
  if (policy?.isStorable !== true || policy.isPrivate || policy.mustAsk || policy.sharedSeconds === 0) return false;
  const lifetime = policy.sharedSeconds ?? (policy.basis === 'heuristic' ? 0 : (policy.freshSeconds ?? 0));
  if (lifetime <= 0) return false;
  const varies = (responseHeaders.get('vary') ?? '').toLowerCase();
  const control = responseHeaders.get('cache-control') ?? '';
  if (requestHeaders.has('authorization')) {
    const isAllowed = policy.isPublic || policy.sharedSeconds !== undefined || /must-revalidate/i.test(control);
    return isAllowed && !/\bauthorization\b|\*/.test(varies);
  }
  return setCookies.length > 0 && !/\bcookie\b|\*/.test(varies);
}
