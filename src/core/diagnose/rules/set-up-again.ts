import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import { setupMs } from '../../model';
import { isOneAtATime } from '../../timing';
import { formatMs } from '../../wording';
import type { Rule, SubjectPage } from '../finding';
import { calledAll, firstOf, indexes, most, sum, timeCost } from '../say';

/** Browsers open so many connections to a host over HTTP/1.1, and one over later versions. */
const USUAL_OLD = 6;
const USUAL_NEW = 1;
/** A browser may race a second one; more is told. */
const SPARE = 1;
/** Less than a round trip within a country: who spares that sees no difference. */
const WORTH_MS = 20;

const setUpMs = ({ phases }: ExchangeRow): number => setupMs(phases) ?? 0;
const isOld = ({ protocol }: ExchangeRow): boolean => isOneAtATime(protocol);

/** Hosts to which more connections were set up than their protocol needs, and third parties that the load connected to. */
export const setUpAgain: Rule = function* (subject) {
  for (const page of subject.pages) {
    for (const [host, legs] of groupBy(thirdPartySetUps(page), ({ row }) => row.host)) {
      const cost = sum(legs, ({ ms }) => ms);
      if (cost < WORTH_MS) continue;
      const rows = legs.map(({ row }) => row);
      yield {
        severity: 'costly',
        claim: `The load waited ${formatMs(cost)} for connections to ${host}, a third party, to stand`,
        detail: `Looking the host up, connecting and securing came first; only then was ${calledAll(rows)} asked for.`,
        evidence: indexes(rows),
        cost: { routeMs: cost },
        remedy:
          'Announce the host in the document by rel=preconnect, or serve it from a host that is connected already.',
        confidence: 'certain',
      };
    }
  }
  for (const [host, rows] of groupBy(subject.rows, (row) => (setUpMs(row) > 0 ? row.host : undefined))) {
    const usual = rows.some(isOld) ? USUAL_OLD : USUAL_NEW;
    const extra = rows.slice(usual + SPARE);
    const cost = sum(extra, setUpMs);
    if (extra.length === 0 || cost < WORTH_MS) continue;
    yield {
      severity: extra.some(({ index }) => subject.routeMsOf(index) > 0) ? 'costly' : 'wasteful',
      claim: `${rows.length} connections were set up to ${host}, ${usual === 1 ? 'one' : usual} would do`,
      detail: `Setting up the others took up to ${formatMs(most(extra, setUpMs))} each.`,
      evidence: indexes(extra),
      cost: timeCost(
        extra,
        (row) => firstOf(row, setUpMs(row)),
        ({ index }) => subject.routeMsOf(index),
      ),
      remedy: 'Keep connections open on the server; requests with and without credentials do not share one.',
      confidence: 'strong',
    };
  }
};

/** The set-up of connections to third parties, as far as it lies on a page's route. */
function thirdPartySetUps({ brief, rows }: SubjectPage): { readonly row: ExchangeRow; readonly ms: number }[] {
  const byIndex = new Map(rows.map((row) => [row.index, row]));
  return (brief?.legs ?? []).flatMap((leg) => {
    const row = leg.type === 'exchange' ? byIndex.get(leg.index) : undefined;
    if (leg.type !== 'exchange' || row?.party !== 'third') return [];
    const { lookupMs = 0, connectMs = 0, secureMs = 0 } = leg.phases;
    const ms = lookupMs + connectMs + secureMs;
    return ms > 0 ? [{ row, ms }] : [];
  });
}
