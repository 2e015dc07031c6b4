import { createHash } from 'node:crypto';
import { readBody } from '#core/content';
import { changesOf, type Draft, draftFromExchange, fillIn } from '#core/convert';
import { isNetworkPlace } from '#core/http';
import { type Exchange, findHeader, findLines, findResponse } from '#core/model';
import {
  cookieChanges,
  type KeptDraft,
  type PackedKeptDraft,
  packKept,
  type SendWay,
  type SharedVariable,
  takeValue,
  unpackKept,
} from '#core/sheet';
import {
  followsFrom,
  type HeldResponse,
  holdAgainst,
  readPasted,
  requestChanges,
  tellSameness,
  volatilePlaces,
} from '#core/trial';
import type { Held, Measure, SendLeave, SentSheet, Trial, TrialAnswer, TrialNotes } from '#core/wire';
import type { Connection } from '../db/connection';
import { readVariables, writeVariables } from '../db/drafts';
import { addTrial, findSent, listTrials, sameTrials } from '../db/trials';
import { getExchange } from '../dossier';
import { inflateWithZlib } from '../inflate';
import { ServerProblem } from '../problem';
import { readPlace, SEND_BOUNDS, type SendBounds } from './bounds';
import { entryOf } from './entry';
import type { CameBack } from './heard';
import { asResponse, heldOf } from './held';
import { lackingPayload, type WireRequest, wireRequest } from './message';
import { ownPlaces } from './own-places';
import { wasPublic } from './private';
import { remarksOn } from './remarks';
import { type Sent, sendOnce } from './send';

/** Methods that change nothing (RFC 9110 9.2.1). */
export const SAFE = /^(?:GET|HEAD|OPTIONS|TRACE)$/;

export interface TrialOrder {
  readonly captureId: string;
  readonly kept: KeptDraft;
  readonly leave: SendLeave;
  readonly signal: AbortSignal;
  readonly onBytes?: (receivedBytes: number) => void;
}

/** How writes are done: they wait their turn. */
type Write = <T>(run: (connection: Connection) => T) => Promise<T>;

/** Sends a draft once, as its sheet says, and keeps what came back; or says what has to be allowed first. */
export async function tryDraft(connection: Connection, write: Write, order: TrialOrder): Promise<TrialAnswer> {
  const { captureId, kept, leave } = order;
  const wire = sendable(kept.draft);
  checkWay(kept.way);
  if (leave.unsafe !== true && !SAFE.test(wire.method)) {
    const sentence = `${wire.method} may change something at ${placeOf(wire, kept.way)}: it would be sent there now, as the sheet says.`;
    return { type: 'question', question: { about: 'unsafe', sentence } };
  }
  const captured = kept.exchange === undefined ? undefined : getExchange(connection, captureId, kept.exchange);
  const sentAt = Date.now();
  const sent = await sendOnce(wire, boundsOf(wire, captured, order));
  if (sent.refusedAddress !== undefined) {
    const sentence = `${wire.host} is ${sent.refusedAddress} now, in a private network; it was ${captured?.serverAddress} in the capture. Nothing was sent.`;
    return { type: 'question', question: { about: 'private', sentence } };
  }
  const sheet = { ...packKept(kept).sheet, variables: kept.draft.variables };
  const wireHash = hashOf(wire);
  const notes = notesOf(connection, kept, captured, { wire, sent, wireHash, sentAt });
  const trial = { entry: entryOf(wire, sent, sentAt), sentAt, sheet, wireHash, notes };
  const { number, dropped, taken } = await write((writing) => ({
    ...addTrial(writing, { id: kept.id, name: kept.name, captureId }, trial),
    taken: takeVariables(writing, captureId, kept.id, sent),
  }));
  return { type: 'sent', trial: getTrial(connection, kept.id, number), dropped, ...taken };
}

