import { randomUUID } from 'node:crypto';
import { createServer, type Socket } from 'node:net';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { EMPTY_DRAFT } from '#core/convert';
import { type KeptDraft, keptFrom, packKept, withSheet } from '#core/sheet';
import type { Held, ImportResult, Measure, SendLeave, Trial, TrialAnswer, TrialProgress } from '#core/wire';
import { CASES } from '../core/convert/testing/cases';
import { wireRequest } from './send/message';
import { type RunningApp, startLauncher, startServer } from './testing/process';
import { fetchRowsAt } from './testing/rows';

let app: RunningApp;
let capture: string;
/** What a raw socket got, and what it answers. */
let got: Buffer[];
let answers: (bytes: Buffer) => string | undefined;
let port: number;
const sockets = new Set<Socket>();
const site = createServer((socket) => {
  sockets.add(socket);
  const chunks: Buffer[] = [];
  socket.on('error', () => undefined);
  socket.on('data', (chunk) => {
    chunks.push(chunk);
    const bytes = Buffer.concat(chunks);
    const end = bytes.indexOf('\r\n\r\n');
    const length = Number(/content-length: (\d+)/i.exec(bytes.toString('latin1'))?.[1] ?? 0);
    if (end === -1 || bytes.length < end + 4 + length) return;
    got.push(bytes);
    const answer = answers(bytes);
    if (answer !== undefined) socket.end(answer);
  });
});

beforeAll(async () => {
  app = await startServer();
  await new Promise<void>((resolve) => site.listen(0, '127.0.0.1', resolve));
  port = (site.address() as { port: number }).port;
  capture = await imported(captureOf([entry('{"hut":"alba","nights":3,"id":"h-1"}')]));
});
afterAll(async () => {
  for (const socket of sockets) socket.destroy();
  site.close();
  await app.stop();
});
beforeEach(() => {
  got = [];
  answers = () => respond('{"hut":"alba","nights":3,"id":"h-2"}');
});
afterEach(() => sockets.clear());

const respond = (body: string, status = '200 OK'): string =>
  `HTTP/1.1 ${status}\r\nContent-Type: application/json\r\nContent-Length: ${Buffer.byteLength(body)}\r\n\r\n${body}`;
const entry = (body: string, more: object = {}) => ({
  startedDateTime: '2026-10-05T08:00:00.000Z',
  time: 10,
  request: {
    method: 'GET',
    url: `http://127.0.0.1:${port}/huts?nights=3`,
    headers: [{ name: 'Accept', value: '*/*' }],
  },
  response: {
    status: 200,
    headers: [{ name: 'Content-Type', value: 'application/json' }],
    content: { mimeType: 'application/json', text: body },
  },
  timings: { send: 1, wait: 8, receive: 1 },
  ...more,
});
const captureOf = (entries: object[]): string =>
  JSON.stringify({ log: { version: '1.2', creator: { name: 'made', version: '1' }, entries } });
async function imported(har: string, { url }: Pick<RunningApp, 'url'> = app): Promise<string> {
  const query = new URLSearchParams({ name: randomUUID(), importId: randomUUID() });
  const answer = await fetch(`${url}api/captures?${query}`, {
    headers: { origin: new URL(url).origin },
    method: 'POST',
    body: har,
  });
  const [result] = (await answer.json()) as ImportResult[];
  if (result?.type !== 'imported') throw new Error('the capture did not come in');
  return result.id;
}

const draft = (text: string, exchange: number | undefined = 0): KeptDraft =>
  withSheet(keptFrom(randomUUID(), 'huts', EMPTY_DRAFT, exchange), { text, layout: 'plain', attachments: [] });
const huts = (nights = 3): string => `GET http://127.0.0.1:${port}\n/huts\n?nights=${nights}\n\nAccept: */*`;
const trialsOf = ({ id }: KeptDraft, of = capture): string => `${app.url}api/captures/${of}/drafts/${id}/trials`;
const ours = (): Record<string, string> => ({ 'content-type': 'application/json', origin: new URL(app.url).origin });
const post = (address: string, body: unknown, headers = ours()) =>
  fetch(address, { method: 'POST', headers, body: JSON.stringify(body) });
