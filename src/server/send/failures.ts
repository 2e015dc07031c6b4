import type { FailReason } from '#core/model';

/** Why no whole response came, in a sentence. */
export interface NoResponse {
  readonly reason: FailReason;
  readonly sentence: string;
}

const REASONS: Readonly<Record<string, NoResponse>> = {
  ECONNREFUSED: { reason: 'refused', sentence: 'Nothing listens there: the connection was refused.' },
  ENOTFOUND: { reason: 'name-not-found', sentence: 'The host’s name is not known.' },
  EAI_AGAIN: { reason: 'name-timed-out', sentence: 'The host’s name could not be looked up just now.' },
  EHOSTUNREACH: { reason: 'unreachable', sentence: 'The host cannot be reached.' },
  ENETUNREACH: { reason: 'unreachable', sentence: 'The network of the host cannot be reached.' },
  ETIMEDOUT: { reason: 'timed-out', sentence: 'The connection timed out.' },
  ECONNRESET: { reason: 'reset', sentence: 'The server broke the connection off.' },
  EPIPE: { reason: 'reset', sentence: 'The server broke the connection off while it was sent.' },
  CERT_HAS_EXPIRED: { reason: 'certificate-expired', sentence: 'The server’s certificate has expired.' },
  ERR_TLS_CERT_ALTNAME_INVALID: {
    reason: 'certificate-name',
    sentence: 'The server’s certificate is for another host.',
  },
  DEPTH_ZERO_SELF_SIGNED_CERT: {
    reason: 'certificate-authority',
    sentence: 'The server’s certificate is signed by itself alone.',
  },
  SELF_SIGNED_CERT_IN_CHAIN: {
    reason: 'certificate-authority',
    sentence: 'The server’s certificate is signed by an authority that is not known here.',
  },
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: {
    reason: 'certificate-authority',
    sentence: 'The server’s certificate is signed by an authority that is not known here.',
  },
  UNABLE_TO_GET_ISSUER_CERT_LOCALLY: {
    reason: 'certificate-authority',
    sentence: 'The server’s certificate is signed by an authority that is not known here.',
  },
  HPE_HEADER_OVERFLOW: { reason: 'invalid-http', sentence: 'The response’s headers are larger than 256 kB.' },
};

/** Why no whole response came, from what Node says of it. */
export function whyNoResponse(error: Error): NoResponse {
  const code = (error as NodeJS.ErrnoException).code ?? '';
  const known = REASONS[code];
  if (known !== undefined) return known;
  if (code === 'EPROXY')
    return {
      reason: 'proxy',
      sentence: `The proxy answered ${(error as { status?: number }).status}, and led no further.`,
    };
  if (code.startsWith('ERR_HTTP2'))
    return { reason: 'protocol-error', sentence: `The exchange over HTTP/2 failed (${code.slice(10)}).` };
  if (code.startsWith('HPE_')) return { reason: 'invalid-http', sentence: tellInvalid(error as { reason?: string }) };
  if (code.startsWith('ERR_SSL') || code === 'EPROTO')
    return { reason: 'tls', sentence: 'The server and this client found no way to talk TLS.' };
  if (code.startsWith('CERT_') || code.startsWith('UNABLE_TO'))
    return { reason: 'certificate', sentence: 'The server’s certificate is not valid.' };
  if (code === 'ERR_UNESCAPED_CHARACTERS' || code === 'ERR_INVALID_CHAR')
    return { reason: 'unknown', sentence: 'The request holds characters that HTTP has no place for.' };
  return { reason: 'unknown', sentence: `No response came${code === '' ? '' : ` (${code})`}.` };
}

/** What Node's parser says where the first bytes are those of no response. */
const NO_RESPONSE_LINE = /^Expected HTTP|^Invalid HTTP version|^Response overflow|^Invalid constant/i;

function tellInvalid({ reason = '' }: { readonly reason?: string }): string {
  return reason === '' || NO_RESPONSE_LINE.test(reason)
    ? 'What came back is not HTTP.'
    : `What came back breaks the rules of HTTP: ${reason.charAt(0).toLowerCase()}${reason.slice(1)}.`;
}
