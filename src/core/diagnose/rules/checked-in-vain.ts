import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import { formatMs } from '../../wording';
import type { Rule, Subject } from '../finding';
import { calledAll, indexes, most, those } from '../say';

/** Checks that all came back with "not changed": round trips that a lifetime would spare. */
export const checkedInVain: Rule = function* (subject) {
  const checked = subject.rows.filter(({ source, kind }) => source === 'revalidated' && kind !== 'document');
  for (const [, rows] of groupBy(
    checked,
    (row) => `${row.host} ${reasonOf(subject, row).why} ${reasonOf(subject, row).remedy}`,
  )) {
    const [{ host }] = rows;
    const reason = reasonOf(subject, rows[0]);
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

interface Reason {
  /** A sentence behind others, or none. */
  readonly why: string;
  readonly remedy: string;
}

const ASKED: Reason = {
  why: ' The request itself asked for it by its Cache-Control, as a reload does, or a fetch with the cache mode no-cache.',
  remedy: 'Nothing where the page was reloaded; else have the page fetch it without asking for that.',
};
const SHORT: Reason = { why: '', remedy: 'Set a longer max-age: fresh responses need no revalidation.' };
const OLD: Reason = {
  why: ' By its Age or Date it comes older than it stays fresh.',
  remedy: 'Set max-age above the age that it comes with, or the clock of the server right that writes its Date.',
};
const NO_LIFETIME: Reason = { why: '', remedy: 'Set max-age: fresh responses need no revalidation.' };

/** Why it was checked: because the request said so, because the response had, or since its lifetime was over, or none. */
function reasonOf(subject: Subject, { index }: ExchangeRow): Reason {
  const evidence = subject.evidenceOf(index);
  if (/no-cache|max-age=0(?!\d)/i.test(evidence?.requestHeaders.get('cache-control') ?? '')) return ASKED;
  const { policy } = evidence ?? {};
  if (policy?.askedBy !== undefined) {
    const isVary = policy.askedBy.startsWith('Vary');
    return {
      why: ` The response demands it each time (${policy.askedBy}).`,
      remedy: isVary
        ? 'Name in Vary the headers that it depends on, and set max-age: fresh responses need no revalidation.'
        : 'Leave that out and set max-age: fresh responses need no revalidation.',
    };
  }
  const { freshSeconds = 0, ageSeconds = 0 } = policy ?? {};
  if (freshSeconds > 0 && ageSeconds >= freshSeconds) return OLD;
  return freshSeconds > 0 && policy?.basis !== 'heuristic' ? SHORT : NO_LIFETIME;
}
