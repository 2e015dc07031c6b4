import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import { capitalised, formatSpan } from '../../wording';
import type { Matter, Rule, Subject } from '../finding';
import { type Expired, findExpired } from '../lapsed';
import { called, indexes, those } from '../say';
import { laterSuccesses, retriesIn, tellLater } from '../tries';

/**
 * Requests that were refused, and whose token had run out by its own claim (RFC 7519 4.1.4) or whose session's cookie had
 * expired (RFC 6265 5.3) when they were sent.
 */
export const tokenExpired: Rule = function* (subject) {
  const refused = subject.asked.flatMap((row) => {
    const why = findExpired(subject, row);
    return why === undefined ? [] : [{ row, why }];
  });
  for (const [, group] of groupBy(refused, ({ row, why }) => `${row.host} ${why.what}`)) yield tell(subject, group);
};

function tell(subject: Subject, group: readonly [Refused, ...Refused[]]): Matter {
  const rows = group.map(({ row }) => row);
  const [{ row: first, why }] = group;
  const { retries } = retriesIn(subject);
  const again = retries.flatMap(({ failed, worked }) =>
    worked !== undefined && failed.some((row) => rows.includes(row)) ? worked : [],
  );
  const { isRepaired } = retriesIn(subject);
  const renewals = again.flatMap((worked) => renewalBefore(subject, worked, rows) ?? []);
  const isAllRepaired = rows.every(isRepaired);
  const later = tellLater(rows, laterSuccesses(subject, rows));
  return {
    // A renewal that works is how sign-ins with short lives are meant to go.
    severity: isAllRepaired ? 'note' : 'broken',
    claim: `${called(first)} was refused: ${why.what} had expired ${formatSpan(why.agoMs)} before`,
    detail: isAllRepaired
      ? renewals.length > 0
        ? 'The page renewed it and sent the request again with success.'
        : 'The request was sent again with success.'
      : capitalised(later),
    evidence: [...indexes(rows), ...indexes(again)],
    changes: [
      { type: 'leave-out', indexes: those([...rows, ...renewals]) },
      { type: 'no-gap', indexes: those([...again, ...renewals]) },
    ],
    remedy: why.remedy,
    confidence: 'strong',
  };
}

/** A renewal ends at most this long before what waits for it is sent. */
const SHORTLY_MS = 60;

/** The call by which the token was renewed: made since the refusal, and ended just before the try that worked. */
function renewalBefore(
  { rows }: Subject,
  { index, pageId, startMs = 0 }: ExchangeRow,
  refused: readonly ExchangeRow[],
): ExchangeRow | undefined {
  const sinceMs = refused.reduce(
    (first, row) => Math.min(first, (row.startMs ?? 0) + (row.timeMs ?? 0) - 1),
    Number.POSITIVE_INFINITY,
  );
  return rows.find((row) => {
    const endMs = (row.startMs ?? 0) + (row.timeMs ?? 0);
    const isBetween = (row.startMs ?? 0) >= sinceMs && endMs <= startMs + 1 && startMs - endMs <= SHORTLY_MS;
    return (
      row.index !== index && row.kind === 'data' && row.pageId === pageId && row.failure === undefined && isBetween
    );
  });
}

interface Refused {
  readonly row: ExchangeRow;
  readonly why: Expired;
}
