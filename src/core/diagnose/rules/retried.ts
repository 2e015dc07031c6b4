import { readHttpDate } from '../../http';
import { formatMs, formatSpan } from '../../wording';
import { dateOf, type Evidence } from '../evidence';
import type { Rule } from '../finding';
import { findExpired } from '../lapsed';
import { laterRepeats, lostToTries } from '../repeats';
import { called } from '../say';

/** The same request sent again after a failure: repaired or not, and whether Retry-After was kept (RFC 9110 10.2.3). */
export const retried: Rule = function* (subject) {
  const later = laterRepeats(subject);
  const told = new Set<number>();
  for (const row of subject.rows) {
    const evidence = subject.evidenceOf(row.index);
    // What had run out is told as that.
    if (row.failure === undefined || row.status === 429 || told.has(row.index)) continue;
    if (findExpired(subject, row) !== undefined) continue;
    const tries = later(row);
    const [next] = tries;
    if (next === undefined) continue;
    for (const one of tries) told.add(one.index);
    const success = tries.find(({ failure }) => failure === undefined);
    const waited = (next.startMs ?? 0) - ((row.startMs ?? 0) + (row.timeMs ?? 0));
    const asked = retryAfterMs(evidence, (row.startedAt ?? 0) + (row.timeMs ?? 0));
    const words =
      asked === undefined
        ? `It waited ${formatMs(Math.max(0, waited))} before the next try.`
        : `Retry-After asked for ${formatSpan(asked)}; it waited ${formatMs(Math.max(0, waited))}${waited + 1 < asked ? ', too short' : ''}.`;
    yield {
      // A server that asks who is there and is told so works as it should.
      severity: success === undefined ? 'broken' : row.status === 401 ? 'note' : 'costly',
      claim: `${called(row)} failed (${row.status ?? 'no answer'}) and was sent again ${tries.length === 1 ? 'once' : `${tries.length} times`}, ${success === undefined ? 'without success' : 'then it worked'}`,
      detail: words,
      evidence: [row.index, ...tries.map(({ index }) => index)],
      cost: {
        routeMs: lostToTries(subject, [{ failed: row, worked: success }]),
        offRouteMs: (row.timeMs ?? 0) - subject.routeMsOf(row.index),
      },
      remedy: 'Look into why the first try failed: a retry hides it, and costs its whole time and the pause after it.',
      confidence: 'certain',
    };
  }
};

/** What Retry-After asks for (RFC 9110 10.2.3): seconds, or a date, which is held against the answer's own. In ms. */
function retryAfterMs(evidence: Evidence | undefined, answeredAt: number): number | undefined {
  const text = evidence?.responseHeaders.get('retry-after')?.trim() ?? '';
  if (/^\d+$/.test(text)) return Number(text) * 1000;
  const until = readHttpDate(text);
  return until === undefined ? undefined : Math.max(0, until - (dateOf(evidence, 'date') ?? answeredAt));
}
