import { describe, expect, it } from 'vitest';
import { FAIL_REASONS, type FailReason } from '../model';
import { readFailReason } from './fail-reason';

const WORDS: Record<FailReason, readonly (string | undefined)[]> = {
  cancelled: ['net::ERR_ABORTED', 'NS_BINDING_ABORTED', 'canceled', 'Cancelled by the user'],
  'name-not-found': [
    'net::ERR_NAME_NOT_RESOLVED',
    'NS_ERROR_UNKNOWN_HOST',
    'getaddrinfo ENOTFOUND a.example',
    'EAI_AGAIN',
  ],
  'name-timed-out': ['net::ERR_DNS_TIMED_OUT', 'net::ERR_NAME_RESOLUTION_TIMED_OUT'],
  refused: [
    'Error during WebSocket handshake: net::ERR_CONNECTION_REFUSED',
    'net::ERR_CONNECTION_REFUSED',
    'NS_ERROR_CONNECTION_REFUSED',
    'connect ECONNREFUSED 127.0.0.1:80',
  ],
  reset: [
    'net::ERR_CONNECTION_RESET',
    'net::ERR_CONNECTION_CLOSED',
    'NS_ERROR_NET_RESET',
    'read ECONNRESET',
    'socket hang up',
    'net::ERR_CONNECTION_ABORTED',
    'NS_ERROR_NET_INTERRUPT',
    'The network connection was lost.',
  ],
  'empty-response': ['net::ERR_EMPTY_RESPONSE', 'Connection closed before receiving a handshake response'],
  'not-upgraded': [
    'Error during WebSocket handshake: Unexpected response code: 403',
    'Unexpected server response: 502',
    "Error during WebSocket handshake: 'Upgrade' header is missing",
    "Error during WebSocket handshake: Incorrect 'Sec-WebSocket-Accept' header value",
  ],
  unreachable: [
    'net::ERR_ADDRESS_UNREACHABLE',
    'connect EHOSTUNREACH',
    'ENETUNREACH',
    'net::ERR_CONNECTION_FAILED',
    'Could not connect to the server.',
  ],
  offline: ['net::ERR_INTERNET_DISCONNECTED', 'NS_ERROR_OFFLINE'],
  'network-changed': ['net::ERR_NETWORK_CHANGED', 'net::ERR_NETWORK_IO_SUSPENDED'],
  proxy: ['net::ERR_PROXY_CONNECTION_FAILED', 'net::ERR_TUNNEL_CONNECTION_FAILED', 'NS_ERROR_PROXY_CONNECTION_REFUSED'],
  tls: [
    'net::ERR_SSL_PROTOCOL_ERROR',
    'net::ERR_SSL_VERSION_OR_CIPHER_MISMATCH',
    'TLS handshake failed',
    'WebSocket handshake: net::ERR_SSL_PROTOCOL_ERROR',
  ],
  'certificate-expired': ['net::ERR_CERT_DATE_INVALID', 'CERT_HAS_EXPIRED', 'SEC_ERROR_EXPIRED_CERTIFICATE'],
  'certificate-name': [
    'net::ERR_CERT_COMMON_NAME_INVALID',
    'SSL_ERROR_BAD_CERT_DOMAIN',
    'ERR_TLS_CERT_ALTNAME_INVALID',
  ],
  'certificate-authority': [
    'net::ERR_CERT_AUTHORITY_INVALID',
    'DEPTH_ZERO_SELF_SIGNED_CERT',
    'SEC_ERROR_UNKNOWN_ISSUER',
  ],
  certificate: ['net::ERR_CERT_REVOKED', 'net::ERR_SSL_CLIENT_AUTH_CERT_NEEDED'],
  'timed-out': [
    'net::ERR_TIMED_OUT',
    'net::ERR_CONNECTION_TIMED_OUT',
    'NS_ERROR_NET_TIMEOUT',
    'connect ETIMEDOUT',
    'WebSocket opening handshake timed out',
  ],
  'invalid-http': [
    'net::ERR_INVALID_HTTP_RESPONSE',
    'net::ERR_INVALID_RESPONSE',
    'Error during WebSocket handshake: Invalid status line',
  ],
  'protocol-error': ['net::ERR_HTTP2_PROTOCOL_ERROR', 'net::ERR_QUIC_PROTOCOL_ERROR', 'net::ERR_HTTP_1_1_REQUIRED'],
  'contradicting-headers': [
    'net::ERR_RESPONSE_HEADERS_MULTIPLE_CONTENT_LENGTH',
    'net::ERR_RESPONSE_HEADERS_MULTIPLE_LOCATION',
    'net::ERR_RESPONSE_HEADERS_TOO_BIG',
  ],
  'wrong-coding': [
    'net::ERR_CONTENT_DECODING_FAILED',
    'NS_ERROR_INVALID_CONTENT_ENCODING',
    'NS_ERROR_CORRUPTED_CONTENT',
  ],
  'bad-redirect': ['net::ERR_INVALID_REDIRECT', 'net::ERR_UNSAFE_REDIRECT', 'net::ERR_DISALLOWED_URL_SCHEME'],
  'blocked-by-extension': ['net::ERR_BLOCKED_BY_CLIENT'],
  'blocked-by-policy': ['net::ERR_BLOCKED_BY_CSP', 'csp'],
  'blocked-as-mixed': ['blocked:mixed-content', 'mixed-content'],
  'blocked-port': ['net::ERR_UNSAFE_PORT', 'NS_ERROR_PORT_ACCESS_NOT_ALLOWED'],
  blocked: ['net::ERR_BLOCKED_BY_ADMINISTRATOR', 'NS_ERROR_CONTENT_BLOCKED', 'origin', 'inspector'],
  'blocked-by-corp': [
    'net::ERR_BLOCKED_BY_RESPONSE.NotSameOrigin',
    'net::ERR_BLOCKED_BY_RESPONSE.NotSameSite',
    'NS_ERROR_DOM_CORP_FAILED',
  ],
  'response-blocked': [
    'content-type',
    'integrity',
    'net::ERR_BLOCKED_BY_ORB',
    'net::ERR_BLOCKED_BY_RESPONSE',
    'Origin https://a.example is not allowed by Access-Control-Allow-Origin.',
  ],
  'cache-miss': ['net::ERR_CACHE_MISS'],
  'too-many-redirects': ['net::ERR_TOO_MANY_REDIRECTS', 'NS_ERROR_REDIRECT_LOOP'],
  unknown: [undefined, '', 'net::ERR_FAILED', 'it broke', 'Error during WebSocket handshake: it broke'],
};

describe('the reason of a failure', () => {
  it.each(FAIL_REASONS.flatMap((reason) => WORDS[reason].map((words) => [words, reason] as const)))(
    'that is recorded as %j is %s',
    (words, reason) => expect(readFailReason(words)).toBe(reason),
  );
});
