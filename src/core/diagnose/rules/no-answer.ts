import { type ExchangeRow, hostInWords } from '../../analysis';
import { groupBy } from '../../collections';
import type { FailReason, Failure } from '../../model';
import type { Rule, Subject } from '../finding';
import { mattersOf } from '../once';
import { calledAll, indexes, those } from '../say';
import { retriesIn } from '../tries';
import { crossOrigin } from './cross-origin';
import { redirectLoop } from './redirect-loop';

interface Told {
  /** What follows the name of one exchange: "was refused …". */
  readonly words: string;
  readonly remedy: string;
  /** What the browser did on its own, or was told to: nothing is broken. */
  readonly isNote?: true;
}

/** What is said of each reason: what the browser's own word for it means, and no more. */
const TOLD: Record<FailReason, Told> = {
  cancelled: {
    words: 'was cancelled in the browser',
    remedy: 'Nothing if the page meant to; else check what navigates away or aborts.',
    isNote: true,
  },
  'name-not-found': {
    words: 'failed: the host name could not be resolved',
    remedy: 'Correct the host name or its DNS record.',
  },
  'name-timed-out': {
    words: 'failed: the DNS lookup timed out',
    remedy: 'Check the recording computer’s DNS server; the name itself may be right.',
  },
  refused: {
    words: 'failed: the connection was refused',
    remedy: 'Check that the service is running and listening on this port.',
  },
  reset: {
    words: 'failed: the connection was closed before a response had come',
    remedy: 'The server or something in between closed it: the server’s log tells whether the request arrived.',
  },
  'empty-response': {
    words: 'failed: the connection was closed without a byte of response',
    remedy: 'The server or something in between closed it: the server’s log tells whether the request arrived.',
  },
  'not-upgraded': {
    words: 'failed: the server did not let the connection be upgraded',
    remedy: 'See whether the server and every proxy on the way pass Upgrade on, and what status they return.',
  },
  unreachable: {
    words: 'failed: no route to the host',
    remedy: 'Check the IP address, and whether a VPN, firewall or missing IPv6 route blocks it.',
  },
  offline: {
    words: 'failed: the recording computer was offline',
    remedy: 'Record again with a connection.',
  },
  'network-changed': {
    words: 'failed: the recording computer’s network changed meanwhile',
    remedy: 'Record again on one network: a switch of Wi-Fi or VPN breaks requests in flight.',
  },
  proxy: {
    words: 'failed at the proxy',
    remedy: 'Check the proxy settings of the recording computer, and whether the proxy allows this host.',
  },
  tls: {
    words: 'failed: no common TLS version or cipher, or the port does not speak TLS',
    remedy: 'Check that the port speaks TLS, and which versions and ciphers it offers.',
  },
  'certificate-expired': {
    words: 'failed: the certificate has expired or is not valid yet',
    remedy: 'Renew the certificate; where it is in date, the recording computer’s clock is wrong.',
  },
  'certificate-name': {
    words: 'failed: the certificate is for another name',
    remedy: 'Have the certificate cover this host, or correct the host.',
  },
  'certificate-authority': {
    words: 'failed: the certificate’s issuer is not trusted',
    remedy: 'Send the whole chain, from a trusted issuer; inside a company, its own issuer may have to be installed.',
  },
  certificate: {
    words: 'failed: the certificate was not accepted',
    remedy: 'Open the host in a browser to see what is wrong with it.',
  },
  'timed-out': {
    words: 'failed: no response within the browser’s limit',
    remedy: 'Check whether the host can be reached, and whether the server responds at all.',
  },
  'invalid-http': {
    words: 'failed: the response is not HTTP',
    remedy: 'Check what listens on this port: another protocol, or TLS where none was expected.',
  },
  'protocol-error': {
    words: 'failed: protocol error by the server',
    remedy: 'Check the logs of the server and of proxies before it; trying another HTTP version may help to tell.',
  },
  'contradicting-headers': {
    words: 'failed: its response headers contradict each other',
    remedy: 'Send Content-Length, Location and Content-Disposition once each.',
  },
  'wrong-coding': {
    words: 'failed: the body could not be decompressed',
    remedy:
      'Check what compresses the body: whether it is in the coding that Content-Encoding names, and in one that the request accepts.',
  },
  'bad-redirect': {
    words: 'failed: it redirects to a URL that the browser does not follow',
    remedy: 'Correct the Location: it cannot be read, or names a scheme that a page may not lead to.',
  },
  'blocked-by-extension': {
    words: 'was blocked in the browser before it was sent, most likely by an extension',
    remedy: 'Record in a browser profile without extensions.',
  },
  'blocked-by-policy': {
    words: 'was blocked before it was sent, by the page’s Content-Security-Policy',
    remedy: 'Add its origin to the directive that the console names, or remove the request.',
  },
  'blocked-as-mixed': {
    words: 'was blocked before it was sent: plain http from an https page',
    remedy: 'Request it over https.',
  },
  'blocked-port': {
    words: 'was blocked before it was sent: browsers do not connect to this port',
    remedy: 'Have the service listen at another port (Fetch 2.9, port blocking).',
  },
  blocked: {
    words: 'was blocked before it was sent',
    remedy: 'An extension, a policy of the page or mixed content: the console names which.',
  },
  'blocked-by-corp': {
    words: 'got a response, and its Cross-Origin-Resource-Policy keeps it from this page',
    remedy: 'Have the server send Cross-Origin-Resource-Policy: cross-origin (or same-site), where others may use it.',
  },
  'response-blocked': {
    words: 'got a response, and the browser kept the response from the page',
    remedy:
      'The console says why: CORS, Cross-Origin-Resource-Policy, opaque response blocking, its type or its digest; of a page in a frame, X-Frame-Options or frame-ancestors.',
  },
  'cache-miss': {
    words: 'failed: it was requested from the cache only, and nothing was stored',
    remedy: 'Nothing if the page meant to use its cache only (only-if-cached).',
    isNote: true,
  },
  'too-many-redirects': {
    words: 'failed: too many redirects',
    remedy: 'Compare the Location of each hop.',
  },
  unknown: {
    words: 'got no response',
    remedy: 'The capture does not say why; the browser’s console and the server’s log together would tell.',
  },
};

