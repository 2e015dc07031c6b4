/** Why a request got no whole response, as far as its recorder says; "unknown" where it says nothing that is known here. */
export const FAIL_REASONS = [
  'cancelled',
  'name-not-found',
  'name-timed-out',
  'refused',
  'reset',
  'empty-response',
  'not-upgraded',
  'unreachable',
  'offline',
  'network-changed',
  'proxy',
  'tls',
  'certificate-expired',
  'certificate-name',
  'certificate-authority',
  'certificate',
  'timed-out',
  'invalid-http',
  'protocol-error',
  'contradicting-headers',
  'wrong-coding',
  'bad-redirect',
  'blocked-by-extension',
  'blocked-by-policy',
  'blocked-as-mixed',
  'blocked-port',
  'blocked',
  'blocked-by-corp',
  'response-blocked',
  'cache-miss',
  'too-many-redirects',
  'unknown',
] as const;
export type FailReason = (typeof FAIL_REASONS)[number];

/** How an exchange failed. `recorded` is what its recorder wrote of it, if anything. */
export type Failure =
  | { readonly type: 'no-response'; readonly reason: FailReason; readonly recorded: string | undefined }
  | {
      readonly type: 'cut-off';
      readonly status: number;
      readonly reason: FailReason;
      readonly recorded: string | undefined;
    }
  /** A status of 400 and more (RFC 9110 15.5, 15.6). */
  | { readonly type: 'status'; readonly status: number; readonly statusText: string };

/** A failure as one text, for a column of a table. */
export const packFailure = (failure: Failure | undefined): string | undefined =>
  failure === undefined ? undefined : JSON.stringify(failure);

/** The failure again. What an older version wrote, in words, is kept as what was recorded. */
export function unpackFailure(text: string | null | undefined): Failure | undefined {
  if (text === undefined || text === null) return undefined;
  if (!text.startsWith('{')) return { type: 'no-response', reason: 'unknown', recorded: text };
  const failure = JSON.parse(text) as Failure;
  return failure.type === 'status' ? failure : { ...failure, recorded: failure.recorded };
}