async function send(kept: KeptDraft, leave: SendLeave = {}, of = capture): Promise<TrialAnswer> {
  const answer = await post(trialsOf(kept, of), { kept: packKept(kept), leave });
  if (answer.status !== 200) throw new Error(((await answer.json()) as { sentence: string }).sentence);
  return (await answer.json()) as TrialAnswer;
}
async function trial(kept: KeptDraft, leave: SendLeave = {}, of = capture): Promise<Trial> {
  const answer = await send(kept, leave, of);
  if (answer.type !== 'sent') throw new Error(answer.question.sentence);
  return answer.trial;
}
const list = async (kept: KeptDraft): Promise<Trial[]> => (await (await fetch(trialsOf(kept))).json()) as Trial[];
const held = async (kept: KeptDraft, number: number, against: Measure = { type: 'captured' }): Promise<Held> =>
  (await (await post(`${trialsOf(kept)}/${number}/held`, { kept: packKept(kept), against })).json()) as Held;

describe('a trial', () => {
  it('is held against the captured response, and knows what changes by itself from two unchanged ones', async () => {
    const kept = draft(huts());
    expect(await trial(kept)).toMatchObject({
      number: 1,
      verdict: 'same-but',
      sentence: '200, as captured. The same response but for 1 value that may change by itself.',
      changed: 'unchanged',
      address: `127.0.0.1:${port}`,
      row: { status: 200, index: 1 },
    });
    answers = () => respond('{"hut":"alba","nights":3,"id":"h-9"}');
    expect((await trial(kept)).sentence).toBe(
      '200, as captured. The same response but for 1 value that changes by itself.',
    );
    answers = () => respond('{"hut":"alba","nights":5,"id":"h-9"}');
    const changed = withSheet(kept, { ...kept.sheet, text: huts(5) });
    expect(await trial(changed)).toMatchObject({ verdict: 'differs', changed: 'Query nights was 3, now 5.' });
    expect((await held(changed, 3)).differences).toMatchObject([
      { place: '$.nights', was: '3', is: '5', follows: 'nights' },
      { place: '$.id', changes: 'guessed' },
    ]);
    expect(await held(changed, 3, { type: 'trial', number: 2 })).toMatchObject({
      sentence: '200, as in trial 2. It differs in 1 place.',
    });
    expect(await held(changed, 3, { type: 'exchange', number: 0 })).toMatchObject({
      sentence: '200, as in #0. It differs in 1 place.',
    });
    expect(await held(changed, 3, { type: 'pasted', text: '{"hut":"alba","nights":5,"id":"h-9"}' })).toMatchObject({
      sentence: '200, as pasted. The same response.',
    });
    expect((await list(kept)).map(({ number }) => number)).toEqual([3, 2, 1]);
  });

  it('is an exchange like a captured one, and its draft’s trials a capture that is on no shelf', async () => {
    const kept = draft(huts());
    await trial(kept);
    const dossier = (await (await fetch(`${app.url}api/captures/${kept.id}/exchanges/1`)).json()) as {
      body: { text: string };
      exchange: { request: { headers: { name: string }[] } };
    };
    expect(dossier.body.text).toContain('"id":"h-2"');
    expect(dossier.exchange.request.headers.map(({ name }) => name)).toEqual(['Host', 'Accept']);
    const shelf = (await (await fetch(`${app.url}api/captures`)).json()) as { id: string }[];
    expect(shelf.map(({ id }) => id)).not.toContain(kept.id);
    const har = await (await post(`${app.url}api/captures/${kept.id}/har`, { places: [1] })).text();
    expect(await imported(har)).toMatch(/-/);
  });

  it('is noted, deleted, brought back, and gone with its draft until that comes back', async () => {
    const kept = draft(huts());
    const at = trialsOf(kept).replace('/trials', '');
    const put = () => fetch(at, { method: 'PUT', headers: ours(), body: JSON.stringify(packKept(kept)) });
    await put();
    await trial(kept);
    const change = (what: object) =>
      fetch(`${trialsOf(kept)}/1`, { method: 'PATCH', headers: ours(), body: JSON.stringify(what) });
    await change({ note: 'the first' });
    await change({ deleted: true });
    expect(await list(kept)).toEqual([]);
    await change({ deleted: false });
    expect(await list(kept)).toMatchObject([{ number: 1, note: 'the first' }]);
    await fetch(at, { method: 'DELETE' });
    expect((await fetch(`${app.url}api/captures/${kept.id}`)).status).toBe(404);
    await put();
    expect((await fetch(`${app.url}api/captures/${kept.id}`)).status).toBe(200);
    expect((await fetch(`${trialsOf(kept)}/9`)).status).toBe(404);
  });
});

