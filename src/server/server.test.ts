import { randomUUID } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import { request as httpRequest } from 'node:http';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { strToU8, zipSync } from 'fflate';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { CaptureCard, ExchangeDossier, ImportResult, ProblemAnswer } from '#core/wire';
import { openConnection } from './db/connection';
import { newDataFolder, type RunningApp, startServer } from './testing/process';
import { fetchRowsAt } from './testing/rows';

const BOOKING = readFileSync('demo/captures/booking-gone-wrong.har');

let app: RunningApp;
beforeAll(async () => {
  app = await startServer();
});
afterAll(() => app.stop());

const post = (
  bytes: Uint8Array | string,
  name: string,
  importId: string = randomUUID(),
  url = app.url,
): Promise<Response> =>
  fetch(`${url}api/captures?${new URLSearchParams({ name, importId })}`, {
    method: 'POST',
    body: typeof bytes === 'string' ? bytes : new Uint8Array(bytes),
  });

const get = async <T>(path: string, url = app.url): Promise<T> =>
  (await fetch(new URL(path, url))).json() as Promise<T>;
const shelf = (url = app.url): Promise<CaptureCard[]> => get('/api/captures', url);

type Kept = Extract<ImportResult, { readonly id: string }>;

async function take(bytes: Uint8Array | string, name: string): Promise<Kept> {
  const answer = await post(bytes, name);
  expect(answer.ok).toBe(true);
  const [result] = (await answer.json()) as Kept[];
  if (result === undefined) throw new Error('no result');
  return result;
}

const harOf = (...entries: unknown[]): string => JSON.stringify({ log: { version: '1.2', entries } });
const entryOf = (text: string, extra: Record<string, unknown> = {}) => ({
  startedDateTime: '2026-10-03T09:00:00Z',
  request: { method: 'GET', url: 'https://www.cumbrera.example/a', headers: [] },
  response: { status: 200, headers: [], content: { size: text.length, text, mimeType: 'text/plain', ...extra } },
  timings: { send: 0, wait: 5, receive: 1 },
});

function countRows(dataFolder: string): Record<string, number> {
  const { sqlite } = openConnection(dataFolder, true);
  const tables = ['captures', 'pages', 'entries', 'row_blocks', 'bodies', 'analyses'];
  const counts = tables.map((table) => [
    table,
    sqlite.prepare(`select count(*) from ${table}`).pluck().get() as number,
  ]);
  sqlite.close();
  return Object.fromEntries(counts);
}

const IN_PORTIONS: [string, boolean][] = [
  ['written as a whole', false],
  ['written in portions, since somebody else wrote', true],
];

async function writeSomething(url: string): Promise<void> {
  const answer = await fetch(`${url}api/settings/filters`, {
    method: 'PUT',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ named: [], recent: ['status:500'] }),
  });
  expect(answer.status).toBe(200);
}