/** Gives the variables that are taken from a draft's response the values that it has now. */
function takeVariables(
  connection: Connection,
  captureId: string,
  draftId: string,
  { outcome }: Sent,
): { readonly variables?: readonly SharedVariable[]; readonly missing: readonly string[] } {
  // What failed gives nothing.
  if (outcome.type === 'none' || outcome.status >= FIRST_FAILED) return { missing: [] };
  const { text } = readBody(asResponse(outcome), inflateWithZlib);
  const response = { headers: outcome.headers, text };
  const missing: string[] = [];
  const before = readVariables(connection, captureId);
  const after = before.map((variable): SharedVariable => {
    const { takenFrom, name, value } = variable;
    if (takenFrom?.draft !== draftId) return variable;
    const taken = takeValue(response, takenFrom);
    if (taken === undefined) missing.push(name);
    return taken === undefined || taken === value ? variable : { ...variable, value: taken };
  });
  if (after.every((variable, at) => variable === before[at])) return { missing };
  writeVariables(connection, captureId, after);
  return { variables: after, missing };
}

/** Statuses from here on say that the request failed (RFC 9110 15.5). */
const FIRST_FAILED = 400;

function getTrial(connection: Connection, draftId: string, number: number): Trial {
  const trial = listTrials(connection, draftId).find((one) => one.number === number);
  if (trial === undefined)
    throw new ServerProblem('not-found', `There is no trial ${number}.`, 'Send the draft again.');
  return trial;
}

/** The request that a draft comes to; a problem where it cannot be sent. */
export function sendable(draft: Draft): WireRequest {
  const lacking = lackingPayload(draft);
  if (lacking !== undefined)
    throw new ServerProblem(
      'invalid-input',
      `${lacking} Nothing was sent.`,
      'Write the payload on the sheet, or strike it.',
    );
  const wire = wireRequest(draft);
  if (typeof wire === 'string')
    throw new ServerProblem('invalid-input', `${wire} Nothing was sent.`, 'Correct the address on the sheet.');
  return wire;
}

/** @throws ServerProblem where a draft is to go to what is no place: to go to its own host instead is what nobody meant */
export function checkWay({ toHost, proxy }: SendWay = {}): void {
  for (const [field, place] of [
    ['Send to', toHost],
    ['Proxy', proxy],
  ] as const) {
    if (place !== undefined && !isNetworkPlace(place))
      throw new ServerProblem(
        'invalid-input',
        `“${place}” is no host with a port. Nothing was sent.`,
        `Write HOST or HOST:PORT into “${field}” under “How it is sent”, such as 127.0.0.1:8080, or empty it.`,
      );
  }
}

/** Where a request goes, in words. */
export const placeOf = ({ authority }: WireRequest, { toHost }: SendWay = {}): string =>
  toHost === undefined ? authority : `${toHost}, in place of ${authority}`;

/** What bounds the sending of a draft. */
export function boundsOf(
  wire: WireRequest,
  captured: Exchange | undefined,
  { leave, signal, kept, onBytes }: Omit<TrialOrder, 'captureId'>,
): SendBounds {
  const { toHost, proxy, wantsHttp2, timeLimitS } = kept.way ?? {};
  const own = ownPlaces();
  const toHosts = new Map(own.toHosts);
  const isOwn = toHosts.has(`${wire.host}:${wire.port}`.toLowerCase());
  if (toHost !== undefined) toHosts.set(`${wire.host}:${wire.port}`.toLowerCase(), toHost);
  return {
    ...SEND_BOUNDS,
    toHosts,
    signal,
    ...(onBytes === undefined ? {} : { onBytes }),
    ignoresCertificate: leave.certificateOf === wire.host,
    // Where the user says that it goes, it goes.
    refusesPrivate: !isOwn && toHost === undefined && wasPublic(captured) && leave.private !== true,
    ...(timeLimitS === undefined ? {} : { timeLimitMs: timeLimitS * 1000 }),
    ...(proxy === undefined ? {} : { proxy: readPlace(proxy, PROXY_PORT) }),
    ...(wantsHttp2 === true ? { wantsHttp2 } : {}),
    ...(isOwn && own.certificate !== undefined ? { certificate: own.certificate } : {}),
  };
}

