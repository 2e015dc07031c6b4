import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import { formatSpan } from '../../wording';
import type { Finding, Rule, Subject } from '../finding';
import { type Expired, findExpired } from '../lapsed';
import { laterRepeats, lostToTries } from '../repeats';
import { called, indexes, lastOf, timeCost } from '../say';

/**
 * Requests that were refused, and whose token had run out by its own claim (RFC 7519 4.1.4) or whose cookie had lapsed
 * (RFC 6265 5.3) when they were sent.
 */
export const tokenExpired: Rule = function* (subject) {
  const refused = subject.rows.flatMap((row) => {
    const why = findExpired(subject, row);
    return why === undefined ? [] : [{ row, why }];
  });
  for (const [, group] of groupBy(refused, ({ row, why }) => `${row.host} ${why.what}`)) yield tell(subject, group);
};

function tell(
  subject: Subject,
  group: readonly { readonly row: ExchangeRow; readonly why: Expired }[],
): Omit<Finding, 'rule'> {
  const later = laterRepeats(subject);
  const rows = group.map(({ row }) => row);
  const [{ row: first, why }] = group as [(typeof group)[0]];
  const tries = rows.map((failed) => ({
    failed,
    worked: later(failed).find(({ failure }) => failure === undefined),
  }));
  const again = tries.flatMap(({ worked }) => worked ?? []);
  const isRepaired = again.length === rows.length;
  const { offRouteMs } = timeCost(
    rows,
    (row) => lastOf(row, row.timeMs ?? 0),
    ({ index }) => subject.routeMsOf(index),
  );
  return {
    severity: isRepaired ? 'costly' : 'broken',
    claim: `${called(first)} was refused: ${why.what} had run out ${formatSpan((first.startedAt ?? 0) - why.endedAt)} before`,
    detail: isRepaired
      ? 'The page renewed it and asked again with success.'
      : 'It was not asked for again with success.',
    evidence: [...indexes(rows), ...indexes(again)],
    cost: { routeMs: lostToTries(subject, tries), offRouteMs },
    remedy: why.remedy,
    confidence: 'certain',
  };
}
