import { formatSpan } from '../../wording';
import type { Rule } from '../finding';
import { laterRepeats, lostToTries } from '../repeats';
import { called, groupBy, indexes, sum } from '../say';

/** Requests whose token had run out by its own claim (RFC 7519 4.1.4) when they were sent, and that were refused. */
export const tokenExpired: Rule = function* (subject) {
  const later = laterRepeats(subject);
  const expired = subject.rows.filter(({ index, startedAt, status }) => {
    const expiresAt = subject.evidenceOf(index)?.tokenExpiresAt;
    return (
      (status === 401 || status === 403) && expiresAt !== undefined && startedAt !== undefined && expiresAt < startedAt
    );
  });
  for (const [, rows] of groupBy(expired, ({ host }) => host)) {
    const [first] = rows;
    if (first === undefined) continue;
    const expiresAt = subject.evidenceOf(first.index)?.tokenExpiresAt ?? 0;
    const agoWords = formatSpan((first.startedAt ?? 0) - expiresAt);
    const tries = rows.map((failed) => ({
      failed,
      worked: later(failed).find(({ failure }) => failure === undefined),
    }));
    const again = tries.flatMap(({ worked }) => worked ?? []);
    yield {
      severity: again.length === rows.length ? 'costly' : 'broken',
      claim: `${called(first)} was refused: its token had run out ${agoWords} before`,
      detail:
        again.length === rows.length
          ? 'The page renewed it and asked again with success.'
          : 'It was not asked for again with success.',
      evidence: [...indexes(rows), ...indexes(again)],
      cost: {
        routeMs: lostToTries(subject, tries),
        offRouteMs: sum(rows, ({ timeMs }) => timeMs),
      },
      remedy: 'Renew the token shortly before it runs out: its own exp claim says when.',
      confidence: 'certain',
    };
  }
};
