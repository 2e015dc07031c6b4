import { readFailReason } from '../../http';
import { FAIL_REASONS, type FailReason } from '../../model';
import type { Entry } from '../entry';

type Known = Exclude<FailReason, 'unknown'>;

interface ErrorLine {
  /** As browsers and system calls write it; the first is the entry's name. */
  readonly names: readonly [string, ...string[]];
  readonly says: string;
  readonly also: readonly string[];
}

/** Why no whole response came. A reason without a line does not compile. */
const LINES: Record<Known, ErrorLine> = {
  cancelled: {
    names: ['ERR_ABORTED', 'NS_BINDING_ABORTED'],
    says: 'The page or the user no longer wanted it: left the page, pressed stop, or a script cancelled the fetch.',
    also: ['cancelled', 'canceled', 'aborted'],
  },
  'name-not-found': {
    names: ['ERR_NAME_NOT_RESOLVED', 'NS_ERROR_UNKNOWN_HOST', 'ENOTFOUND', 'EAI_AGAIN'],
    says: 'DNS gave no address for the host: misspelt, not yet known, or the DNS server cannot be reached.',
    also: ['dns', 'host not found'],
  },
  'name-timed-out': {
    names: ['ERR_DNS_TIMED_OUT'],
    says: 'The DNS server did not respond in time.',
    also: ['dns'],
  },
  refused: {
    names: ['ERR_CONNECTION_REFUSED', 'NS_ERROR_CONNECTION_REFUSED', 'ECONNREFUSED'],
    says: 'The computer was reached, but nothing listens on this port, or a firewall refuses it.',
    also: ['connection refused', 'server down'],
  },
  reset: {
    names: [
      'ERR_CONNECTION_RESET',
      'ERR_CONNECTION_CLOSED',
      'NS_ERROR_NET_RESET',
      'NS_ERROR_NET_INTERRUPT',
      'ECONNRESET',
    ],
    says: 'The connection broke off while it was in use: server, proxy or firewall ended it.',
    also: ['connection reset', 'socket hang up', 'broken pipe'],
  },
  'empty-response': {
    names: ['ERR_EMPTY_RESPONSE'],
    says: 'The server closed the connection without a single byte.',
    also: ['empty response'],
  },
  'not-upgraded': {
    names: ['Unexpected response code'],
    says: 'A socket was asked for, and the server responded as to any other request: it let the connection not be upgraded.',
    also: ['websocket', 'upgrade'],
  },
  unreachable: {
    names: ['ERR_ADDRESS_UNREACHABLE', 'ERR_CONNECTION_FAILED', 'EHOSTUNREACH', 'ENETUNREACH'],
    says: 'No way through the network to this address: routing, firewall, or a network that is not connected.',
    also: ['unreachable', 'no route'],
  },
  offline: {
    names: ['ERR_INTERNET_DISCONNECTED', 'NS_ERROR_OFFLINE'],
    says: 'The computer was offline, or the browser was set so.',
    also: ['offline', 'no internet'],
  },
  'network-changed': {
    names: ['ERR_NETWORK_CHANGED', 'ERR_NETWORK_IO_SUSPENDED'],
    says: 'The network changed meanwhile, e.g. from Wi-Fi to cable, or the computer slept.',
    also: ['vpn', 'sleep'],
  },
  proxy: {
    names: ['ERR_PROXY_CONNECTION_FAILED', 'ERR_TUNNEL_CONNECTION_FAILED', 'NS_ERROR_PROXY_CONNECTION_REFUSED'],
    says: 'The proxy could not be reached, or did not let the request through.',
    also: ['proxy'],
  },
  tls: {
    names: ['ERR_SSL_PROTOCOL_ERROR', 'ERR_SSL_VERSION_OR_CIPHER_MISMATCH'],
    says: 'Browser and server could not agree on encryption, or the port does not speak TLS.',
    also: ['ssl', 'handshake'],
  },
  'certificate-expired': {
    names: ['ERR_CERT_DATE_INVALID', 'SEC_ERROR_EXPIRED_CERTIFICATE', 'CERT_HAS_EXPIRED'],
    says: 'The certificate is expired or not yet valid, or the computer’s clock is wrong.',
    also: ['certificate expired', 'clock'],
  },
  'certificate-name': {
    names: ['ERR_CERT_COMMON_NAME_INVALID', 'SSL_ERROR_BAD_CERT_DOMAIN', 'ERR_TLS_CERT_ALTNAME_INVALID'],
    says: 'The certificate is for another host.',
    also: ['certificate name', 'wrong host'],
  },
  'certificate-authority': {
    names: ['ERR_CERT_AUTHORITY_INVALID', 'SEC_ERROR_UNKNOWN_ISSUER', 'DEPTH_ZERO_SELF_SIGNED_CERT'],
    says: 'The certificate was issued by somebody whom the browser does not trust: self-signed, a company proxy, or a missing intermediate certificate.',
    also: ['self-signed', 'untrusted', 'chain'],
  },
  certificate: {
    names: ['ERR_CERT_REVOKED'],
    says: 'The certificate is not acceptable for another reason, such as being revoked.',
    also: ['certificate', 'revoked'],
  },
  'timed-out': {
    names: ['ERR_TIMED_OUT', 'ERR_CONNECTION_TIMED_OUT', 'NS_ERROR_NET_TIMEOUT', 'ETIMEDOUT'],
    says: 'Nothing came in time: a firewall that drops packets, or an overloaded server.',
    also: ['timeout', 'time-out', 'timed out'],
  },
  'invalid-http': {
    names: ['ERR_INVALID_HTTP_RESPONSE', 'ERR_INVALID_RESPONSE'],
    says: 'What came is not HTTP: another service, or TLS and plain HTTP mixed up.',
    also: ['garbage'],
  },
  'protocol-error': {
    names: ['ERR_HTTP2_PROTOCOL_ERROR', 'ERR_QUIC_PROTOCOL_ERROR', 'ERR_HTTP_1_1_REQUIRED'],
    says: 'One side broke the rules of HTTP/2 or HTTP/3; often a proxy or a header that is not allowed there.',
    also: ['http2', 'quic', 'h3'],
  },
  'contradicting-headers': {
    names: [
      'ERR_RESPONSE_HEADERS_MULTIPLE_CONTENT_LENGTH',
      'ERR_RESPONSE_HEADERS_MULTIPLE_LOCATION',
      'ERR_RESPONSE_HEADERS_TOO_BIG',
    ],
    says: 'The response’s headers contradict each other, or are too large.',
    also: ['headers too large', 'duplicate headers'],
  },
  'wrong-coding': {
    names: ['ERR_CONTENT_DECODING_FAILED', 'NS_ERROR_INVALID_CONTENT_ENCODING', 'NS_ERROR_CORRUPTED_CONTENT'],
    says: 'The body is not compressed as Content-Encoding says, or is damaged.',
    also: ['decompression', 'gzip', 'encoding'],
  },
  'bad-redirect': {
    names: ['ERR_UNSAFE_REDIRECT', 'ERR_INVALID_REDIRECT'],
    says: 'The redirect leads to a URL that a page must not go to, or its Location cannot be read.',
    also: ['redirect'],
  },
  'blocked-by-extension': {
    names: ['ERR_BLOCKED_BY_CLIENT'],
    says: 'Something in the browser blocked it, mostly an ad blocker or another extension.',
    also: ['ad blocker', 'adblock', 'extension', 'blocked'],
  },
  'blocked-by-policy': {
    names: ['ERR_BLOCKED_BY_CSP'],
    says: 'The page’s own Content-Security-Policy does not allow it.',
    also: ['csp', 'content-security-policy', 'blocked'],
  },
  'blocked-as-mixed': {
    names: ['MIXED_CONTENT'],
    says: 'A page loaded by HTTPS asked for plain HTTP.',
    also: ['mixed content', 'mixed-content', 'insecure', 'blocked'],
  },
  'blocked-port': {
    names: ['ERR_UNSAFE_PORT', 'NS_ERROR_PORT_ACCESS_NOT_ALLOWED'],
    says: 'Browsers do not connect to this port, since it belongs to another service.',
    also: ['port'],
  },
  blocked: {
    names: ['ERR_BLOCKED_BY_ADMINISTRATOR'],
    says: 'Blocked; by whom the error does not say, or by the computer’s administrator.',
    also: ['blocked'],
  },
  'blocked-by-corp': {
    names: ['ERR_BLOCKED_BY_RESPONSE.NotSameOrigin'],
    says: 'The response’s Cross-Origin-Resource-Policy does not allow this page to use it.',
    also: ['corp', 'coep', 'cross-origin-resource-policy'],
  },
  'response-blocked': {
    names: ['ERR_BLOCKED_BY_RESPONSE', 'ERR_BLOCKED_BY_ORB'],
    says: 'A response came, but was kept from the page: CORS, opaque-response blocking or another header.',
    also: ['cors', 'orb'],
  },
  'cache-miss': {
    names: ['ERR_CACHE_MISS'],
    says: 'It was to come from the cache only, and is not there; also seen when going back to the result of a form.',
    also: ['cache'],
  },
  'too-many-redirects': {
    names: ['ERR_TOO_MANY_REDIRECTS', 'NS_ERROR_REDIRECT_LOOP'],
    says: 'The redirects do not come to an end: often a cookie that is not kept, or HTTP and HTTPS leading to each other.',
    also: ['redirect loop', 'redirect'],
  },
};

const isKnown = (reason: FailReason): reason is Known => reason !== 'unknown';

const entryOf = (reason: Known): Entry => {
  const { names, says, also } = LINES[reason];
  return {
    topic: 'network error',
    name: names[0],
    says,
    section: 'browsers and system calls, no standard',
    also: [...names.slice(1), ...also],
  };
};

export const NETWORK_ERRORS: readonly Entry[] = FAIL_REASONS.filter(isKnown).map(entryOf);

/** The entry of an error as it is written, also of one that is not named here but is read as one of these reasons. */
export function findNetworkError(written: string): Entry | undefined {
  if (!/^(?:net::)?(?:ERR|NS_ERROR|NS_BINDING|SEC_ERROR|SSL_ERROR|E)_?[A-Z]+[A-Z0-9_.]*$/i.test(written))
    return undefined;
  const reason = readFailReason(written);
  return isKnown(reason) ? entryOf(reason) : undefined;
}
