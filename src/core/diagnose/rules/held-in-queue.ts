import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import { formatMs } from '../../wording';
import type { Rule } from '../finding';
import { calledAll, indexes, most, those } from '../say';

/** Shorter waits are the browser's own bookkeeping. */
const HELD_MS = 50;

const DETAIL = {
  counted:
    'Six older requests were still open when each began: over HTTP/1.1 browsers keep six connections to a host, each with one request at a time.',
  hidden:
    'Six older requests were still open when each began, and over HTTP/1.1 browsers keep six connections to a host. The recorder does not tell this wait apart: it is part of the phases that it wrote down, or was left out of them.',
} as const;

/** Requests that waited for a free connection: six at a time to a host over HTTP/1.1. */
export const heldInQueue: Rule = function* (subject) {
  const queuedMs = ({ index }: ExchangeRow): number => subject.queueOf(index)?.ms ?? 0;
  const held = subject.rows.filter((row) => queuedMs(row) >= HELD_MS);
  const detailOf = ({ index }: ExchangeRow): keyof typeof DETAIL =>
    subject.queueOf(index)?.isCounted === true ? 'counted' : 'hidden';
  for (const [, rows] of groupBy(held, (row) => `${detailOf(row)} ${row.host}`)) {
    const [first] = rows;
    yield {
      severity: 'costly',
      claim: `${calledAll(rows)} to ${first.host} waited up to ${formatMs(most(rows, queuedMs))} for a connection`,
      detail: DETAIL[detailOf(first)],
      evidence: indexes(rows),
      changes: [{ type: 'unqueued', indexes: those(subject.rows.filter(({ host }) => host === first.host)) }],
      remedy: 'Serve the host by HTTP/2 or later, or ask it for fewer things at once.',
      confidence: 'strong',
    };
  }
};