/** The port of a proxy that names none, by custom. */
const PROXY_PORT = 8080;

/** What was sent as one short text: the same for the same request. */
export function hashOf({ method, authority, target, headers, body }: WireRequest): string {
  const hash = createHash('sha256').update(JSON.stringify([method, authority, target, headers]));
  return hash.update(body ?? '').digest('hex');
}

interface SentOnce {
  readonly wire: WireRequest;
  readonly sent: Sent;
  readonly wireHash: string;
  /** In ms since 1970. */
  readonly sentAt: number;
}

function notesOf(
  connection: Connection,
  kept: KeptDraft,
  captured: Exchange | undefined,
  { wire, sent, wireHash, sentAt }: SentOnce,
): TrialNotes {
  const { outcome, address } = sent;
  const changed = changedSince(connection, kept, captured);
  const remarks = [...wire.warnings, ...(outcome.type === 'none' ? [] : remarksOn(outcome))];
  const leadsTo = outcome.type === 'none' ? undefined : redirectOf(wire, outcome);
  const lines = outcome.type === 'none' ? [] : findLines(outcome.headers, 'set-cookie');
  const cookies = cookieChanges(lines, urlOf(wire), sentAt);
  const more = {
    changed,
    remarks,
    ...(address === undefined ? {} : { address }),
    ...(leadsTo === undefined ? {} : { leadsTo }),
    ...(cookies.set.length === 0 ? {} : { setsCookies: cookies.set }),
    ...(cookies.ended.length === 0 ? {} : { endsCookies: cookies.ended }),
  };
  if (outcome.type === 'none') return { verdict: 'none', sentence: outcome.sentence, ...more };
  const measure = captured === undefined ? undefined : findResponse(captured);
  if (measure === undefined) {
    const sentence = `${outcome.status} ${outcome.statusText}`.trim();
    const why =
      captured === undefined
        ? 'There is no captured response to hold it against.'
        : 'The captured request got no response.';
    return { verdict: 'unmeasured', sentence: `${sentence}. ${why}`, ...more };
  }
  const response = heldOf(asResponse(outcome), wire.method);
  const before = heldTrials(connection, kept.id, wireHash);
  const held = holdAgainst(heldOf(measure, wire.method), response, volatilePlaces([...before, response]));
  return { verdict: held.verdict, sentence: tellSameness(held, outcome.status), ...more };
}

/** The address that a request asks for. */
const urlOf = ({ isSecure, authority, target }: WireRequest): string =>
  `${isSecure ? 'https' : 'http'}://${authority}${target}`;

/** Where a response leads (RFC 9110 15.4, 10.2.2); undefined where it leads nowhere. */
function redirectOf(wire: WireRequest, { status, headers }: CameBack): string | undefined {
  const location = findHeader(headers, 'location');
  if (location === undefined || status < 300 || status > 399) return undefined;
  try {
    return new URL(location, urlOf(wire)).href;
  } catch {
    return undefined;
  }
}

/** More unchanged trials than these teach nothing new. */
const MOST_HELD = 5;

/** The responses to trials that sent the very same. */
const heldTrials = (connection: Connection, draftId: string, wireHash: string): HeldResponse[] =>
  sameTrials(connection, draftId, wireHash)
    .slice(-MOST_HELD)
    .flatMap((number) => responseOf(getExchange(connection, draftId, number)) ?? []);

function responseOf(exchange: Exchange): HeldResponse | undefined {
  const response = findResponse(exchange);
  return response === undefined ? undefined : heldOf(response, exchange.request.method);
}

/** What the sheet says otherwise than in the trial before; in the first, than the captured request. */
function changedSince(connection: Connection, kept: KeptDraft, captured: Exchange | undefined): string {
  const [last] = listTrials(connection, kept.id);
  const before = last === undefined ? undefined : draftOfTrial(connection, kept, last.number);
  const measure = before ?? (captured === undefined ? undefined : draftFromExchange(captured, 'faithful'));
  if (measure === undefined) return 'first trial';
  const changes = changesOf(fillIn(measure), fillIn(kept.draft));
  return changes.length === 0 ? 'unchanged' : inShort(changes).join(' ');
}

