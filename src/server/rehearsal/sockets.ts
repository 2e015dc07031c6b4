import type { IncomingMessage } from 'node:http';
import type { Duplex } from 'node:stream';
import { type WebSocket, WebSocketServer } from 'ws';
import type { Exchange } from '#core/model';
import { findHeader } from '#core/model';
import { type PlayedMessage, playedMessages, type TimeFactor } from '#core/rehearse';
import type { PassedMessage } from './entry';

/** A message that waits for the client's own waits so long at most. */
const LONGEST_WAIT_MS = 10_000;
const LEAST_TICK_MS = 5;
/** Longer messages close the connection (RFC 6455 7.4.1, 1009). */
const MOST_BYTES = 10 * 1024 * 1024;
/** More of them are not kept. */
const MOST_KEPT = 5000;

/** Binary messages are kept as base64, as recorders do. */
const BINARY = 2;

/** Opens the sockets of a rehearsal and plays what the server sent on them. */
export class SocketPlayer {
  readonly #factor: TimeFactor;
  readonly #rewrite: (text: string) => string;

  constructor(factor: TimeFactor, rewrite: (text: string) => string) {
    this.#factor = factor;
    this.#rewrite = rewrite;
  }

  /**
   * Plays a captured socket to a client that asks for one. What the server sent comes at its time, and not before the client
   * has sent what it had sent by then, as long as that takes less than a while.
   */
  open(
    message: IncomingMessage,
    socket: Duplex,
    head: Buffer,
    exchange: Exchange,
    onEnd: (messages: readonly PassedMessage[]) => void,
  ): void {
    const protocol = findHeader(
      exchange.outcome.type === 'unanswered' ? [] : exchange.outcome.response.headers,
      'sec-websocket-protocol',
    );
    const server = new WebSocketServer({
      noServer: true,
      perMessageDeflate: false,
      maxPayload: MOST_BYTES,
      handleProtocols: (offered) => (protocol !== undefined && offered.has(protocol) ? protocol : false),
    });
    server.handleUpgrade(message, socket, head, (client) => this.#play(client, exchange, onEnd));
  }

  #play(client: WebSocket, exchange: Exchange, onEnd: (messages: readonly PassedMessage[]) => void): void {
    const passed: PassedMessage[] = [];
    const keep = (one: PassedMessage): void => {
      if (passed.length < MOST_KEPT) passed.push(one);
    };
    const queue = playedMessages(exchange.messages, this.#factor);
    const openedAt = performance.now();
    let sent = 0;
    let waitsSince: number | undefined;
    let timer: NodeJS.Timeout | undefined;
    const next = (): void => {
      const [first] = queue;
      if (first === undefined) return;
      const now = performance.now();
      const isEarly = now - openedAt < first.atMs;
      const lacks = sent < first.behind;
      waitsSince = lacks && !isEarly ? (waitsSince ?? now) : undefined;
      if (isEarly || (lacks && now - (waitsSince ?? now) < LONGEST_WAIT_MS)) {
        timer = setTimeout(next, Math.max(LEAST_TICK_MS, isEarly ? first.atMs - (now - openedAt) : LEAST_TICK_MS));
        return;
      }
      queue.shift();
      this.#send(client, first, keep);
      setImmediate(next);
    };
    client.on('message', (data: Buffer, isBinary) => {
      sent++;
      keep({
        direction: 'sent',
        at: Date.now(),
        opcode: isBinary ? BINARY : 1,
        data: data.toString(isBinary ? 'base64' : 'utf8'),
      });
    });
    client.on('error', () => client.terminate());
    client.on('close', () => {
      clearTimeout(timer);
      queue.length = 0;
      onEnd(passed);
    });
    next();
  }

  #send(client: WebSocket, { message: { data, opcode } }: PlayedMessage, keep: (one: PassedMessage) => void): void {
    const isBinary = opcode === BINARY;
    const given = isBinary ? data : this.#rewrite(data);
    client.send(isBinary ? Buffer.from(data, 'base64') : given);
    keep({ direction: 'received', at: Date.now(), opcode: isBinary ? BINARY : 1, data: given });
  }
}