/** A page's service worker may fail a request by itself, and recorders tell that by no word of its own. */
const isByWorker = (subject: Subject, { pageId }: ExchangeRow): boolean =>
  subject.rows.some((row) => row.source === 'worker' && row.pageId === pageId);
/** What is refused for its type before a byte of it is used is recorded as cancelled, too (Fetch 2.2.6). */
const TYPED_REMEDY =
  'See what its type is: browsers cancel a script or style of another one where the server says nosniff. Else check what navigates away or aborts.';
const WORKER_REMEDY =
  'The page’s service worker may have failed it by itself: its console would tell, else the server’s log.';

/** Empty documents and the like never leave the browser. */
const GOES_OUT = /^https?:/i;

type Unanswered = ExchangeRow & { readonly failure: Extract<Failure, { readonly type: 'no-response' }> };

const isUnanswered = (row: ExchangeRow): row is Unanswered =>
  row.failure?.type === 'no-response' && row.kind !== 'socket' && GOES_OUT.test(row.url);

/** Requests that got no response, by host and reason. */
export const noAnswer: Rule = function* (subject) {
  const { isRepaired } = retriesIn(subject);
  // What CORS kept away is told there, and what went round in a circle.
  const told = new Set(
    [crossOrigin, redirectLoop].flatMap((rule) => mattersOf(rule, subject)).flatMap(({ evidence }) => evidence),
  );
  const rows = subject.asked.filter(isUnanswered).filter((row) => !told.has(row.index) && !isRepaired(row));
  // A beacon that is sent as the page goes away ends with it.
  const isNote = ({ failure, kind }: Unanswered): boolean =>
    TOLD[failure.reason].isNote === true || (kind === 'report' && failure.reason === 'unknown');
  for (const [, group] of groupBy(rows, (row) => `${row.host} ${row.failure.reason} ${isNote(row)}`)) {
    const [first] = group;
    const { reason, recorded } = first.failure;
    const { words, remedy } = TOLD[reason];
    yield {
      severity: isNote(first) ? 'note' : 'broken',
      claim: `${calledAll(group)} ${group.length === 1 ? words : words.replace(/^was/, 'were').replace('it was sent', 'they were sent')}`,
      detail: `To ${hostInWords(first.host)}.${tellRecorded(group, recorded)}`,
      evidence: indexes(group),
      ...(group.some(({ kind }) => kind === 'document')
        ? {}
        : { changes: [{ type: 'leave-out', indexes: those(group) }] as const }),
      remedy: remedyOf(subject, group) ?? remedy,
      confidence: reason === 'unknown' ? 'weak' : 'certain',
    };
  }
};

/** What to do where more than its reason is known. */
function remedyOf(subject: Subject, group: readonly [Unanswered, ...Unanswered[]]): string | undefined {
  const [first] = group;
  if (first.failure.reason === 'unknown' && isByWorker(subject, first)) return WORKER_REMEDY;
  const isTyped = group.some(({ kind }) => kind === 'script' || kind === 'style');
  return first.failure.reason === 'cancelled' && isTyped ? TYPED_REMEDY : undefined;
}

/** What its recorder wrote; where it wrote not even a time, the recording may just have ended before. */
function tellRecorded(group: readonly Unanswered[], recorded: string | undefined): string {
  if (recorded !== undefined) return ` The recorder wrote: ${recorded.slice(0, 200)}.`;
  const isOpen = group.every(({ timeMs }) => timeMs === undefined);
  return isOpen ? ' No end of it was recorded: it may have been in flight still when the recording ended.' : '';
}
