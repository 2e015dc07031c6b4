/** What is left open in the code that a draft becomes; the same for every target. */
export interface RenderOptions {
  /** Left-out headers stand as comments beside the others. */
  readonly commentsLeftOut: boolean;
  /** One map of all headers, or a call for each. */
  readonly headers: 'map' | 'calls';
  /** Credentials are read from the environment, not written down. */
  readonly secretsFromEnv: boolean;
  /** How long to wait for the answer, in s; absent leaves it to the client. */
  readonly timeLimitS: number | undefined;
  /** Absent leaves it to the client. */
  readonly redirects: 'follow' | 'stop' | undefined;
  /** URL of a proxy. */
  readonly proxy: string | undefined;
  /** Takes any certificate: for servers of one's own that have none. */
  readonly ignoresCertificate: boolean;
  /** Written in the client's own idioms where these say the same, rather than byte for byte. */
  readonly idioms: boolean;
  /** The code as a function that others call. */
  readonly asFunction: boolean;
  /** What is done with the answer. */
  readonly prints: 'body' | 'status' | 'file';
}

export const DEFAULT_OPTIONS: RenderOptions = {
  commentsLeftOut: false,
  headers: 'map',
  secretsFromEnv: false,
  timeLimitS: undefined,
  redirects: undefined,
  proxy: undefined,
  ignoresCertificate: false,
  idioms: false,
  asFunction: false,
  prints: 'body',
};
