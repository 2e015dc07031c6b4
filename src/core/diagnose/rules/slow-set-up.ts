import type { ExchangeRow } from '../../analysis';
import { setupMs } from '../../model';
import { formatMs } from '../../wording';
import type { Rule } from '../finding';
import { called, indexes, those } from '../say';

/** A look-up, a connect and a TLS handshake at 50 ms there and back take some 200 ms: from here on there is more to it. */
const LONG_SET_UP_MS = 300;
/** TCP's handshake takes one round trip, TLS 1.2 two more (RFC 5246 7.3). */
const TRIPS = 3;
/** The names of a site are mostly known nearby. */
const LONG_DNS_MS = 150;

/** Connections to the page's own hosts that took long to set up while the load waited for them. */
export const slowSetUp: Rule = function* (subject) {
  for (const { rows } of subject.pages) {
    // What a long way takes there and back, for connect and for TLS, is the matter of the connection.
    const isSlow = ({ phases, host }: ExchangeRow): boolean =>
      (setupMs(phases) ?? 0) >= Math.max(LONG_SET_UP_MS, TRIPS * (subject.tripOf(host)?.ms ?? 0)) ||
      (phases.dnsMs ?? 0) >= LONG_DNS_MS;
    const slow = rows.filter((row) => row.party === 'first' && subject.routeMsOf(row.index) > 0 && isSlow(row));
    const [first] = slow.toSorted((a, b) => (setupMs(b.phases) ?? 0) - (setupMs(a.phases) ?? 0));
    if (first === undefined) continue;
    const { dnsMs, connectMs, tlsMs } = first.phases;
    yield {
      severity: 'costly',
      claim: `Setting up the connection to ${first.host} took ${formatMs(setupMs(first.phases))}`,
      detail: `For ${called(first)}: DNS ${formatMs(dnsMs ?? 0)}, connect ${formatMs(connectMs ?? 0)}, TLS ${formatMs(tlsMs ?? 0)}.`,
      evidence: indexes(slow),
      changes: [{ type: 'connected', indexes: those(slow) }],
      remedy: remedyFor(first),
      confidence: 'certain',
    };
  }
};

/** What can be done about the longest of the three. */
function remedyFor({ phases: { dnsMs = 0, connectMs = 0, tlsMs = 0 } }: ExchangeRow): string {
  if (dnsMs >= connectMs && dnsMs >= tlsMs)
    return 'See why its name is looked up so slowly: a chain of CNAMEs, a short TTL, a distant DNS server.';
  return tlsMs > connectMs * 2
    ? 'Offer TLS 1.3, which takes one round trip, and resume sessions; see whether the certificate is checked online.'
    : 'Serve from nearer to the reader: connect takes one round trip, TLS another.';
}
