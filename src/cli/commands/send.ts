import { readFileSync } from 'node:fs';
import { readBody } from '#core/content';
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
import { type Exchange, findResponse, PHASES } from '#core/model';
import { type HeldResponse, holdAgainst, type Sameness, tellSameness, volatilePlaces } from '#core/trial';
import { formatMs, PHASE_NAME } from '#core/wording';
import { inflateWithZlib } from '#server/inflate';
import { type Place, readPlace, SEND_BOUNDS, type SendBounds } from '#server/send/bounds';
import { asResponse, heldOf } from '#server/send/held';
import { lackingPayload, type WireRequest, wireRequest } from '#server/send/message';
import { wasPublic } from '#server/send/private';
import { type Sent, sendOnce } from '#server/send/send';
import { getExchange, UsageError, withInput } from '../input';
import { print, printExactly, printJson, printLines, tell } from '../output';
import { getPreset } from './convert';

export interface SendOptions {
  readonly preset: string;
  readonly header: readonly string[];
  readonly without: readonly string[];
  readonly query: readonly string[];
  readonly body?: string;
  readonly toHost: readonly string[];
  readonly times?: string;
  readonly timeLimit?: string;
  readonly ignoreCertificate?: true;
  readonly http2?: true;
  readonly proxy?: string;
  readonly allowPrivate?: true;
  readonly json?: true;
}

