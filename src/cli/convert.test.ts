import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { runCli } from '../server/testing/process';

const BOOKING = 'demo/captures/booking-gone-wrong.har';
const text = (args: readonly string[]): string => runCli([...args]).stdout.toString();
const parse = (input: string, ...args: string[]) => {
  const { status, stdout, stderr } = runCli(['parse', ...args], input);
  return { status, told: stdout.length > 0 ? JSON.parse(stdout.toString()) : undefined, error: stderr.toString() };
};

describe('trazado convert', () => {
  it('takes every option of how code is written', () => {
    const code = text([
      'convert',
      BOOKING,
      '17',
      '--to',
      'python-requests',
      '--secrets-from-env',
      '--comments',
      '--headers',
      'calls',
      '--time-limit',
      '7',
      '--redirects',
      'stop',
      '--proxy',
      'http://proxy.example:8080',
      '--ignore-certificate',
      '--function',
      '--prints',
      'status',
    ]);
    for (const part of [
      "os.environ['REQ_TOKEN']",
      '# accept-encoding: ',
      "headers['authorization'] =",
      'timeout=7',
      'allow_redirects=False',
      'proxy.example:8080',
      'verify=False',
      'def send():',
      'response.status_code',
    ]) {
      expect(code).toContain(part);
    }
    expect(code).not.toContain('eyJ');
  });

  it('writes a message without a line end of its own', () => {
    expect(text(['convert', BOOKING, '17', '--to', 'http'])).toMatch(/\r\n\r\n\{"hut":.*\}$/);
  });

  it('writes the filtered exchanges as one script and says what is carried', () => {
    const { stdout, stderr } = runCli([
      'convert',
      BOOKING,
      '--to',
      'node-fetch',
      '--script',
      '--where',
      'kind = data and status < 400',
    ]);
    expect(stderr.toString()).toMatch(/token is taken from the response of #13 and used in #14,/);
    const folder = mkdtempSync(join(tmpdir(), 'trazado-script-'));
    writeFileSync(join(folder, 'script.mjs'), stdout);
    execFileSync('node', ['--check', join(folder, 'script.mjs')]);
    rmSync(folder, { recursive: true });
  });

  it.each([
    ['no such way', ['--headers', 'list'], /map, calls/],
    ['no number', ['--time-limit', 'soon'], /number of seconds/],
    ['a script for what has none', ['--script'], /One script is written for/],
  ])('refuses %s', (_, args, message) => {
    const { status, stderr } = runCli(['convert', BOOKING, '17', '--to', 'go', ...args]);
    expect([status, stderr.toString()]).toEqual([2, expect.stringMatching(message)]);
  });
});

describe('trazado parse', () => {
  it('leaves what only the environment knows as a mark, and says so', () => {
    const { told } = parse('curl -H "Authorization: Bearer $TOKEN" https://a.example/$HUT', '--from', 'curl-sh');
    expect(told).toMatchObject({
      url: 'https://a.example/{{HUT}}',
      headers: [{ name: 'Authorization', value: 'Bearer {{TOKEN}}' }],
      notes: expect.arrayContaining([
        'HUT is read from the environment; written here as {{HUT}}.',
        'TOKEN is read from the environment; written here as {{TOKEN}}.',
      ]),
    });
  });

  it('reads back what convert wrote', () => {
    const { told } = parse(text(['convert', BOOKING, '17', '--to', 'curl-sh']), '--from', 'curl-sh');
    expect(told).toMatchObject({ method: 'POST', url: 'https://api.cumbrera.example/holds', notes: [] });
    expect(told.body.text).toBe('{"hut":"alba-norte","nights":3,"note":"don\'t wake the dog — $5 for `bread`"}');
  });

  it('guesses what a text is, gives several as a list, and bytes as base64', () => {
    const { told } = parse("curl https://a.example\nprintf '\\377' | curl --data-binary @- https://b.example");
    expect(told.map(({ url, body }: { url: string; body?: object }) => [url, body])).toEqual([
      ['https://a.example', undefined],
      ['https://b.example', { base64: '/w==' }],
    ]);
  });

  it.each([
    ['walkers book beds', [], /Cannot detect the input format/],
    ['ls', ['--from', 'curl-sh'], /No request found/],
    ['x', ['--from', 'abacus'], /use one of curl-sh/],
  ])('refuses %j', (input, args, message) => {
    const { status, error } = parse(input, ...args);
    expect([status, error]).toEqual([2, expect.stringMatching(message)]);
  });
});
