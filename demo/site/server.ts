import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import { createSecureServer } from 'node:http2';
import { createServer as createTlsServer } from 'node:https';
import type { AddressInfo, Server, Socket } from 'node:net';
import { brotliCompressSync, constants, gzipSync } from 'node:zlib';
import { WebSocketServer } from 'ws';
import { answerApi } from './api';
import { getCertificate } from './certificate';
import { answerLive, bedMessage } from './live';
import { answerCounters, answerFonts, answerMaps } from './outsiders';
import type { Handler, Release, SiteAnswer, SiteRequest } from './types';
import { answerPhotos, answerWeb } from './web';

const HANDLERS: Readonly<Record<string, Handler>> = {
  'www.cumbrera.example': answerWeb,
  'img.cumbrera.example': answerPhotos,
  'api.cumbrera.example': answerApi,
  'live.cumbrera.example': answerLive,
  'type.letterpile.example': answerFonts,
  'stats.tallyfox.example': answerCounters,
  'sky.topolines.example': answerMaps,
};
/** Hosts that only speak HTTP/1.1: six connections each, and requests that queue for them. */
const OLD_HOSTS = ['img.cumbrera.example', 'live.cumbrera.example'] as const;
const MODERN_HOSTS = [
  'cumbrera.example',
  'www.cumbrera.example',
  'api.cumbrera.example',
  'type.letterpile.example',
  'stats.tallyfox.example',
  'sky.topolines.example',
] as const;

/** One request that reached the site, as its own log has it. */
export interface LoggedRequest {
  readonly at: number;
  readonly method: string;
  readonly url: string;
  readonly status: number;
}

export interface RunningSite {
  /** Arguments with which Chromium finds the site's hosts here and trusts its certificate. */
  readonly chromiumArgs: readonly string[];
  /** Lines of a curl config that bring the site's hosts here. */
  readonly curlConfig: string;
  /** Where each of its hosts is to be sent: "host:port" with the address and port that it runs at. */
  readonly toHosts: ReadonlyMap<string, string>;
  /** The certificate that it shows, a file. */
  readonly certPath: string;
  readonly requests: readonly LoggedRequest[];
  release: Release;
  readonly close: () => Promise<void>;
}

const MAX_BODY_BYTES = 5_000_000;
const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

/** What a site answers, where that is not Cumbrera's. */
export interface SiteOptions {
  readonly handlers?: Readonly<Record<string, Handler>>;
  /** Hosts that only speak HTTP/1.1: six connections each. */
  readonly oldHosts?: readonly string[];
  /** Rules of Chromium's resolver that come before the site's own. */
  readonly rules?: readonly string[];
}

/** Starts the stand-in site on free loopback ports: plain http, https with HTTP/2, https with HTTP/1.1 only. */
export async function startSite(
  folder: string,
  { handlers = HANDLERS, oldHosts = OLD_HOSTS, rules = [] }: SiteOptions = {},
): Promise<RunningSite> {
  const { key, cert, certPath, publicKeyHash } = await getCertificate(folder);
  const requests: LoggedRequest[] = [];
  const site: { release: Release } = { release: 'first' };
  const respond = (message: IncomingMessage, response: ServerResponse): void => {
    const answering = (request: SiteRequest): SiteAnswer | Promise<SiteAnswer> =>
      handlers[request.host]?.(request) ?? { status: 404, body: 'no such host' };
    handle(message, response, site.release, requests, answering).catch(() => message.socket.destroy());
  };
  const plain = createServer((message, response) => {
    requests.push({ at: Date.now(), method: 'GET', url: `http://${hostOf(message)}${message.url}`, status: 301 });
    const host = hostOf(message).replace(/^cumbrera/, 'www.cumbrera');
    response.writeHead(301, { location: `https://${host}${message.url}`, 'cache-control': 'max-age=3600' }).end();
  });
  // HTTP/2's compatibility requests and answers are used like those of HTTP/1.1.
  const modern = createSecureServer({ key, cert, allowHTTP1: true }, (message, response) =>
    respond(message as unknown as IncomingMessage, response as unknown as ServerResponse),
  );
  const old = createTlsServer({ key, cert }, respond);
  openSockets(old, requests);
  const ports = { plain: await listen(plain), modern: await listen(modern), old: await listen(old) };
  return {
    chromiumArgs: [
      `--host-resolver-rules=${[...rules, ...hostRules(ports, oldHosts)].join(',')}`,
      `--ignore-certificate-errors-spki-list=${publicKeyHash}`,
    ],
    curlConfig: curlConfig(ports, certPath),
    toHosts: toHosts(ports, oldHosts),
    certPath,
    requests,
    get release() {
      return site.release;
    },
    set release(next: Release) {
      site.release = next;
    },
    close: async () => {
      await Promise.all([plain, modern, old].map(stop));
    },
  };
}

