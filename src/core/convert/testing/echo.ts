import { createServer, type Server, type Socket } from 'node:net';

/** A request as it arrived, byte for byte. */
export interface Arrived {
  readonly requestLine: string;
  readonly headers: readonly { readonly name: string; readonly value: string }[];
  readonly body: Buffer;
}

/** A door of the echo: what comes in at its port is kept apart from what comes in at the others. */
export interface Door {
  readonly port: number;
  /** The requests since the last call. */
  readonly take: () => Arrived[];
}

export interface Echo extends Door {
  readonly openDoor: () => Promise<Door>;
  readonly close: () => Promise<void>;
}

const ANSWER =
  'HTTP/1.1 200 OK\r\nContent-Type: application/json\r\nContent-Length: 11\r\nConnection: close\r\n\r\n{"ok":true}';

/** A response without a body where the path asks for its status, or the method for none; else a little JSON. */
function answerTo(requestLine: string): string {
  const status = /^\S+ \/status\/(\d+)/.exec(requestLine)?.[1];
  if (status !== undefined)
    return `HTTP/1.1 ${status} As asked for\r\nContent-Type: application/json\r\nConnection: close\r\n\r\n`;
  return requestLine.startsWith('HEAD') ? ANSWER.slice(0, -11) : ANSWER;
}

/** A server on a raw socket that understands no HTTP but where a request ends: nothing that arrives is made tidy. */
export async function startEcho(): Promise<Echo> {
  const open = new Set<Socket>();
  const servers: Server[] = [];
  const openDoor = async (): Promise<Door> => {
    const arrived: Arrived[] = [];
    const server = createServer((socket) => {
      open.add(socket);
      const chunks: Buffer[] = [];
      let isDone = false;
      socket.on('close', () => open.delete(socket));
      socket.on('error', () => socket.destroy());
      socket.on('data', (chunk) => {
        chunks.push(chunk);
        const request = isDone ? undefined : parse(Buffer.concat(chunks));
        if (request === undefined) return;
        isDone = true;
        arrived.push(request);
        socket.end(answerTo(request.requestLine));
      });
    });
    servers.push(server);
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const address = server.address();
    if (address === null || typeof address === 'string') throw new Error('no port');
    return { port: address.port, take: () => arrived.splice(0) };
  };
  return {
    ...(await openDoor()),
    openDoor,
    close: async () => {
      for (const socket of open) socket.destroy();
      await Promise.all(servers.map((server) => new Promise((done) => server.close(done))));
    },
  };
}

function parse(bytes: Buffer): Arrived | undefined {
  const end = bytes.indexOf('\r\n\r\n');
  if (end === -1) return undefined;
  const [requestLine = '', ...lines] = bytes.subarray(0, end).toString('utf8').split('\r\n');
  const headers = lines.map((line) => {
    const colon = line.indexOf(':');
    return { name: line.slice(0, colon), value: line.slice(colon + 1).replace(/^[ \t]+|[ \t]+$/g, '') };
  });
  const headerOf = (name: string): string | undefined =>
    headers.find((header) => header.name.toLowerCase() === name)?.value;
  const rest = bytes.subarray(end + 4);
  if (/chunked/i.test(headerOf('transfer-encoding') ?? '')) {
    const body = unchunk(rest);
    return body === undefined ? undefined : { requestLine, headers, body };
  }
  const length = Number(headerOf('content-length') ?? 0);
  return rest.length < length ? undefined : { requestLine, headers, body: rest };
}

/** A chunked body as the one that it stands for (RFC 9112, 7.1); undefined while it still comes. */
function unchunk(bytes: Buffer): Buffer | undefined {
  const pieces: Buffer[] = [];
  for (let at = 0; ; ) {
    const line = bytes.indexOf('\r\n', at);
    if (line === -1) return undefined;
    const length = Number.parseInt(bytes.subarray(at, line).toString('latin1'), 16);
    const next = line + 2 + length + 2;
    if (next > bytes.length) return undefined;
    if (length === 0) return Buffer.concat(pieces);
    pieces.push(bytes.subarray(line + 2, line + 2 + length));
    at = next;
  }
}