/** Sends a captured request, or one from standard input, and holds the response against the captured one. */
export async function send(file: string | undefined, place: string | undefined, options: SendOptions): Promise<void> {
  const times = options.times === undefined ? 1 : Number(options.times);
  if (!Number.isInteger(times) || times < 1 || times > 20) throw new UsageError('--times takes a number from 1 to 20.');
  const preset = getPreset(options.preset);
  const captured =
    file === undefined
      ? undefined
      : await withInput(file, (input) => {
          if (place === undefined) throw new UsageError("Name an exchange's number.");
          return getExchange(input, place);
        });
  const draft = changed(captured === undefined ? fromStandardInput() : draftFromExchange(captured, preset), options);
  const lacking = lackingPayload(draft);
  if (lacking !== undefined) throw new UsageError(`${lacking} Nothing was sent: give the payload with --body @FILE.`);
  const wire = wireRequest(draft);
  if (typeof wire === 'string') throw new UsageError(wire);
  for (const warning of wire.warnings) tell(warning);
  const bounds = boundsOf(wire, captured, options);
  const trials: Sent[] = [];
  for (let count = 0; count < times; count++) trials.push(await sendOnce(wire, bounds));
  const refused = trials.find(({ refusedAddress }) => refusedAddress !== undefined)?.refusedAddress;
  if (refused !== undefined)
    throw new UsageError(
      `${wire.host} is ${refused} now, in a private network; it was ${captured?.serverAddress} in the capture. Nothing was sent: add --allow-private to send it there.`,
    );
  const last = trials.at(-1);
  if (last === undefined) throw new Error('nothing was sent');
  const measure = captured === undefined ? undefined : findResponse(captured);
  const held = trials.flatMap(({ outcome }) =>
    outcome.type === 'response' ? [heldOf(asResponse(outcome), wire.method)] : [],
  );
  const sameness =
    measure === undefined || last.outcome.type === 'none'
      ? undefined
      : holdAgainst(heldOf(measure, wire.method), held.at(-1) as HeldResponse, volatilePlaces(held));
  if (options.json === true) printJson(jsonOf(last, sameness));
  else printTrial(last, sameness);
  if (last.outcome.type === 'none' || last.outcome.broke !== undefined || sameness?.verdict === 'differs')
    process.exitCode = 1;
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
function changed(draft: Draft, { header, without, query, body }: SendOptions): Draft {
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
        ? ({ type: 'bytes', bytes: fileBytes(body.slice(1)) } as const)
        : ({ type: 'text', text: body } as const);
  return { ...draft, url: query.length === 0 ? draft.url : joinQuery(base, pieces), headers, payload };
}

function fileBytes(path: string): Uint8Array {
  try {
    return readFileSync(path);
  } catch (error) {
    const why = (error as NodeJS.ErrnoException).code === 'ENOENT' ? 'there is no such file' : 'it cannot be read';
    throw new UsageError(`--body @${path}: ${why}.`);
  }
}

/** The bounds; a host that was public in the capture and is now private is not sent to unasked. */
function boundsOf({ host, port }: WireRequest, captured: Exchange | undefined, options: SendOptions): SendBounds {
  const timeLimitS = options.timeLimit === undefined ? SEND_BOUNDS.timeLimitMs / 1000 : Number(options.timeLimit);
  if (!(timeLimitS > 0)) throw new UsageError('--time-limit takes a number of seconds.');
  const toHosts = new Map(
    options.toHost.map((one): [string, string] => {
      const at = one.indexOf('=');
      if (at < 1) throw new UsageError(`"${one}" names no place for a host: write HOST=ADDRESS or HOST=ADDRESS:PORT.`);
      return [one.slice(0, at).toLowerCase(), one.slice(at + 1)];
    }),
  );
  const isMapped = toHosts.has(host) || toHosts.has(`${host}:${port}`);
  return {
    ...SEND_BOUNDS,
    timeLimitMs: timeLimitS * 1000,
    toHosts,
    ignoresCertificate: options.ignoreCertificate === true,
    wantsHttp2: options.http2 === true,
    ...(options.proxy === undefined ? {} : { proxy: proxyOf(options.proxy) }),
    refusesPrivate: !isMapped && wasPublic(captured) && options.allowPrivate !== true,
  };
}

/** The place of a proxy, as curl takes it: its port is 1080 where none is given (curl manual, --proxy). */
function proxyOf(given: string): Place {
  const bare = given.replace(/^http:\/\//i, '').replace(/\/+$/, '');
  if (!/^(?:\[[0-9a-f:.]+\]|[^\s:/@[\]]+)(?::\d{1,5})?$/i.test(bare))
    throw new UsageError(`--proxy takes HOST:PORT of an HTTP proxy, not "${given}".`);
  return readPlace(bare, 1080);
}

function printTrial({ outcome, phases, address }: Sent, sameness: Sameness | undefined): void {
  const times = PHASES.flatMap((name) => {
    const ms = phases[name];
    return ms === undefined ? [] : [`${PHASE_NAME[name]} ${formatMs(ms)}`];
  });
  if (outcome.type === 'none') {
    tell(outcome.sentence);
    return;
  }
  printLines([
    `${outcome.protocol} ${outcome.status} ${outcome.statusText}`.trim(),
    ...outcome.headers.map(({ name, value }) => `${name}: ${value}`),
  ]);
  print('\n');
  const { text, decoded } = readBody(asResponse(outcome), inflateWithZlib);
  if (text !== undefined) printExactly(text);
  else if (!process.stdout.isTTY) printExactly(decoded?.bytes ?? new Uint8Array());
  else if (decoded !== undefined) tell(`${decoded.bytes.length} bytes that are no text.`);
  if (text !== undefined && !text.endsWith('\n')) print('\n');
  tell(`Sent to ${address ?? 'an unknown address'}: ${times.join(', ')}.`);
  if (outcome.broke !== undefined) tell(outcome.broke.sentence);
  else if (outcome.isCut) tell('The body is cut: only 50 MB of it are kept.');
  if (sameness === undefined) return;
  tell(tellSameness(sameness, outcome.status));
  for (const { place, was, is, changes } of sameness.differences.slice(0, MOST_TOLD)) {
    const why = changes === undefined ? '' : changes === 'known' ? ' (changes by itself)' : ' (may change by itself)';
    tell(`  ${place}: ${short(was)} -> ${short(is)}${why}`);
  }
  const more = sameness.differences.length - MOST_TOLD;
  if (more > 0) tell(`  and ${more} more`);
}

const MOST_TOLD = 20;
const short = (text: string | undefined): string =>
  text === undefined ? 'nothing' : text.length > 60 ? `${text.slice(0, 60)}…` : text;

function jsonOf({ outcome, phases, address }: Sent, sameness: Sameness | undefined): unknown {
  if (outcome.type === 'none')
    return { outcome: 'none', reason: outcome.reason, sentence: outcome.sentence, phases, address };
  const { status, statusText, protocol, headers, isCut } = outcome;
  const { text, decoded } = readBody(asResponse(outcome), inflateWithZlib);
  return {
    outcome: 'response',
    status,
    statusText,
    protocol,
    headers,
    body: { text, byteLength: decoded?.bytes.length, isCut },
    phases,
    address,
    ...(sameness === undefined
      ? {}
      : { verdict: sameness.verdict, sentence: tellSameness(sameness, status), differences: sameness.differences }),
  };
}
