import { groupBy } from '../../collections';
import { formatPlural, formatSpan } from '../../wording';
import type { Rule } from '../finding';
import { indexes } from '../say';

const SHOWN_EVIDENCE = 20;

/** Hosts whose clock differs from those of the others: lifetimes by Expires are wrong by as much. */
export const clockSkew: Rule = function* (subject) {
  const { off, isAlone } = subject.clocks();
  // Of one server alone it cannot be told whose clock is wrong: the capture's condition says so.
  if (isAlone) return;
  const dated = groupBy(
    subject.rows.filter(({ index }) => subject.evidenceOf(index)?.clockOffsetMs !== undefined),
    ({ host }) => host,
  );
  for (const { host, offsetMs } of off) {
    const rows = dated.get(host);
    if (rows === undefined) continue;
    yield {
      severity: 'note',
      claim: `The clock of ${host} is ${formatSpan(Math.round(Math.abs(offsetMs) / 1000) * 1000)} ${offsetMs > 0 ? 'ahead of' : 'behind'} those of the other hosts`,
      detail: `Seen in the Date of ${formatPlural(rows.length, 'response')}. Expires counts by the server’s clock, max-age does not.`,
      evidence: indexes(rows.slice(0, SHOWN_EVIDENCE)),
      remedy: 'Set the server’s clock by NTP; set lifetimes by max-age.',
      confidence: 'strong',
    };
  }
};