describe('taking captures in', () => {
  it('puts a capture on the shelf and gives back its exchanges, dossiers and bodies', async () => {
    const result = await take(BOOKING, 'booking');
    expect(result).toMatchObject({ type: 'imported', name: 'booking' });
    const card = (await shelf()).find(({ id }) => id === result.id);
    expect(card?.overview.tally).toMatchObject({ failed: 5 });
    // The diagnosis behind the import adds to the rows who names whom: both readings below come after it.
    await get(`/api/captures/${result.id}/findings`);
    const rows = await fetchRowsAt(`${app.url}api/captures/${result.id}`);
    const { log } = JSON.parse(BOOKING.toString()) as {
      log: { entries: { request: { url: string }; response: { content: { text?: string } } }[] };
    };
    expect(rows.map(({ url }) => url)).toEqual(log.entries.map(({ request }) => request.url));
    const place = log.entries.findIndex(({ request }) => request.url.endsWith('/availability?page=0'));
    const dossier = await get<ExchangeDossier>(`/api/captures/${result.id}/exchanges/${place}`);
    expect(dossier.row).toEqual(rows[place]);
    expect(dossier.exchange.request.url).toBe(log.entries[place]?.request.url);
    const html = log.entries.findIndex(({ response }) => response.content.text?.startsWith('<!doctype'));
    const body = await fetch(`${app.url}api/captures/${result.id}/exchanges/${html}/body`);
    expect(await body.text()).toBe(log.entries[html]?.response.content.text);
    expect(body.headers.get('content-type')).toBe('application/octet-stream');
    expect(body.headers.get('content-security-policy')).toContain("sandbox; default-src 'none'");
  });

  it('recognises the same file by its bytes, also when two come at once', async () => {
    const bytes = harOf(entryOf('twice'));
    const results = await Promise.all([take(bytes, 'one'), take(bytes, 'two'), take(bytes, 'three')]);
    expect(results.map(({ type }) => type).sort()).toEqual(['duplicate', 'duplicate', 'imported']);
    expect(new Set(results.map(({ id }) => id)).size).toBe(1);
  });

  it.each([
    ['an empty file', '', 'The file is empty'],
    ['what is not JSON', 'no such thing', 'The file is not JSON: at byte 0'],
    ['a web page', '<html>', 'The file is a web page, not a capture'],
    ['JSON that is no capture', '{"name":"x"}', 'The file is JSON but not an HTTP Archive'],
    ['a file cut before its first exchange', '{"log":{"entries":[{"star', 'The file is cut off at byte 25'],
  ])('refuses %s with one sentence and keeps nothing of it', async (_name, bytes, sentence) => {
    const before = countRows(app.dataFolder);
    const answer = await post(bytes, 'bad');
    expect(answer.status).toBe(422);
    const problem = (await answer.json()) as ProblemAnswer;
    expect(problem.sentence).toContain(sentence);
    expect(problem.advice).toMatch(/\.$/);
    expect(countRows(app.dataFolder)).toEqual(before);
    expect(readdirSync(join(app.dataFolder, 'incoming'))).toEqual([]);
  });

  it('reads gzip, and each capture of a zip, whatever else is in it', async () => {
    expect(await take(gzipSync(harOf(entryOf('packed'))), 'packed')).toMatchObject({ type: 'imported', exchanges: 1 });
    const zip = zipSync({
      'one/first.har': strToU8(harOf(entryOf('first in zip'))),
      '../../../escaping.har': strToU8(harOf(entryOf('second in zip'), entryOf('x'))),
      'broken.json': strToU8('{"no":"capture"}'),
      'notes.txt': strToU8('not a capture'),
    });
    const answer = await post(zip, 'several');
    expect(((await answer.json()) as ImportResult[]).map(({ type, name }) => [type, name])).toEqual([
      ['imported', 'first'],
      ['imported', 'escaping'],
      ['unreadable', 'broken'],
    ]);
    expect(readdirSync(join(app.dataFolder, 'incoming'))).toEqual([]);
  });

  it.each([
    ['a damaged gzip file', gzipSync(harOf(entryOf('x'.repeat(5000)))).fill(0xff, 20, 60), 'The gzip file is damaged'],
    [
      'a damaged zip file',
      zipSync({ 'a.har': strToU8(harOf(entryOf('x'.repeat(5000)))) }).fill(0xff, 50, 90),
      'The zip file is damaged',
    ],
    ['a zip file without captures', zipSync({ 'readme.txt': strToU8('x') }), 'contains no capture'],
    ['a file made to fill the disk', gzipSync(Buffer.alloc(400_000_000, ' ')), 'which no capture does'],
  ])('refuses %s', async (_name, bytes, sentence) => {
    const answer = await post(bytes, 'bad');
    expect(answer.status).toBe(422);
    expect(((await answer.json()) as ProblemAnswer).sentence).toContain(sentence);
    expect(readdirSync(join(app.dataFolder, 'incoming'))).toEqual([]);
  });

  it('keeps what is whole of a file that is cut off, and says so', async () => {
    const whole = harOf(entryOf('kept'), entryOf('lost'));
    const result = await take(whole.slice(0, -30), 'cut');
    const card = await get<CaptureCard>(`/api/captures/${result.id}`);
    expect(card.overview.condition[0]).toMatchObject({
      id: 'cut-off',
      sentence: expect.stringContaining('1 exchange before that were kept'),
    });
  });

  it('takes a capture without exchanges and says that it is empty', async () => {
    const result = await take(harOf(), 'empty');
    const card = await get<CaptureCard>(`/api/captures/${result.id}`);
    expect(card.overview.condition.map(({ id }) => id)).toContain('empty');
  });

  it('keeps the same body once, and gives back text that is no valid Unicode', async () => {
    const before = countRows(app.dataFolder)['bodies'] ?? 0;
    const lone = 'lone \ud800 surrogate';
    const entries = [
      entryOf('same body here'),
      entryOf('same body here'),
      entryOf(lone),
      entryOf('c2FtZSBib2R5IGhlcmU=', { encoding: 'base64' }),
    ];
    const result = await take(harOf(...entries), 'bodies');
    expect((countRows(app.dataFolder)['bodies'] ?? 0) - before).toBe(2);
    const dossiers = await Promise.all(
      [0, 2, 3].map((place) => get<ExchangeDossier>(`/api/captures/${result.id}/exchanges/${place}`)),
    );
    expect(dossiers.map(({ body }) => body.text)).toEqual([
      'same body here',
      'lone \ufffd surrogate',
      'same body here',
    ]);
  });

  it('takes what was made to choke it: a million headers, one text of 100 MB, endless nesting, keys of the language', async () => {
    const headers = new Array(1_000_000).fill({ name: 'x', value: '1' });
    const nested = `${'['.repeat(10_000)}${']'.repeat(10_000)}`;
    const hostile = [
      { ...entryOf('ok'), request: { method: 'GET', url: `https://a.example/${'x'.repeat(1_000_000)}`, headers } },
      entryOf('y'.repeat(100_000_000)),
      entryOf(nested, { mimeType: 'application/json' }),
      JSON.parse(
        '{"__proto__":{"x":1},"constructor":{"name":"y"},"request":{"url":"https://a.example/","headers":[{"name":"__proto__","value":"z"}]},"response":{"status":200}}',
      ),
    ];
    const text = harOf(...hostile).replace('"entries":[', `"entries":[{"request":{},"deep":${nested}},`);
    const { id } = await take(text, 'hostile');
    const rows = await fetchRowsAt(`${app.url}api/captures/${id}`);
    expect(rows.map(({ url }) => url.length)).toEqual([1_000_018, 30, 30, 18]);
    const dossier = await get<ExchangeDossier>(`/api/captures/${id}/exchanges/1`);
    expect(dossier.body).toMatchObject({ kind: 'text', byteLength: 100_000_000, isCut: true });
    const card = await get<CaptureCard>(`/api/captures/${id}`);
    expect(card.overview.condition[0]).toMatchObject({ id: 'damaged' });
  });

  it('keeps a connection open while a program makes its next request', async () => {
    const seconds = /timeout=(\d+)/.exec((await fetch(`${app.url}api/captures`)).headers.get('keep-alive') ?? '')?.[1];
    expect(Number(seconds)).toBeGreaterThanOrEqual(60);
  });

  it('tells of its progress while it reads', async () => {
    const importId = randomUUID();
    const events = await fetch(`${app.url}api/imports/${importId}/events`);
    const big = harOf(...Array.from({ length: 3000 }, (_, at) => entryOf(`${at} `.repeat(2000))));
    const [text] = await Promise.all([events.text(), post(big, 'with progress', importId)]);
    const phases = text.match(/"phase":"(\w+)"/g) ?? [];
    expect(phases.at(-1)).toBe('"phase":"ended"');
    expect(phases).toContain('"phase":"reading"');
  });

  it('outlives a page that stops listening to an import', async () => {
    for (let count = 0; count < 3; count++) {
      const leave = new AbortController();
      const events = await fetch(`${app.url}api/imports/${randomUUID()}/events`, { signal: leave.signal });
      await events.body?.getReader().read();
      leave.abort();
    }
    await new Promise((resolve) => setTimeout(resolve, 200));
    expect((await fetch(`${app.url}api/captures`)).status).toBe(200);
  });

  it.each(IN_PORTIONS)('leaves nothing of an import that is cancelled, %s', async (_, letsIn) => {
    const before = countRows(app.dataFolder);
    const importId = randomUUID();
    const cancel = new AbortController();
    const events = (await fetch(`${app.url}api/imports/${importId}/events`)).body?.getReader();
    const big = harOf(...Array.from({ length: 12_000 }, (_, at) => entryOf(`${at} `.repeat(1500))));
    const upload = fetch(`${app.url}api/captures?${new URLSearchParams({ name: 'cancelled', importId })}`, {
      method: 'POST',
      body: big,
      signal: cancel.signal,
    });
    const refused = expect(upload).rejects.toThrow();
    for (let seen = ''; !seen.includes('"reading"'); ) {
      const part = await events?.read();
      if (part === undefined || part.done) throw new Error('the import ended before it could be cancelled');
      seen = new TextDecoder().decode(part.value);
    }
    // Answered before the import's end, or the cancelling below comes too late.
    if (letsIn) await writeSomething(app.url);
    cancel.abort();
    await refused;
    for (let ended = ''; !ended.includes('"ended"'); ) {
      const part = await events?.read();
      if (part === undefined || part.done) break;
      ended = new TextDecoder().decode(part.value);
    }
    // One that was heard at the very end is taken back by the thread that writes, which takes a moment.
    await expect.poll(() => countRows(app.dataFolder), { timeout: 30_000 }).toEqual(before);
    expect(readdirSync(join(app.dataFolder, 'incoming'))).toEqual([]);
  });
});

