import { execFile } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { describeNeeding } from '../src/core/convert/testing/tools';
import { type RunningSite, startSite } from './site';

const run = promisify(execFile);

let folder: string;
let site: RunningSite;
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'trazado-site-'));
  site = await startSite(folder);
  writeFileSync(join(folder, '.curlrc'), site.curlConfig);
});
afterAll(async () => {
  await site.close();
  rmSync(folder, { recursive: true });
});

interface Reply {
  readonly status: number;
  readonly version: string;
  readonly headers: string;
  readonly body: string;
}

/** Asks the site with the real curl, by the very config that the demo hands to its user. */
async function ask(url: string, ...options: string[]): Promise<Reply> {
  const args = ['-s', '-S', '-D', join(folder, 'headers'), '-w', '\n%{http_code} %{http_version}', ...options, url];
  const { stdout } = await run('curl', args, {
    env: { PATH: process.env['PATH'], CURL_HOME: folder },
    encoding: 'latin1',
  });
  const { stdout: headers } = await run('cat', [join(folder, 'headers')]);
  const end = stdout.lastIndexOf('\n');
  const [status = '', version = ''] = stdout.slice(end + 1).split(' ');
  return { status: Number(status), version, headers: headers.toLowerCase(), body: stdout.slice(0, end) };
}

const API = 'https://api.cumbrera.example';
const token = async (query = ''): Promise<string> =>
  JSON.parse((await ask(`${API}/session${query}`, '-X', 'POST')).body).token;

describeNeeding(['curl'])('the stand-in site', () => {
  it('speaks HTTP/2 on its newer hosts, HTTP/1.1 on the older ones, and leads plain http to https', async () => {
    expect((await ask('https://www.cumbrera.example/')).version).toBe('2');
    expect((await ask('https://img.cumbrera.example/photos/alba-norte-ridge-240.webp')).version).toBe('1.1');
    const plain = await ask('http://cumbrera.example/hut/alba-norte');
    expect(plain.status).toBe(301);
    expect(plain.headers).toContain('location: https://www.cumbrera.example/hut/alba-norte');
  });

  it('compresses by what the client takes', async () => {
    const url = 'https://www.cumbrera.example/huts/alba-norte';
    expect((await ask(url, '-H', 'accept-encoding: gzip, br')).headers).toContain('content-encoding: br');
    expect((await ask(url, '-H', 'accept-encoding: gzip')).headers).toContain('content-encoding: gzip');
    expect((await ask(url)).headers).not.toContain('content-encoding');
    const sky = await ask('https://sky.topolines.example/weather/hourly?place=x', '-H', 'accept-encoding: gzip, br');
    expect(sky.headers).toContain('content-encoding: gzip');
  });

  it('confirms a kept copy by its ETag', async () => {
    const url = 'https://www.cumbrera.example/assets/grid.css';
    const etag = /etag: (\S+)/.exec((await ask(url)).headers)?.[1] ?? '';
    expect((await ask(url, '-H', `if-none-match: ${etag}`)).status).toBe(304);
    expect((await ask(url, '-H', 'if-none-match: "older"')).status).toBe(200);
  });

  it('asks for a token, refuses one that expired, and renews it', async () => {
    const url = `${API}/huts/alba-norte/availability?page=1`;
    expect((await ask(url)).status).toBe(401);
    const stale = await ask(url, '-H', `authorization: Bearer ${await token('?stale=1')}`);
    expect([stale.status, JSON.parse(stale.body).detail]).toEqual([401, 'the token has expired']);
    const fresh = await ask(url, '-H', `authorization: Bearer ${await token()}`);
    expect(JSON.parse(fresh.body)).toMatchObject({ page: 1, pages: 4 });
    expect(JSON.parse(fresh.body).nights).toHaveLength(30);
  });

  it('pages its lists to their end', async () => {
    const pages = await Promise.all(
      [0, 5, 6].map(async (page) => JSON.parse((await ask(`${API}/notices?page=${page}`)).body)),
    );
    expect(pages.map(({ items, total }) => [items.length, total])).toEqual([
      [20, 120],
      [20, 120],
      [0, 120],
    ]);
  });

  it('answers GraphQL, also with an error inside a 200', async () => {
    const post = async (query: string) =>
      ask(`${API}/graphql`, '-H', 'content-type: application/json', '--data-raw', JSON.stringify({ query }));
    expect(JSON.parse((await post('{ hut(slug: "alba-norte") { name } }')).body)).toEqual({
      data: { hut: { name: 'Alba Norte' } },
    });
    const failed = await post('mutation { holdBeds(hut: "alba-norte", nights: 3) { id } }');
    expect(failed.status).toBe(200);
    expect(JSON.parse(failed.body).errors[0].message).toContain('last beds');
  });

  it('is busy at the first hold, takes the second, and lets it be changed and given up', async () => {
    const auth = ['-H', `authorization: Bearer ${await token()}`, '-H', 'cookie: visitor=one'];
    const first = await ask(`${API}/holds`, '-X', 'POST', ...auth);
    expect([first.status, /retry-after: (\d+)/.exec(first.headers)?.[1]]).toEqual([503, '1']);
    expect((await ask(`${API}/holds`, '-X', 'POST', ...auth)).status).toBe(201);
    const changed = await ask(`${API}/holds/h-77120`, '-X', 'PATCH', '--data-raw', '{"nights":2}', ...auth);
    expect(JSON.parse(changed.body)).toEqual({ hold: 'h-77120', nights: 2 });
    expect((await ask(`${API}/holds/h-77120`, '-X', 'DELETE', ...auth)).status).toBe(204);
  });

  it('takes forms and uploads, and allows its own pages alone', async () => {
    const form = await ask('https://www.cumbrera.example/book/alba-norte', '--data-raw', 'name=Ines&nights=3');
    expect([form.status, form.headers.includes('location: /book/thanks')]).toEqual([303, true]);
    const photo = await ask(
      `${API}/photos`,
      '--form-string',
      'caption=x',
      '-H',
      `authorization: Bearer ${await token()}`,
    );
    expect(JSON.parse(photo.body)).toMatchObject({ stored: true, type: 'multipart/form-data' });
    const preflight = await ask(
      `${API}/warden/log`,
      '-X',
      'OPTIONS',
      '-H',
      'access-control-request-headers: x-warden-key',
    );
    expect(preflight.headers).toContain('access-control-allow-origin: https://www.cumbrera.example');
    expect(preflight.headers).not.toContain('x-warden-key');
  });

  it('draws the same photo at every asking, and has none that was taken down', async () => {
    const url = 'https://img.cumbrera.example/photos/brisa-alta-stove-240.webp';
    const [one, two] = [await ask(url), await ask(url)];
    expect(one.body.startsWith('RIFF')).toBe(true);
    expect(two.body).toBe(one.body);
    expect((await ask('https://img.cumbrera.example/photos/alba-norte-lost-480.webp')).status).toBe(404);
  });

  it('mends its faults in the fixed release: kept photos, one sheet, a smaller list', async () => {
    site.release = 'fixed';
    expect((await ask('https://img.cumbrera.example/photos/brisa-alta-stove-240.webp')).headers).toContain(
      'max-age=2592000',
    );
    const sheet = await ask('https://www.cumbrera.example/assets/all.77d0.css');
    expect(sheet.body).not.toContain('@import');
    expect(sheet.headers).toContain('immutable');
    const fixed = (await ask(`${API}/huts?page=0`)).body.length;
    site.release = 'first';
    expect((await ask(`${API}/huts?page=0`)).body.length).toBeGreaterThan(5 * fixed);
  });
});
