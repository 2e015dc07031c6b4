/** Where a connection leads. */
export interface Place {
  readonly host: string;
  readonly port: number;
}

/** What bounds a trial. */
export interface SendBounds {
  readonly timeLimitMs: number;
  /** More of a body than so many bytes is not kept. */
  readonly mostBytes: number;
  /** Where a host is sent to in place of its own address: "host" or "host:port" to "address" or "address:port". */
  readonly toHosts: ReadonlyMap<string, string>;
  readonly ignoresCertificate: boolean;
  /** A proxy that the connection goes through. */
  readonly proxy?: Place;
  /** HTTP/2 where the server takes it (RFC 9113 3.2), else HTTP/1.1. */
  readonly wantsHttp2?: boolean;
  /** A host whose name leads to this machine or a private network is not connected to. */
  readonly refusesPrivate?: boolean;
  /** A certificate that is trusted besides those that Node knows, in PEM. */
  readonly certificate?: string;
  readonly signal?: AbortSignal;
  /** Hears how many bytes of the body have come. */
  readonly onBytes?: (receivedBytes: number) => void;
}

export const SEND_BOUNDS: SendBounds = {
  timeLimitMs: 30_000,
  mostBytes: 50 * 1024 * 1024,
  toHosts: new Map(),
  ignoresCertificate: false,
};

/** A place as it is written: "host", "host:port", "[::1]:port". */
export function readPlace(text: string, port: number): Place {
  const [, bracketed, name = '', portText] = /^(?:\[([0-9a-f:.]+)\]|([^:]*))(?::(\d+))?$/i.exec(text) ?? [];
  return { host: bracketed ?? name, port: portText === undefined ? port : Number(portText) };
}
