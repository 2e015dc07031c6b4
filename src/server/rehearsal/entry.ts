import { base64Of, textFromBytes } from '#core/content';
import { harRequest } from '#core/convert';
import type { Json } from '#core/har';
import { findHeader, type NameValue } from '#core/model';
import { type Asked, originOf, shownOrigin } from '#core/rehearse';
import type { Prepared } from './prepare';

/** When a request came, when the response began and when it was there, in ms since the request. */
export interface Moments {
  readonly startedAt: number;
  readonly sendMs: number;
  readonly waitMs: number;
  readonly receiveMs: number;
}

/** A message of a socket as it went through a rehearsal. */
export interface PassedMessage {
  readonly direction: 'sent' | 'received';
  readonly at: number;
  readonly opcode: number;
  readonly data: string;
}

const NOTHING = -1;
const ms = (value: number): number => Math.round(Math.max(0, value) * 1000) / 1000;

/**
 * What was asked and what was given, as an entry of a HAR 1.2 file, under the captured site's own address: it can be held
 * against what was captured.
 */
export function rehearsedEntry(
  asked: Asked,
  httpVersion: string,
  given: Prepared | { readonly type: 'socket'; readonly messages: readonly PassedMessage[] },
  moments: Moments,
): Json {
  const { startedAt, sendMs, waitMs, receiveMs } = moments;
  const isSocket = given.type === 'socket';
  const origin = shownOrigin(asked.origin ?? originAsked(asked.headers));
  const url = `${isSocket ? origin.replace(/^http/, 'ws') : origin}${asked.path}${asked.query}`;
  return {
    startedDateTime: new Date(startedAt).toISOString(),
    time: ms(sendMs) + ms(waitMs) + ms(receiveMs),
    request: harRequest({
      method: asked.method,
      url,
      httpVersion: `HTTP/${httpVersion}`,
      headers: asked.headers,
      body: asked.body.length === 0 ? undefined : asked.body,
    }),
    response: isSocket ? SWITCHED : responseOf(given, httpVersion),
    cache: {},
    timings: {
      blocked: NOTHING,
      dns: NOTHING,
      connect: NOTHING,
      ssl: NOTHING,
      send: ms(sendMs),
      wait: ms(waitMs),
      receive: ms(receiveMs),
    },
    ...(isSocket ? { _resourceType: 'websocket', _webSocketMessages: given.messages.map(passed) } : {}),
  };
}

/** Where no captured host is named: the address that was asked itself. */
const originAsked = (headers: Asked['headers']): string =>
  originOf(`http://${findHeader(headers, 'host') ?? ''}`) ?? 'http://localhost:80';

/** Times of messages are seconds since 1970, and their types as recorders write them. */
const passed = ({ direction, at, opcode, data }: PassedMessage): Json => ({
  type: direction === 'sent' ? 'send' : 'receive',
  time: at / 1000,
  opcode,
  data,
});

const EMPTY = { cookies: [], redirectURL: '', headersSize: NOTHING } as const;

const SWITCHED: Json = {
  ...EMPTY,
  status: 101,
  statusText: 'Switching Protocols',
  httpVersion: 'HTTP/1.1',
  headers: [],
  content: { size: 0, mimeType: 'x-unknown' },
  bodySize: NOTHING,
};

function responseOf(given: Prepared, httpVersion: string): Json {
  if (given.type === 'none')
    return {
      ...EMPTY,
      status: 0,
      statusText: '',
      httpVersion: '',
      headers: [],
      content: { size: 0, mimeType: '' },
      bodySize: NOTHING,
      _error: given.how === 'reset' ? 'net::ERR_CONNECTION_RESET' : 'net::ERR_TIMED_OUT',
    };
  const { status, statusText, headers, body, plain, breaksOff } = given;
  const lines = headers.flatMap((name, at): NameValue[] =>
    at % 2 === 0 ? [{ name, value: Buffer.from(headers[at + 1] ?? '', 'latin1').toString('utf8') }] : [],
  );
  const find = (name: string): string => lines.find((one) => one.name.toLowerCase() === name)?.value ?? '';
  const text = textFromBytes(plain);
  const content =
    text === undefined ? { text: base64Of(plain), encoding: 'base64' } : plain.length === 0 ? {} : { text };
  return {
    ...EMPTY,
    status,
    statusText,
    httpVersion: `HTTP/${httpVersion}`,
    headers: lines.map(({ name, value }) => ({ name, value })),
    content: { size: plain.length, mimeType: find('content-type'), ...content },
    redirectURL: find('location'),
    bodySize: body.length,
    ...(breaksOff ? { _error: 'net::ERR_CONNECTION_RESET' } : {}),
  };
}
