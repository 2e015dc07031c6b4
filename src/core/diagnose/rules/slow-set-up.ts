import type { ExchangeRow } from '../../analysis';
import { setupMs } from '../../model';
import { formatMs, PHASE_NAME } from '../../wording';
import type { Rule } from '../finding';
import { called, indexes, those } from '../say';

/** A look-up, a connect and a TLS handshake at 50 ms there and back take some 200 ms: from here on there is more to it. */
const LONG_SET_UP_MS = 300;
/** TCP's handshake takes one round trip, TLS 1.2 two more (RFC 5246 7.3). */
const TRIPS = 3;
/** A first packet that is not acknowledged is sent again after a second (RFC 6298 2). */
const RESENT_MS = 1000;
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
    const steps = (['dnsMs', 'connectMs', 'tlsMs'] as const).flatMap((name) => {
      const ms = first.phases[name];
      return ms === undefined ? [] : [`${PHASE_NAME[name]} ${formatMs(ms)}`];
    });
    yield {
      severity: 'costly',
      claim: `Setting up the connection to ${first.host} took ${formatMs(setupMs(first.phases))}`,
      detail: `For ${called(first)}: ${steps.join(', ')}.`,
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
  if (connectMs >= RESENT_MS && connectMs >= tlsMs)
    return 'A packet was probably lost and sent again after a second: see whether the server, or a firewall before it, drops new connections.';
  return tlsMs > connectMs * 2
    ? 'Offer TLS 1.3, which takes one round trip, and resume sessions; see whether the certificate is checked online.'
    : 'Serve from nearer to the reader: connect takes one round trip, TLS another.';
}
