import { readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ImportResult } from '../core/wire';
import { type RunningApp, runCli, startLauncher } from './testing/process';

const HAR = readFileSync('demo/captures/alba-norte-fixed-release.har');

let closed: RunningApp;
let open: RunningApp;
beforeAll(async () => {
  closed = await startLauncher(['serve', '--port', '0']);
  open = await startLauncher(['serve', '--port', '0', '--host', '0.0.0.0']);
});
afterAll(async () => {
  await closed.stop();
  await open.stop();
});

const push = (app: RunningApp, headers: Record<string, string> = {}, name = 'build 412'): Promise<Response> =>
  fetch(`${app.url}api/captures?${new URLSearchParams({ name })}`, {
    method: 'POST',
    body: new Uint8Array(HAR),
    headers,
  });
const tokenOf = (folder: string, ...more: string[]): string =>
  runCli(['token', '--data', folder, ...more])
    .stdout.toString()
    .trim();

describe('a program pushes a capture', () => {
  it('with the token, which only the owner’s files tell', async () => {
    const token = tokenOf(open.dataFolder);
    expect(token).toMatch(/^[\w-]{32}$/);
    expect(tokenOf(open.dataFolder)).toBe(token);
    expect(statSync(join(open.dataFolder, 'push-token')).mode & 0o777).toBe(0o600);
    const answer = await push(open, { authorization: `Bearer ${token}` });
    expect(answer.status).toBe(201);
    expect((await answer.json()) as ImportResult[]).toMatchObject([
      { type: 'imported', name: 'build 412', exchanges: 65 },
    ]);
    const again = await push(open, { authorization: `bearer ${token}` });
    expect((await again.json()) as ImportResult[]).toMatchObject([{ type: 'duplicate', name: 'build 412' }]);
  });

  it.each([
    ['without it', {}, 'A program needs the token to push captures.'],
    ['with a wrong one', { authorization: `Bearer ${'x'.repeat(32)}` }, 'This is not the token for pushing captures.'],
    ['with a longer one', { authorization: `Bearer ${'x'.repeat(99)}` }, 'This is not the token for pushing captures.'],
  ])('is refused %s where the app is open to others', async (_, headers, sentence) => {
    const answer = await push(open, headers as Record<string, string>, 'refused');
    expect(answer.status).toBe(401);
    expect(await answer.json()).toMatchObject({ code: 'wrong-token', sentence });
    const cards = (await (await fetch(`${open.url}api/captures`)).json()) as { name: string }[];
    expect(cards.map(({ name }) => name)).not.toContain('refused');
  });

  it('needs none on the machine itself, and a wrong one is refused there too', async () => {
    expect((await push(closed, { authorization: 'Bearer wrong' })).status).toBe(401);
    expect((await push(closed)).status).toBe(201);
  });

  it('is refused with a token that was renewed since', async () => {
    const before = tokenOf(open.dataFolder);
    const after = tokenOf(open.dataFolder, '--renew');
    expect(after).not.toBe(before);
    expect((await push(open, { authorization: `Bearer ${before}` })).status).toBe(401);
    expect((await push(open, { authorization: `Bearer ${after}` })).status).toBe(200);
  });

  it('is told how to send the file where it sent a form with it', async () => {
    const form = new FormData();
    form.set('file', new Blob([new Uint8Array(HAR)]), 'load.har');
    const answer = await fetch(`${closed.url}api/captures?name=form`, { method: 'POST', body: form });
    expect([answer.status, await answer.json()]).toEqual([
      415,
      {
        code: 'form',
        sentence: 'The file came inside a form.',
        advice: 'Send it as the body itself, for example with curl: --data-binary @FILE.',
      },
    ]);
  });

  it('may name it in anything; what would not be seen, or break a line, is left out of the name', async () => {
    const named = async (name: string): Promise<string | undefined> => {
      const answer = await push(open, { authorization: `Bearer ${tokenOf(open.dataFolder)}` }, name);
      return ((await answer.json()) as { name?: string; code?: string }[] & { code?: string }).code ?? 'taken';
    };
    expect(await named(' \u0000\n')).toBe('invalid-input');
    const other = await fetch(
      `${closed.url}api/captures?${new URLSearchParams({ name: '\u0000build\n\u202e 413\t' })}`,
      {
        method: 'POST',
        body: readFileSync('demo/captures/booking-gone-wrong.har'),
      },
    );
    expect(await other.json()).toMatchObject([{ type: 'imported', name: 'build 413' }]);
  });

  it('to the demo with the token of its own folder', () => {
    const demos = runCli(['token', '--demo', '--data', closed.dataFolder]).stdout.toString().trim();
    expect(demos).toBe(tokenOf(join(closed.dataFolder, 'demo')));
    expect(demos).not.toBe(tokenOf(closed.dataFolder));
  });

  it('is told where the token cannot be kept', () => {
    const { status, stderr } = runCli(['token', '--data', '/dev/null/folder']);
    expect([status, stderr.toString()]).toEqual([2, expect.stringMatching(/^trazado: The token cannot be kept in /)]);
  });
});
