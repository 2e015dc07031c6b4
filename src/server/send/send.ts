import { lookup } from 'node:dns';
import { type ClientRequest, type IncomingMessage, request as requestHttp } from 'node:http';
import { connect as connectPlain, isIP, type LookupFunction, type Socket } from 'node:net';
import { Duplex } from 'node:stream';
import { connect as connectSecurely, rootCertificates } from 'node:tls';
import { type NameValue, NO_PHASES, type Phases } from '#core/model';
import { type NoResponse, whyNoResponse } from './failures';
import type { WireRequest } from './message';
import { isPrivate } from './private';

/** What bounds a trial. */
export interface SendBounds {
  readonly timeLimitMs: number;
  /** More of a body than so many bytes is not kept. */
  readonly mostBytes: number;
  /** Where a host is sent to in place of its own address: "host" or "host:port" to "address" or "address:port". */
  readonly toHosts: ReadonlyMap<string, string>;
  readonly ignoresCertificate: boolean;
  /** A host whose name leads to this machine or a private network is not connected to. */
  readonly refusesPrivate?: boolean;
  /** A certificate that is trusted besides those that Node knows, in PEM. */
  readonly certificate?: string;
  readonly signal?: AbortSignal;
}

export const SEND_BOUNDS: SendBounds = {
  timeLimitMs: 30_000,
  mostBytes: 50 * 1024 * 1024,
  toHosts: new Map(),
  ignoresCertificate: false,
};

/** A response as it came. */
export interface CameBack {
  readonly status: number;
  readonly statusText: string;
  readonly protocol: string;
  /** As they came: order, case and repeats. */
  readonly headers: readonly NameValue[];
  /** Its bytes as they were sent, coding and all. */
  readonly body: Uint8Array;
  /** There was more than is kept, or the transfer broke, which `broke` says. */
  readonly isCut: boolean;
  readonly broke: NoResponse | undefined;
}

/** What a trial came to: no response is a result, too. */
export interface Sent {
  readonly outcome: ({ readonly type: 'response' } & CameBack) | ({ readonly type: 'none' } & NoResponse);
  readonly phases: Phases;
  /** The address that it went to; absent where none was reached. */
  readonly address: string | undefined;
  /** The private address that was not connected to; nothing was sent. */
  readonly refusedAddress?: string;
}

/** The host and port that a request goes to, as its host may be sent elsewhere. */
function placeOf(
  { host, port }: WireRequest,
  toHosts: SendBounds['toHosts'],
): { readonly host: string; readonly port: number } {
  const to = toHosts.get(`${host}:${port}`.toLowerCase()) ?? toHosts.get(host.toLowerCase());
  if (to === undefined) return { host, port };
  const [, bracketed, name = '', portText] = /^(?:\[([0-9a-f:.]+)\]|([^:]*))(?::(\d+))?$/i.exec(to) ?? [];
  return { host: bracketed ?? name, port: portText === undefined ? port : Number(portText) };
}

const MOST_HEADER_BYTES = 256 * 1024;

/**
 * Sends a request once, over a connection of its own, and times it. Nothing is followed, tried again or kept; what does
 * not come back is told, never thrown.
 * Long because the moments of one connection are noted where they happen.
 */
export function sendOnce(wire: WireRequest, bounds: SendBounds = SEND_BOUNDS): Promise<Sent> {
  // Long because what happens to the connection, in whatever order, ends in one result.
  return new Promise((resolve) => {
    const place = placeOf(wire, bounds.toHosts);
    const moments: Moments = {};
    const note = (name: keyof Moments): void => {
      moments[name] ??= performance.now();
    };
    let socket: Socket | undefined;
    let reading: ClientRequest | undefined;
    let address: string | undefined;
    let refusedAddress: string | undefined;
    let isOver = false;
    const chunks: Buffer[] = [];
    let keptBytes = 0;
    let isCut = false;
    let came: Omit<CameBack, 'body' | 'isCut' | 'broke'> | undefined;
    note('begun');
    const end = (failure?: NoResponse): void => {
      if (isOver) return;
      isOver = true;
      clearTimeout(timer);
      bounds.signal?.removeEventListener('abort', cancel);
      note('ended');
      reading?.destroy();
      socket?.destroy();
      const body = new Uint8Array(Buffer.concat(chunks));
      const outcome: Sent['outcome'] =
        came === undefined
          ? { type: 'none', ...(failure ?? whyNoResponse(new Error('no response'))) }
          : { type: 'response', ...came, body, isCut: isCut || failure !== undefined, broke: failure };
      const refused = refusedAddress === undefined ? {} : { refusedAddress };
      resolve({ outcome, phases: phasesOf(moments, wire.isSecure), address, ...refused });
    };
    const timer = setTimeout(
      () => end({ reason: 'timed-out', sentence: `No whole response came within ${bounds.timeLimitMs / 1000} s.` }),
      bounds.timeLimitMs,
    );
    const cancel = (): void => end({ reason: 'cancelled', sentence: 'It was cancelled.' });
    if (bounds.signal?.aborted === true) {
      cancel();
      return;
    }
    bounds.signal?.addEventListener('abort', cancel, { once: true });
    const refuse = (found: string): void => {
      refusedAddress = found;
      end({ reason: 'blocked', sentence: `${wire.host} is ${found}, in a private network: nothing was sent.` });
    };
    if (bounds.refusesPrivate === true && isIP(place.host) > 0 && isPrivate(place.host)) {
      refuse(place.host);
      return;
    }
    const lookup = bounds.refusesPrivate === true ? lookupPublic(refuse) : undefined;
    const connected = connect(wire, place, bounds, lookup);
    socket = connected;
    connected.on('lookup', () => note('found'));
    connected.on('connect', () => {
      note('connected');
      address =
        connected.remoteAddress === undefined ? undefined : `${connected.remoteAddress}:${connected.remotePort}`;
    });
    connected.on('error', (error) => end(whyNoResponse(error)));
    connected.once(wire.isSecure ? 'secureConnect' : 'connect', () => {
      note('secured');
      connected.write(bytesOf(wire), () => note('sent'));
    });
    const begin = (response: IncomingMessage): void => {
      note('first');
      came = headOf(response);
    };
    reading = readResponse(connected, wire.method);
    reading.on('error', (error) => end(whyNoResponse(error)));
    // Another protocol is agreed on: its head is the response, what follows it is none.
    reading.on('upgrade', (response) => {
      begin(response);
      end();
    });
    reading.on('response', (response) => {
      begin(response);
      response.on('data', (chunk: Buffer) => {
        const room = bounds.mostBytes - keptBytes;
        chunks.push(chunk.subarray(0, room));
        keptBytes += Math.min(room, chunk.length);
        if (chunk.length <= room) return;
        isCut = true;
        end();
      });
      response.on('end', () => end());
      response.on('error', (error) => end(whyNoResponse(error)));
      response.on('aborted', () => end(whyNoResponse(Object.assign(new Error('aborted'), { code: 'ECONNRESET' }))));
    });
  });
}

