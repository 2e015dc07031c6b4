import type { ProtocolRequest } from './protocol-log';

type Entry = Record<string, unknown> & {
  startedDateTime: string;
  pageref?: string;
  request: Record<string, unknown> & { method: string; url: string };
  response: Record<string, unknown> & { status: number };
};

export interface Har {
  log: { creator: unknown; browser: unknown; pages: { id: string }[]; entries: Entry[] } & Record<string, unknown>;
}

const FRAMES_KEPT = 3;

/**
 * Adds to a recorded HAR what the debugging protocol knows and HAR has no field for: who asked (`_initiator`),
 * the cache it came from (`_fromCache`), its priority, its connection; and the preflights, which are not in the HAR.
 */
export function enrich(har: Har, log: readonly ProtocolRequest[]): void {
  const takeKnown = inTheirOrder(log);
  for (const entry of har.log.entries) {
    const known = takeKnown(entry);
    if (known !== undefined) addKnown(entry, known);
  }
  const page = har.log.entries[0]?.pageref;
  const preflights = log
    .filter((request) => request.sent.initiator.type === 'preflight')
    .map((request) => preflight(request, page));
  har.log.entries.push(...preflights);
  // A stable sort: what started in the same millisecond stays in the order in which it was recorded.
  har.log.entries.sort((a, b) => Date.parse(a.startedDateTime) - Date.parse(b.startedDateTime));
}

/** For entries in the order of the recording what the protocol knows of each: the same request again is the next of its kind. */
function inTheirOrder(log: readonly ProtocolRequest[]): (entry: Entry) => ProtocolRequest | undefined {
  const waiting = new Map<string, ProtocolRequest[]>();
  for (const request of log) {
    const { method, url } = request.sent.request;
    const key = `${method} ${url}`;
    waiting.set(key, [...(waiting.get(key) ?? []), request]);
  }
  return ({ request }) => waiting.get(`${request.method} ${request.url}`)?.shift();
}

function addKnown(entry: Entry, known: ProtocolRequest): void {
  const { initiator, request } = known.sent;
  const { stack, ...origin } = initiator;
  entry['_initiator'] =
    stack === undefined ? origin : { ...origin, stack: { callFrames: stack.callFrames.slice(0, FRAMES_KEPT) } };
  entry['_priority'] = request.initialPriority;
  if (known.response?.connectionId !== undefined && known.response.connectionId !== 0) {
    entry['_connectionId'] = String(known.response.connectionId);
  }
  if (known.fromMemory) entry['_fromCache'] = 'memory';
  else if (known.response?.fromDiskCache === true && entry.response.status !== 304 && !wentOut(entry)) {
    entry['_fromCache'] = 'disk';
  }
  if (known.corsError !== undefined) entry['comment'] = `refused by the browser: ${known.corsError}`;
}

/**
 * Writes the phases as the protocol measured them: HAR as it was recorded leaves out how long a request waited in the
 * browser before it was given to the network, and has the wait for a connection in what was received.
 */
export function retime(har: Har, log: readonly ProtocolRequest[]): void {
  const takeKnown = inTheirOrder(log);
  for (const entry of har.log.entries) {
    const known = takeKnown(entry);
    const timing = known?.response?.timing;
    const isServed = known?.fromMemory === true || known?.response?.fromServiceWorker === true;
    if (known?.endedAt === undefined || timing === undefined || isServed || entry['_resourceType'] === 'preflight')
      continue;
    const lengthMs = (known.endedAt - known.sent.timestamp) * 1000;
    entry['timings'] = timingsOf(known.sent.timestamp, timing, lengthMs);
    entry['time'] = lengthMs;
  }
}

/** The protocol calls a revalidated copy "from disk" as well; bytes on the wire tell them apart. */
const wentOut = (entry: Entry): boolean => Number(entry.response['_transferSize'] ?? 0) > 0;

function preflight(request: ProtocolRequest, pageref: string | undefined): Entry {
  const { sent, response } = request;
  const timing = response?.timing;
  const length = ((request.endedAt ?? sent.timestamp) - sent.timestamp) * 1000;
  const timings =
    timing === undefined ? { send: -1, wait: -1, receive: -1 } : timingsOf(sent.timestamp, timing, length);
  return {
    ...(pageref === undefined ? {} : { pageref }),
    startedDateTime: new Date(sent.wallTime * 1000).toISOString(),
    time: Math.max(0, length),
    request: {
      method: sent.request.method,
      url: sent.request.url,
      httpVersion: protocolName(response?.protocol),
      cookies: [],
      headers: list(sent.request.headers),
      queryString: [],
      headersSize: -1,
      bodySize: 0,
    },
    response: {
      status: response?.status ?? -1,
      statusText: response?.statusText ?? '',
      httpVersion: protocolName(response?.protocol),
      cookies: [],
      headers: list(response?.headers ?? {}),
      content: { size: 0, mimeType: 'x-unknown', text: '' },
      headersSize: -1,
      bodySize: 0,
      redirectURL: '',
      _transferSize: request.receivedBytes ?? -1,
    },
    cache: {},
    timings,
    _resourceType: 'preflight',
    _initiator: { type: 'preflight', url: sent.request.headers['Referer'] ?? '' },
  };
}

const protocolName = (protocol: string | undefined): string => (protocol === 'h2' ? 'HTTP/2.0' : 'HTTP/1.1');

const list = (headers: Readonly<Record<string, string>>): { name: string; value: string }[] =>
  Object.entries(headers).map(([name, value]) => ({ name, value }));

/** Chromium gives times in ms since `requestTime`, -1 for what did not happen. */
function timingsOf(
  sentAt: number,
  timing: NonNullable<NonNullable<ProtocolRequest['response']>['timing']>,
  length: number,
): Record<string, number> {
  const queued = Math.max(0, (timing.requestTime - sentAt) * 1000);
  const firstStep =
    timing.dnsStart >= 0 ? timing.dnsStart : timing.connectStart >= 0 ? timing.connectStart : timing.sendStart;
  const wait = timing.receiveHeadersEnd - timing.sendEnd;
  const connect = timing.connectStart < 0 ? -1 : timing.connectEnd - timing.connectStart;
  return {
    blocked: queued + firstStep,
    dns: timing.dnsStart < 0 ? -1 : timing.dnsEnd - timing.dnsStart,
    connect,
    ssl: timing.sslStart < 0 ? -1 : timing.connectEnd - timing.sslStart,
    send: timing.sendEnd - timing.sendStart,
    wait,
    receive: Math.max(0, length - queued - timing.receiveHeadersEnd),
  };
}
