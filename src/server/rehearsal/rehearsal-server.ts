import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { createServer as createTlsServer } from 'node:https';
import type { AddressInfo, Socket } from 'node:net';
import type { Duplex } from 'node:stream';
import type { Json } from '#core/har';
import { type Exchange, findHeader, findResponse } from '#core/model';
import {
  type Asked,
  allowPreflight,
  isPreflight,
  LocalAddresses,
  originOf,
  paceOf,
  ResponseFinder,
  tellMiss,
} from '#core/rehearse';
import type { AskedNotes, RehearsalOrder } from '#core/wire';
import { log } from '../log';
import { askedOf } from './asked';
import { certifiedNames } from './certify';
import { type Moments, rehearsedEntry } from './entry';
import type { Forwarded } from './forward';
import { type Gave, give } from './give';
import { Heads } from './heads';
import { fittingNotes, notesWithout, refusedNotes } from './notes';
import { piecesOf } from './pieces';
import { plainText, refuseRaw } from './plain-text';
import { type Prepared, Preparer } from './prepare';
import { readBody, shownPayload } from './read-body';
import type { Recording } from './recording';
import { SocketPlayer } from './sockets';
import { openTunnel } from './tunnel';
import { type Refusal, refusalOf } from './visitor';

/** What a rehearsal was asked, ready to be kept. */
export interface AskedRecord {
  readonly entry: Json;
  readonly notes: AskedNotes;
}

export interface RehearsalPlan {
  readonly recording: Recording;
  readonly order: RehearsalOrder;
  /**
   * Hears of each request once it is answered. What is told of it is made only where it is asked for: of a client that asks
   * without end most of it is not.
   */
  readonly onAsked: (isMissed: boolean, record: () => AskedRecord) => void;
  /** Sends what nothing fits to its real host. */
  readonly forward?: (asked: Asked) => Promise<Forwarded>;
  /** Names under which it may be asked besides its own, where it is open to other machines. */
  readonly extraHosts?: readonly string[];
  /** Key and certificate, in PEM, for the names that it is asked under. */
  readonly certify?: (names: readonly string[]) => Promise<{ readonly key: string; readonly cert: string }>;
}

/** Where it may be listened at. */
export interface Listening {
  readonly port: number;
  readonly addresses: LocalAddresses;
  /** What clients have to trust, in PEM. */
  readonly certificate: string | undefined;
}

/** More connections at once are refused. */
const MOST_CONNECTIONS = 500;
/** A request's head has to be there by then, and all of it. */
const HEAD_MS = 30_000;
const WHOLE_MS = 120_000;
const MOST_HEAD_BYTES = 64 * 1024;

/** A server that answers as a capture did. */
export class RehearsalServer {
  readonly #plan: RehearsalPlan;
  readonly #finder: ResponseFinder;
  readonly #heads = new WeakMap<object, Heads>();
  readonly #open = new Set<Socket>();
  readonly #underWay = new Set<Promise<void>>();
  #server: Server | undefined;
  #stage: { addresses: LocalAddresses; preparer: Preparer; sockets: SocketPlayer } | undefined;

  constructor(plan: RehearsalPlan) {
    this.#plan = plan;
    const { recording, order } = plan;
    const { mainUrl } = recording;
    const mainOrigin = mainUrl === undefined ? undefined : originOf(mainUrl);
    this.#finder = new ResponseFinder(recording.requests, recording.read, { mainOrigin, isExact: order.isExact });
  }