type Moments = Partial<Record<'begun' | 'found' | 'connected' | 'secured' | 'sent' | 'first' | 'ended', number>>;

/** The request as it goes out (RFC 9112 3), to the byte; the connection is for it alone. */
function bytesOf({ method, target, headers, body }: WireRequest): Buffer {
  const says = headers.some(([name]) => name.toLowerCase() === 'connection');
  const lines = [
    `${method} ${target} HTTP/1.1`,
    ...headers.map(([name, value]) => `${name}: ${value}`),
    ...(says ? [] : ['Connection: close']),
  ];
  return Buffer.concat([Buffer.from(`${lines.join('\r\n')}\r\n\r\n`, 'latin1'), body ?? Buffer.alloc(0)]);
}

function connect(
  wire: WireRequest,
  place: ReturnType<typeof placeOf>,
  bounds: SendBounds,
  lookup: LookupFunction | undefined,
): Socket {
  const where = { host: place.host, port: place.port, ...(lookup === undefined ? {} : { lookup }) };
  if (!wire.isSecure) return connectPlain(where);
  return connectSecurely({
    ...where,
    ALPNProtocols: ['http/1.1'],
    servername: isIP(wire.host) === 0 ? wire.host : '',
    rejectUnauthorized: !bounds.ignoresCertificate,
    ...(bounds.certificate === undefined ? {} : { ca: [...rootCertificates, bounds.certificate] }),
  });
}

/**
 * Has Node's own parser read the response that comes over a connection. What Node would send is dropped: it writes methods
 * in capitals and adds headers of its own, and the request has gone out already as it is to be.
 */
function readResponse(socket: Socket, method: string): ClientRequest {
  const through = new Duplex({
    read: () => void socket.resume(),
    write: (_chunk, _encoding, done) => done(),
    final: (done) => done(),
  });
  socket.on('data', (chunk: Buffer) => {
    if (!through.push(chunk)) socket.pause();
  });
  socket.on('end', () => through.push(null));
  socket.on('close', () => through.destroy());
  const request = requestHttp({
    // The response to HEAD has no body (RFC 9110 9.3.2); of the others its own framing tells.
    method: method === 'HEAD' ? 'HEAD' : 'GET',
    createConnection: () => through,
    maxHeaderSize: MOST_HEADER_BYTES,
  });
  request.end();
  return request;
}

/** The head of a response, as it came. */
function headOf({
  rawHeaders,
  statusCode,
  statusMessage,
  httpVersion,
}: IncomingMessage): Omit<CameBack, 'body' | 'isCut' | 'broke'> {
  const headers: NameValue[] = [];
  for (let at = 0; at < rawHeaders.length; at += 2)
    headers.push({ name: rawHeaders[at] ?? '', value: rawHeaders[at + 1] ?? '' });
  return { status: statusCode ?? 0, statusText: statusMessage ?? '', protocol: `HTTP/${httpVersion}`, headers };
}

/** Looks names up and hands on public addresses alone: what is looked at is what is connected to. */
const lookupPublic =
  (refuse: (address: string) => void): LookupFunction =>
  (hostname, options, done) => {
    lookup(hostname, { ...options, all: true }, (error, found) => {
      const list = found ?? [];
      const inside = list.find(({ address }) => isPrivate(address));
      if (inside !== undefined) refuse(inside.address);
      const failure = inside === undefined ? error : Object.assign(new Error('private'), { code: 'EPRIVATE' });
      const [first] = list;
      if (options.all === true) done(failure, list);
      else done(failure, first?.address ?? '', first?.family);
    });
  };

/** The phases from the moments that were noted, in ms. */
function phasesOf(moments: Readonly<Partial<Record<string, number>>>, isSecure: boolean): Phases {
  const between = (from: string, to: string): number | undefined => {
    const [start, end] = [moments[from], moments[to]];
    return start === undefined || end === undefined || end < start ? undefined : end - start;
  };
  const stands = isSecure ? 'secured' : 'connected';
  return {
    ...NO_PHASES,
    dnsMs: between('begun', 'found'),
    connectMs: between(moments['found'] === undefined ? 'begun' : 'found', 'connected'),
    tlsMs: isSecure ? between('connected', 'secured') : undefined,
    sendMs: between(stands, 'sent'),
    waitMs: between('sent', 'first'),
    receiveMs: between('first', 'ended'),
  };
}
