import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { runBeside } from '#server/testing/process';

// Trims, series and watches of the program itself, against a server of the test's own.

let server: Server;
let origin: string;
let asked: string[] = [];
const folder = mkdtempSync(join(tmpdir(), 'trazado-runs-'));
const HUTS = Array.from({ length: 5 }, (_, at) => ({ id: `${at}`, name: `hut ${at}` }));

beforeAll(async () => {
  server = createServer((request, response) => {
    const url = new URL(request.url ?? '', 'http://x');
    asked.push(request.url ?? '');
    const json = (body: unknown, status = 200): void => {
      response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(body));
    };
    if (request.headers['x-key'] !== 'k') json({ error: 'who?' }, 401);
    else if (url.searchParams.get('page') === '7') json({ error: 'gone' }, 500);
    else {
      const page = Number(url.searchParams.get('page') ?? 0);
      json({ huts: HUTS.slice(page * 2, page * 2 + 2), total: HUTS.length, left: 5 - asked.length });
    }
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const entry = {
    startedDateTime: '2026-10-05T08:00:00.000Z',
    time: 20,
    request: {
      method: 'GET',
      url: `${origin}/huts?page=0`,
      headers: [
        { name: 'X-Key', value: 'k' },
        { name: 'Accept', value: '*/*' },
        { name: 'Sec-Fetch-Mode', value: 'cors' },
      ],
    },
    response: {
      status: 200,
      headers: [{ name: 'Content-Type', value: 'application/json' }],
      content: { mimeType: 'application/json', text: JSON.stringify({ huts: HUTS.slice(0, 2), total: 5, left: 4 }) },
    },
    timings: { send: 0, wait: 20, receive: 0 },
  };
  writeFileSync(
    join(folder, 'capture.har'),
    JSON.stringify({ log: { version: '1.2', creator: { name: 'test', version: '1' }, entries: [entry] } }),
  );
});
afterAll(() => {
  server.close();
  rmSync(folder, { recursive: true });
});

const trazado = (command: string, ...args: readonly string[]): ReturnType<typeof runBeside> => {
  asked = [];
  return runBeside([command, join(folder, 'capture.har'), '0', ...args]);
};

describe('trazado trim', () => {
  it('prints what is left as a command, and the reasons beside it', async () => {
    const { status, stdout, stderr } = await trazado('trim', '--measure', 'now');
    expect(stdout).toBe(`curl ${origin}/huts \\\n  -H 'X-Key: k' \\\n  -H User-Agent: \\\n  -H Accept:\n`);
    expect(stderr).toContain(
      '1 of 4 parts is needed: the response differs without it.\n  header X-Key: without it 401\n',
    );
    expect(status).toBe(0);
    const json = JSON.parse((await trazado('trim', '--measure', 'now', '--json', '--to', 'http')).stdout);
    expect(json).toMatchObject({ isProven: true, needed: [{ name: 'header X-Key', reason: 'without it 401' }] });
  });

  it('ends with 1 where the response is not the captured one, or too few requests were allowed', async () => {
    const other = await trazado('trim', '--without', 'X-Key');
    expect(other.stderr).toContain('The response is 401 now, not 200 as captured.');
    expect([other.status, other.stdout]).toEqual([1, '']);
    const few = await trazado('trim', '--measure', 'now', '--most', '3');
    expect(few.stderr).toContain('Stopped after 3 trials');
    expect([few.status, asked.length]).toEqual([1, 3]);
  });
});

describe('trazado series', () => {
  it('writes the table to standard output or to a file, with the values where that is wanted', async () => {
    const csv = ['id,name', ...HUTS.map(({ id, name }) => `${id},${name}`), ''].join('\n');
    const { status, stdout, stderr } = await trazado('series', '--vary', 'query.page=0..', '--pause', '0');
    expect([status, stdout]).toEqual([0, csv]);
    expect(stderr).toContain('3 responses, 5 rows. All 5 rows came.');
    const out = join(folder, 'huts.csv');
    await trazado('series', '--vary', 'page=2,0', '--pause', '0', '--csv', out, '--with-value');
    expect(readFileSync(out, 'utf8')).toBe('page,id,name\n2,4,hut 4\n0,0,hut 0\n0,1,hut 1\n');
  });

  it('takes values from a column of a file, tells repeated rows, and writes lines', async () => {
    const file = join(folder, 'pages.csv');
    writeFileSync(file, '\uFEFFhut,"the page"\r\n"a, b",0\r\nc,0\r\nd,\r\n');
    const out = join(folder, 'huts.jsonl');
    const args = ['--vary', `page=@${file}:the page`, '--pause', '0', '--lines', out];
    const { stderr } = await trazado('series', ...args, '--once');
    expect(stderr).toContain('2 rows came more than once and stand there once.');
    expect(readFileSync(out, 'utf8')).toBe(
      HUTS.slice(0, 2)
        .map((hut) => `${JSON.stringify(hut)}\n`)
        .join(''),
    );
  });

  it('takes no value of two lines, and reads a file that is no UTF-8', async () => {
    const file = join(folder, 'stages.csv');
    writeFileSync(file, Buffer.from('año;page\n1;0\n', 'latin1'));
    const { stdout } = await trazado('series', '--vary', `page=@${file}:page`, '--pause', '0');
    expect(stdout).toBe('id,name\n0,hut 0\n1,hut 1\n');
    const { stdout: other } = await trazado('series', '--vary', `page=@${file}:año`, '--pause', '0');
    expect(other).toBe('id,name\n2,hut 2\n3,hut 3\n');
    writeFileSync(file, 'page\n"0\n1"\n');
    const { status, stderr } = await trazado('series', '--vary', `page=@${file}:page`, '--pause', '0');
    expect([status, stderr]).toEqual([
      2,
      expect.stringContaining('"page" has a line break in it: a value is one line.'),
    ]);
  });

  it('ends with 1 where a page fails, and writes what came before it', async () => {
    const { status, stdout, stderr } = await trazado('series', '--vary', 'page=0,7,1', '--pause', '0');
    expect([status, stdout]).toEqual([1, 'id,name\n0,hut 0\n1,hut 1\n']);
    expect(stderr).toContain('The response to 7 was 500.');
  });
});

describe('trazado watch', () => {
  it('prints what each response has, and ends with 0 where the condition is met, with 1 where it is not', async () => {
    const met = await trazado('watch', '--until', '$.left <= 3', '--every', '1s');
    expect(met.stdout.split('\n').map((line) => line.replace(/^\S+ /, ''))).toEqual([
      '4: the first response',
      '3: $.left is 3 now, 4 before',
      '',
    ]);
    expect([met.status, met.stderr.includes('Met: $.left <= 3. $.left is 3.')]).toEqual([0, true]);
    const vain = await trazado('watch', '--until', 'status = 404', '--every', '1s', '--most', '1', '--json');
    expect(JSON.parse(vain.stdout)).toMatchObject({ value: '200' });
    expect(vain.status).toBe(1);
  });
});

describe('what cannot be run', () => {
  it.each([
    ['trim', ['--to', 'fortran'], '"fortran" is not a target'],
    ['trim', ['--most', '2'], '--most takes a whole number from 3 on.'],
    ['trim', ['--measure', 'mine'], '--measure takes captured or now.'],
    ['series', [], 'Name what the series goes through'],
    ['series', ['--vary', 'page'], '--vary takes NAME=1..'],
    ['series', ['--vary', 'page=x..'], 'From is a whole number'],
    ['series', ['--vary', 'page=@/nowhere'], 'there is no such file'],
    ['series', ['--vary', 'page=0..', '--at-once', '9'], '--at-once takes a number from 1 to 4.'],
    ['watch', ['--until', '$.left <'], 'Behind < stands what it is compared with.'],
    ['watch', ['--until', 'changes', '--every', '10ms'], '--every takes a time'],
  ])('%s %j is refused in one line, and nothing is sent', async (command, args, sentence) => {
    const { status, stderr, stdout } = await trazado(command, ...args);
    expect(stderr).toContain(sentence);
    expect([status, stdout, stderr.trim().split('\n').length, asked]).toEqual([2, '', 1, []]);
  });
});
