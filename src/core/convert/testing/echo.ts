import { createServer, type Socket } from 'node:net';

/** A request as it arrived, byte for byte. */
export interface Arrived {
  readonly requestLine: string;
  readonly headers: readonly { readonly name: string; readonly value: string }[];
  readonly body: Buffer;
}

export interface Echo {
  readonly port: number;
  /** The requests since the last call. */
  readonly take: () => Arrived[];
  readonly close: () => Promise<void>;
}

const ANSWER = 'HTTP/1.1 200 OK\r\nContent-Length: 2\r\nConnection: close\r\n\r\nok';

/** A server on a raw socket that understands no HTTP but where a request ends: nothing that arrives is made tidy. */
export function startEcho(): Promise<Echo> {
  const arrived: Arrived[] = [];
  const open = new Set<Socket>();
  const server = createServer((socket) => {
    open.add(socket);
    let bytes = Buffer.alloc(0);
    socket.on('close', () => open.delete(socket));
    socket.on('error', () => socket.destroy());
    socket.on('data', (chunk) => {
      bytes = Buffer.concat([bytes, chunk]);
      const request = parse(bytes);
      if (request === undefined) return;
      arrived.push(request);
      socket.end(request.requestLine.startsWith('HEAD') ? ANSWER.slice(0, -2) : ANSWER);
    });
  });
  return new Promise((resolve) => {
    server.listen(0, '127.0.0.1', () => {
      const address = server.address();
      if (address === null || typeof address === 'string') throw new Error('no port');
      resolve({
        port: address.port,
        take: () => arrived.splice(0),
        close: () =>
          new Promise((done) => {
            for (const socket of open) socket.destroy();
            server.close(() => done());
          }),
      });
    });
  });
}

function parse(bytes: Buffer): Arrived | undefined {
  const end = bytes.indexOf('\r\n\r\n');
  if (end === -1) return undefined;
  const [requestLine = '', ...lines] = bytes.subarray(0, end).toString('utf8').split('\r\n');
  const headers = lines.map((line) => {
    const colon = line.indexOf(':');
    return { name: line.slice(0, colon), value: line.slice(colon + 1).trim() };
  });
  const length = Number(headers.find(({ name }) => name.toLowerCase() === 'content-length')?.value ?? 0);
  const body = bytes.subarray(end + 4);
  return body.length < length ? undefined : { requestLine, headers, body };
}
