import { readBody } from '#core/content';
import { type Exchange, findResponse, PHASES } from '#core/model';
import { type HeldResponse, holdAgainst, type Sameness, tellSameness, volatilePlaces } from '#core/trial';
import { formatMs, PHASE_NAME } from '#core/wording';
import { inflateWithZlib } from '#server/inflate';
import { SEND_BOUNDS, type SendBounds } from '#server/send/bounds';
import { asResponse, heldOf } from '#server/send/held';
import type { WireRequest } from '#server/send/message';
import { wasPublic } from '#server/send/private';
import { remarksOn } from '#server/send/remarks';
import { type Sent, sendOnce } from '#server/send/send';
import { UsageError } from '../input';
import { print, printExactly, printJson, printLines, tell } from '../output';
import { hostsFor, proxyOf, type RequestOptions, readRequest, wireOf } from '../sending';

export interface SendOptions extends RequestOptions {
  readonly times?: string;
  readonly json?: true;
}

/** Sends a captured request, or one from standard input, and holds the response against the captured one. */
export async function send(file: string | undefined, place: string | undefined, options: SendOptions): Promise<void> {
  const times = options.times === undefined ? 1 : Number(options.times);
  if (!Number.isInteger(times) || times < 1 || times > 20) throw new UsageError('--times takes a number from 1 to 20.');
  const { draft, captured } = await readRequest(file, place, options);
  const wire = wireOf(draft);
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

/** The bounds; a host that was public in the capture and is now private is not sent to unasked. */
function boundsOf(wire: WireRequest, captured: Exchange | undefined, options: SendOptions): SendBounds {
  const timeLimitS = options.timeLimit === undefined ? SEND_BOUNDS.timeLimitMs / 1000 : Number(options.timeLimit);
  if (!(timeLimitS > 0)) throw new UsageError('--time-limit takes a number of seconds.');
  const toHosts = hostsFor(options.toHost, wire);
  return {
    ...SEND_BOUNDS,
    timeLimitMs: timeLimitS * 1000,
    toHosts,
    ignoresCertificate: options.ignoreCertificate === true,
    wantsHttp2: options.http2 === true,
    ...(options.proxy === undefined ? {} : { proxy: proxyOf(options.proxy) }),
    refusesPrivate: toHosts.size === 0 && wasPublic(captured) && options.allowPrivate !== true,
  };
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
  for (const remark of remarksOn(outcome)) tell(remark);
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
