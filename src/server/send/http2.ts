import { type ClientHttp2Stream, connect, type OutgoingHttpHeaders } from 'node:http2';
import type { TLSSocket } from 'node:tls';
import type { NameValue } from '#core/model';
import type { Heard } from './heard';
import type { WireRequest } from './message';

/** Headers that belong to one connection of HTTP/1.1, and have no place in HTTP/2 (RFC 9113 8.2.2); and the host, which it has. */
const LEFT_OUT = new Set(['connection', 'keep-alive', 'proxy-connection', 'transfer-encoding', 'upgrade', 'host']);

/** Sends a request over HTTP/2 (RFC 9113): names in small letters, the address in headers of its own. */
export function sendOverHttp2(socket: TLSSocket, wire: WireRequest, heard: Heard): void {
  const session = connect(`https://${wire.authority}`, { createConnection: () => socket });
  heard.onClose(() => session.destroy());
  session.on('error', heard.onError);
  let stream: ClientHttp2Stream;
  try {
    stream = session.request(headersOf(wire), { endStream: wire.body === undefined });
  } catch (error) {
    heard.onError(error as Error);
    return;
  }
  stream.on('error', heard.onError);
  stream.on('response', (headers, _flags, raw?: readonly string[]) => {
    heard.onHead({
      status: Number(headers[':status'] ?? 0),
      statusText: '',
      protocol: 'HTTP/2',
      headers: namesOf(headers, raw),
    });
  });
  stream.on('data', heard.onData);
  stream.on('end', heard.onEnd);
  if (wire.body === undefined) heard.onSent();
  else stream.end(Buffer.from(wire.body), heard.onSent);
}

function headersOf({ method, target, authority, headers }: WireRequest): OutgoingHttpHeaders {
  const sent: OutgoingHttpHeaders = {
    ':method': method,
    ':path': target,
    ':scheme': 'https',
    ':authority': headers.find(([name]) => name.toLowerCase() === 'host')?.[1] ?? authority,
  };
  for (const [written, value] of headers) {
    const name = written.toLowerCase();
    if (LEFT_OUT.has(name) || name.startsWith(':')) continue;
    const before = sent[name];
    sent[name] = before === undefined ? value : [before, value].flat().map(String);
  }
  return sent;
}

/** The headers as they came where Node hands them over so, else by their names. */
function namesOf(headers: Readonly<Record<string, unknown>>, raw: readonly string[] | undefined): NameValue[] {
  const pairs: NameValue[] = [];
  if (raw !== undefined) {
    for (let at = 0; at + 1 < raw.length; at += 2) pairs.push({ name: raw[at] ?? '', value: raw[at + 1] ?? '' });
  } else {
    for (const [name, value] of Object.entries(headers))
      for (const one of [value].flat()) pairs.push({ name, value: String(one) });
  }
  return pairs.filter(({ name }) => !name.startsWith(':'));
}
