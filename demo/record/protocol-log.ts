import type { CDPSession } from '@playwright/test';

interface Frame {
  readonly url: string;
  readonly functionName: string;
  readonly lineNumber: number;
  readonly columnNumber: number;
}

interface Initiator {
  readonly type: string;
  readonly url?: string;
  readonly lineNumber?: number;
  readonly stack?: { readonly callFrames: readonly Frame[] };
}

interface Timing {
  readonly requestTime: number;
  readonly connectStart: number;
  readonly connectEnd: number;
  readonly sslStart: number;
  readonly dnsStart: number;
  readonly dnsEnd: number;
  readonly sendStart: number;
  readonly sendEnd: number;
  readonly receiveHeadersEnd: number;
}

type Headers = Readonly<Record<string, string>>;

interface Response {
  readonly status: number;
  readonly statusText: string;
  readonly headers: Headers;
  readonly protocol?: string;
  readonly fromDiskCache?: boolean;
  readonly fromServiceWorker?: boolean;
  readonly fromPrefetchCache?: boolean;
  readonly connectionId?: number;
  readonly timing?: Timing;
  readonly remoteIPAddress?: string;
}

interface Sent {
  readonly requestId: string;
  readonly request: {
    readonly url: string;
    readonly method: string;
    readonly headers: Headers;
    readonly initialPriority: string;
  };
  readonly initiator: Initiator;
  readonly type?: string;
  readonly timestamp: number;
  readonly wallTime: number;
  readonly redirectResponse?: Response;
}

/** What the browser's debugging protocol tells of one request, beyond what its HAR holds. */
export interface ProtocolRequest {
  readonly sent: Sent;
  response?: Response;
  fromMemory: boolean;
  endedAt?: number;
  /** Bytes that arrived, headers included. */
  receivedBytes?: number;
  errorText?: string;
  corsError?: string;
}

/** Listens to a page's network events from now on. */
export async function logProtocol(session: CDPSession): Promise<ProtocolRequest[]> {
  const log: ProtocolRequest[] = [];
  const current = new Map<string, ProtocolRequest>();
  const on = <T>(event: string, hear: (params: T) => void): void => {
    session.on(event as never, hear as never);
  };
  on<Sent>('Network.requestWillBeSent', (sent) => {
    const before = current.get(sent.requestId);
    if (before !== undefined && sent.redirectResponse !== undefined) before.response = sent.redirectResponse;
    const request: ProtocolRequest = { sent, fromMemory: false };
    current.set(sent.requestId, request);
    log.push(request);
  });
  on<{ requestId: string }>('Network.requestServedFromCache', ({ requestId }) => {
    const request = current.get(requestId);
    if (request !== undefined) request.fromMemory = true;
  });
  on<{ requestId: string; response: Response }>('Network.responseReceived', ({ requestId, response }) => {
    const request = current.get(requestId);
    if (request !== undefined) request.response = response;
  });
  on<{ requestId: string; timestamp: number; encodedDataLength: number }>('Network.loadingFinished', (end) => {
    const request = current.get(end.requestId);
    if (request === undefined) return;
    request.endedAt = end.timestamp;
    request.receivedBytes = end.encodedDataLength;
  });
  on<{ requestId: string; timestamp: number; errorText: string; corsErrorStatus?: { corsError: string } }>(
    'Network.loadingFailed',
    ({ requestId, timestamp, errorText, corsErrorStatus }) => {
      const request = current.get(requestId);
      if (request === undefined) return;
      request.endedAt = timestamp;
      request.errorText = errorText;
      if (corsErrorStatus !== undefined) request.corsError = corsErrorStatus.corsError;
    },
  );
  await session.send('Network.enable');
  return log;
}
