import { type ClientRequest, type IncomingMessage, request as requestHttp } from 'node:http';
import { request as requestHttps } from 'node:https';
import { isIP, type Socket } from 'node:net';
import type { TLSSocket } from 'node:tls';
import { type NameValue, NO_PHASES, type Phases } from '#core/model';
import { type NoResponse, whyNoResponse } from './failures';
import type { WireRequest } from './message';

/** What bounds a trial. */
export interface SendBounds {
  readonly timeLimitMs: number;
  /** More of a body than so many bytes is not kept. */
  readonly mostBytes: number;
  /** Where a host is sent to in place of its own address: "host" or "host:port" to "address" or "address:port". */
  readonly toHosts: ReadonlyMap<string, string>;
  readonly ignoresCertificate: boolean;
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
}

/** The host and port that a request goes to, as its host may be sent elsewhere. */
function placeOf(
  { host, port }: WireRequest,
  toHosts: SendBounds['toHosts'],
): { readonly host: string; readonly port: number } {
  const to = toHosts.get(`${host}:${port}`) ?? toHosts.get(host);
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
    const moments: Partial<Record<'begun' | 'found' | 'connected' | 'secured' | 'sent' | 'first' | 'ended', number>> =
      {};
    const note = (name: keyof typeof moments): void => {
      moments[name] ??= performance.now();
    };
    let outgoing: ClientRequest | undefined;
    let address: string | undefined;
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
      outgoing?.destroy();
      const body = new Uint8Array(Buffer.concat(chunks));
      const outcome: Sent['outcome'] =
        came === undefined
          ? { type: 'none', ...(failure ?? whyNoResponse(new Error('no response'))) }
          : { type: 'response', ...came, body, isCut: isCut || failure !== undefined, broke: failure };
      resolve({ outcome, phases: phasesOf(moments, wire.isSecure), address });
    };
    const timer = setTimeout(
      () => end({ reason: 'timed-out', sentence: `No whole response came within ${bounds.timeLimitMs / 1000} s.` }),
      bounds.timeLimitMs,
    );
    const cancel = (): void => end({ reason: 'cancelled', sentence: 'It was cancelled.' });
    bounds.signal?.addEventListener('abort', cancel, { once: true });
    try {
      outgoing = (wire.isSecure ? requestHttps : requestHttp)(optionsOf(wire, place, bounds));
    } catch (error) {
      // What Node does not send it refuses at once.
      end(whyNoResponse(error as Error));
      return;
    }
    if (bounds.signal?.aborted === true) cancel();
    outgoing.on('socket', (socket: Socket | TLSSocket) => {
      socket.on('lookup', () => note('found'));
      socket.on('connect', () => {
        note('connected');
        address = socket.remoteAddress === undefined ? undefined : `${socket.remoteAddress}:${socket.remotePort}`;
      });
      socket.on('secureConnect', () => note('secured'));
    });
    outgoing.on('finish', () => note('sent'));
    outgoing.on('error', (error) => end(whyNoResponse(error)));
    const begin = (response: IncomingMessage): void => {
      note('first');
      came = headOf(response);
    };
    // Another protocol is agreed on: its head is the response, what follows it is none.
    outgoing.on('upgrade', (response) => {
      begin(response);
      end();
    });
    outgoing.on('response', (response) => {
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
    if (wire.body === undefined) outgoing.end();
    else outgoing.end(Buffer.from(wire.body));
  });
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

const optionsOf = (wire: WireRequest, place: ReturnType<typeof placeOf>, bounds: SendBounds) => ({
  host: place.host,
  port: place.port,
  method: wire.method,
  path: wire.target,
  headers: wire.headers.flat(),
  agent: false as const,
  maxHeaderSize: MOST_HEADER_BYTES,
  servername: isIP(wire.host) === 0 ? wire.host : '',
  rejectUnauthorized: !bounds.ignoresCertificate,
});

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
