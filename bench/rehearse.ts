import { fork } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { Agent, createServer, request } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { KeptAsked } from '../src/server/rehearsal/kept-asked';
import { rehearseFile } from '../src/server/testing/rehearsed';

// How a rehearsal answers under load, against a server that gives the same bytes and does nothing else, in the same run: responses a
// second, and the middle and the slowest hundredth of their times. Both serve from a process of their own.

const BODY = JSON.stringify({
  huts: Array.from({ length: 60 }, (_, at) => ({ id: at, name: `hut ${at}`, beds: at % 9 })),
});
const PATHS = 500;
const REQUESTS = 6000;
const AT_ONCE = 20;
const ROUNDS = 3;

const middle = (values: readonly number[]): number =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? 0;

async function serve(kind: string, path: string): Promise<void> {
  if (kind === 'rehearsal') {
    // Told of as in the app: of what asks without end some is kept, the rest is counted.
    const kept = new KeptAsked();
    setInterval(() => kept.take(), 200);
    const onAsked: Parameters<typeof rehearseFile>[2] = { onAsked: (isMissed, record) => kept.add(isMissed, record) };
    process.send?.((await rehearseFile(path, {}, onAsked)).port);
    return;
  }
  const server = createServer((_, response) => {
    response
      .writeHead(200, { 'content-type': 'application/json', 'content-length': Buffer.byteLength(BODY) })
      .end(BODY);
  });
  server.listen(0, '127.0.0.1', () => process.send?.((server.address() as AddressInfo).port));
}

/** The times of the requests, and what all of them took. In ms. */
async function load(port: number): Promise<{ readonly times: readonly number[]; readonly allMs: number }> {
  const agent = new Agent({ keepAlive: true, maxSockets: AT_ONCE });
  const times: number[] = [];
  let next = 0;
  const one = (at: number): Promise<void> =>
    new Promise((resolve, reject) => {
      const begun = performance.now();
      const options = {
        host: '127.0.0.1',
        port,
        path: `/huts/${at % PATHS}`,
        agent,
        headers: { host: `127.0.0.1:${port}` },
      };
      request(options, (response) => {
        if (response.statusCode !== 200) reject(new Error(`status ${response.statusCode}`));
        response.resume().on('end', () => {
          times.push(performance.now() - begun);
          resolve();
        });
      })
        .on('error', reject)
        .end();
    });
  const client = async (): Promise<void> => {
    for (let at = next++; at < REQUESTS; at = next++) await one(at);
  };
  const begun = performance.now();
  await Promise.all(Array.from({ length: AT_ONCE }, client));
  agent.destroy();
  return { times, allMs: performance.now() - begun };
}

async function measure(kind: 'plain' | 'rehearsal', path: string) {
  const server = fork(new URL(import.meta.url).pathname, [kind, path], { execArgv: ['--import', 'tsx'] });
  const port = await new Promise<number>((resolve, reject) =>
    server.once('message', resolve as never).once('error', reject),
  );
  await load(port);
  const { times, allMs } = await load(port);
  server.kill();
  const sorted = [...times].sort((a, b) => a - b);
  return {
    perSecond: (REQUESTS / allMs) * 1000,
    medianMs: middle(times),
    p99Ms: sorted[Math.floor(sorted.length * 0.99)] ?? 0,
  };
}

async function main(): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'trazado-bench-'));
  const path = join(folder, 'capture.har');
  const entries = Array.from({ length: PATHS }, (_, at) => ({
    startedDateTime: '2026-10-05T08:00:00.000Z',
    time: 1,
    request: { method: 'GET', url: `https://api.cumbrera.example/huts/${at}`, headers: [] },
    response: {
      status: 200,
      headers: [{ name: 'content-type', value: 'application/json' }],
      content: { mimeType: 'application/json', text: BODY },
    },
    timings: { send: 0, wait: 1, receive: 0 },
  }));
  writeFileSync(path, JSON.stringify({ log: { version: '1.2', creator: { name: 'bench', version: '1' }, entries } }));
  const ratios: number[] = [];
  for (let round = 1; round <= ROUNDS; round++) {
    const plain = await measure('plain', path);
    const rehearsal = await measure('rehearsal', path);
    ratios.push(rehearsal.medianMs / plain.medianMs);
    for (const [name, { perSecond, medianMs, p99Ms }] of Object.entries({ plain, rehearsal }))
      console.log(
        `${name.padEnd(10)} ${perSecond.toFixed(0).padStart(6)} a second, median ${medianMs.toFixed(2)} ms, slowest hundredth ${p99Ms.toFixed(1)} ms`,
      );
  }
  rmSync(folder, { recursive: true });
  console.log(
    `a rehearsal's response takes ${middle(ratios).toFixed(2)} x that of a server that does nothing else (median of ${ROUNDS})`,
  );
}

const [kind, path] = process.argv.slice(2);
await (kind === undefined ? main() : serve(kind, path ?? ''));
