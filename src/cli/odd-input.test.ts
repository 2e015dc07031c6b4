import { spawnSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { runCli } from '../server/testing/process';

const folder = mkdtempSync(join(tmpdir(), 'trazado-odd-'));
const entry = (parts: Record<string, unknown> = {}) => ({
  startedDateTime: '2026-10-03T09:00:00Z',
  request: { method: 'GET', url: 'https://www.cumbrera.example/', headers: [] },
  response: { status: 200, headers: [], content: { size: 0, mimeType: 'text/plain' } },
  timings: { send: 0, wait: 5, receive: 1 },
  ...parts,
});
const har = (entries: unknown[], pages: unknown[] = []): string =>
  JSON.stringify({ log: { version: '1.2', pages, entries } });
function fileOf(name: string, content: string | Uint8Array): string {
  const path = join(folder, name);
  writeFileSync(path, content);
  return path;
}
const textBody = (text: string) =>
  entry({ response: { status: 200, headers: [], content: { size: text.length, mimeType: 'text/plain', text } } });
const summaryOf = (path: string, input?: Uint8Array | string) => {
  const { status, stdout, stderr } = runCli(['summary', path, '--json'], input);
  expect({ status, stderr }).toEqual({ status: 0, stderr: '' });
  return JSON.parse(stdout.toString()) as { exchanges: number; condition: { id: string; sentence: string }[] };
};

describe('input that is no plain file', () => {
  it('is read from pipes as from files, whatever they are called, and zipped too', () => {
    const path = fileOf('piped.har', har([entry(), entry()]));
    const zip = fileOf('piped.zip', zipSync({ 'a.har': Buffer.from(har([entry()])) }));
    const bash = (script: string) => spawnSync('bash', ['-c', script], { encoding: 'utf8' });
    const cli = `'${process.execPath}' bin/trazado`;
    for (const [script, exchanges] of [
      [`${cli} summary <(cat '${path}') --json`, 2],
      [`cat '${path}' | ${cli} summary /dev/stdin --json`, 2],
      [`${cli} summary /dev/stdin --json < '${path}'`, 2],
      [`cat '${zip}' | ${cli} summary - --json`, 1],
    ] as const) {
      const { stdout, stderr } = bash(script);
      expect([script, stderr, (JSON.parse(stdout || '{}') as { exchanges?: number }).exchanges]).toEqual([
        script,
        '',
        exchanges,
      ]);
    }
  });

  it('is told of by the name that the user gave it', () => {
    expect(runCli(['list', '-'], '{"a":1}').stderr).toMatch(/^trazado: standard input: The file is JSON but/);
    expect(runCli(['list', '/dev/zero']).stderr).toMatch(/is a device, not a file/);
    expect(runCli(['list', folder]).stderr).toMatch(/it is a folder/);
  });
});

describe('what a file is told to be', () => {
  it('is damaged where its archive is, with what could be read', () => {
    const text = har(Array.from({ length: 50 }, (_, at) => textBody(`hut ${at}`)));
    const packed = gzipSync(text);
    packed[packed.length - 6] = (packed[packed.length - 6] ?? 0) ^ 1;
    const altered = summaryOf(fileOf('crc.har.gz', packed));
    expect([altered.exchanges, altered.condition.map(({ id }) => id)]).toEqual([
      50,
      expect.arrayContaining(['archive-damaged']),
    ]);
    const zip = Buffer.from(zipSync({ 'a.har': [Buffer.from(text), { level: 0 }] }));
    zip[zip.indexOf('hut 7')] = 0x48;
    expect(summaryOf(fileOf('crc.zip', zip)).condition.map(({ id }) => id)).toContain('archive-damaged');
    const padded = summaryOf(fileOf('padded.har.gz', Buffer.concat([gzipSync(text), Buffer.alloc(900)])));
    expect([padded.exchanges, padded.condition.some(({ id }) => id === 'archive-damaged')]).toEqual([50, false]);
  });

  it('is one capture where several stand in a row, and that is said', () => {
    const rows = summaryOf(fileOf('row.har', `${har([entry(), entry()])}\n${har([entry()])}`));
    expect(rows.exchanges).toBe(2);
    expect(rows.condition.find(({ id }) => id === 'another-follows')?.sentence).toMatch(/Another capture follows/);
  });

  it('keeps pages apart that have one id', () => {
    const pages = [0, 60].map((second) => ({
      id: 'p',
      startedDateTime: `2026-10-03T09:0${second / 60}:00Z`,
      title: '',
      pageTimings: {},
    }));
    const at = (minute: number) => entry({ pageref: 'p', startedDateTime: `2026-10-03T09:0${minute}:01Z` });
    const { stdout } = runCli(['summary', fileOf('pages.har', har([at(0), at(0), at(1)], pages)), '--json']);
    expect(JSON.parse(stdout.toString()).pages).toMatchObject([
      { id: 'p#1', exchanges: 2 },
      { id: 'p#2', exchanges: 1 },
    ]);
  });

  it.each(['constructor', '__proto__', 'toString', 'hasOwnProperty'])('explains a page that is called %s', (id) => {
    const pages = [{ id, startedDateTime: '2026-10-03T09:00:00Z', title: id, pageTimings: { onLoad: 6 } }];
    const path = fileOf(
      'named.har',
      har(
        [entry({ pageref: id, request: { method: id, url: `https://${id}/`, headers: [{ name: id, value: id }] } })],
        pages,
      ),
    );
    for (const args of [
      ['explain', path, '--json'],
      ['explain', path, '--page', id],
      ['list', path, '--page', id],
      ['summary', path],
    ]) {
      const { status, stderr } = runCli(args);
      expect([args[0], status, stderr]).toEqual([args[0], 0, '']);
    }
  });
});

describe('find', () => {
  it('says where it gives less than there is', () => {
    const path = fileOf('many.har', har([textBody('needle '.repeat(500))]));
    const { stdout, stderr, status } = runCli(['find', path, 'needle', '--json']);
    expect([status, (JSON.parse(stdout.toString()) as unknown[]).length]).toEqual([0, 200]);
    expect(stderr).toBe('Only the first 200 hits are given of the response body of #0, which has more.\n');
    expect(runCli(['find', fileOf('few.har', har([textBody('needle '.repeat(200))])), 'needle']).stderr).toBe('');
  });

  it('gives what a regular expression found before it took too long', () => {
    const path = fileOf('slow.har', har([textBody('aab'), textBody(`${'a'.repeat(40)}!`)]));
    const { stdout, stderr, status } = runCli(['find', path, '(a+)+b', '--regex']);
    expect(status).toBe(2);
    expect(stdout.toString()).toMatch(/^0 {2}response body/);
    expect(stderr).toMatch(/takes too long on exchange 1/);
  });

  it('ends a filter that takes too long', () => {
    const url = `https://www.cumbrera.example/${'a'.repeat(60)}!`;
    const path = fileOf('filter.har', har([entry({ request: { method: 'GET', url, headers: [] } })]));
    const { stderr, status } = runCli(['list', path, '--where', 'url ~ /(a+)+$/']);
    expect([status, stderr]).toEqual([2, expect.stringMatching(/--where takes too long/)]);
  });
});

describe('what is captured', () => {
  // biome-ignore lint/suspicious/noControlCharactersInRegex: these are the characters that must not be there.
  const ACTED_ON = /[\u0000-\u0009\u000b-\u001f\u007f-\u009f\u202a-\u202e]/;
  const ODD = '\u001b[31m\u0007\u202e\u009b';
  it('drives no terminal, neither by results nor by errors', () => {
    const hostile = entry({
      pageref: ODD,
      request: { method: `G${ODD}`, url: `https://a.example/${ODD}`, headers: [{ name: `X${ODD}`, value: ODD }] },
      response: {
        status: 404,
        statusText: ODD,
        headers: [{ name: ODD, value: ODD }],
        content: { mimeType: ODD, text: ODD },
      },
    });
    const path = fileOf('ansi.har', har([hostile, hostile], [{ id: ODD, title: ODD, pageTimings: {} }]));
    const broken = [
      fileOf('ansi-key.har', `{"log":{"${ODD}" 1}}`),
      fileOf('ansi-value.har', `{"log":{"version":${ODD}}}`),
      fileOf('ansi.zip', zipSync({ [`${ODD}.har`]: Buffer.from(har([])), 'b.har': Buffer.from(har([])) })),
    ];
    const runs = [
      ['summary', path],
      ['list', path],
      ['list', path, '--json'],
      ['list', path, '--page', ODD],
      ['show', path, '0'],
      ['show', path, '0', '--json'],
      ['explain', path],
      ['find', path, 'a'],
      ['convert', path, '0', '--to', 'curl-sh', '--comments'],
      ['convert', path, '--script', '--to', 'python-requests'],
      ...broken.map((one) => ['summary', one]),
    ];
    for (const args of runs) {
      const { stdout, stderr } = runCli(args);
      expect([args.slice(0, 1), ACTED_ON.exec(stdout.toString() + stderr)]).toEqual([args.slice(0, 1), null]);
    }
  });
});
