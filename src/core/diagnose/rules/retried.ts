import { readHttpDate } from '../../http';
import { formatMs, formatSpan } from '../../wording';
import { dateOf, type Evidence } from '../evidence';
import type { Rule } from '../finding';
import { findExpired } from '../lapsed';
import { called, indexes, those } from '../say';
import { retriesIn } from '../tries';

/** The same request sent again after a failure: repaired or not, and whether Retry-After was kept (RFC 9110 10.2.3). */
export const retried: Rule = function* (subject) {
  for (const { failed, worked } of retriesIn(subject).retries) {
    const [first, second] = failed;
    // What had run out is told as that.
    if (failed.every((row) => findExpired(subject, row) !== undefined)) continue;
    const next = second ?? worked;
    const evidence = subject.evidenceOf(first.index);
    const endedMs = (first.startMs ?? 0) + (first.timeMs ?? 0);
    const waited = Math.max(0, (next?.startMs ?? endedMs) - endedMs);
    const asked = retryAfterMs(evidence, (first.startedAt ?? 0) + (first.timeMs ?? 0));
    // Where it is not known how long the first took, it is not known when the wait began.
    const isTimed = first.timeMs !== undefined;
    const words = !isTimed
      ? 'How long the page waited before the next try was not recorded.'
      : asked === undefined
        ? `The page waited ${formatMs(waited)} before the next try.`
        : `Retry-After asked for ${formatSpan(asked)}; the page waited ${formatMs(waited)}${waited + 1 < asked ? ', too short' : ''}.`;
    const tries = failed.length - 1 + (worked === undefined ? 0 : 1);
    yield {
      // A server that asks who is there and is told so works as it should.
      severity: worked === undefined ? 'broken' : first.status === 401 ? 'note' : 'costly',
      claim: `${called(first)} failed (${first.status ?? 'no response'}) and was sent again ${tries === 1 ? 'once' : `${tries} times`}, ${worked === undefined ? 'without success' : 'then it worked'}`,
      detail: words,
      evidence: [...indexes(failed), ...(worked === undefined ? [] : [worked.index])],
      changes: [
        { type: 'leave-out', indexes: those(failed) },
        ...(worked === undefined ? [] : [{ type: 'no-gap', indexes: those([worked]) } as const]),
      ],
      remedy:
        'Find out why the first attempt failed: the retry hides it, and costs its whole time and the pause after it.',
      confidence: 'certain',
    };
  }
};

/** What Retry-After asks for (RFC 9110 10.2.3): seconds, or a date, which is held against the response's own. In ms. */
function retryAfterMs(evidence: Evidence | undefined, answeredAt: number): number | undefined {
  const text = evidence?.responseHeaders.get('retry-after')?.trim() ?? '';
  if (/^\d+$/.test(text)) return Number(text) * 1000;
  const until = readHttpDate(text);
  return until === undefined ? undefined : Math.max(0, until - (dateOf(evidence, 'date') ?? answeredAt));
}
