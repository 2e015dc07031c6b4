import { mkdtempSync, rmSync } from 'node:fs';
import { type IncomingMessage, request } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { NameValue } from '#core/model';
import type { RehearsalOrder } from '#core/wire';
import { type Recording, recordingOfFile } from '../rehearsal/recording';
import { type AskedRecord, type Listening, RehearsalServer } from '../rehearsal/rehearsal-server';

/** A rehearsal for tests: without times, byte for byte. */
export const PLAIN_ORDER: RehearsalOrder = {
  time: 0,
  rewrites: false,
  forwards: false,
  isSecure: false,
  isExact: false,
  changes: [],
};

export interface Rehearsed extends Listening {
  readonly recording: Recording;
  readonly asked: AskedRecord[];
  readonly close: () => Promise<void>;
}

/** Rehearses a HAR file in this process. */
export async function rehearseFile(
  path: string,
  order: Partial<RehearsalOrder> = {},
  more: Partial<ConstructorParameters<typeof RehearsalServer>[0]> = {},
): Promise<Rehearsed> {
  const folder = mkdtempSync(join(tmpdir(), 'trazado-rehearsal-'));
  const recording = recordingOfFile({ path, shown: path, damage: undefined }, folder, undefined);
  const asked: AskedRecord[] = [];
  const server = new RehearsalServer({
    recording,
    order: { ...PLAIN_ORDER, ...order },
    onAsked: (_, record) => asked.push(record()),
    ...more,
  });
  const listening = await server.listen(0, '127.0.0.1');
  return {
    ...listening,
    recording,
    asked,
    close: async () => {
      await server.close();
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

export interface PlainResponse {
  readonly status: number;
  readonly headers: NameValue[];
  readonly bytes: Buffer;
}

export interface PlainRequest {
  readonly port: number;
  readonly method?: string;
  readonly target: string;
  readonly headers?: readonly NameValue[];
  readonly body?: Uint8Array;
  /** It leaves once it has so many bytes. */
  readonly enoughBytes?: number;
  /** It waits so long for a response to begin. */
  readonly patienceMs?: number;
}

/** Asks by a plain client. Rejects where no response comes. */
export function ask(order: PlainRequest): Promise<PlainResponse> {
  const { port, method = 'GET', target, headers = [], body, enoughBytes, patienceMs } = order;
  return new Promise((resolve, reject) => {
    const framed = body === undefined ? headers : [...headers, { name: 'Content-Length', value: String(body.length) }];
    const lines = framed.flatMap(({ name, value }) => [name, Buffer.from(value, 'utf8').toString('latin1')]);
    const asking = request(
      { host: '127.0.0.1', port, method, path: target, headers: lines as never, setHost: false, agent: false },
      (response) => {
        clearTimeout(timer);
        void gather(response, enoughBytes).then(resolve, reject);
      },
    );
    const timer =
      patienceMs === undefined ? undefined : setTimeout(() => asking.destroy(new Error('no response')), patienceMs);
    asking.on('error', reject);
    asking.end(body);
  });
}

async function gather(response: IncomingMessage, enoughBytes: number | undefined): Promise<PlainResponse> {
  const chunks: Buffer[] = [];
  let length = 0;
  const isEnough = (): boolean => enoughBytes !== undefined && length >= enoughBytes;
  if (!isEnough())
    for await (const chunk of response as AsyncIterable<Buffer>) {
      chunks.push(chunk);
      length += chunk.length;
      if (isEnough()) break;
    }
  response.destroy();
  const { rawHeaders } = response;
  return {
    status: response.statusCode ?? 0,
    headers: rawHeaders.flatMap((name, at) => (at % 2 === 0 ? [{ name, value: rawHeaders[at + 1] ?? '' }] : [])),
    bytes: Buffer.concat(chunks),
  };
}
