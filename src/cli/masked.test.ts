import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { runCli } from '../server/testing/process';
import { isMasked } from './masked';

const BOOKING = 'demo/captures/booking-gone-wrong.har';
const text = readFileSync(BOOKING, 'utf8');
/** What the recording's own headers hold. */
const held = [...text.matchAll(/"value":"Bearer ([^"]+)"|"value":"walker=([^"; ]+)/g)].flatMap(
  (match) => match[1] ?? match[2] ?? [],
);
const { entries } = (JSON.parse(text) as { log: { entries: { request: { headers: { name: string }[] } }[] } }).log;
const withToken = String(
  entries.findIndex(({ request }) => request.headers.some(({ name }) => /^authorization$/i.test(name))),
);
const run = (...args: string[]) => {
  const { stdout, stderr } = runCli(args);
  return { stdout: stdout.toString(), stderr: stderr.toString() };
};
const holdsSome = (shown: string): boolean => held.some((value) => shown.includes(value));

describe('masking what is shown', () => {
  it.each([
    [{}, true, true],
    [{}, false, false],
    [{ secrets: true }, true, false],
    [{ mask: true }, false, true],
    [{ mask: true, secrets: true }, true, false],
  ] as const)('%j where it goes to a terminal (%s): %s', (options, isTerminal, masked) => {
    expect(isMasked(options, isTerminal)).toBe(masked);
  });

  it.each([
    ['show', BOOKING, withToken],
    ['show', BOOKING, withToken, '--json'],
  ])('%s masks the credentials of an exchange, and says so', (...args) => {
    expect(holdsSome(run(...args).stdout)).toBe(true);
    const masked = run(...args, '--mask');
    expect(holdsSome(masked.stdout)).toBe(false);
    expect(masked.stdout).toMatch(/Bearer eyJ[^.]+\.eyJ[^.]+\.token-\d/);
    expect(masked.stderr).toBe('Credentials are masked; --secrets shows them.\n');
  });

  it('masks what a payload holds', () => {
    const postData = { mimeType: 'application/x-www-form-urlencoded', text: 'user=ana&password=Montana-17-x' };
    const request = { method: 'POST', url: 'https://www.cumbrera.example/session', headers: [], postData };
    const path = join(mkdtempSync(join(tmpdir(), 'trazado-masked-')), 'payload.har');
    writeFileSync(path, JSON.stringify({ log: { entries: [{ request, response: { status: 200, headers: [] } }] } }));
    expect(run('show', path, '0').stdout).toContain('\n  user=ana&password=Montana-17-x\n');
    expect(run('show', path, '0', '--mask').stdout).toMatch(/\n {2}user=ana&password=(?!Montana)\S+\n/);
  });

  it('masks what a body holds, and leaves the rest of it', () => {
    const index = entries.findIndex((entry) => JSON.stringify(entry).includes('\\"token\\":'));
    const [plain, masked] = [[], ['--mask']].map(
      (more) => run('show', BOOKING, String(index), '--body', ...more).stdout,
    );
    expect(Object.keys(JSON.parse(masked ?? ''))).toEqual(Object.keys(JSON.parse(plain ?? '')));
    expect(masked).not.toBe(plain);
    expect(masked).toHaveLength(plain?.length ?? 0);
  });

  it.each(['list', 'explain'])('%s masks what an address or a title holds', (command) => {
    const token = 'q7Zt0Lm4Xw9Rb2Vd';
    const url = `https://www.cumbrera.example/huts?access_token=${token}`;
    const entry = (at: string) => ({
      pageref: 'p',
      startedDateTime: `2026-10-03T09:00:0${at}Z`,
      time: 900,
      request: { method: 'GET', url, headers: [] },
      response: { status: 200, headers: [], content: { size: 0, mimeType: 'text/html' } },
      timings: { send: 0, wait: 890, receive: 10 },
    });
    const pages = [{ id: 'p', startedDateTime: '2026-10-03T09:00:00Z', title: url, pageTimings: { onLoad: 2000 } }];
    const path = join(mkdtempSync(join(tmpdir(), 'trazado-masked-')), 'in-address.har');
    writeFileSync(path, JSON.stringify({ log: { version: '1.2', pages, entries: [entry('0'), entry('1')] } }));
    for (const more of [[], ['--json']]) {
      if (command === 'list') expect(run(command, path, ...more).stdout).toContain(token);
      const { stdout } = run(command, path, ...more, '--mask');
      expect(stdout).toContain('/huts');
      expect(stdout).not.toContain(token);
    }
  });

  it.each([
    ['list', BOOKING, '--where', `header.authorization ~ ${held[0]?.slice(0, 12)}`],
    ['explain', BOOKING],
    ['explain', BOOKING, '--json'],
  ])('%s says the same but for credentials: filters ask for what was recorded', (...args) => {
    expect(run(...args, '--mask').stdout).toBe(run(...args).stdout);
  });
});
