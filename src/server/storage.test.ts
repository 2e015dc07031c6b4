import { randomUUID } from 'node:crypto';
import { chmodSync, cpSync, mkdirSync, readFileSync, statSync, truncateSync, writeFileSync } from 'node:fs';
import { createServer, request as httpRequest } from 'node:http';
import { type AddressInfo, connect } from 'node:net';
import { networkInterfaces } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ImportResult, ProblemAnswer } from '#core/wire';
import { newDataFolder, type RunningApp, runCli, startLauncher, startServer } from './testing/process';

const har = (name: string): string =>
  JSON.stringify({
    log: {
      version: '1.2',
      entries: [
        {
          startedDateTime: '2026-10-03T09:00:00Z',
          request: { method: 'GET', url: `https://www.cumbrera.example/${name}`, headers: [] },
          response: { status: 200, headers: [], content: { size: 4, text: 'hut!', mimeType: 'text/plain' } },
        },
      ],
    },
  });

const post = (url: string, text: string): Promise<Response> =>
  fetch(`${url}api/captures?${new URLSearchParams({ name: 'x', importId: randomUUID() })}`, {
    method: 'POST',
    body: text,
  });

async function take(url: string, text: string): Promise<string> {
  const [result] = (await (await post(url, text)).json()) as ImportResult[];
  if (result?.type !== 'imported') throw new Error(`not imported: ${JSON.stringify(result)}`);
  return result.id;
}

const patch = (url: string, id: string, change: unknown): Promise<Response> =>
  fetch(`${url}api/captures/${id}`, {
    method: 'PATCH',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(change),
  });

const shelf = async (url: string): Promise<{ id: string }[]> =>
  (await (await fetch(`${url}api/captures`)).json()) as { id: string }[];

describe('a data folder that cannot be used', () => {
  let good: string;
  beforeAll(async () => {
    good = newDataFolder();
    const app = await startServer(good);
    await take(app.url, har('kept'));
    await app.stop();
  });

  const sqlOf = (statement: string) => (folder: string) => {
    const database = new Database(join(folder, 'trazado.db'));
    database.exec(statement);
    database.close();
  };
  const CASES: readonly [string, RegExp, (folder: string) => void][] = [
    ['is no database', /is not a database/, (folder) => writeFileSync(join(folder, 'trazado.db'), 'x'.repeat(9000))],
    ['is cut in half', /is damaged/, (folder) => truncateSync(join(folder, 'trazado.db'), 40_000)],
    [
      'has pages overwritten',
      /is damaged/,
      (folder) => {
        const path = join(folder, 'trazado.db');
        writeFileSync(path, readFileSync(path).fill(0xff, 2 * 16_384, 8 * 16_384));
      },
    ],
    [
      'has a column more than is known',
      /another version of Trazado/,
      sqlOf('alter table captures add column extra text'),
    ],
    ['has a table more than is known', /another version of Trazado/, sqlOf('create table huts (a)')],
    ['lacks a column', /another version of Trazado/, sqlOf('alter table captures rename column note to remark')],
    [
      'was migrated by a newer version',
      /another version of Trazado/,
      sqlOf("insert into __drizzle_migrations (hash, created_at) values ('x', 99999999999999)"),
    ],
    [
      'is of another program',
      /of another program/,
      (folder) => {
        writeFileSync(join(folder, 'trazado.db'), '');
        sqlOf('create table huts (a)')(folder);
      },
    ],
  ];

  it.each(CASES)('is told of at the start where the database %s, and left as it is', (_name, sentence, harm) => {
    const folder = newDataFolder();
    cpSync(good, folder, { recursive: true });
    harm(folder);
    const file = join(folder, 'trazado.db');
    const before = readFileSync(file);
    const { status, stdout, stderr } = runCli(['serve', '--port', '0', '--data', folder]);
    expect({ status, stdout: stdout.toString() }).toEqual({ status: 2, stdout: '' });
    expect(stderr).toMatch(sentence);
    expect(stderr).toContain(file);
    expect(stderr.trim().split('\n')).toHaveLength(1);
    expect(readFileSync(file).equals(before)).toBe(true);
  });

  it.each([
    ['a file', (folder: string) => join(folder, 'file'), /is not a folder/],
    ['in a file', (folder: string) => join(folder, 'file/inner'), /is not a folder/],
    ['where nothing can be made', () => '/proc/nope/x', /cannot be used/],
    ['without a name', () => '', /has no name/],
    [
      'with a folder in the place of the database',
      (folder: string) => join(folder, 'held'),
      /trazado\.db cannot be opened/,
    ],
  ])('is told of at the start where it is %s', (_name, pathIn, sentence) => {
    const folder = newDataFolder();
    writeFileSync(join(folder, 'file'), '');
    mkdirSync(join(folder, 'held/trazado.db'), { recursive: true });
    const { status, stderr } = runCli(['serve', '--port', '0', '--data', pathIn(folder)]);
    expect({ status, lines: stderr.trim().split('\n').length }).toEqual({ status: 2, lines: 1 });
    expect(stderr).toMatch(sentence);
  });

  it('is waited for where another program holds the database for a moment, and told of where it goes on', async () => {
    const folder = newDataFolder();
    cpSync(good, folder, { recursive: true });
    const holder = new Database(join(folder, 'trazado.db'));
    holder.pragma('locking_mode = EXCLUSIVE');
    holder.exec('begin exclusive');
    const { status, stderr } = runCli(['serve', '--port', '0', '--data', folder]);
    expect(status).toBe(2);
    expect(stderr).toMatch(/trazado\.db is held by another program/);
    const starting = startLauncher(['serve', '--port', '0'], folder);
    setTimeout(() => holder.close(), 1500);
    const app = await starting;
    expect(await shelf(app.url)).toHaveLength(1);
    await app.stop();
  });
});