describe('a server that is killed in the middle of an import', () => {
  it.each(IN_PORTIONS)('starts again with all that was whole, and nothing of what was not, %s', async (_, letsIn) => {
    const dataFolder = newDataFolder();
    const first = await startServer(dataFolder);
    await post(harOf(entryOf('whole')), 'whole', randomUUID(), first.url);
    const importId = randomUUID();
    const events = (await fetch(`${first.url}api/imports/${importId}/events`)).body?.getReader();
    const big = harOf(...Array.from({ length: 12_000 }, (_, at) => entryOf(`${at} `.repeat(1500))));
    const upload = post(big, 'killed', importId, first.url).catch(() => undefined);
    for (let seen = ''; !seen.includes('"reading"'); ) {
      const part = await events?.read();
      if (part === undefined || part.done) throw new Error('the import ended before the server could be killed');
      seen = new TextDecoder().decode(part.value);
    }
    if (letsIn) {
      await writeSomething(first.url);
      expect((await shelf(first.url)).map(({ name }) => name)).toEqual(['whole']);
    }
    events?.cancel().catch(() => undefined);
    await first.stop('SIGKILL');
    await upload;
    expect(countRows(dataFolder)).toMatchObject({ captures: letsIn ? 2 : 1, analyses: 1 });
    const second = await startServer(dataFolder);
    try {
      expect((await shelf(second.url)).map(({ name }) => name)).toEqual(['whole']);
      expect(readdirSync(join(dataFolder, 'incoming'))).toEqual([]);
      const whole = { captures: 1, entries: 1, row_blocks: 1, bodies: 1, analyses: 1 };
      await expect.poll(() => countRows(dataFolder), { timeout: 30_000 }).toMatchObject(whole);
    } finally {
      await second.stop();
    }
  });
});

