import { FAIL_REASONS, type FailReason } from '../model';

/**
 * What recorders write where no whole response came, in match order: the network errors of browsers (ERR_…, NS_ERROR_…), of
 * system calls (ECONNREFUSED), and words.
 */
const PATTERNS: readonly (readonly [RegExp, FailReason])[] = [
  [
    /unexpected.?(response.?code|server.?response)|('upgrade'|'connection'|sec-websocket-\w+'?) header/i,
    'not-upgraded',
  ],
  [/before receiving a handshake response/i, 'empty-response'],
  [/too.?many.?redirects|redirect.?loop/i, 'too-many-redirects'],
  [/by.?response\.not.?same|blocked.?by.?corp|(\b|_)corp(\b|_)|cross-origin-resource-policy/i, 'blocked-by-corp'],
  [/blocked.?by.?(response|orb)|opaque.?response|access-control-allow|\bcors\b/i, 'response-blocked'],
  [/blocked.?by.?client/i, 'blocked-by-extension'],
  [/blocked.?by.?csp|\bcsp\b|content.?security.?policy/i, 'blocked-by-policy'],
  [/mixed.?content/i, 'blocked-as-mixed'],
  [/unsafe.?port|port.{0,20}(not.?allowed|blocked)|port_access_not_allowed/i, 'blocked-port'],
  // A browser's own words for why it blocked a request, which stand alone.
  [/^(?:content-type|integrity)$/i, 'response-blocked'],
  [/blocked|^(?:origin|inspector|subresource-filter)$/i, 'blocked'],
  [/invalid.?redirect|unsafe.?redirect|disallowed.?url.?scheme/i, 'bad-redirect'],
  [/connection.?aborted|econnaborted|net.?interrupt|connection.?(was.?)?lost/i, 'reset'],
  [/abort|cancel/i, 'cancelled'],
  [/(dns|name).{0,20}timed?.?out/i, 'name-timed-out'],
  [/name.?not.?resolved|unknown.?host|dns|enotfound|eai_again/i, 'name-not-found'],
  [/invalid.?(http|response|status.?line)|malformed/i, 'invalid-http'],
  [/proxy|tunnel/i, 'proxy'],
  [/refused/i, 'refused'],
  [/internet.?disconnected|offline/i, 'offline'],
  [/network.?changed|network.?io.?suspended/i, 'network-changed'],
  [/unreachable|ehostunreach|enetunreach/i, 'unreachable'],
  [/timed?.?out/i, 'timed-out'],
  [/cert.{0,12}(date|expired)|expired.{0,12}cert/i, 'certificate-expired'],
  [/cert.{0,12}(common.?name|domain|altname)/i, 'certificate-name'],
  [
    /cert.{0,12}(authority|issuer|self.?signed)|self.?signed|unknown.?issuer|unable.?to.?verify/i,
    'certificate-authority',
  ],
  [/cert/i, 'certificate'],
  [/ssl|tls|handshake/i, 'tls'],
  [/response.?headers|multiple.?(content|location)/i, 'contradicting-headers'],
  [/content.?decoding|content.?encoding|corrupted.?content/i, 'wrong-coding'],
  [/http2|quic|http_1_1_required|protocol/i, 'protocol-error'],
  [/cache.?miss/i, 'cache-miss'],
  [/empty.?response/i, 'empty-response'],
  [/connection.?(reset|closed)|net.?reset|econnreset|epipe|socket.?hang.?up/i, 'reset'],
  [/could.?not.?connect.?to.?the.?server|connection.?failed/i, 'unreachable'],
];

/** The words without those of a socket's opening handshake (RFC 6455, section 4), which is none of TLS. */
const wordsOf = (recorded = ''): string => recorded.replace(/web.?socket (opening )?handshake/i, 'socket');

/** The reason that a recorder's words come to; trials record it by its name. */
export const readFailReason = (recorded: string | undefined): FailReason =>
  FAIL_REASONS.find((reason) => reason === recorded) ??
  PATTERNS.find(([pattern]) => pattern.test(wordsOf(recorded)))?.[1] ??
  'unknown';
