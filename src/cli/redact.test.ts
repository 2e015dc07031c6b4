import { existsSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { describe, expect, it } from 'vitest';
import { runCli } from '../server/testing/process';

const BOOKING = 'demo/captures/booking-gone-wrong.har';
const FIRST = 'demo/captures/alba-norte-first-visit.har';
const folder = mkdtempSync(join(tmpdir(), 'trazado-redacted-'));
const outOf = (name: string): string => join(folder, `${name}.har`);

const run = (...args: string[]) => {
  const { status, stdout, stderr } = runCli(args);
  return { status, stdout: stdout.toString(), stderr };
};

/** A capture of one call, with this body and header. */
function fileOf(name: string, body: string, headers: readonly { name: string; value: string }[] = []): string {
  const path = join(folder, `${name}-in.har`);
  const entry = {
    startedDateTime: '2026-10-03T09:00:00Z',
    request: { method: 'GET', url: 'https://www.cumbrera.example/guests', headers },
    response: { status: 200, headers: [], content: { size: body.length, mimeType: 'application/json', text: body } },
    timings: { send: 0, wait: 5, receive: 1 },
  };
  writeFileSync(path, JSON.stringify({ log: { version: '1.2', comment: `of ${name}`, entries: [entry, entry] } }));
  return path;
}

describe('trazado redact', () => {
  it('takes every credential of the demo out, and nothing else changes: compared with itself only placeholders differ', () => {
    const out = outOf('booking');
    const { status, stdout } = run('redact', BOOKING, out, '--list');
    expect(status).toBe(0);
    expect(stdout).toMatch(/^4 x {2}cookie +walker +11 characters +cookie-1-xx$/m);
    const [before, after] = [BOOKING, out].map((path) => readFileSync(path, 'utf8'));
    // Independent of the finder: what the recording's own headers hold.
    const held = [...(before ?? '').matchAll(/"value":"Bearer ([^"]+)"|"value":"walker=([^"; ]+)/g)].flatMap(
      (match) => match[1] ?? match[2] ?? [],
    );
    expect(held.length).toBeGreaterThan(3);
    for (const value of held) expect(after).not.toContain(value);
    expect(run('compare', BOOKING, out).stdout).toMatch(
      /^The last exchange ended after .+ in both\.|^Loaded in .+ in both\./,
    );
    const proof = readFileSync(`${out}.proof.txt`, 'utf8');
    expect(proof).toMatch(
      /^ok {4}none of \d+ values is left, in any encoding\nok {4}what was written loads: 37 exchanges\nok {4}times, sizes, sources, routes and findings are as they were recorded\n/,
    );
    for (const value of held) expect(proof + stdout).not.toContain(value);
  });

  it('looks into bodies that are packed or in UTF-16, and says of which others only the bytes were looked through', () => {
    const secret = 'Zq8-kkT5w_vR33';
    const text = JSON.stringify({ password: secret });
    const bodies = [
      gzipSync(text),
      Buffer.from(`\ufeff${text}`, 'utf16le'),
      Buffer.from('89504e470d0a1a0afffe00', 'hex'),
    ];
    const path = join(folder, 'packed-in.har');
    const entries = bodies.map((bytes) => ({
      startedDateTime: '2026-10-03T09:00:00Z',
      request: { method: 'GET', url: 'https://www.cumbrera.example/export', headers: [] },
      response: {
        status: 200,
        headers: [],
        content: {
          size: bytes.length,
          mimeType: 'application/octet-stream',
          encoding: 'base64',
          text: bytes.toString('base64'),
        },
      },
      timings: { send: 0, wait: 5, receive: 1 },
    }));
    writeFileSync(path, JSON.stringify({ log: { version: '1.2', entries } }));
    const out = outOf('packed');
    expect(run('redact', path, out).status).toBe(0);
    const left = (JSON.parse(readFileSync(out, 'utf8')).log.entries as typeof entries).map(({ response }) =>
      Buffer.from(response.content.text, 'base64'),
    );
    expect([left[0]?.toString(), left[1]?.toString('utf16le')].join()).not.toContain(secret);
    expect(left[0]?.toString()).toContain('password-1-xx');
    expect(readFileSync(`${out}.proof.txt`, 'utf8')).toMatch(
      /^ok {4}none of 1 value is left, in any encoding; of 1 body that is no text only the bytes were looked through\n/,
    );
  });

  it('takes more out for those who know less', () => {
    const path = fileOf('guests', '{"guest":{"lastName":"Walker-Ridge","email":"ada@post.example"},"lat":42.50631}');
    const bodies = ['colleague', 'supplier', 'public'].map((preset) => {
      const out = outOf(preset);
      expect(run('redact', path, out, '--preset', preset).status).toBe(0);
      return readFileSync(out, 'utf8');
    });
    expect(bodies.map((text) => ['Walker-Ridge', 'ada@post', '42.50631'].map((value) => text.includes(value)))).toEqual(
      [
        [true, true, true],
        [false, false, true],
        [false, false, false],
      ],
    );
  });

  it('takes words of one’s own out, and expressions', () => {
    const path = fileOf('words', '{"project":"Edelweiss","ref":"HUT-2291"}');
    const out = outOf('words');
    expect(run('redact', path, out, '--word', 'Edelweiss', '--word', '/HUT-\\d+/').status).toBe(0);
    expect(readFileSync(out, 'utf8')).not.toMatch(/Edelweiss|HUT-2291/);
    expect(readFileSync(out, 'utf8')).toContain('"comment": "of words"');
  });

  it('writes only the exchanges of a filter, bodies left out or blank by kind', () => {
    const out = outOf('part');
    expect(run('redact', FIRST, out, '--where', 'host = img.cumbrera.example', '--blank', 'image').status).toBe(0);
    const { log } = JSON.parse(readFileSync(out, 'utf8')) as {
      log: { entries: { request: { url: string }; response: { content: { text?: string; size: number } } }[] };
    };
    expect(log.entries).toHaveLength(43);
    expect(log.entries.every(({ request }) => request.url.startsWith('https://img.cumbrera.example/'))).toBe(true);
    const bytes = Buffer.from(log.entries[0]?.response.content.text ?? '', 'base64');
    expect([bytes.subarray(8, 12).toString(), bytes.subarray(40).every((byte) => byte === 0)]).toEqual(['WEBP', true]);
    const bare = outOf('bare');
    expect(run('redact', FIRST, bare, '--without-bodies', 'image,script').status).toBe(0);
    expect(readFileSync(bare).length).toBeLessThan(readFileSync(FIRST).length / 2);
  });

  it('says of a word that stands nowhere that it does', () => {
    const path = fileOf('words', '{"hut":"Alba Norte","guide":"Kestrel"}');
    const told = (...words: string[]): string =>
      run('redact', path, outOf('words'), ...words.flatMap((word) => ['--word', word])).stderr;
    expect(told('Kestrel', '/Al+ba/')).toBe('');
    // What is found as something else already is not told to be nowhere.
    const walker = /walker=([\w-]+)/.exec(readFileSync(BOOKING, 'utf8'))?.[1] ?? 'none';
    expect(run('redact', BOOKING, outOf('found'), '--word', walker).stderr).not.toContain('stands nowhere');
    expect(told('kestrel', 'Alba', '/zz+y/')).toBe(
      ['kestrel', '/zz+y/']
        .map((word) => `--word ${word} stands nowhere in what leaves: see that it is written as in the capture.\n`)
        .join(''),
    );
  });

  it('goes from pipe to pipe', () => {
    const { status, stdout } = runCli(['redact', '-', '-'], readFileSync(BOOKING));
    expect(status).toBe(0);
    expect(JSON.parse(stdout.toString()).log.entries).toHaveLength(37);
    const listed = runCli(['redact', '-', '-', '--list'], readFileSync(BOOKING));
    expect(listed.stderr.toString()).toMatch(/4 x {2}cookie +walker +11 characters/);
    expect(JSON.parse(listed.stdout.toString()).log.entries).toHaveLength(37);
  });

  it('says which values it replaced only in their places', () => {
    const path = fileOf('common', '{"password":"summer","season":"summer"}');
    const out = outOf('common');
    const { status, stderr } = run('redact', path, out);
    expect([status, stderr]).toEqual([0, expect.stringContaining('1 value (password) is short or a common word')]);
    expect(readFileSync(out, 'utf8')).toContain('\\"season\\":\\"summer\\"');
  });

  it('says which bodies it could not read, in one line', () => {
    const { status, stderr } = run('redact', fileOf('bytes', '{"beds":\u0001\u0002}'), outOf('bytes'));
    expect([status, stderr]).toEqual([
      0,
      expect.stringMatching(/^2 bodies \(application\/json; #0, #1\) are no text: [^\n]+\n$/),
    ]);
  });

  it.each([
    [['--preset', 'enemy'], '"enemy" is not a preset; use one of colleague, supplier, public.'],
    [['--word', ' '], 'An empty word would be found everywhere.'],
    [['--word', '/(/'], 'is not a regular expression.'],
    [['--where', 'host = nobody'], '--where lets no exchange through'],
    [['--blank', 'mule'], '"mule" is not a kind'],
  ])('refuses %j in one line, and writes nothing', (args, sentence) => {
    const out = outOf('refused');
    const { status, stderr } = run('redact', BOOKING, out, ...args);
    expect([status, existsSync(out)]).toEqual([2, false]);
    expect(stderr).toContain(sentence);
  });

  it('writes nothing, and says where, if the analysis would change', () => {
    // A word that is part of every address: what was found by it is another thing now.
    const out = outOf('changed');
    const { status, stderr } = run('redact', FIRST, out, '--word', 'max-age=0');
    expect(status).toBe(1);
    expect(stderr).toMatch(/FAIL {2}times, sizes, sources, routes and findings/);
    expect(stderr).toContain(`Nothing was written to ${out}.`);
    expect([existsSync(out), existsSync(`${out}.proof.txt`)]).toEqual([false, false]);
  });
});