  /** Begins to listen. @throws Error with the system's code where the port is taken */
  async listen(port: number, host: string): Promise<Listening> {
    const { order, recording, certify } = this.#plan;
    const names = new LocalAddresses(urlsOf(recording), { port: 0, isSecure: order.isSecure });
    const made = order.isSecure ? await certify?.(certifiedNames(names)) : undefined;
    const options = { maxHeaderSize: MOST_HEAD_BYTES, headersTimeout: HEAD_MS, requestTimeout: WHOLE_MS };
    const server = made === undefined ? createServer(options) : createTlsServer({ ...options, ...made });
    server.maxConnections = MOST_CONNECTIONS;
    server.on(made === undefined ? 'connection' : 'secureConnection', (socket: Socket) => this.#watch(socket));
    server.on('request', (message, response) => this.#goOn(this.#handle(message, response)));
    server.on('upgrade', (message, socket, head) => this.#goOn(this.#upgrade(message, socket, head)));
    const plain = made === undefined ? server : undefined;
    server.on('connect', (message, socket: Duplex, rest: Buffer) => openTunnel(plain, message, socket, rest));
    server.on('clientError', (error: NodeJS.ErrnoException, socket: Duplex) => this.#garbled(error, socket));
    await new Promise<void>((resolve, reject) => {
      server.once('error', reject);
      server.listen(port, host, () => {
        server.off('error', reject);
        resolve();
      });
    });
    this.#server = server;
    const addresses = new LocalAddresses(urlsOf(recording), {
      port: (server.address() as AddressInfo).port,
      isSecure: order.isSecure,
    });
    const changes = new Map(order.changes.map((change) => [change.exchange, change]));
    this.#stage = {
      addresses,
      preparer: new Preparer({ recording, addresses, rewrites: order.rewrites, changes }),
      sockets: new SocketPlayer(order.time, (text) => (order.rewrites ? addresses.rewriteCode(text) : text)),
    };
    return { port: addresses.port, addresses, certificate: made?.cert };
  }

  /** Begins from the first of several responses again. */
  rewind(): void {
    this.#finder.rewind();
  }

  async close(): Promise<void> {
    const server = this.#server;
    if (server !== undefined) {
      await new Promise<void>((resolve) => {
        server.close(() => resolve());
        for (const socket of this.#open) socket.destroy();
      });
      // What was still open is told as it ended.
      await Promise.all(this.#underWay);
    }
    this.#plan.recording.close();
  }

  #goOn(work: Promise<void>): void {
    this.#underWay.add(work);
    void work.finally(() => this.#underWay.delete(work));
  }

  #watch(socket: Socket): void {
    const heads = new Heads();
    heads.listen(socket);
    this.#heads.set(socket, heads);
    this.#open.add(socket);
    socket.on('close', () => this.#open.delete(socket));
    socket.on('error', () => socket.destroy());
  }

  async #handle(message: IncomingMessage, response: ServerResponse): Promise<void> {
    try {
      await this.#answer(message, response);
    } catch (error) {
      log.error({ err: error }, 'a rehearsal could not answer');
      if (!response.headersSent) response.writeHead(500, { 'Content-Type': 'text/plain' });
      response.end('Trazado could not answer this, through a fault of its own.\n');
    }
  }

  async #answer(message: IncomingMessage, response: ServerResponse): Promise<void> {
    const { addresses, preparer } = this.#staged();
    const startedAt = Date.now();
    const begun = performance.now();
    const head = this.#headOf(message);
    const body = await readBody(message);
    const asked = askedOf(message, body, addresses);
    const sendMs = performance.now() - begun;
    const isFrom = this.#refusal(message, asked);
    if (isFrom !== undefined || body.broke !== 'no') {
      const sentence = isFrom ?? (body.broke === 'off' ? BROKE_OFF : TOO_LONG);
      const [status, text] = isFrom === undefined ? [413, 'Content Too Large'] : [403, 'Forbidden'];
      const refused = plainText(status, text, sentence);
      if (body.broke !== 'off') await give(response, refused, NO_PACE, []);
      if (body.broke === 'too-long') message.socket.destroy();
      const moments = { startedAt, sendMs, waitMs: 0, receiveMs: 0 };
      this.#tell(asked, message, refused, moments, true, () => ({
        ...refusedNotes(sentence, head),
        ...shownPayload(body),
      }));
      return;
    }
    const chosen = await this.#choose(asked, preparer);
    const prepared = this.#letIn(asked, message, chosen.prepared);
    const { exchange } = chosen;
    const pace = exchange === undefined ? NO_PACE : without(this.#paceOf(exchange), performance.now() - begun);
    const pieces =
      exchange === undefined || prepared.type === 'none'
        ? []
        : piecesOf(exchange, prepared.plain, this.#plan.order.time);
    const gave = await give(response, prepared, pace, pieces);
    const waitMs = gave.waitMs + (performance.now() - begun - sendMs - gave.waitMs - gave.receiveMs);
    const moments = { startedAt, sendMs, waitMs, receiveMs: gave.receiveMs };
    this.#tell(asked, message, prepared, moments, chosen.isMissed === true, () => {
      const notes = chosen.notes();
      return { ...notes, head, ...shownPayload(body), remarks: [...notes.remarks, ...leftEarly(gave)] };
    });
  }

