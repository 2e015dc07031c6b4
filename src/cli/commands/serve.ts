import { randomBytes } from 'node:crypto';
import { existsSync } from 'node:fs';
import { createServer, type IncomingMessage, type RequestListener, type Server, type ServerResponse } from 'node:http';
import { isIPv6 } from 'node:net';
import { hostname, networkInterfaces } from 'node:os';
import { join, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import type { ProblemAnswer } from '#core/wire';
import { endInOrder } from '#server/closing';
import { findDataFolder } from '#server/data-folder';
import { checkStorage } from '#server/db/check';
import { OWN_HEADER } from '#server/guard';
import { findPackageRoot } from '#server/package-root';
import { UsageError } from '../input';
import { print, tell } from '../output';

const KEEP_ALIVE_MS = 75_000;

export interface ServeOptions {
  readonly port?: string;
  readonly host?: string;
  readonly data?: string;
  readonly open?: true;
  readonly allowSending?: true;
}

export interface RunningApp {
  /** The address to open on this machine. */
  readonly url: string;
  /** Further addresses that it answers to, where it listens on all of this machine's. */
  readonly elsewhere: readonly string[];
  readonly close: () => Promise<void>;
}

const FIRST_PORT = 4680;
/** A busy port is stepped over, this many times. */
const PORTS_TRIED = 50;

export async function serve(files: readonly string[], options: ServeOptions): Promise<void> {
  const app = await startApp(options);
  for (const file of files) await takeIn(app.url, resolve(file));
  print(`Trazado is at ${app.url}`);
  for (const url of app.elsewhere) tell(`Others reach it at ${url}`);
  tell(`Captures are stored in ${findDataFolder()}. Ctrl+C ends it.`);
  if (options.open === true) {
    const { default: open } = await import('open');
    await open(app.url);
  }
  await closeOnSignal(app.close);
}

/** Has the app take in a file; one that cannot be read is told of, and the app runs all the same. */
export async function takeIn(url: string, path: string): Promise<void> {
  const answer = await fetch(new URL('api/captures/local', url), {
    method: 'POST',
    headers: { 'content-type': 'application/json', [OWN_HEADER]: process.env['TRAZADO_OWN'] ?? '' },
    body: JSON.stringify({ path }),
  });
  if (answer.ok) return;
  const { sentence, advice } = (await answer.json()) as ProblemAnswer;
  tell(`${path} could not be imported. ${sentence} ${advice}`);
}

/**
 * Starts the built app in this process; the port asked for is taken or refused, without one a free one is found. Throws a
 * UsageError where it cannot start, with nothing left running.
 */
export async function startApp(options: ServeOptions): Promise<RunningApp> {
  const asked = readPort(options.port);
  if (options.data !== undefined) process.env['TRAZADO_DATA'] = options.data;
  const host = options.host ?? '127.0.0.1';
  if (!isLoopback(host)) process.env['TRAZADO_HOSTS'] = namesOf(host).join(',').toLowerCase();
  if (options.allowSending === true) process.env['TRAZADO_SENDING'] = 'allowed';
  // Nobody but its user is to read what the server writes: captures hold credentials.
  process.umask(0o077);
  const trouble = checkStorage(findDataFolder());
  if (trouble !== undefined) throw new UsageError(`${trouble.sentence} ${trouble.advice}`);
  process.env['TRAZADO_OWN'] = randomBytes(24).toString('hex');
  const server = createServer(guarded(await loadHandler()));
  // Uploads of gigabytes over a slow line take longer than Node's default of five minutes.
  server.requestTimeout = 0;
  // A program that makes its next request for longer than Node's five seconds would send it into a connection that is closed by then.
  server.keepAliveTimeout = KEEP_ALIVE_MS;
  const port = await listen(server, host, asked);
  // What is to be done at a start, tidying mostly, does not wait for the first visitor.
  await fetch(new URL('api/storage', urlOf(isWildcard(host) ? '127.0.0.1' : host, port))).catch(() => undefined);
  return {
    url: urlOf(isWildcard(host) || host === '127.0.0.1' ? 'localhost' : host, port),
    elsewhere: isWildcard(host) ? addressesHere().map((address) => urlOf(address, port)) : [],
    close: async () => {
      const closed = new Promise<void>((done) => void server.close(() => done()));
      server.closeAllConnections();
      await closed;
      await endInOrder();
    },
  };
}

const isWildcard = (host: string): boolean => host === '0.0.0.0' || host === '::';
const isLoopback = (host: string): boolean => /^(?:localhost|127(?:\.\d+){3}|::1)$/i.test(host);

const urlOf = (host: string, port: number): string => `http://${inUrl(host)}:${port}/`;
/** An address of IPv6 stands in brackets (RFC 3986 3.2.2). */
const inUrl = (host: string): string => (isIPv6(host) ? `[${host}]` : host);

/** Addresses of this machine that others may reach. */
const addressesHere = (): string[] =>
  Object.values(networkInterfaces())
    .flatMap((list) => list ?? [])
    .filter(({ internal, address }) => !internal && !/^fe80/i.test(address))
    .map(({ address }) => address);

/** The names under which an address is reached: a wildcard listens on every address of this machine. */
export function namesOf(host: string): string[] {
  if (!isWildcard(host)) return [inUrl(host)];
  return [host, hostname(), ...addressesHere()].map(inUrl);
}

/** What has to be seen to before the app reads a request: what its framework would not survive, or would pass over. */
function guarded(handler: RequestListener): RequestListener {
  return (request: IncomingMessage, response: ServerResponse) => {
    response.setHeader('x-content-type-options', 'nosniff');
    const hosts = request.rawHeaders.filter((name, at) => at % 2 === 0 && name.toLowerCase() === 'host').length;
    if (hosts > 1) response.writeHead(400).end();
    else if (/^(?:TRACE|CONNECT|TRACK)$/i.test(request.method ?? ''))
      response.writeHead(405, { allow: 'GET, HEAD' }).end();
    else handler(request, response);
  };
}

async function loadHandler(): Promise<RequestListener> {
  const entry = join(findPackageRoot(), 'dist/server/entry.mjs');
  if (!existsSync(entry)) throw new UsageError('The app is not built yet: run "npm run build" in its folder.');
  process.env['ASTRO_NODE_AUTOSTART'] = 'disabled';
  process.env['ASTRO_TELEMETRY_DISABLED'] = '1';
  const { handler } = (await import(pathToFileURL(entry).href)) as { handler: RequestListener };
  return handler;
}

/** The port asked for, undefined where any will do; a UsageError for what is none. */
export function readPort(asked: string | undefined): number | undefined {
  if (asked === undefined) return undefined;
  if (!/^\d{1,5}$/.test(asked) || Number(asked) > 65_535) throw new UsageError(`"${asked}" is not a port, 0 to 65535.`);
  return Number(asked);
}

async function listen(server: Server, host: string, fixed: number | undefined): Promise<number> {
  const from = fixed ?? FIRST_PORT;
  const to = fixed === undefined ? from + PORTS_TRIED : from + 1;
  for (let port = from; port < to; port++) {
    const taken = await tryListen(server, host, port);
    if (taken !== undefined) return taken;
  }
  throw new UsageError(
    fixed === undefined ? `The ports ${from} to ${to - 1} are all busy.` : `Port ${fixed} is busy: choose another.`,
  );
}

/** Why a server cannot listen, in words; the system's own name for what is rarer. */
const LISTEN_WHY: Readonly<Record<string, string>> = {
  EACCES: 'ports below 1024 are for the system; choose a higher one',
  EADDRNOTAVAIL: 'this machine has no such address',
  ENOTFOUND: 'there is no such host',
  EAI_AGAIN: 'there is no such host',
};

/** Why a server cannot listen where it was told to, and what to do about it. */
export function listenProblem({ code }: NodeJS.ErrnoException, host: string, port: number): UsageError {
  if (code === 'EADDRINUSE') return new UsageError(`Port ${port} is busy: choose another.`);
  return new UsageError(`Cannot listen on ${host}, port ${port}: ${LISTEN_WHY[code ?? ''] ?? code}.`);
}

/** The port that the server got; undefined where it is busy. */
export function tryListen(server: Server, host: string, port: number): Promise<number | undefined> {
  return new Promise((listening, reject) => {
    const onError = (error: NodeJS.ErrnoException): void => {
      if (error.code === 'EADDRINUSE') listening(undefined);
      else reject(listenProblem(error, host, port));
    };
    server.once('error', onError);
    server.listen(port, host, () => {
      server.off('error', onError);
      const address = server.address();
      listening(typeof address === 'object' && address !== null ? address.port : port);
    });
  });
}

/** Waits for Ctrl+C or a request to end, then closes. */
export async function closeOnSignal(close: () => Promise<void>): Promise<void> {
  await new Promise<void>((done) => {
    for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => done());
  });
  await close();
  process.exit(0);
}
