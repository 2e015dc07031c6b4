import { existsSync } from 'node:fs';
import { createServer, type RequestListener, type Server } from 'node:http';
import { hostname, networkInterfaces } from 'node:os';
import { join, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import type { ProblemAnswer } from '#core/wire';
import { findPackageRoot } from '#server/package-root';
import { findDataFolder } from '#server/trazado';
import { UsageError } from '../input';
import { print, tell } from '../output';

export interface ServeOptions {
  readonly port?: string;
  readonly host?: string;
  readonly data?: string;
  readonly open?: true;
}

export interface RunningApp {
  readonly url: string;
  readonly close: () => Promise<void>;
}

const FIRST_PORT = 4680;
/** A busy port is stepped over, this many times. */
const PORTS_TRIED = 50;

export async function serve(files: readonly string[], options: ServeOptions): Promise<void> {
  const app = await startApp(options);
  for (const file of files) await takeIn(app.url, resolve(file));
  print(`Trazado is at ${app.url}`);
  tell(`Captures are kept in ${findDataFolder()}. Ctrl+C ends it.`);
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
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ path }),
  });
  if (answer.ok) return;
  const { sentence, advice } = (await answer.json()) as ProblemAnswer;
  tell(`${path} was not taken in. ${sentence} ${advice}`);
}

/** Starts the built app in this process; the port asked for is taken or refused, without one a free one is found. */
export async function startApp(options: ServeOptions): Promise<RunningApp> {
  if (options.data !== undefined) process.env['TRAZADO_DATA'] = options.data;
  const host = options.host ?? '127.0.0.1';
  if (host !== '127.0.0.1') process.env['TRAZADO_HOSTS'] = namesOf(host).join(',');
  const server = createServer(await loadHandler());
  // Uploads of gigabytes over a slow line take longer than Node's default of five minutes.
  server.requestTimeout = 0;
  const port = await listen(server, host, options.port);
  return {
    url: `http://${host === '127.0.0.1' ? 'localhost' : host}:${port}/`,
    close: () =>
      new Promise((done) => {
        server.close(() => done());
        server.closeAllConnections();
      }),
  };
}

/** The names under which an address is reached: a wildcard listens on every address of this machine. */
function namesOf(host: string): string[] {
  if (host !== '0.0.0.0' && host !== '::') return [host];
  const addresses = Object.values(networkInterfaces()).flatMap((list) => list ?? []);
  return [hostname(), ...addresses.map(({ address, family }) => (family === 'IPv6' ? `[${address}]` : address))];
}

async function loadHandler(): Promise<RequestListener> {
  const entry = join(findPackageRoot(), 'dist/server/entry.mjs');
  if (!existsSync(entry)) throw new UsageError('The app is not built yet: run "npm run build" in its folder.');
  process.env['ASTRO_NODE_AUTOSTART'] = 'disabled';
  process.env['ASTRO_TELEMETRY_DISABLED'] = '1';
  const { handler } = (await import(pathToFileURL(entry).href)) as { handler: RequestListener };
  return handler;
}

async function listen(server: Server, host: string, asked: string | undefined): Promise<number> {
  const fixed = asked === undefined ? undefined : Number(asked);
  if (fixed !== undefined && !(Number.isInteger(fixed) && fixed >= 0 && fixed < 65_536)) {
    throw new UsageError(`"${asked}" is not a port, 0 to 65535.`);
  }
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

/** The port that the server got; undefined where it is busy. */
export function tryListen(server: Server, host: string, port: number): Promise<number | undefined> {
  return new Promise((listening, reject) => {
    const onError = (error: NodeJS.ErrnoException): void => {
      if (error.code === 'EADDRINUSE') listening(undefined);
      else reject(new UsageError(`It cannot listen on ${host}:${port}: ${error.code}.`));
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
