import { readFileSync } from 'node:fs';
import {
  type Draft,
  draftFromExchange,
  guessSource,
  joinQuery,
  readBack,
  readPiece,
  splitQuery,
  writePiece,
} from '#core/convert';
import { isNetworkPlace } from '#core/http';
import type { Exchange } from '#core/model';
import { type KeptDraft, keptFrom, type SendWay } from '#core/sheet';
import type { RunResult, RunStep } from '#core/wire';
import { ServerProblem } from '#server/problem';
import type { RunContext } from '#server/runs/context';
import { Halt } from '#server/runs/halt';
import { type Heard, Sender, WouldBePrivate } from '#server/runs/sender';
import { type Place, readPlace } from '#server/send/bounds';
import { lackingPayload, type WireRequest, wireRequest } from '#server/send/message';
import { SAFE } from '#server/send/trial';
import { getPreset } from './commands/convert';
import { getExchange, UsageError, withInput } from './input';
import { tell } from './output';

/** What can be said of a request that is sent, whichever command sends it. */
export interface RequestOptions {
  readonly preset: string;
  readonly header: readonly string[];
  readonly without: readonly string[];
  readonly query: readonly string[];
  readonly body?: string;
  readonly toHost: readonly string[];
  readonly timeLimit?: string;
  readonly ignoreCertificate?: true;
  readonly http2?: true;
  readonly proxy?: string;
  readonly allowPrivate?: true;
}

/** The request to be sent: a captured one, or one from standard input, with what was asked for changed in it. */
export async function readRequest(
  file: string | undefined,
  place: string | undefined,
  options: RequestOptions,
): Promise<{ readonly draft: Draft; readonly captured: Exchange | undefined }> {
  const preset = getPreset(options.preset);
  const captured =
    file === undefined
      ? undefined
      : await withInput(file, (input) => {
          if (place === undefined) throw new UsageError("Name an exchange's number.");
          return getExchange(input, place);
        });
  return {
    draft: changed(captured === undefined ? fromStandardInput() : draftFromExchange(captured, preset), options),
    captured,
  };
}

/** What goes on the wire; a UsageError where that is nothing. */
export function wireOf(draft: Draft): WireRequest {
  const lacking = lackingPayload(draft);
  if (lacking !== undefined) throw new UsageError(`${lacking} Nothing was sent: give the payload with --body @FILE.`);
  const wire = wireRequest(draft);
  if (typeof wire === 'string') throw new UsageError(wire);
  return wire;
}

/** Where hosts are sent to, as --to-host gives them. */
export function hostsOf(toHost: readonly string[]): ReadonlyMap<string, string> {
  return new Map(
    toHost.map((one): [string, string] => {
      const at = one.indexOf('=');
      const place = one.slice(at + 1);
      if (at < 1 || !isNetworkPlace(place))
        throw new UsageError(`"${one}" names no place for a host: write HOST=ADDRESS or HOST=ADDRESS:PORT.`);
      return [one.slice(0, at).toLowerCase(), place];
    }),
  );
}

/** The same for a request, of whose host one of them is: by a slip it would go to its own. @throws UsageError */
export function hostsFor(toHost: readonly string[], { host, port }: WireRequest): ReadonlyMap<string, string> {
  const hosts = hostsOf(toHost);
  if (hosts.size > 0 && !hosts.has(host.toLowerCase()) && !hosts.has(`${host}:${port}`.toLowerCase()))
    throw new UsageError(
      `--to-host names ${[...hosts.keys()].join(', ')}, and the request goes to ${host}: nothing was sent.`,
    );
  return hosts;
}

function fromStandardInput(): Draft {
  const text = readFileSync(0, 'utf8');
  const source = guessSource(text);
  const [draft, ...more] = source === undefined ? [] : readBack(text, source).drafts;
  if (draft === undefined) throw new UsageError('No request found in the input.');
  if (more.length > 0) throw new UsageError(`The input has ${more.length + 1} requests: give one at a time.`);
  return { ...draft, variables: draft.variables.map(fromEnvironment) };
}

/** A variable that a command reads from the environment has its value from there here, too. */
function fromEnvironment(variable: Draft['variables'][number]): Draft['variables'][number] {
  if (!variable.isSecret || variable.value !== '') return variable;
  const value = process.env[variable.name];
  if (value !== undefined) return { ...variable, value };
  throw new UsageError(`${variable.name} is read from the environment, which does not have it: set it and send again.`);
}

