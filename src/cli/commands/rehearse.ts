import { closeSync, mkdtempSync, openSync, readFileSync, renameSync, rmSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Json } from '#core/har';
import {
  type ChangedResponse,
  ChangeError,
  joinChanges,
  type LocalAddresses,
  nameDifference,
  originOf,
  readChange,
  shownOrigin,
  tellExcuse,
} from '#core/rehearse';
import type { RehearsalOrder } from '#core/wire';
import { formatPlural } from '#core/wording';
import { findPackageRoot } from '#server/package-root';
import { certify } from '#server/rehearsal/certify';
import { forwarder } from '#server/rehearsal/forward';
import { type Recording, recordingOfFile } from '#server/rehearsal/recording';
import { type AskedRecord, type Listening, RehearsalServer } from '#server/rehearsal/rehearsal-server';
import { whyNot } from '#server/why-not';
import { UsageError, withInput } from '../input';
import { print, printLines, tell } from '../output';
import { hostsOf, readGiven } from '../sending';
import { filteredIndexes } from '../where';
import { refuseSame } from '../write-file';
import { listenProblem, namesOf, readPort } from './serve';

export interface RehearseOptions {
  readonly port?: string;
  readonly host: string;
  readonly where?: string;
  readonly time: string;
  readonly asIs?: true;
  readonly misses: string;
  readonly tls?: true;
  readonly exactly?: true;
  readonly change: readonly string[];
  readonly most?: string;
  readonly save?: string;
  readonly toHost: readonly string[];
  readonly json?: true;
}

