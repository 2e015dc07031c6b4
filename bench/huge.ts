import { randomUUID } from 'node:crypto';
import { createReadStream, existsSync, mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startServer } from '#server/testing/process';
import { generateCapture } from './generate';

// Takes a huge capture in through the running app, as the page does, and measures what the others feel meanwhile.

const MEGABYTES = Number(process.env['BENCH_HUGE_MB'] ?? 2000);
const PING_EVERY_MS = 25;

const folder = mkdtempSync(join(tmpdir(), 'trazado-huge-'));
const given = process.env['BENCH_HUGE_FILE'];
const path = given !== undefined && existsSync(given) ? given : join(folder, 'huge.har');
if (path !== given) generateCapture(path, MEGABYTES * 1e6);

const app = await startServer();
try {
  const { url } = app;
  // The first request loads the server's code; it is not what an import does to others.
  await (await fetch(`${url}api/captures`)).text();
  const latencies: number[] = [];
  let isOver = false;
  const pinging = (async () => {
    while (!isOver) {
      const since = performance.now();
      await (await fetch(`${url}api/captures`)).text();
      latencies.push(performance.now() - since);
      await new Promise((resolve) => setTimeout(resolve, PING_EVERY_MS));
    }
  })();
  const since = performance.now();
  const query = new URLSearchParams({ name: 'huge', importId: randomUUID() });
  const body = createReadStream(path) as unknown as ReadableStream;
  const answer = await fetch(`${url}api/captures?${query}`, { method: 'POST', body, duplex: 'half' } as RequestInit);
  const result = await answer.text();
  const seconds = (performance.now() - since) / 1000;
  isOver = true;
  await pinging;
  if (!answer.ok) throw new Error(result);
  const sorted = latencies.sort((a, b) => a - b);
  const peakKb = Number(
    /VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${app.process.pid}/status`, 'utf8'))?.[1] ?? Number.NaN,
  );
  console.log(
    `A capture of ${Math.round(statSync(path).size / 1e6)} MB was on the shelf after ${seconds.toFixed(1)} s; the server's peak memory was ${Math.round(peakKb / 1000)} MB (wanted: 500).`,
  );
  console.log(
    `Meanwhile ${sorted.length} other requests: median ${sorted[sorted.length >> 1]?.toFixed(1)} ms, slowest ${sorted.at(-1)?.toFixed(1)} ms (wanted: 100).`,
  );
} finally {
  await app.stop();
  rmSync(folder, { recursive: true, force: true });
}