/** The draft with what was asked for changed in it. */
function changed(draft: Draft, { header, without, query, body }: RequestOptions): Draft {
  const given = header.map((line) => {
    const [, name = '', value = ''] = /^([^:]+):\s*(.*)$/s.exec(line) ?? [];
    if (name === '') throw new UsageError(`"${line}" is no header: write "Name: value".`);
    return { name, value, role: 'own', kept: true, reason: '' } as const;
  });
  const gone = new Set([...without, ...given.map(({ name }) => name)].map((name) => name.toLowerCase()));
  const missing = without.filter((name) => !draft.headers.some((one) => one.name.toLowerCase() === name.toLowerCase()));
  if (missing.length > 0) throw new UsageError(`The request has no header ${missing.join(', ')}.`);
  const headers = [...draft.headers.filter(({ name }) => !gone.has(name.toLowerCase())), ...given];
  let { base, pieces } = splitQuery(draft.url);
  for (const one of query) {
    const { name, value } = readPiece(one);
    const isIt = (piece: string): boolean => readPiece(piece).name === name;
    const piece = writePiece(name, value);
    pieces = pieces.some(isIt) ? pieces.map((other) => (isIt(other) ? piece : other)) : [...pieces, piece];
  }
  const payload =
    body === undefined
      ? draft.payload
      : body.startsWith('@')
        ? ({ type: 'bytes', bytes: readGiven('--body', body.slice(1)) } as const)
        : ({ type: 'text', text: body } as const);
  return { ...draft, url: query.length === 0 ? draft.url : joinQuery(base, pieces), headers, payload };
}

/** A file that an option names, as in --body @FILE. */
export function readGiven(option: string, path: string): Buffer {
  try {
    return readFileSync(path);
  } catch (error) {
    const why = (error as NodeJS.ErrnoException).code === 'ENOENT' ? 'there is no such file' : 'it cannot be read';
    throw new UsageError(`${option} @${path}: ${why}.`);
  }
}

/** The place of a proxy, as curl takes it: its port is 1080 where none is given (curl manual, --proxy). */
export function proxyOf(given: string): Place {
  const bare = given.replace(/^http:\/\//i, '').replace(/\/+$/, '');
  if (!isNetworkPlace(bare)) throw new UsageError(`--proxy takes HOST:PORT of an HTTP proxy, not "${given}".`);
  return readPlace(bare, 1080);
}

export interface RunOptions extends RequestOptions {
  readonly unsafe?: true;
}

/**
 * What a run of the command line goes on: nothing of it is kept but in memory.
 * @returns the context, and what the run came to
 */
export function runContext(
  { draft, captured }: { readonly draft: Draft; readonly captured: Exchange | undefined },
  options: RunOptions,
  onStep: (step: Omit<RunStep, 'number' | 'sentAt'>, heard: Heard) => void,
): { readonly context: RunContext; readonly end: () => { readonly result: RunResult; readonly sentence: string } } {
  const wire = wireOf(draft);
  if (options.unsafe !== true && !SAFE.test(wire.method))
    throw new UsageError(
      `${wire.method} may change something at ${wire.authority}, and would be sent many times: add --unsafe to do that.`,
    );
  const kept: KeptDraft = { ...keptFrom('draft', 'draft', draft, undefined), way: wayOf(wire, options) };
  let known: { result: RunResult; sentence: string } = { result: {}, sentence: '' };
  const leave = {
    private: options.allowPrivate === true,
    ...(options.ignoreCertificate === true ? { certificateOf: wire.host } : {}),
  };
  const context: RunContext = {
    kept,
    captured,
    sender: new Sender({ kept, captured, leave, halt: new Halt(), onWait: tell }),
    result: {},
    sent: 0,
    stored: () => undefined,
    keep: (heard, step, result, sentence) => {
      known = { result, sentence };
      onStep(step, heard);
      return Promise.resolve();
    },
    know: (result, sentence) => {
      known = { result, sentence };
      return Promise.resolve();
    },
  };
  return { context, end: () => known };
}

function wayOf(wire: WireRequest, { toHost, proxy, http2, timeLimit }: RequestOptions): SendWay {
  const { host, port } = wire;
  const hosts = hostsFor(toHost, wire);
  const to = hosts.get(`${host}:${port}`.toLowerCase()) ?? hosts.get(host.toLowerCase());
  const seconds = timeLimit === undefined ? undefined : Number(timeLimit);
  if (seconds !== undefined && !(seconds > 0)) throw new UsageError('--time-limit takes a number of seconds.');
  return {
    ...(to === undefined ? {} : { toHost: to }),
    ...(proxy === undefined ? {} : { proxy: writtenPlace(proxyOf(proxy)) }),
    ...(http2 === true ? { wantsHttp2: true } : {}),
    ...(seconds === undefined ? {} : { timeLimitS: seconds }),
  };
}

const writtenPlace = ({ host, port }: Place): string => `${host.includes(':') ? `[${host}]` : host}:${port}`;

/** Runs what the server runs, too; what it refuses is the user's to correct. */
export async function running<T>(run: () => T | Promise<T>): Promise<T> {
  try {
    return await run();
  } catch (error) {
    if (error instanceof ServerProblem) throw new UsageError(error.sentence);
    if (error instanceof WouldBePrivate)
      throw new UsageError(`${error.message.replace(/\.$/, '')}: add --allow-private to send it there.`);
    throw error;
  }
}
