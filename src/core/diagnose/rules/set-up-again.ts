import type { ExchangeRow } from '../../analysis';
import { formatMs } from '../../wording';
import type { Rule } from '../finding';
import { groupBy, indexes, sum } from '../say';

/** Browsers open so many connections to a host over HTTP/1.1, and one over later versions. */
const USUAL_OLD = 6;
const USUAL_NEW = 1;
/** A browser may race a second one; more is told. */
const SPARE = 1;
const WORTH_MS = 20;

const setUpMs = ({ phases }: ExchangeRow): number =>
  (phases.lookupMs ?? 0) + (phases.connectMs ?? 0) + (phases.secureMs ?? 0);
const isOld = ({ protocol }: ExchangeRow): boolean => /^http\/1|^h1/i.test(protocol ?? '');

/** Hosts to which more connections were set up than their protocol needs. */
export const setUpAgain: Rule = function* (subject) {
  for (const [host, rows] of groupBy(subject.rows, (row) => (setUpMs(row) > 0 ? row.host : undefined))) {
    const usual = rows.some(isOld) ? USUAL_OLD : USUAL_NEW;
    const extra = rows.slice(usual + SPARE);
    const cost = sum(extra, setUpMs);
    if (extra.length === 0 || cost < WORTH_MS) continue;
    yield {
      severity: extra.some(({ index }) => subject.routeMsOf(index) > 0) ? 'costly' : 'wasteful',
      claim: `${rows.length} connections were set up to ${host}, ${usual === 1 ? 'one' : usual} would do`,
      detail: `Setting up the others took ${formatMs(cost)} in all.`,
      evidence: indexes(extra),
      cost: { routeMs: sum(extra, (row) => Math.min(subject.routeMsOf(row.index), setUpMs(row))), offRouteMs: cost },
      remedy: 'Keep connections open on the server; requests with and without credentials do not share one.',
      confidence: 'strong',
    };
  }
};