/** Many headers that are left out, or sent again, at once are counted. */
function inShort(changes: readonly string[]): string[] {
  const ends = [' is left out now.', ' is sent now.'] as const;
  return ends.reduce<string[]>(
    (left, end) => {
      const names = left.filter((change) => change.endsWith(end));
      if (names.length < LEAST_COUNTED) return left;
      return [...left.filter((change) => !change.endsWith(end)), `${names.length} lines${end.replace(' is', ' are')}`];
    },
    [...changes],
  );
}
const LEAST_COUNTED = 3;

/** The draft as it was sent in a trial. */
function draftOfTrial(connection: Connection, kept: KeptDraft, number: number): Draft | undefined {
  const sent = findSent(connection, kept.id, number);
  return sent === undefined ? undefined : unpackKept(packedWith(kept, sent.sheet)).draft;
}

const packedWith = (kept: KeptDraft, { variables, ...sheet }: SentSheet): PackedKeptDraft => {
  const packed = packKept(kept);
  return { ...packed, sheet, draft: { ...packed.draft, variables } };
};

/** More places are counted, not handed over. */
const MOST_DIFFERENCES = 500;

/** What a trial is held against: a response, the request that it was given to, and how it is spoken of. */
interface MeasureFound {
  readonly response: HeldResponse | undefined;
  readonly before: Draft | undefined;
  readonly as: string;
}

/** A trial's response held against the captured one, that of another trial or exchange, or one that was pasted. */
export function holdTrial(
  connection: Connection,
  captureId: string,
  kept: KeptDraft,
  number: number,
  against: Measure,
): Held {
  const response = responseOf(getExchange(connection, kept.id, number));
  const nothing = (sentence: string): Held => ({ sentence, verdict: 'unmeasured', differences: [], more: 0 });
  if (response === undefined) return { ...nothing('No response came.'), verdict: 'none' };
  const measure = findMeasure(connection, captureId, kept, against, response);
  if (measure === undefined) return nothing('There is no captured response to hold it against.');
  if (measure.response === undefined) return nothing('What it is held against has no response.');
  const sent = findSent(connection, kept.id, number);
  const same = sent === undefined ? [] : heldTrials(connection, kept.id, sent.wireHash);
  const held = holdAgainst(measure.response, response, volatilePlaces(same));
  const { before } = measure;
  const after = draftOfTrial(connection, kept, number);
  const changes = before === undefined || after === undefined ? [] : requestChanges(fillIn(before), fillIn(after));
  return {
    sentence: tellSameness(held, response.status, measure.as),
    verdict: held.verdict,
    differences: held.differences.slice(0, MOST_DIFFERENCES).map((difference) => {
      const follows = followsFrom(difference, changes)?.name;
      return follows === undefined ? difference : { ...difference, follows };
    }),
    more: Math.max(0, held.differences.length - MOST_DIFFERENCES),
  };
}

function findMeasure(
  connection: Connection,
  captureId: string,
  kept: KeptDraft,
  against: Measure,
  response: HeldResponse,
): MeasureFound | undefined {
  const captured = (place: number, as: string): MeasureFound => {
    const exchange = getExchange(connection, captureId, place);
    return { response: responseOf(exchange), before: draftFromExchange(exchange, 'faithful'), as };
  };
  switch (against.type) {
    case 'captured':
      return kept.exchange === undefined ? undefined : captured(kept.exchange, 'as captured');
    case 'exchange':
      return captured(against.number, `as in #${against.number}`);
    case 'trial': {
      const exchange = getExchange(connection, kept.id, against.number);
      const before = draftOfTrial(connection, kept, against.number);
      return { response: responseOf(exchange), before, as: `as in trial ${against.number}` };
    }
    case 'pasted':
      return { response: readPasted(against.text, response), before: undefined, as: 'as pasted' };
    default:
      return against satisfies never;
  }
}