describe('what is kept', () => {
  it('is readable by its user alone, also where it was not before', async () => {
    const folder = newDataFolder();
    const first = await startServer(folder);
    await take(first.url, har('a'));
    await first.stop();
    chmodSync(join(folder, 'trazado.db'), 0o644);
    chmodSync(join(folder, 'incoming'), 0o755);
    const app = await startServer(folder);
    await take(app.url, har('b'));
    for (const name of ['trazado.db', 'trazado.db-wal', 'incoming']) {
      expect([name, statSync(join(folder, name)).mode & 0o077]).toEqual([name, 0]);
    }
    await app.stop();
    const made = join(newDataFolder(), 'made/by/us');
    await (await startLauncher(['serve', '--port', '0', '--data', made])).stop();
    expect(statSync(made).mode & 0o777).toBe(0o700);
  });

  it('can be brought back after the server was started anew, and is purged in time', async () => {
    const folder = newDataFolder();
    const first = await startServer(folder);
    const id = await take(first.url, har('gone'));
    expect((await patch(first.url, id, { deleted: true })).status).toBe(200);
    for (const path of ['exchanges', 'names', 'exchanges/0/body', 'find?text=x', 'forecast', 'findings']) {
      expect([path, (await fetch(`${first.url}api/captures/${id}/${path}`)).status]).toEqual([path, 404]);
    }
    await first.stop();
    const second = await startServer(folder);
    expect((await patch(second.url, id, { deleted: false })).status).toBe(200);
    expect((await shelf(second.url)).map((card) => card.id)).toEqual([id]);
    await patch(second.url, id, { deleted: true });
    await second.stop();
    const database = new Database(join(folder, 'trazado.db'));
    database.prepare('update captures set deleted_at = ?').run(Date.now() - 11 * 60_000);
    database.close();
    const third = await startServer(folder);
    expect((await patch(third.url, id, { deleted: false })).status).toBe(404);
    await third.stop();
  });
});

