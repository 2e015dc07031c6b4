import type { Socket } from 'node:net';
import { TLSSocket } from 'node:tls';
import { NO_PHASES, type Phases } from '#core/model';
import { type Place, readPlace, SEND_BOUNDS, type SendBounds } from './bounds';
import { openConnection } from './connect';
import { type NoResponse, whyNoResponse } from './failures';
import type { CameBack, Head, Heard } from './heard';
import { sendOverHttp1 } from './http1';
import { sendOverHttp2 } from './http2';
import type { WireRequest } from './message';

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
function placeOf({ host, port }: WireRequest, toHosts: SendBounds['toHosts']): Place {
  const to = toHosts.get(`${host}:${port}`.toLowerCase()) ?? toHosts.get(host.toLowerCase());
  return to === undefined ? { host, port } : readPlace(to, port);
}

/**
 * Sends a request once, over a connection of its own, and times it. Nothing is followed, tried again or kept; what does
 * not come back is told, never thrown.
 */
export const sendOnce = (wire: WireRequest, bounds: SendBounds = SEND_BOUNDS): Promise<Sent> =>
  new Promise((resolve) => new Sending(wire, bounds, resolve).begin());

type Moments = Partial<Record<'begun' | 'found' | 'connected' | 'secured' | 'sent' | 'first' | 'ended', number>>;

/** One request on its way: whatever happens to it, in whatever order, ends in one result. */
class Sending {
  readonly #wire: WireRequest;
  readonly #bounds: SendBounds;
  readonly #resolve: (sent: Sent) => void;
  readonly #moments: Moments = {};
  readonly #closing: (() => void)[] = [];
  readonly #chunks: Buffer[] = [];
  #keptBytes = 0;
  #isCut = false;
  #hasMore = false;
  #came: Head | undefined;
  #address: string | undefined;
  #refusedAddress: string | undefined;
  #isOver = false;

  constructor(wire: WireRequest, bounds: SendBounds, resolve: (sent: Sent) => void) {
    this.#wire = wire;
    this.#bounds = bounds;
    this.#resolve = resolve;
  }

  begin(): void {
    const { signal, timeLimitMs, toHosts } = this.#bounds;
    this.#note('begun');
    const cancel = (): void => this.#end({ reason: 'cancelled', sentence: 'It was cancelled.' });
    if (signal?.aborted === true) {
      cancel();
      return;
    }
    const late = { reason: 'timed-out', sentence: `No whole response came within ${timeLimitMs / 1000} s.` } as const;
    const timer = setTimeout(() => this.#end(late), timeLimitMs);
    signal?.addEventListener('abort', cancel, { once: true });
    this.#closing.push(() => {
      clearTimeout(timer);
      signal?.removeEventListener('abort', cancel);
    });
    openConnection(this.#wire, placeOf(this.#wire, toHosts), this.#bounds, {
      onFound: () => this.#note('found'),
      onConnected: ({ remoteAddress, remotePort }) => {
        this.#note('connected');
        this.#address ??= remoteAddress === undefined ? undefined : `${remoteAddress}:${remotePort}`;
      },
      onReady: (socket) => this.#send(socket),
      onError: (error) => this.#end(whyNoResponse(error)),
      onRefused: (address) => {
        this.#refusedAddress = address;
        this.#end({
          reason: 'blocked',
          sentence: `${this.#wire.host} is ${address}, in a private network: nothing was sent.`,
        });
      },
      onSocket: (socket) => this.#closing.push(() => socket.destroy()),
    });
  }

  #send(socket: Socket): void {
    this.#note('secured');
    const heard: Heard = {
      onSent: () => this.#note('sent'),
      onHead: (head) => {
        this.#note('first');
        this.#came = head;
      },
      onData: (chunk) => this.#keep(chunk),
      onEnd: () => this.#end(),
      onMore: () => {
        this.#hasMore = true;
      },
      onError: (error) => this.#end(whyNoResponse(error)),
      onClose: (close) => this.#closing.push(close),
    };
    if (socket instanceof TLSSocket && socket.alpnProtocol === 'h2') sendOverHttp2(socket, this.#wire, heard);
    else sendOverHttp1(socket, this.#wire, this.#bounds.proxy !== undefined && !this.#wire.isSecure, heard);
  }

  #keep(chunk: Buffer): void {
    const room = this.#bounds.mostBytes - this.#keptBytes;
    this.#chunks.push(chunk.subarray(0, room));
    this.#keptBytes += Math.min(room, chunk.length);
    this.#bounds.onBytes?.(this.#keptBytes);
    if (chunk.length <= room) return;
    this.#isCut = true;
    this.#end();
  }

  #note(name: keyof Moments): void {
    this.#moments[name] ??= performance.now();
  }

  #end(failure?: NoResponse): void {
    if (this.#isOver) return;
    this.#isOver = true;
    this.#note('ended');
    for (const close of this.#closing) close();
    const body = new Uint8Array(Buffer.concat(this.#chunks));
    const outcome: Sent['outcome'] =
      this.#came === undefined
        ? { type: 'none', ...(failure ?? whyNoResponse(new Error('no response'))) }
        : {
            type: 'response',
            ...this.#came,
            body,
            isCut: this.#isCut || failure !== undefined,
            broke: failure,
            hasMore: this.#hasMore,
          };
    this.#resolve({
      outcome,
      phases: phasesOf(this.#moments, this.#wire.isSecure),
      address: this.#address,
      ...(this.#refusedAddress === undefined ? {} : { refusedAddress: this.#refusedAddress }),
    });
  }
}

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