it.each(['http://127.0.0.1:1', '127.0.0.1:99999', '127.0.0.1:', 'a b', '127.0.0.1/x'])(
  'is sent nowhere where the way that was set for it is none: %s',
  async (place) => {
    for (const way of [{ toHost: place }, { proxy: place }]) {
      const kept = { ...draft(huts()), way };
      await expect(send(kept)).rejects.toThrow(`“${place}” is no host with a port. Nothing was sent.`);
      const put = await fetch(`${app.url}api/captures/${capture}/drafts/${kept.id}`, {
        method: 'PUT',
        headers: ours(),
        body: JSON.stringify(packKept(kept)),
      });
      expect(put.status).toBe(200);
    }
    expect(got).toEqual([]);
  },
);

it('goes the way that was set for it, and takes values for variables from what comes back', async () => {
  const kept = {
    ...draft(huts().replace('127.0.0.1', 'nowhere.invalid')),
    way: { toHost: `127.0.0.1:${port}`, timeLimitS: 5 },
  };
  await fetch(`${app.url}api/captures/${capture}/variables`, {
    method: 'PATCH',
    headers: ours(),
    body: JSON.stringify({
      removed: [],
      set: ['$.id', '$.none'].map((place, at) => ({
        name: `v${at}`,
        value: 'old',
        isSecret: false,
        takenFrom: { draft: kept.id, part: 'json', place },
      })),
    }),
  });
  const answer = await send(kept);
  expect(got[0]?.toString()).toContain('Host: nowhere.invalid');
  expect(answer).toMatchObject({ type: 'sent', missing: ['v1'], variables: [{ value: 'h-2' }, { value: 'old' }] });
  const shared = (await (await fetch(`${app.url}api/captures/${capture}/drafts`)).json()) as { variables: object[] };
  expect(shared.variables).toMatchObject([{ value: 'h-2' }, { value: 'old' }]);
  // What failed gives nothing.
  answers = () => respond('{"id":"h-3"}', '500 Broken');
  expect(await send(kept)).not.toHaveProperty('variables');
});

it('knows where the capture shows that a value came from', async () => {
  const of = await imported(captureOf([entry('{"list":[{"token":"tok-12345678"}]}'), entry('{}')]));
  const origin = async (before: number, value: string) =>
    (await post(`${app.url}api/captures/${of}/origin`, { before, value })).json();
  expect(await origin(1, 'tok-12345678')).toEqual({ exchange: 0, part: 'json', place: '$.list[0].token' });
  expect(await origin(0, 'tok-12345678')).toBeNull();
  expect(await origin(1, 'tok-1234')).toBeNull();
  // Ids that are numbers, what a form hands on, and what is percent-encoded by then; a count or a word of a page is no origin.
  const page = '<a href="/huts/alba-norte">Alba</a><input name="csrf" value="k3/y+0011==">';
  const others = await imported(
    captureOf([
      entry('{"id":483021,"beds":48302,"next":"a+b/012345=="}'),
      entry('', { response: { status: 200, headers: [], content: { mimeType: 'text/html', text: page } } }),
      entry('{}'),
    ]),
  );
  const from = async (value: string) =>
    (await post(`${app.url}api/captures/${others}/origin`, { before: 2, value })).json();
  expect(await from('483021')).toEqual({ exchange: 0, part: 'json', place: '$.id' });
  expect(await from('48302')).toBeNull();
  expect(await from('a%2Bb%2F012345%3D%3D')).toEqual({ exchange: 0, part: 'json', place: '$.next', as: 'encoded' });
  const csrf = { exchange: 1, part: 'text', place: '<input name="csrf" value="…"' };
  expect(await from('k3/y+0011==')).toEqual(csrf);
  expect(await from('k3%2Fy%2B0011%3D%3D')).toEqual({ ...csrf, as: 'encoded' });
  expect(await from('alba-norte')).toBeNull();
});

