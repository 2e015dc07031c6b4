import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { type AddressInfo, createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { findLauncher, runBeside, runCli } from '#server/testing/process';
import { ask } from '#server/testing/rehearsed';

const folder = mkdtempSync(join(tmpdir(), 'trazado-rehearse-'));
afterAll(() => rmSync(folder, { recursive: true }));

const CAPTURE = 'demo/captures/booking-gone-wrong.har';

/** A rehearsal by the command line, asked these paths one after the other. */
async function rehearse(args: readonly string[], asked: readonly string[]) {
  const child = spawn(process.execPath, [findLauncher(), 'rehearse', CAPTURE, '--time', 'none', '--json', ...args]);
  let [stdout, stderr] = ['', ''];
  child.stderr.on('data', (chunk) => (stderr += chunk));
  const ended = new Promise<number | null>((resolve) => child.on('close', resolve));
  const port = await new Promise<number>((resolve, reject) => {
    child.stdout.on('data', (chunk) => {
      stdout += chunk;
      const first = /^(.*)\n/.exec(stdout)?.[1];
      if (first !== undefined) resolve((JSON.parse(first) as { port: number }).port);
    });
    child.once('close', () => reject(new Error(stderr)));
  });
  const came: string[] = [];
  for (const target of asked) {
    const { status, bytes } = await ask({ port, target, headers: [{ name: 'Host', value: `127.0.0.1:${port}` }] });
    came.push(`${status} ${bytes}`);
  }
  if (!args.includes('--most')) child.kill('SIGINT');
  const status = await ended;
  const lines = stdout
    .trim()
    .split('\n')
    .slice(1)
    .map((line) => JSON.parse(line) as { exchange?: number; fits: string; sentence: string });
  return { status, came, lines, stderr };
}

describe('trazado rehearse', () => {
  it('answers until it is ended, prints each request, and saves them as a HAR', async () => {
    const out = join(folder, 'asked.har');
    const { status, came, lines, stderr } = await rehearse(['--save', out], ['/search?q=alba', '/nowhere']);
    expect([status, stderr]).toEqual([1, '2 requests, 1 of them not captured.\n']);
    expect(came[0]).toMatch(/^200 \["Alba/);
    expect(lines.map(({ exchange, fits }) => [exchange, fits])).toEqual([
      [16, 'fits'],
      [undefined, 'none'],
    ]);
    expect(lines[1]?.sentence).toBe(came[1]?.slice(4).trim());
    const saved = JSON.parse(readFileSync(out, 'utf8')) as { log: { entries: { request: { url: string } }[] } };
    expect(saved.log.entries.map(({ request }) => request.url)[0]).toBe('https://api.cumbrera.example/search?q=alba');
    const { stdout } = runCli(['list', out, '--json']);
    expect(JSON.parse(stdout.toString())).toHaveLength(2);
  });

  it('ends after so many requests, with 0 where all of them were captured, and changes what it is told to', async () => {
    const { status, came } = await rehearse(
      ['--most', '1', '--change', '16 status=503', '--change', '16 list=empty'],
      ['/search?q=alba'],
    );
    expect([status, came[0]?.slice(0, 3)]).toEqual([0, '503']);
  });

  it('says that a port is busy, and leaves the file that it would write as it is', async () => {
    const other = createServer().listen(0, '127.0.0.1');
    await once(other, 'listening');
    const { port } = other.address() as AddressInfo;
    const out = join(folder, 'kept.har');
    writeFileSync(out, 'what was there');
    const { status, stderr } = await runBeside(['rehearse', CAPTURE, '--port', String(port), '--save', out]);
    other.close();
    expect(readFileSync(out, 'utf8')).toBe('what was there');
    expect([status, stderr]).toEqual([2, `trazado: Port ${port} is busy: choose another.\n`]);
  });

  it('plays what a filter lets through', async () => {
    const { came } = await rehearse(['--where', 'method = POST'], ['/search?q=alba']);
    expect(came[0]).toMatch(/^404/);
  });

  it.each([
    [['--time', 'fast'], '--time takes recorded, none, or a factor'],
    [['--misses', 'ignore'], '--misses takes 404 or forward'],
    [['--to-host', 'api.cumbrera.example=127.0.0.1:9'], '--to-host goes with --misses forward.'],
    [['--misses', 'forward', '--to-host', 'apo.cumbrera.example=127.0.0.1:9'], 'to which no captured request went.'],
    [['--misses', 'forward', '--to-host', 'api.cumbrera.example=127.0.0.1:99999'], 'names no place for a host'],
    [['--change', '16 colour=red'], 'is no change'],
    [['--change', '16 body=@nowhere.json'], 'there is no such file'],
    [['--where', 'status = '], '--where at character'],
    [['--where', 'host = nowhere.example'], 'There is no exchange to answer with.'],
    [['--most', '0'], '--most takes a whole number'],
    [['--port', '99999'], 'is not a port'],
  ])('refuses %j in one line', (args, why) => {
    const { status, stderr } = runCli(['rehearse', CAPTURE, ...args]);
    expect(status).toBe(2);
    expect(stderr).toContain(why);
    expect(stderr.trim().split('\n')).toHaveLength(1);
  });
});