  /** What is given to a request, and why. */
  async #choose(asked: Asked, preparer: Preparer): Promise<Chosen> {
    const match = this.#finder.find(asked);
    if (match.type === 'fits') {
      const prepared = preparer.captured(asked, match.exchange);
      return { exchange: match.exchange, prepared, notes: () => fittingNotes(asked, match, prepared.remarks) };
    }
    if (isPreflight(asked)) {
      const prepared = preparer.prepare(asked, allowPreflight(asked));
      return {
        exchange: undefined,
        prepared,
        notes: () => notesWithout('allowed', 'A preflight that was not captured is allowed.'),
      };
    }
    const sentence = tellMiss(match.nearest);
    const missed = { ...notesWithout('none', sentence), taken: match.nearest?.index };
    const { forward } = this.#plan;
    if (forward === undefined || asked.origin === undefined)
      return {
        exchange: undefined,
        prepared: plainText(404, 'Not Found', sentence),
        isMissed: true,
        notes: () => missed,
      };
    const forwarded = await forward(asked);
    const notes = notesWithout('forwarded', `${sentence} ${forwarded.sentence}`);
    return {
      exchange: undefined,
      prepared:
        forwarded.given === undefined
          ? plainText(502, 'Bad Gateway', forwarded.sentence)
          : preparer.prepare(asked, forwarded.given),
      notes: () => ({ ...notes, taken: match.nearest?.index }),
    };
  }

  async #upgrade(message: IncomingMessage, socket: Duplex, rest: Buffer): Promise<void> {
    socket.on('error', () => socket.destroy());
    const { addresses, preparer, sockets } = this.#staged();
    const startedAt = Date.now();
    const head = this.#headOf(message);
    const asked = askedOf(message, { bytes: new Uint8Array(), length: 0, broke: 'no' }, addresses);
    const none: Moments = { startedAt, sendMs: 0, waitMs: 0, receiveMs: 0 };
    const refusal = this.#refusal(message, asked);
    const match = refusal === undefined ? this.#finder.find(asked) : undefined;
    if (match?.type !== 'fits') {
      const sentence = refusal ?? tellMiss(match?.type === 'none' ? match.nearest : undefined);
      const [status, text] = refusal === undefined ? [404, 'Not Found'] : [403, 'Forbidden'];
      refuseRaw(socket, status, text, sentence);
      const notes = refusal === undefined ? notesWithout('none', sentence) : refusedNotes(sentence, head);
      this.#tell(asked, message, plainText(status, text, sentence), none, true, () => ({ ...notes, head }));
      return;
    }
    const { exchange } = match;
    const status = findResponse(exchange)?.status;
    // One that was refused, or never opened, is so again.
    if (status !== undefined && status !== 101) {
      const prepared = preparer.captured(asked, exchange);
      refuseRaw(socket, status, '', '');
      this.#tell(asked, message, prepared, none, false, () => ({
        ...fittingNotes(asked, match, prepared.remarks),
        head,
      }));
      return;
    }
    if (status === undefined) {
      socket.destroy();
      const prepared = { type: 'none', how: 'reset', remarks: ['no response was captured'] } as const;
      this.#tell(asked, message, prepared, none, false, () => ({
        ...fittingNotes(asked, match, prepared.remarks),
        head,
      }));
      return;
    }
    await new Promise<void>((ended) => {
      socket.once('close', () => setImmediate(ended));
      sockets.open(message, socket, rest, exchange, (messages) => {
        const moments = { ...none, receiveMs: Date.now() - startedAt };
        const given = { type: 'socket', messages } as const;
        this.#tell(asked, message, given, moments, false, () => ({ ...fittingNotes(asked, match, []), head }));
      });
    });
  }

  #tell(
    asked: Asked,
    { httpVersion }: IncomingMessage,
    given: Parameters<typeof rehearsedEntry>[2],
    moments: Moments,
    isMissed: boolean,
    notesOf: () => AskedNotes,
  ): void {
    this.#plan.onAsked(isMissed, () => {
      const notes = notesOf();
      const taken =
        notes.fits === 'fits' && notes.taken !== undefined ? this.#plan.recording.read(notes.taken) : undefined;
      return { entry: rehearsedEntry(withOrigin(asked, taken), httpVersion, given, moments), notes };
    });
  }

  /** A page of this machine that is not in the capture, as one that is being built, may read what it asks for. */
  #letIn(asked: Asked, { headers }: IncomingMessage, prepared: Prepared): Prepared {
    const { origin } = headers;
    if (origin === undefined || prepared.type === 'none') return prepared;
    // An origin of the capture, as itself or taken back: what was captured for it holds.
    const { addresses } = this.#staged();
    if (addresses.isCaptured(findHeader(asked.headers, 'origin') ?? '')) return prepared;
    const others = withoutHeaders(prepared.headers, /^access-control-allow-(?:origin|credentials)$/i);
    const own = ['Access-Control-Allow-Origin', origin, 'Access-Control-Allow-Credentials', 'true'];
    return { ...prepared, headers: [...others, ...own] };
  }

  #paceOf(exchange: Exchange): ReturnType<typeof paceOf> {
    const delayMs = this.#staged().preparer.changeOf(exchange)?.delayMs;
    const pace = paceOf(exchange, this.#plan.order.time);
    return delayMs === undefined ? pace : { ...pace, waitMs: delayMs };
  }

  /** Why a request is not answered; undefined where it is. */
  #refusal({ headers }: IncomingMessage, asked: Asked): string | undefined {
    const refusal = refusalOf(headers, this.#staged().addresses, this.#plan.extraHosts ?? []);
    return refusal === undefined || this.#isCapturedSo(refusal, asked) ? undefined : refusal.sentence;
  }

  /** A page that hides where its requests come from did so in the capture, too. */
  #isCapturedSo({ unlessCaptured }: Refusal, asked: Asked): boolean {
    const own = unlessCaptured ? this.#finder.look(asked)?.request.headers : undefined;
    if (own === undefined) return false;
    return findHeader(own, 'referer') === undefined && findHeader(own, 'sec-fetch-site') === 'cross-site';
  }

  #headOf(message: IncomingMessage): string {
    const heads = this.#heads.get(message.socket);
    const { 'content-length': length, 'transfer-encoding': coding } = message.headers;
    return heads?.take(message.method, length, /chunked/i.test(coding ?? '')) ?? '';
  }

  /** What is no HTTP, or is never ended, is told, too. */
  #garbled({ code }: NodeJS.ErrnoException, socket: Duplex): void {
    const head = this.#heads.get(socket)?.rest() ?? '';
    const isLate = code === 'ERR_HTTP_REQUEST_TIMEOUT';
    const sentence = isLate
      ? 'A request that never came to its end: the connection was closed.'
      : 'Something that is not HTTP/1.1 arrived: the connection was closed.';
    if (socket.writable) refuseRaw(socket, isLate ? 408 : 400, isLate ? 'Request Timeout' : 'Bad Request', sentence);
    if (head === '' && code === 'ECONNRESET') return;
    const asked: Asked = {
      method: /^[A-Z]{1,20}(?= )/.exec(head)?.[0] ?? 'GET',
      origin: undefined,
      path: '/',
      query: '',
      headers: [],
      body: new Uint8Array(),
    };
    const moments: Moments = { startedAt: Date.now(), sendMs: 0, waitMs: 0, receiveMs: 0 };
    this.#plan.onAsked(true, () => ({
      entry: rehearsedEntry(asked, '1.1', plainText(isLate ? 408 : 400, '', sentence), moments),
      notes: refusedNotes(sentence, head),
    }));
  }

  #staged() {
    if (this.#stage === undefined) throw new Error('the rehearsal does not listen yet');
    return this.#stage;
  }
}