interface Ports {
  readonly plain: number;
  readonly modern: number;
  readonly old: number;
}

const hostRules = ({ plain, modern, old }: Ports, oldHosts: readonly string[]): string[] => [
  ...oldHosts.map((host) => `MAP ${host}:443 127.0.0.1:${old}`),
  `MAP *:80 127.0.0.1:${plain}`,
  `MAP *:443 127.0.0.1:${modern}`,
];

const toHosts = ({ plain, modern, old }: Ports, oldHosts: readonly string[]): ReadonlyMap<string, string> =>
  new Map(
    [...oldHosts, ...MODERN_HOSTS].flatMap((host): [string, string][] => [
      [`${host}:80`, `127.0.0.1:${plain}`],
      [`${host}:443`, `127.0.0.1:${oldHosts.includes(host) ? old : modern}`],
    ]),
  );

const curlConfig = ({ plain, modern, old }: Ports, certPath: string): string =>
  [
    ...OLD_HOSTS.map((host) => `connect-to = "${host}:443:127.0.0.1:${old}"`),
    `connect-to = ":80:127.0.0.1:${plain}"`,
    `connect-to = ":443:127.0.0.1:${modern}"`,
    `cacert = "${certPath}"`,
    '',
  ].join('\n');

const sockets = new WeakMap<object, Set<Socket>>();

function listen(server: Server | ReturnType<typeof createSecureServer>): Promise<number> {
  const open = new Set<Socket>();
  sockets.set(server, open);
  for (const event of ['connection', 'secureConnection']) {
    server.on(event, (socket: Socket) => {
      open.add(socket);
      socket.on('close', () => open.delete(socket));
      socket.on('error', () => open.delete(socket));
    });
  }
  return new Promise((resolve) => server.listen(0, '127.0.0.1', () => resolve((server.address() as AddressInfo).port)));
}

function stop(server: Server | ReturnType<typeof createSecureServer>): Promise<void> {
  return new Promise((resolve) => {
    server.close(() => resolve());
    for (const socket of sockets.get(server) ?? []) socket.destroy();
  });
}

const hostOf = (message: IncomingMessage): string =>
  String(message.headers[':authority'] ?? message.headers.host ?? '').replace(/:\d+$/, '');

async function readRequest(message: IncomingMessage, release: Release): Promise<SiteRequest> {
  const chunks: Buffer[] = [];
  let length = 0;
  for await (const chunk of message as AsyncIterable<Buffer>) {
    length += chunk.length;
    if (length > MAX_BODY_BYTES) throw new Error('too long');
    chunks.push(chunk);
  }
  const url = new URL(message.url ?? '/', `https://${hostOf(message)}`);
  const headers = message.headers as Record<string, string | undefined>;
  const rest = { query: url.searchParams, headers, body: Buffer.concat(chunks), release };
  return { method: message.method ?? 'GET', host: hostOf(message), path: url.pathname, ...rest };
}

