import { type IncomingMessage, request as requestHttp } from 'node:http';
import type { Socket } from 'node:net';
import { Duplex } from 'node:stream';
import type { NameValue } from '#core/model';
import type { Heard } from './heard';
import type { WireRequest } from './message';

/** A response with longer headers is given up. */
const MOST_HEADER_BYTES = 256 * 1024;

/**
 * Sends a request over a connection of its own (RFC 9112), to the byte, and hears the response.
 * @param isProxied the connection leads to a proxy, which wants the whole address (RFC 9112 3.2.2)
 */
export function sendOverHttp1(socket: Socket, wire: WireRequest, isProxied: boolean, heard: Heard): void {
  socket.write(bytesOf(wire, isProxied), heard.onSent);
  const reading = readResponse(socket, wire.method);
  heard.onClose(() => reading.destroy());
  let whole: IncomingMessage | undefined;
  // What comes behind a whole response takes nothing from it: its end is told by itself.
  reading.on('error', (error) => (whole?.complete === true ? heard.onMore() : heard.onError(error)));
  // Another protocol is agreed on: its head is the response, what follows it is none.
  reading.on('upgrade', (response) => {
    heard.onHead(headOf(response));
    heard.onEnd();
  });
  reading.on('response', (response) => {
    whole = response;
    heard.onHead(headOf(response));
    response.on('data', heard.onData);
    response.on('end', heard.onEnd);
    response.on('error', heard.onError);
    response.on('aborted', () => heard.onError(Object.assign(new Error('aborted'), { code: 'ECONNRESET' })));
  });
}

function bytesOf({ method, target, headers, body, authority }: WireRequest, isProxied: boolean): Buffer {
  const saysConnection = headers.some(([name]) => name.toLowerCase() === 'connection');
  const lines = [
    `${method} ${isProxied ? `http://${authority}` : ''}${target} HTTP/1.1`,
    ...headers.map(([name, value]) => `${name}: ${value}`),
    ...(saysConnection ? [] : ['Connection: close']),
  ];
  return Buffer.concat([Buffer.from(`${lines.join('\r\n')}\r\n\r\n`, 'latin1'), body ?? Buffer.alloc(0)]);
}

/**
 * Has Node's own parser read the response that comes over a connection. What Node would send is dropped: it writes methods
 * in capitals and adds headers of its own, and the request has gone out already as it is to be.
 */
function readResponse(socket: Socket, method: string): ReturnType<typeof requestHttp> {
  const through = new Duplex({
    read: () => void socket.resume(),
    write: (_chunk, _encoding, done) => done(),
    final: (done) => done(),
  });
  socket.on('data', (chunk: Buffer) => {
    if (!through.push(chunk)) socket.pause();
  });
  socket.on('end', () => through.push(null));
  socket.on('close', () => through.destroy());
  const request = requestHttp({
    // The response to HEAD has no body (RFC 9110 9.3.2); of the others its own framing tells.
    method: method === 'HEAD' ? 'HEAD' : 'GET',
    createConnection: () => through,
    maxHeaderSize: MOST_HEADER_BYTES,
    // What servers send is to be seen, not judged, and the connection carries nothing else that could be mistaken.
    insecureHTTPParser: true,
  });
  request.end();
  return request;
}

/** The head of a response, as it came. */
function headOf({
  rawHeaders,
  statusCode,
  statusMessage,
  httpVersion,
}: IncomingMessage): Parameters<Heard['onHead']>[0] {
  const headers: NameValue[] = [];
  for (let at = 0; at < rawHeaders.length; at += 2)
    headers.push({ name: rawHeaders[at] ?? '', value: rawHeaders[at + 1] ?? '' });
  return { status: statusCode ?? 0, statusText: statusMessage ?? '', protocol: `HTTP/${httpVersion}`, headers };
}