describe('a running server', () => {
  let app: RunningApp;
  beforeAll(async () => {
    app = await startServer();
  });
  afterAll(() => app.stop());

  it('puts the same file on the shelf once, also where it was deleted, sent again, and brought back', async () => {
    const id = await take(app.url, har('once'));
    await patch(app.url, id, { deleted: true });
    const [again] = (await (await post(app.url, har('once'))).json()) as ImportResult[];
    expect(again).toMatchObject({ type: 'imported', id, exchanges: 1 });
    await patch(app.url, id, { deleted: false });
    expect((await shelf(app.url)).filter((card) => card.id === id)).toHaveLength(1);
  });

  it('puts each capture of a file of several in a row on the shelf', async () => {
    const results = (await (
      await post(app.url, `${har('row 1')}\n${har('row 2')},[${har('row 3')}]`)
    ).json()) as ImportResult[];
    expect(results.map(({ type, name }) => [type, name])).toEqual([
      ['imported', 'x'],
      ['imported', 'x (2)'],
      ['imported', 'x (3)'],
    ]);
  });

  it('keeps nothing of a sender who left once the last byte was sent, before the answer', async () => {
    const before = (await shelf(app.url)).length;
    const leave = (at: number): Promise<void> =>
      new Promise((resolve) => {
        const path = `/api/captures?name=left-${at}&importId=${randomUUID()}`;
        const sending = httpRequest({ port: Number(new URL(app.url).port), method: 'POST', path });
        sending.on('error', () => resolve());
        sending.on('close', () => resolve());
        sending.end(har(`left ${at}`), () => sending.destroy());
      });
    for (let at = 0; at < 8; at++) await leave(at);
    // One that stays comes behind all of them.
    await take(app.url, har('stayed'));
    const names = (await shelf(app.url)).map((card) => (card as unknown as { name: string }).name);
    const kept = names.filter((name) => name.startsWith('left-')).length;
    expect([kept, names.length]).toEqual([0, before + 1]);
  });

  it('hears all of what is too large, so that its answer is heard and the connection can be used again', async () => {
    const text = 'x'.repeat(3_000_000);
    for (let time = 0; time < 12; time++) {
      expect((await patch(app.url, randomUUID(), { note: text })).status).toBe(413);
      expect((await fetch(`${app.url}api/nothing/there`)).status).toBe(404);
      expect((await fetch(`${app.url}api/nothing/there`, { method: 'POST', body: text })).status).toBe(404);
      const foreign = { method: 'POST', body: text, headers: { origin: 'https://other.example' } };
      expect((await fetch(`${app.url}api/captures`, foreign)).status).toBe(403);
    }
  });

  it.each([
    ['PATCH', 'captures/ID', '{"deleted":"true"}', 400],
    ['PATCH', 'captures/ID', 'no JSON', 400],
    ['PATCH', 'captures/ID', '', 400],
    ['PATCH', 'captures/ID/findings', 'null', 400],
    ['PUT', 'captures/ID/drafts/ID', '[', 400],
    ['POST', 'captures/ID/har', 'undefined', 400],
    ['POST', 'captures/local', '{"path":"a\\u0000b"}', 400],
    ['POST', 'captures/local', '{"path":"/dev/zero"}', 404],
    ['POST', 'captures/local', '{"path":"/tmp"}', 404],
    ['POST', 'captures/local', '{"path":"/no/such/file.har"}', 404],
    ['PUT', 'settings/filters', '7', 400],
    ['PATCH', 'captures/ID', `{"note":"${'x'.repeat(2_000_000)}"}`, 413],
    ['GET', 'nothing/there', undefined, 404],
    ['DELETE', 'captures', undefined, 404],
  ])('answers %s %s by a sentence, not by a fault of its own (case %$)', async (method, path, body, status) => {
    const id = await take(app.url, har(randomUUID()));
    const answer = await fetch(`${app.url}api/${path.replaceAll('ID', id)}`, {
      method,
      headers: { 'content-type': 'application/json' },
      ...(body === undefined ? {} : { body }),
    });
    expect(answer.status).toBe(status);
    const { sentence, advice } = (await answer.json()) as ProblemAnswer;
    expect([sentence, advice].every((text) => /^[A-Z/"].*\.$/.test(text))).toBe(true);
  });

  it('answers to no method that it has no use for, and to no request with two hosts', async () => {
    for (const method of ['POST', 'PUT', 'DELETE', 'OPTIONS', 'PATCH']) {
      expect([method, (await fetch(app.url, { method })).status]).toEqual([method, 405]);
    }
    const port = Number(new URL(app.url).port);
    const raw = (text: string): Promise<string> =>
      new Promise((resolve) => {
        let answer = '';
        const socket = connect(port, '127.0.0.1', () => socket.end(text));
        socket.on('data', (chunk: Buffer) => {
          answer += chunk;
        });
        socket.on('close', () => resolve(answer.split('\r\n')[0] ?? ''));
      });
    expect(await raw('TRACE / HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\n\r\n')).toContain(' 405 ');
    expect(await raw('GET / HTTP/1.1\r\nHost: localhost\r\nHost: evil.example\r\nConnection: close\r\n\r\n')).toContain(
      ' 400 ',
    );
  });

  it('gives other sites nothing, however they spell the address', async () => {
    const { port } = new URL(app.url);
    const statusOf = (path: string): Promise<number | undefined> =>
      new Promise((resolve, reject) => {
        const headers = { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'document' };
        httpRequest({ port, path, headers }, (answer) => {
          answer.resume();
          resolve(answer.statusCode);
        })
          .on('error', reject)
          .end();
      });
    expect(await statusOf('/')).toBe(200);
    for (const path of ['/api/captures', '//api/captures', '/\\api/captures', '/API/captures']) {
      expect([path, await statusOf(path)]).toEqual([path, 403]);
    }
  });
});

describe('starting', () => {
  it.each([['serve'], ['demo']])('%s ends with 2 and one sentence where its port is busy or none', async (command) => {
    const busy = createServer().listen(0, '127.0.0.1');
    await new Promise((resolve) => busy.once('listening', resolve));
    const { port } = busy.address() as AddressInfo;
    const folder = newDataFolder();
    for (const [given, sentence] of [
      [String(port), /Port \d+ is busy/],
      ['70000', /is not a port/],
      ['x', /is not a port/],
    ] as const) {
      const { status, stderr } = runCli([command, '--port', given], undefined, { TRAZADO_DATA: folder });
      expect({ given, status, isOne: stderr.trim().split('\n').length }).toEqual({ given, status: 2, isOne: 1 });
      expect(stderr).toMatch(sentence);
    }
    busy.close();
  });

  it('listens where it is told to, prints an address that answers there, and takes the files it was given', async () => {
    const folder = newDataFolder();
    const file = join(folder, 'given.har');
    writeFileSync(file, har('given'));
    const own = Object.values(networkInterfaces())
      .flatMap((list) => list ?? [])
      .find(({ internal, family }) => !internal && family === 'IPv4')?.address;
    const hosts = ['0.0.0.0', 'localhost', ...(own === undefined ? [] : [own])];
    for (const host of hosts) {
      const app = await startLauncher(['serve', file, '--port', '0', '--host', host], newDataFolder());
      expect([host, (await shelf(app.url)).length]).toEqual([host, 1]);
      const { port } = new URL(app.url);
      if (own !== undefined && host !== 'localhost') {
        expect((await fetch(`http://${own}:${port}/`)).status).toBe(200);
        // Files of this machine are not for others, who do not know the secret of the command line.
        const asked = await fetch(`http://${own}:${port}/api/captures/local`, {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify({ path: file }),
        });
        expect(asked.status).toBe(403);
      }
      await app.stop();
    }
    const { status, stderr } = runCli(['serve', '--port', '0', '--host', 'no.such.host.invalid']);
    expect(status).toBe(2);
    expect(stderr).toMatch(/there is no such host/);
  });
});
