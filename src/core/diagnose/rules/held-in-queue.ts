import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import { isOneAtATime } from '../../timing';
import { formatMs } from '../../wording';
import type { Finding, Rule, Subject } from '../finding';
import { calledAll, firstOf, indexes, most, timeCost } from '../say';

/** Shorter waits are the browser's own bookkeeping. */
const HELD_MS = 50;

/** Requests that waited for a free connection: six at a time to a host over HTTP/1.1. */
export const heldInQueue: Rule = function* (subject) {
  const counted = ({ phases }: ExchangeRow): number => phases.heldMs ?? 0;
  const hidden = ({ index }: ExchangeRow): number => subject.queuedMsOf(index);
  const held = subject.rows.filter((row) => counted(row) >= HELD_MS && isOneAtATime(row.protocol));
  for (const [host, rows] of groupBy(held, (row) => row.host)) {
    yield tell(
      subject,
      host,
      rows,
      counted,
      'Over HTTP/1.1 browsers keep six connections to a host, each with one request at a time.',
    );
  }
  const crowded = subject.rows.filter((row) => hidden(row) >= HELD_MS);
  for (const [host, rows] of groupBy(crowded, (row) => row.host)) {
    yield tell(
      subject,
      host,
      rows,
      hidden,
      'Six older requests were still open when each began, and over HTTP/1.1 browsers keep six connections to a host. The recorder does not tell this wait apart: it lies in the phases it wrote down.',
    );
  }
};

function tell(
  subject: Subject,
  host: string,
  rows: readonly ExchangeRow[],
  heldMs: (row: ExchangeRow) => number,
  detail: string,
): Omit<Finding, 'rule'> {
  return {
    severity: rows.some(({ index }) => subject.routeMsOf(index) > 0) ? 'costly' : 'wasteful',
    claim: `${calledAll(rows)} to ${host} ${rows.length === 1 ? 'was' : 'were'} held back up to ${formatMs(most(rows, heldMs))} for want of a connection`,
    detail,
    evidence: indexes(rows),
    cost: timeCost(
      rows,
      (row) => firstOf(row, heldMs(row)),
      ({ index }) => subject.routeMsOf(index),
    ),
    remedy: 'Serve the host by HTTP/2 or later, or ask it for fewer things at once.',
    confidence: 'strong',
  };
}