describe('what goes on the wire', () => {
  it.each(CASES.map(({ name, draft: of }) => [name, of] as const))('is what the sheet says: %s', async (_, of) => {
    answers = () => 'HTTP/1.1 204 No Content\r\n\r\n';
    const kept = keptFrom(randomUUID(), 'case', of(`http://127.0.0.1:${port}`), undefined);
    const wire = wireRequest(kept.draft);
    if (typeof wire === 'string') return;
    const answer = await send(kept, { unsafe: true }).catch((error: Error) => error.message);
    if (typeof answer === 'string') expect(answer).toMatch(/Nothing was sent\.$/);
    else {
      const head = [
        `${wire.method} ${wire.target} HTTP/1.1`,
        ...wire.headers.map(([name, value]) => `${name}: ${value}`),
      ];
      const bytes = got[0]?.toString('latin1') ?? '';
      const [sentHead = '', ...rest] = bytes.split('\r\n\r\n');
      expect(sentHead.split('\r\n').filter((line) => line !== 'Connection: close')).toEqual(head);
      expect(rest.join('\r\n\r\n')).toBe(Buffer.from(wire.body ?? []).toString('latin1'));
    }
  });
});

describe('what is asked, refused and bounded', () => {
  it('asks before a method that may change something, and sends nothing until then', async () => {
    const kept = draft(huts().replace('GET', 'DELETE'));
    expect(await send(kept)).toMatchObject({ type: 'question', question: { about: 'unsafe' } });
    expect(await send({ ...kept, way: { toHost: '127.0.0.1:9' } })).toMatchObject({
      question: {
        sentence: `DELETE may change something at 127.0.0.1:9, in place of 127.0.0.1:${port}: it would be sent there now, as the sheet says.`,
      },
    });
    await expect(send({ ...kept, way: { toHost: 'http://127.0.0.1:9' } })).rejects.toThrow('is no host with a port');
    expect(got).toEqual([]);
    expect((await trial(kept, { unsafe: true })).number).toBe(1);
  });

  it('asks before what was public in the capture goes to this machine', async () => {
    const of = await imported(captureOf([entry('{}', { serverIPAddress: '93.184.216.34' })]));
    const named = draft(huts().replace('127.0.0.1', 'localhost'));
    for (const kept of [draft(huts()), named]) {
      expect(await send(kept, {}, of)).toMatchObject({ type: 'question', question: { about: 'private' } });
      expect(got).toEqual([]);
    }
    expect((await trial(draft(huts()), { private: true }, of)).row.status).toBe(200);
  });

  it('sends for our own page alone', async () => {
    const kept = draft(huts());
    const { origin: _, ...nobody } = ours();
    for (const headers of [nobody, { ...ours(), origin: 'https://a.example' }, { ...ours(), origin: 'null' }]) {
      const answer = await post(trialsOf(kept), { kept: packKept(kept), leave: {} }, headers as Record<string, string>);
      expect(answer.status).toBe(403);
    }
    expect(got).toEqual([]);
  });

  it.each([
    [[], 403, 'Sending is off, since the app is open to other machines.'],
    [['--allow-sending'], 200, undefined],
  ])('sends where the app is open to others only when that was allowed: %j', async (more, status, sentence) => {
    const open = await startLauncher(['serve', '--port', '0', '--host', '0.0.0.0', ...more]);
    const of = await imported(captureOf([entry('{}')]), open);
    const kept = draft(huts());
    const answer = await post(
      `${open.url}api/captures/${of}/drafts/${kept.id}/trials`,
      { kept: packKept(kept), leave: {} },
      { ...ours(), origin: new URL(open.url).origin },
    );
    expect([answer.status, ((await answer.json()) as { sentence?: string }).sentence]).toEqual([status, sentence]);
    expect(got).toHaveLength(status === 200 ? 1 : 0);
    await open.stop();
  });

  it('writes into no capture that is another one', async () => {
    const kept = { ...draft(huts()), id: capture };
    await expect(send(kept)).rejects.toThrow('This draft is not of this capture.');
    const rows = await fetchRowsAt(`${app.url}api/captures/${capture}`);
    expect(JSON.stringify(rows)).not.toContain('h-2');
  });

  it.each([
    ['GET ftp://a.example', 'is no address that can be asked. Nothing was sent.'],
    ['GET', 'is no address that can be asked. Nothing was sent.'],
  ])('%s cannot be sent', async (text, sentence) => {
    await expect(send(draft(text))).rejects.toThrow(sentence);
  });

  it.each([
    ['nothing that is HTTP', 'SSH-2.0-x\r\n', 'What came back is not HTTP.'],
    ['nothing', '', 'The server broke the connection off.'],
  ])('keeps as a trial that %s came back', async (_, answer, sentence) => {
    answers = () => answer;
    const kept = draft(huts());
    expect(await trial(kept)).toMatchObject({ verdict: 'none', sentence, row: { failure: { type: 'no-response' } } });
    expect(await held(kept, 1)).toMatchObject({ sentence: 'No response came.', verdict: 'none' });
  });

  it('follows no redirect, and says where it leads', async () => {
    answers = () =>
      'HTTP/1.1 303 See Other\r\nLocation: ../holds?x=1\r\nSet-Cookie: sid=1; Path=/\r\nSet-Cookie: old=; Max-Age=0\r\nContent-Length: 0\r\n\r\n';
    expect(await trial(draft(huts()))).toMatchObject({
      leadsTo: `http://127.0.0.1:${port}/holds?x=1`,
      setsCookies: [{ name: 'sid', value: '1' }],
      endsCookies: ['old'],
    });
    expect(got).toHaveLength(1);
  });

  it('keeps half a response, and says so', async () => {
    answers = () => 'HTTP/1.1 200 OK\r\nContent-Type: application/json\r\nContent-Length: 50\r\n\r\n{"hut":';
    expect(await trial(draft(huts()))).toMatchObject({
      verdict: 'differs',
      remarks: ['The server broke the connection off.'],
      row: { failure: { type: 'cut-off', reason: 'reset' } },
    });
  });

  it('tells whoever takes lines how much has come, then how it ended, and problems in the same way', async () => {
    const lines = async (kept: KeptDraft): Promise<TrialProgress[]> => {
      const headers = { ...ours(), accept: 'application/x-ndjson' };
      const text = await (await post(trialsOf(kept), { kept: packKept(kept), leave: {} }, headers)).text();
      return text
        .trimEnd()
        .split('\n')
        .map((one) => JSON.parse(one) as TrialProgress);
    };
    answers = () => respond(JSON.stringify('x'.repeat(300_000)));
    const told = await lines(draft(huts()));
    expect(told[0]).toMatchObject({ type: 'receiving', receivedBytes: expect.any(Number) });
    expect(told.at(-1)).toMatchObject({ type: 'ended', answer: { type: 'sent', trial: { row: { status: 200 } } } });
    expect(await lines(draft('GET ftp://a.example'))).toMatchObject([
      { type: 'failed', problem: { code: 'invalid-input' } },
    ]);
  });

  it.each([['application/json'], ['application/x-ndjson']])(
    'does not wait for what hangs once it is cancelled: %s',
    async (accept) => {
      answers = () => undefined;
      const kept = draft(huts());
      const control = new AbortController();
      const asked = fetch(trialsOf(kept), {
        method: 'POST',
        headers: { ...ours(), accept },
        body: JSON.stringify({ kept: packKept(kept), leave: {} }),
        signal: control.signal,
      }).then((answer) => answer.text());
      const stopped = expect(asked).rejects.toThrow();
      await expect.poll(() => got.length).toBe(1);
      const closed = new Promise((resolve) => [...sockets].at(-1)?.on('close', resolve));
      control.abort();
      await stopped;
      await closed;
    },
  );
});

it('keeps no more trials of a draft than it says', async () => {
  answers = () => 'HTTP/1.1 204 No Content\r\n\r\n';
  const kept = draft(huts());
  const { MOST_TRIALS } = await import('./db/trials');
  for (let count = 0; count < MOST_TRIALS; count++) await trial(kept);
  expect(await send(kept)).toMatchObject({ type: 'sent', dropped: 1, trial: { number: MOST_TRIALS + 1 } });
  expect((await list(kept)).at(-1)?.number).toBe(2);
});