async function handle(
  message: IncomingMessage,
  response: ServerResponse,
  release: Release,
  requests: LoggedRequest[],
  answering: Handler,
): Promise<void> {
  const at = Date.now();
  const request = await readRequest(message, release);
  const answer = await answering(request);
  requests.push({
    at,
    method: request.method,
    url: `https://${request.host}${message.url}`,
    status: answer.status ?? 200,
  });
  await pause(answer.thinkMs ?? 5);
  if (answer.instead !== undefined) {
    answer.instead(message.socket);
    return;
  }
  await send(request, answer, response);
}

async function send(request: SiteRequest, answer: SiteAnswer, response: ServerResponse): Promise<void> {
  const { body, coding } = compress(request, answer);
  response.statusCode = answer.status ?? 200;
  for (const [name, value] of Object.entries(answer.headers ?? {}))
    response.setHeader(name, value as string | string[]);
  response.setHeader('date', new Date().toUTCString());
  if (coding !== undefined) {
    response.setHeader('content-encoding', coding);
    response.appendHeader?.('vary', 'Accept-Encoding');
  }
  if (answer.events !== undefined) {
    await sendEvents(answer.events, response);
    return;
  }
  if (body.length > 0) response.setHeader('content-length', body.length);
  if (answer.breaksOff === true) {
    response.write(body.subarray(0, body.length / 2));
    await pause(BREAK_OFF_MS);
    response.destroy();
    return;
  }
  if (request.method === 'HEAD' || body.length === 0) {
    response.end();
    return;
  }
  if (answer.sendMs !== undefined) await sendSlowly(body, answer.sendMs, response);
  else response.end(body);
}

const LEAST_COMPRESSED_BYTES = 200;

function compress(request: SiteRequest, answer: SiteAnswer): { body: Buffer; coding: string | undefined } {
  const body = Buffer.from(answer.body ?? '');
  const accepted = request.headers['accept-encoding'] ?? '';
  if (answer.compress === undefined || answer.compress === false || body.length < LEAST_COMPRESSED_BYTES)
    return { body, coding: undefined };
  if (answer.compress === true && /\bbr\b/.test(accepted)) {
    const params = { [constants.BROTLI_PARAM_QUALITY]: 5 };
    return { body: brotliCompressSync(body, { params }), coding: 'br' };
  }
  return /\bgzip\b/.test(accepted) ? { body: gzipSync(body), coding: 'gzip' } : { body, coding: undefined };
}

/** Long enough for what was sent to have arrived. */
const BREAK_OFF_MS = 60;
const PIECES = 10;

async function sendSlowly(body: Buffer, sendMs: number, response: ServerResponse): Promise<void> {
  const step = Math.ceil(body.length / PIECES);
  for (let at = 0; at < body.length && !response.destroyed; at += step) {
    response.write(body.subarray(at, at + step));
    await pause(sendMs / PIECES);
  }
  response.end();
}

async function sendEvents(events: NonNullable<SiteAnswer['events']>, response: ServerResponse): Promise<void> {
  response.flushHeaders();
  for (let count = 1; !response.destroyed && !response.writableEnded; count++) {
    response.write(events.text(count));
    await pause(events.everyMs);
  }
}

/** The bed counter: says how many beds are left, and answers what it is asked. */
function openSockets(server: Server, requests: LoggedRequest[]): void {
  const counter = new WebSocketServer({ server: server as never, path: '/beds' });
  counter.on('connection', (socket, message) => {
    requests.push({ at: Date.now(), method: 'GET', url: `wss://${hostOf(message)}${message.url}`, status: 101 });
    let count = 0;
    const timer = setInterval(() => {
      count++;
      socket.send(bedMessage('alba-norte', count));
    }, 300);
    socket.on('message', (data) => socket.send(JSON.stringify({ watching: String(data) })));
    socket.on('close', () => clearInterval(timer));
  });
}