describe('changing the shelf', () => {
  const patch = (id: string, change: unknown): Promise<Response> =>
    fetch(`${app.url}api/captures/${id}`, {
      method: 'PATCH',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(change),
    });

  it('deletes with undo, and renames', async () => {
    const { id } = await take(harOf(entryOf('to be deleted')), 'goes');
    await patch(id, { deleted: true });
    expect((await shelf()).map((card) => card.id)).not.toContain(id);
    expect((await fetch(`${app.url}api/captures/${id}`)).status).toBe(404);
    await patch(id, { deleted: false, name: 'is back' });
    expect((await shelf()).find((card) => card.id === id)?.name).toBe('is back');
  });

  it('frees the bodies of what was deleted at the next start', async () => {
    const own = await startServer();
    const answer = await post(harOf(entryOf('only here')), 'goes', randomUUID(), own.url);
    const [kept] = (await answer.json()) as Kept[];
    await fetch(`${own.url}api/captures/${kept?.id}`, {
      method: 'PATCH',
      headers: { 'content-type': 'application/json' },
      body: '{"deleted":true}',
    });
    await own.stop();
    const { sqlite } = openConnection(own.dataFolder, true);
    // Its time to be brought back has expired.
    sqlite.prepare('update captures set deleted_at = deleted_at - 11 * 60 * 1000').run();
    sqlite.close();
    const again = await startServer(own.dataFolder);
    // The first import waits for the tidying before it.
    await post(harOf(entryOf('new')), 'new', randomUUID(), again.url);
    await again.stop();
    expect(countRows(own.dataFolder)).toMatchObject({ captures: 1, bodies: 1 });
  });

  it.each([
    ['an id that is none', '/api/captures/nope', 404],
    ['a capture that is not there', `/api/captures/${randomUUID()}`, 404],
    ['an exchange that is not there', `/api/captures/${randomUUID()}/exchanges/3`, 404],
    ['a place that is none', '/api/captures/KNOWN/exchanges/-1', 400],
  ])('answers %s with a sentence', async (_name, path, status) => {
    const { id } = await take(harOf(entryOf('known')), 'known');
    const answer = await fetch(new URL(path.replace('KNOWN', id), app.url));
    expect(answer.status).toBe(status);
    expect(((await answer.json()) as ProblemAnswer).sentence).toMatch(/\.$/);
  });

  it('refuses changes that say nothing or too much', async () => {
    const { id } = await take(harOf(entryOf('unchanged')), 'unchanged');
    for (const change of [{}, { name: '' }, { name: 'x'.repeat(300) }, 'text'])
      expect((await patch(id, change)).status).toBe(400);
  });
});