/** Runs a server that answers as a capture did, until it is ended; exit status 1 where a request fitted nothing. */
export async function rehearse(file: string, options: RehearseOptions): Promise<void> {
  if (options.save !== undefined) refuseSame(file, options.save);
  const order = orderOf(options);
  const port = readPort(options.port) ?? 0;
  const most = options.most === undefined ? undefined : Number(options.most);
  if (most !== undefined && !(Number.isInteger(most) && most > 0))
    throw new UsageError('--most takes a whole number from 1 on.');
  const folder = mkdtempSync(join(tmpdir(), 'trazado-'));
  try {
    await withInput(file, async (input) => {
      const places = options.where === undefined ? undefined : filteredIndexes(input, options.where);
      const recording = recordingOfFile(input, folder, places);
      if (recording.requests.length === 0) throw new UsageError('There is no exchange to answer with.');
      await run(recording, order, { port, host: options.host, most, options });
    });
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

interface Running {
  readonly port: number;
  readonly host: string;
  readonly most: number | undefined;
  readonly options: RehearseOptions;
}

async function run(recording: Recording, order: RehearsalOrder, { port, host, most, options }: Running): Promise<void> {
  let asked = 0;
  let missed = 0;
  let saved: SavedHar | undefined;
  let end = (): void => undefined;
  const ended = new Promise<void>((resolve) => {
    end = resolve;
  });
  const toHosts = forwardedHosts(recording, options.toHost, order.forwards);
  const server = new RehearsalServer({
    recording,
    order,
    certify,
    extraHosts: namesOf(host).map((name) => name.toLowerCase()),
    ...(order.forwards ? { forward: forwarder(originsOf(recording), { toHosts }) } : {}),
    onAsked: (isMissed, make) => {
      const record = make();
      asked++;
      if (isMissed) missed++;
      tellAsked(record, asked, options.json === true);
      saved?.add(record.entry);
      if (asked === most) end();
    },
  });
  const listening = await server.listen(port, host).catch((error: unknown) => {
    recording.close();
    throw listenProblem(error as NodeJS.ErrnoException, host, port);
  });
  try {
    saved = options.save === undefined ? undefined : new SavedHar(options.save);
  } catch (error) {
    await server.close();
    throw error;
  }
  tellBeginning(recording, listening, options);
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, end);
  await ended;
  await server.close();
  saved?.end();
  tell(`${formatPlural(asked, 'request')}, ${missed} of them not captured.`);
  if (missed > 0) process.exitCode = 1;
}

/** Where hosts are forwarded to; by a slip in a name it would be to the real one. @throws UsageError */
function forwardedHosts(
  recording: Recording,
  toHost: readonly string[],
  forwards: boolean,
): ReadonlyMap<string, string> {
  const toHosts = hostsOf(toHost);
  if (toHosts.size > 0 && !forwards) throw new UsageError('--to-host goes with --misses forward.');
  const known = new Set(
    [...originsOf(recording)].flatMap((origin) => {
      const { host, hostname, port } = new URL(origin);
      return [host, hostname, `${hostname}:${port || (origin.startsWith('https') ? 443 : 80)}`];
    }),
  );
  for (const host of toHosts.keys())
    if (!known.has(host)) throw new UsageError(`--to-host names ${host}, to which no captured request went.`);
  return toHosts;
}

const originsOf = ({ requests }: Recording): ReadonlySet<string> =>
  new Set(requests.flatMap(({ url }) => originOf(url) ?? []));

function orderOf({ time, asIs, misses, tls, exactly, change }: RehearseOptions): RehearsalOrder {
  if (misses !== '404' && misses !== 'forward') throw new UsageError('--misses takes 404 or forward.');
  return {
    time: factorOf(time),
    rewrites: asIs !== true,
    forwards: misses === 'forward',
    isSecure: tls === true,
    isExact: exactly === true,
    changes: joinChanges(change.map(changeOf)),
  };
}

function changeOf(text: string): ChangedResponse {
  const [, before = '', path] = /^(\s*#?\d+\s+body\s*=\s*)@(.*)$/s.exec(text) ?? [];
  try {
    return readChange(path === undefined ? text : before + readGiven('--change', path).toString('utf8'));
  } catch (error) {
    if (error instanceof ChangeError) throw new UsageError(`--change: ${error.message}`);
    throw error;
  }
}

function factorOf(time: string): number {
  if (time === 'recorded') return 1;
  if (time === 'none') return 0;
  const factor = Number(/^x(\d+(?:\.\d+)?)$/.exec(time)?.[1]);
  if (factor > 0 && factor <= 100) return factor;
  throw new UsageError('--time takes recorded, none, or a factor such as x2 (twice as long) or x0.5.');
}

function tellBeginning(
  { requests, mainUrl }: Recording,
  { port, addresses, certificate }: Listening,
  options: RehearseOptions,
): void {
  const page = mainUrl === undefined ? undefined : addresses.localUrl(mainUrl);
  const hosts = addresses.origins.map((origin) => `  ${shownOrigin(origin)} is at ${addresses.localOrigin(origin)}`);
  if (options.json === true) {
    print(`${JSON.stringify({ port, page, addresses: addressesOf(addresses), certificate })}\n`);
    return;
  }
  printLines([
    `${formatPlural(requests.length, 'exchange')} of ${formatPlural(addresses.origins.length, 'host')}. Ctrl+C ends it.`,
    ...(page === undefined ? [] : [`The page: ${page}`]),
    `Code may ask any of the hosts at ${options.tls === true ? 'https' : 'http'}://127.0.0.1:${port} as well.`,
    ...hosts,
  ]);
  if (certificate !== undefined) printLines(['What clients have to trust:', ...certificate.trim().split('\n')]);
}

const addressesOf = (addresses: LocalAddresses) =>
  addresses.origins.map((origin) => ({ captured: shownOrigin(origin), local: addresses.localOrigin(origin) }));

function tellAsked({ entry, notes }: AskedRecord, number: number, isJson: boolean): void {
  const { request, response } = entry as unknown as {
    readonly request: { readonly method: string; readonly url: string };
    readonly response: { readonly status: number };
  };
  const { taken, fits, verdict, sentence, differences, remarks, turn, of } = notes;
  const { method, url } = request;
  if (isJson) {
    const told = {
      number,
      method,
      url,
      status: response.status,
      exchange: taken,
      fits,
      verdict,
      sentence,
      differences,
      remarks,
      turn,
      of,
    };
    print(`${JSON.stringify(told)}\n`);
    return;
  }
  const status = response.status === 0 ? 'no response' : String(response.status);
  const from = fits === 'fits' && taken !== undefined ? ` as #${taken}` : '';
  printLines([
    `${method} ${url}: ${status}${from}. ${sentence}`,
    ...differences.slice(0, MOST_TOLD).map((difference) => {
      const excuse = tellExcuse(difference);
      return `    ${nameDifference(difference)}: ${told(difference.captured)} -> ${told(difference.asked)}${excuse === undefined ? '' : ' (does not count)'}`;
    }),
    ...(differences.length > MOST_TOLD ? [`    and ${differences.length - MOST_TOLD} more`] : []),
    ...remarks.map((remark) => `    ${remark}`),
  ]);
}

const MOST_TOLD = 12;
const told = (text: string | undefined): string =>
  text === undefined ? 'nothing' : text.length > 70 ? `${text.slice(0, 70)}…` : text;

/** What was asked as a HAR 1.2 file: written as it comes, beside its place, and moved there when it is whole. */
class SavedHar {
  readonly #out: string;
  readonly #unfinished: string;
  readonly #file: number;
  #count = 0;

  constructor(out: string) {
    this.#out = out;
    this.#unfinished = `${out}.unfinished-${process.pid}`;
    try {
      this.#file = openSync(this.#unfinished, 'w');
    } catch (error) {
      throw new UsageError(`${out} cannot be written: ${whyNot(error)}.`);
    }
    const { version } = JSON.parse(readFileSync(join(findPackageRoot(), 'package.json'), 'utf8')) as {
      version: string;
    };
    const creator = JSON.stringify({ name: 'Trazado', version });
    writeSync(this.#file, `{"log":{"version":"1.2","creator":${creator},"pages":[],"entries":[`);
  }

  add(entry: Json): void {
    writeSync(this.#file, `${this.#count++ === 0 ? '' : ','}\n${JSON.stringify(entry)}`);
  }

  end(): void {
    writeSync(this.#file, '\n]}}\n');
    closeSync(this.#file);
    renameSync(this.#unfinished, this.#out);
  }
}
