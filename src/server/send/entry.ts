import { base64Of } from '#core/content';
import { harRequest } from '#core/convert';
import type { Json } from '#core/har';
import { sumPhases } from '#core/model';
import type { WireRequest } from './message';
import type { Sent } from './send';

const NOTHING = -1;

/** What was sent and what came back, as an entry of a HAR 1.2 file. */
export function entryOf(wire: WireRequest, { outcome, phases, address }: Sent, startedAt: number): Json {
  const { blockedMs, dnsMs, connectMs, tlsMs, sendMs, waitMs, receiveMs } = phases;
  const ms = (value: number | undefined): number => (value === undefined ? NOTHING : Math.round(value * 1000) / 1000);
  return {
    startedDateTime: new Date(startedAt).toISOString(),
    time: ms(sumPhases(phases) ?? 0),
    request: requestOf(wire, outcome.type === 'none' ? 'HTTP/1.1' : outcome.protocol),
    response: responseOf(outcome),
    cache: {},
    timings: {
      blocked: ms(blockedMs),
      dns: ms(dnsMs),
      // HAR counts TLS as part of connecting.
      connect: ms(connectMs === undefined ? undefined : connectMs + (tlsMs ?? 0)),
      ssl: ms(tlsMs),
      send: ms(sendMs ?? 0),
      wait: ms(waitMs ?? 0),
      receive: ms(receiveMs ?? 0),
    },
    ...(address === undefined ? {} : { serverIPAddress: address.replace(/:\d+$/, '') }),
  };
}

function requestOf({ isSecure, method, target, headers, body, authority }: WireRequest, httpVersion: string): Json {
  return harRequest({
    method,
    url: `${isSecure ? 'https' : 'http'}://${authority}${target}`,
    httpVersion,
    headers: headers.map(([name, value]) => ({ name, value: Buffer.from(value, 'latin1').toString('utf8') })),
    body,
  });
}

function responseOf(outcome: Sent['outcome']): Json {
  if (outcome.type === 'none') {
    return {
      status: 0,
      statusText: '',
      httpVersion: '',
      headers: [],
      cookies: [],
      content: { size: 0, mimeType: '' },
      redirectURL: '',
      headersSize: NOTHING,
      bodySize: NOTHING,
      comment: outcome.sentence,
      _error: outcome.reason,
    };
  }
  const { status, statusText, protocol, headers, body, broke } = outcome;
  const find = (name: string): string => headers.find((header) => header.name.toLowerCase() === name)?.value ?? '';
  return {
    status,
    statusText,
    httpVersion: protocol,
    headers: headers.map(({ name, value }) => ({ name, value })),
    cookies: [],
    content: { size: body.length, mimeType: find('content-type'), text: base64Of(body), encoding: 'base64' },
    redirectURL: find('location'),
    headersSize: NOTHING,
    bodySize: body.length,
    ...(broke === undefined ? {} : { comment: broke.sentence, _error: broke.reason }),
  };
}
