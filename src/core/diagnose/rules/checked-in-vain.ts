import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import { formatMs } from '../../wording';
import type { Rule, Subject } from '../finding';
import { calledAll, indexes, most, those } from '../say';

/** Checks that all came back with "not changed": round trips that a lifetime would spare. */
export const checkedInVain: Rule = function* (subject) {
  const checked = subject.rows.filter(({ source, kind }) => source === 'revalidated' && kind !== 'document');
  for (const [, rows] of groupBy(checked, (row) => `${row.host} ${reasonOf(subject, row)}`)) {
    const [{ host }] = rows;
    const reason = REASONS[reasonOf(subject, rows[0])];
    // What queued for a connection was not on its way.
    const tripMs = ({ index, timeMs = 0 }: ExchangeRow): number =>
      Math.max(0, timeMs - (subject.queueOf(index)?.ms ?? 0));
    yield {
      severity: 'costly',
      claim: `${calledAll(rows)} from ${host} ${rows.length === 1 ? 'was' : 'were'} revalidated although unchanged`,
      detail: `Answered 304${rows.length === 1 ? '' : ' each time'}; ${rows.length === 1 ? `the round trip took ${formatMs(most(rows, tripMs))}` : `each round trip took up to ${formatMs(most(rows, tripMs))}`}.${reason.why}`,
      evidence: indexes(rows),
      changes: [{ type: 'from-cache', indexes: those(rows) }],
      remedy: reason.remedy,
      confidence: 'certain',
    };
  }
};

type Reason = 'asked' | 'no-cache' | 'short' | 'unknown';

const REASONS: Readonly<Record<Reason, { readonly why: string; readonly remedy: string }>> = {
  asked: {
    why: ' The request itself asked for it by its Cache-Control, as a reload does, or a fetch with the cache mode no-cache.',
    remedy: 'Nothing where the page was reloaded; else have the page fetch it without asking for that.',
  },
  'no-cache': {
    why: ' The response’s own Cache-Control demands it each time.',
    remedy: 'Leave that out and set max-age: fresh responses need no revalidation.',
  },
  short: { why: '', remedy: 'Set a longer max-age: fresh responses need no revalidation.' },
  unknown: { why: '', remedy: 'Set max-age: fresh responses need no revalidation.' },
};

/** Why it was checked: because the request said so, because the response had, or since its lifetime was over, or none. */
function reasonOf(subject: Subject, { index }: ExchangeRow): Reason {
  const evidence = subject.evidenceOf(index);
  if (/no-cache|max-age=0(?!\d)/i.test(evidence?.requestHeaders.get('cache-control') ?? '')) return 'asked';
  if (evidence?.policy?.mustAsk === true) return 'no-cache';
  return (evidence?.policy?.freshSeconds ?? 0) > 0 && evidence?.policy?.basis !== 'heuristic' ? 'short' : 'unknown';
}
