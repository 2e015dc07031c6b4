import type { Socket } from 'node:net';

/** The site as first released, and with the faults of its first release mended. */
export type Release = 'first' | 'fixed';

export interface SiteRequest {
  readonly method: string;
  readonly host: string;
  readonly path: string;
  readonly query: URLSearchParams;
  readonly headers: Readonly<Record<string, string | undefined>>;
  readonly body: Buffer;
  readonly release: Release;
}

export interface SiteAnswer {
  readonly status?: number;
  readonly headers?: Readonly<Record<string, string | readonly string[]>>;
  readonly body?: Buffer | string;
  /** How long the server thinks before its first byte, in ms. */
  readonly thinkMs?: number;
  /** How long the body takes to leave, in ms, in equal pieces. */
  readonly sendMs?: number;
  /** Compress by what the client takes: brotli first, or gzip alone as older servers do. */
  readonly compress?: boolean | 'gzip only';
  /** Break off in the middle of the body. */
  readonly breaksOff?: boolean;
  /** What is done to the connection in place of an answer; of hosts that speak HTTP/1.1. */
  readonly instead?: (socket: Socket) => void;
  /** Events to send one after the other, until the client leaves. */
  readonly events?: { readonly everyMs: number; readonly text: (count: number) => string };
}

export type Handler = (request: SiteRequest) => SiteAnswer | Promise<SiteAnswer>;

/** A JSON answer. */
export const jsonAnswer = (value: unknown, rest: Omit<SiteAnswer, 'body'> = {}): SiteAnswer => ({
  compress: true,
  ...rest,
  body: JSON.stringify(value),
  headers: { 'content-type': 'application/json; charset=utf-8', ...rest.headers },
});
