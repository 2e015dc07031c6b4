import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import { setupMs } from '../../model';
import { isOneAtATime } from '../../timing';
import { formatMs } from '../../wording';
import type { Rule, SubjectPage } from '../finding';
import { calledAll, indexes, most, sum, those } from '../say';

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
        claim: `The load waited ${formatMs(cost)} for connections to ${host}, a third party, to be set up`,
        detail: `DNS, connect and TLS came first; only then was ${calledAll(rows)} asked for.`,
        evidence: indexes(rows),
        changes: [{ type: 'connected', indexes: those(rows) }],
        remedy:
          'Announce the host in the document by rel=preconnect, or serve it from a host that is connected already.',
        confidence: 'certain',
      };
    }
  }
  // Between two loads a server rightly closes connections that are not used.
  const loads = subject.pages.flatMap(({ rows }) => [
    ...groupBy(
      rows.filter((row) => setUpMs(row) > 0),
      ({ host }) => host,
    ).values(),
  ]);
  for (const [host, own] of groupBy(loads, ([{ host }]) => host)) {
    const rows = own.reduce((largest, one) => (one.length > largest.length ? one : largest));
    const usualOf = (load: readonly ExchangeRow[]): number => (load.some(isOld) ? USUAL_OLD : USUAL_NEW);
    const extra = own.flatMap((load) => load.slice(usualOf(load) + SPARE));
    if (extra.length === 0 || sum(extra, setUpMs) < WORTH_MS) continue;
    yield {
      severity: 'costly',
      claim: `${rows.length} connections were set up to ${host}${own.length > 1 ? ' in one load' : ''}, where ${usualOf(rows) === 1 ? 'one or two' : usualOf(rows)} would do`,
      detail: `Setting up the others took up to ${formatMs(most(extra, setUpMs))} each.`,
      evidence: indexes(extra),
      changes: [{ type: 'connected', indexes: those(extra) }],
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
    // Before there is a document, nothing can announce a host.
    if (leg.type !== 'exchange' || row?.party !== 'third' || row.kind === 'document') return [];
    const { dnsMs = 0, connectMs = 0, tlsMs = 0 } = leg.phases;
    const ms = dnsMs + connectMs + tlsMs;
    return ms > 0 ? [{ row, ms }] : [];
  });
}