describe('the guard', () => {
  /** A request with headers that fetch does not let us set. */
  const statusOf = (path: string, headers: Record<string, string>, method = 'GET'): Promise<number | undefined> =>
    new Promise((resolve, reject) => {
      const { port } = new URL(app.url);
      const sent = httpRequest({ host: '127.0.0.1', port, path, method, headers }, (answer) => {
        answer.resume();
        resolve(answer.statusCode);
      });
      sent.on('error', reject);
      sent.end();
    });

  it.each([
    ['a name that was rebound to this machine', { host: 'evil.example' }, 403],
    ["another site's script", { origin: 'https://evil.example' }, 403],
    ['another port on this machine', { origin: 'http://localhost:1' }, 403],
    [
      "another site's image",
      { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'no-cors', 'sec-fetch-dest': 'image' },
      403,
    ],
    [
      "another site's link to an answer",
      { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'document' },
      403,
    ],
    ['our own page', { 'sec-fetch-site': 'same-origin' }, 200],
    ['a program that is no browser', {}, 200],
  ])('of the data answers %s with %#', async (_name, headers, status) => {
    expect(await statusOf('/api/captures', { host: new URL(app.url).host, ...headers } as Record<string, string>)).toBe(
      status,
    );
  });

  it('lets a link from elsewhere open a page, but not in a frame', async () => {
    const host = new URL(app.url).host;
    const link = { host, 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'navigate' };
    expect(await statusOf('/', { ...link, 'sec-fetch-dest': 'document' })).toBe(200);
    expect(await statusOf('/', { ...link, 'sec-fetch-dest': 'iframe' })).toBe(403);
  });

  it('sends every page with a policy that allows no script but its own', async () => {
    const policy = (await fetch(app.url)).headers.get('content-security-policy') ?? '';
    expect(policy).toContain("default-src 'self'");
    expect(policy).toContain("frame-ancestors 'none'");
    expect(policy).not.toContain('unsafe-inline');
    expect(policy).not.toContain('unsafe-eval');
  });
});
