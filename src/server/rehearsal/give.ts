import type { ServerResponse } from 'node:http';
import { setTimeout as pause } from 'node:timers/promises';
import type { paceOf } from '#core/rehearse';
import type { Prepared } from './prepare';

/** What became of a response: it went out whole, or the client had gone. */
export interface Gave {
  readonly waitMs: number;
  readonly receiveMs: number;
  readonly isGone: boolean;
}

/** A client that waits for what never came waits so long at most. */
const SILENCE_MS = 60_000;
/** Body bytes that come over a time come in so many pieces. */
const PIECES = 20;
const LEAST_PIECE_MS = 15;

/** Where events of a stream come apart, with their times. */
export interface TimedPiece {
  readonly atMs: number;
  readonly text: string;
}

/** Sends a prepared response at its pace; streams play their events, and stay open where they did. */
export async function give(
  response: ServerResponse,
  prepared: Prepared,
  pace: ReturnType<typeof paceOf>,
  pieces: readonly TimedPiece[],
): Promise<Gave> {
  const begun = performance.now();
  const wait = async (ms: number): Promise<void> => {
    if (ms <= 0 || response.destroyed) return;
    const left = new AbortController();
    const leave = (): void => left.abort();
    response.once('close', leave);
    await pause(ms, undefined, { signal: left.signal }).catch(() => undefined);
    response.off('close', leave);
  };
  const isGone = (): boolean => response.destroyed;
  await wait(pace.waitMs);
  if (isGone()) return { waitMs: performance.now() - begun, receiveMs: 0, isGone: true };
  if (prepared.type === 'none') {
    if (prepared.how === 'silence') await wait(SILENCE_MS);
    const hadGone = isGone();
    response.socket?.resetAndDestroy();
    return { waitMs: performance.now() - begun, receiveMs: 0, isGone: hadGone };
  }
  const { status, statusText, headers, body, breaksOff, staysOpen } = prepared;
  // Its date is the captured one, as all of it is.
  response.sendDate = false;
  const hasLength = headers.some((name, at) => at % 2 === 0 && /^content-length$/i.test(name));
  const isFramed =
    hasLength || response.req.method === 'HEAD' || status === 204 || status === 304 || staysOpen || pieces.length > 0;
  // A client sees that a response breaks off by the length that it was promised.
  const length = body.length + (breaksOff ? 1 : 0);
  response.writeHead(status, statusText, isFramed ? headers : [...headers, 'Content-Length', String(length)]);
  const begunAt = performance.now();
  const waitMs = begunAt - begun;
  const isAtOnce = pieces.length === 0 && pace.receiveMs === 0 && !breaksOff && !staysOpen;
  if (isAtOnce) {
    // Head and body as one write: the client is not woken twice.
    await ended(response, body);
    return { waitMs, receiveMs: performance.now() - begunAt, isGone: isGone() && !response.writableFinished };
  }
  response.flushHeaders();
  if (pieces.length > 0) await playPieces(response, pieces, wait, isGone);
  else await sendBody(response, body, pace.receiveMs, wait, isGone);
  if (staysOpen) await wait(SILENCE_MS);
  const hadGone = isGone();
  if (hadGone) return { waitMs, receiveMs: performance.now() - begunAt, isGone: true };
  if (breaksOff) response.socket?.resetAndDestroy();
  else await ended(response);
  return { waitMs, receiveMs: performance.now() - begunAt, isGone: false };
}

/** Ends a response, and waits until it is on its way or its client has gone. */
const ended = (response: ServerResponse, body?: Uint8Array): Promise<void> =>
  new Promise((resolve) => {
    response.once('close', resolve).end(body, () => resolve());
  });

type Wait = (ms: number) => Promise<unknown>;

async function sendBody(
  response: ServerResponse,
  body: Uint8Array,
  receiveMs: number,
  wait: Wait,
  isGone: () => boolean,
): Promise<void> {
  const pieces = Math.max(1, Math.min(PIECES, Math.floor(receiveMs / LEAST_PIECE_MS)));
  const step = Math.ceil(body.length / pieces);
  for (let at = 0; at < body.length && !isGone(); at += step) {
    await wait(pieces === 1 ? receiveMs : receiveMs / pieces);
    if (!response.write(body.subarray(at, at + step)) && !isGone()) await drained(response);
  }
}

async function playPieces(
  response: ServerResponse,
  pieces: readonly TimedPiece[],
  wait: Wait,
  isGone: () => boolean,
): Promise<void> {
  const begun = performance.now();
  for (const { atMs, text } of pieces) {
    await wait(atMs - (performance.now() - begun));
    if (isGone()) return;
    response.write(text);
  }
}

const drained = (response: ServerResponse): Promise<void> =>
  new Promise((resolve) => {
    const end = (): void => {
      response.off('drain', end).off('close', end);
      resolve();
    };
    response.on('drain', end).on('close', end);
  });
