import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import { formatBytes } from '../../wording';
import type { Rule, Subject } from '../finding';
import { calledAll, indexes, sum, those } from '../say';

/** The same bytes fetched again on a later page of the capture, although they could have been kept from before. */
export const fetchedAgainUnchanged: Rule = function* (subject) {
  const before = subject.fetchedBefore();
  const again = subject.asked.flatMap((row) => {
    const first = before.get(row.index);
    return first === undefined || first.pageId === row.pageId ? [] : [{ row, why: whyAgain(subject, first, row) }];
  });
  for (const [why, group] of groupBy(again, (one) => one.why)) {
    const rows = group.map(({ row }) => row);
    const wireBytes = sum(rows, (row) => row.wireBytes);
    yield {
      severity: 'wasteful',
      claim: `${calledAll(rows)} ${rows.length === 1 ? 'was' : 'were'} downloaded again on a later page, although identical`,
      detail: `${formatBytes(wireBytes)} that a cached copy would have saved. ${REASONS[why].words}`,
      evidence: indexes(rows),
      changes: [{ type: 'from-cache', indexes: those(rows) }],
      wireBytes,
      remedy: REASONS[why].remedy,
      confidence: 'certain',
    };
  }
};

type Why = 'asked' | 'not-storable' | 'no-validator' | 'expired' | 'all-the-same';

const REASONS: Readonly<Record<Why, { readonly words: string; readonly remedy: string }>> = {
  asked: {
    words: 'The browser asked whether it had changed, and the server sent it whole.',
    remedy: 'Have the server compare what it is asked by: the same bytes need the same ETag.',
  },
  'not-storable': {
    words: 'The first response was not to be stored.',
    remedy: 'Let it be stored, where it is the same for whoever asks: without no-store, with an ETag or a max-age.',
  },
  'no-validator': {
    words: 'The first response gave no time for which it is fresh, and nothing to revalidate it by.',
    remedy: 'Send an ETag or Last-Modified, or set max-age.',
  },
  expired: {
    words: 'The copy was no longer fresh, and there was nothing to revalidate it by.',
    remedy: 'Send an ETag or Last-Modified, or a longer max-age.',
  },
  'all-the-same': {
    words: 'By its headers it could have been reused, or revalidated.',
    remedy: 'Check whether the cache was off for the recording, or the page was reloaded without it.',
  },
};

/** Why the bytes came again, by what the first response said of its copy, and what the later request asked for. */
function whyAgain(subject: Subject, first: ExchangeRow, later: ExchangeRow): Why {
  if (subject.evidenceOf(later.index)?.isConditional === true) return 'asked';
  const policy = subject.evidenceOf(first.index)?.policy;
  if (policy?.isStorable !== true) return 'not-storable';
  if (policy.validators.length > 0) return 'all-the-same';
  const freshSeconds = policy.mustAsk ? 0 : (policy.freshSeconds ?? 0) - policy.ageSeconds;
  if (freshSeconds <= 0) return 'no-validator';
  return freshSeconds * 1000 < (later.startedAt ?? 0) - (first.startedAt ?? 0) ? 'expired' : 'all-the-same';
}