interface Chosen {
  readonly exchange: Exchange | undefined;
  readonly prepared: Prepared;
  readonly isMissed?: true;
  readonly notes: () => AskedNotes;
}

/** What was needed to find and make a response is part of the wait for it. */
const without = ({ waitMs, receiveMs }: ReturnType<typeof paceOf>, spentMs: number): ReturnType<typeof paceOf> => ({
  waitMs: Math.max(0, waitMs - spentMs),
  receiveMs,
});

const NO_PACE = { waitMs: 0, receiveMs: 0 };
const BROKE_OFF = 'The client broke off in the middle of its request.';
const TOO_LONG = 'A payload of more than 64 MB: the connection was closed.';
const urlsOf = ({ requests }: Recording): string[] => requests.map(({ url }) => url);

const leftEarly = ({ isGone }: Gave): string[] => (isGone ? ['the client left before the end'] : []);

/** Under a plain loopback address no host was named: it is that of what was taken. */
const withOrigin = (asked: Asked, taken: Exchange | undefined): Asked =>
  asked.origin !== undefined || taken === undefined ? asked : { ...asked, origin: originOf(taken.request.url) };

const withoutHeaders = (headers: readonly string[], name: RegExp): string[] =>
  headers.filter((_, at) => !name.test(headers[at - (at % 2)] ?? ''));
