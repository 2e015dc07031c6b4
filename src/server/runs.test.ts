import { randomUUID } from 'node:crypto';
import { createServer, type IncomingMessage } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { type Draft, EMPTY_DRAFT, FIRST_LOOP, type LoopFields } from '#core/convert';
import { choiceOf } from '#core/redact';
import { keptFrom, packKept } from '#core/sheet';
import type { ImportResult, ReportProgress, Run, RunAnswer, RunOrder, RunSeen, SendLeave } from '#core/wire';
import { newDataFolder, type RunningApp, startServer } from './testing/process';

let app: RunningApp;
const folder = newDataFolder();
let capture: string;
let origin: string;
let asked: string[] = [];
/** What the site answers: a status, a body as JSON, headers. */
type Answered = readonly [status: number, body: unknown, headers?: Record<string, string>];
let answers: (url: URL, message: IncomingMessage) => Answered | Promise<Answered>;

const site = createServer(async (message, response) => {
  const url = new URL(message.url ?? '/', origin);
  asked.push(message.url ?? '');
  const [status, body, headers = {}] = await answers(url, message);
  response.writeHead(status, { 'content-type': 'application/json', ...headers }).end(JSON.stringify(body));
});

beforeAll(async () => {
  app = await startServer(folder);
  await new Promise<void>((resolve) => site.listen(0, '127.0.0.1', resolve));
  origin = `http://127.0.0.1:${(site.address() as AddressInfo).port}`;
  const entry = {
    startedDateTime: '2026-10-05T08:00:00.000Z',
    time: 1,
    request: { method: 'GET', url: `${origin}/huts`, headers: [] },
    response: { status: 200, content: { mimeType: 'application/json', text: '{"huts":[]}' } },
    timings: { send: 0, wait: 1, receive: 0 },
  };
  const har = JSON.stringify({ log: { version: '1.2', creator: { name: 'x', version: '1' }, entries: [entry] } });
  const query = new URLSearchParams({ name: 'huts', importId: randomUUID() });
  const answer = await fetch(`${app.url}api/captures?${query}`, { method: 'POST', body: har });
  const [result] = (await answer.json()) as ImportResult[];
  if (result?.type !== 'imported') throw new Error('the capture did not come in');
  capture = result.id;
});
afterAll(async () => {
  site.closeAllConnections();
  site.close();
  await app.stop();
});
beforeEach(() => {
  asked = [];
});

const at = (draft: string, path = ''): string => `${app.url}api/captures/${capture}/drafts/${draft}/runs${path}`;
const send = (url: string, method: string, body: unknown): Promise<Response> =>
  fetch(url, {
    method,
    headers: { 'content-type': 'application/json', origin: new URL(app.url).origin },
    body: JSON.stringify(body),
  });
const draftOf = (path: string, change: Partial<Draft> = {}) => ({ ...EMPTY_DRAFT, url: `${origin}${path}`, ...change });

async function begin(draft: Draft, order: RunOrder, leave: SendLeave = {}): Promise<Run> {
  const kept = packKept(keptFrom(randomUUID(), 'huts', draft, undefined));
  const response = await send(at(kept.id), 'POST', { kept, order, leave });
  const answer = (await response.json()) as RunAnswer;
  if (answer.type !== 'started') throw new Error(JSON.stringify(answer));
  return answer.run;
}
const look = async ({ draft, id }: Run): Promise<RunSeen> =>
  (await (await fetch(at(draft, `/${id}`))).json()) as RunSeen;
/** A run once something holds of it. */
async function until(run: Run, holds: (seen: RunSeen) => boolean): Promise<RunSeen> {
  for (let left = 400; left > 0; left--) {
    const seen = await look(run);
    if (holds(seen)) return seen;
    await new Promise((resolve) => setTimeout(resolve, 25));
  }
  throw new Error(`it stays ${JSON.stringify((await look(run)).run)}`);
}
const ended = (run: Run): Promise<RunSeen> => until(run, ({ run: { status } }) => status === 'ended');
const rowsOf = async ({ draft, id }: Run, query: string): Promise<string> =>
  (await fetch(at(draft, `/${id}/rows?${query}`))).text();

const series = (loop: Partial<LoopFields>, atOnce = 1): RunOrder => ({
  kind: 'series',
  atOnce,
  loop: { ...FIRST_LOOP, kind: 'pages', list: '$.huts', pauseMs: '0', ...loop },
});
const HUTS = Array.from({ length: 7 }, (_, at) => ({ id: `9007199254740993${at}`, name: `hut ${at}` }));
/** Huts in pages of three, ids longer than a double holds; busy and broken now and then. */
const paged =
  (trouble: readonly number[] = []) =>
  (url: URL): Answered => {
    const status = trouble[asked.length - 1];
    if (status !== undefined && status !== 200) return [status, { error: status }, { 'retry-after': '0' }];
    const page = Number(url.searchParams.get('page') ?? 0);
    return [200, { huts: HUTS.slice(page * 3, page * 3 + 3), total: HUTS.length }];
  };

describe('a series', () => {
  it('gathers every row once, past a server that is busy and one that breaks', async () => {
    answers = paged([200, 429, 503, 200, 502, 200]);
    const run = await begin(draftOf('/huts'), series({}));
    const { run: last, steps } = await ended(run);
    expect(last.sentence).toBe('4 responses, 7 rows. The response to 3 has no rows.');
    expect(steps.map(({ label, sentence }) => [label, sentence])).toEqual([
      ['0', '3 rows'],
      ['1', '3 rows. Tried 3 times: 429 (asked to wait 0 ms), 503 (asked to wait 0 ms), then this.'],
      ['2', '1 row. Tried 2 times: 502 (asked to wait 0 ms), then this.'],
      ['3', '200'],
    ]);
    const csv = await rowsOf(run, 'form=csv&from=page');
    expect(csv).toBe(
      ['page,id,name', ...HUTS.map(({ id, name }, nth) => `${Math.floor(nth / 3)},${id},${name}`), ''].join('\n'),
    );
    expect(await rowsOf(run, 'form=lines')).toBe(HUTS.map((hut) => `${JSON.stringify(hut)}\n`).join(''));
    expect(JSON.parse(await rowsOf(run, 'form=json'))).toEqual(HUTS);
  });

  it('says what it waits for', async () => {
    answers = () => [429, {}, { 'retry-after': '60' }];
    const run = await begin(draftOf('/huts'), series({}));
    const { run: waiting } = await until(run, ({ run: { sentence } }) => sentence !== '');
    expect(waiting.sentence).toBe('Waiting 1 min as the server asks (429).');
    await send(at(run.draft, `/${run.id}`), 'PATCH', { does: 'pause' });
    await until(run, ({ run: { status } }) => status === 'paused');
    expect(asked).toHaveLength(1);
  });

  it('sends some at once, in the order of their values whichever comes first, and no more than it needs', async () => {
    answers = paged();
    const run = await begin(draftOf('/huts'), series({ total: '$.total' }, 4));
    const { steps, run: last } = await ended(run);
    expect(steps.map(({ label, rows }) => [label, rows])).toEqual([
      ['0', 3],
      ['1', 3],
      ['2', 1],
    ]);
    expect(last.sentence).toBe('3 responses, 7 rows. All 7 rows came.');
    expect(asked).toHaveLength(4);
  });

  it('loses nothing of what came where a page fails, has another shape, or comes for ever', async () => {
    answers = (url) => (url.searchParams.get('page') === '2' ? [500, {}] : paged()(url));
    const failed = await begin(draftOf('/huts'), series({}));
    expect((await ended(failed)).run.sentence).toBe('3 responses, 6 rows. The response to 2 was 500.');
    expect(JSON.parse(await rowsOf(failed, 'form=json'))).toEqual(HUTS.slice(0, 6));
    answers = (url) => (url.searchParams.get('page') === '1' ? [200, { items: [] }] : paged()(url));
    expect((await ended(await begin(draftOf('/huts'), series({})))).run.sentence).toContain(
      'There is no list at $.huts in the response to 1.',
    );
    answers = () => [200, { huts: HUTS }];
    expect((await ended(await begin(draftOf('/huts'), series({})))).run.sentence).toBe(
      '2 responses, 7 rows. The response to 1 is the one before again.',
    );
  });

  it('tells a hostile table program nothing, and repeated rows once where that is wanted', async () => {
    answers = () => [
      200,
      {
        huts: [
          { id: 1, name: '=cmd()' },
          { id: 2, name: 'b' },
          { id: 1, name: '=cmd()' },
        ],
      },
    ];
    const run = await begin(draftOf('/huts'), series({ to: '0' }));
    await ended(run);
    expect(await rowsOf(run, 'form=csv&once=yes')).toBe("id,name\n1,'=cmd()\n2,b\n");
  });

  it('is paused, gone on with, deleted and brought back', async () => {
    answers = paged();
    const run = await begin(draftOf('/huts'), series({ pauseMs: '150' }));
    await until(run, ({ steps }) => steps.length === 1);
    await send(at(run.draft, `/${run.id}`), 'PATCH', { does: 'pause' });
    const paused = await until(run, ({ run: { status } }) => status === 'paused');
    expect(paused.steps.length).toBeLessThan(4);
    await send(at(run.draft, `/${run.id}`), 'PATCH', { does: 'go-on' });
    expect((await ended(run)).run.sentence).toBe('4 responses, 7 rows. The response to 3 has no rows.');
    expect(asked).toHaveLength(4);
    await send(at(run.draft, `/${run.id}`), 'PATCH', { deleted: true });
    expect(await (await fetch(at(run.draft))).json()).toEqual([]);
    await send(at(run.draft, `/${run.id}`), 'PATCH', { deleted: false });
    expect(((await (await fetch(at(run.draft))).json()) as Run[]).map(({ id }) => id)).toEqual([run.id]);
    // What it sent is a capture like another one.
    expect((await fetch(`${app.url}api/captures/${run.id}`)).status).toBe(200);
  });

  it('waits for what was sent where it is paused or its server is stopped: nothing is sent twice', async () => {
    const release: (() => void)[] = [];
    answers = async (url) => {
      await new Promise<void>((resolve) => release.push(resolve));
      return paged()(url);
    };
    const run = await begin(draftOf('/huts', { method: 'POST' }), series({}, 2), { unsafe: true });
    await expect.poll(() => release.length).toBe(2);
    await send(at(run.draft, `/${run.id}`), 'PATCH', { does: 'pause' });
    const goneOn = send(at(run.draft, `/${run.id}`), 'PATCH', { does: 'go-on' });
    for (const one of release) one();
    await goneOn;
    await expect.poll(() => release.length).toBe(4);
    const stopped = app.stop();
    for (const one of release) one();
    await stopped;
    expect(asked).toEqual(['/huts?page=0', '/huts?page=1', '/huts?page=2', '/huts?page=3']);
    app = await startServer(folder);
    expect((await look(run)).steps.map(({ label }) => label)).toEqual(['0', '1', '2', '3']);
  });

  it('that ends with the response under way is not begun again by who had it paused and goes on', async () => {
    let release = (): void => undefined;
    answers = async () => {
      await new Promise<void>((resolve) => {
        release = resolve;
      });
      return [200, { huts: [] }];
    };
    const run = await begin(draftOf('/huts'), series({ to: '0' }));
    await expect.poll(() => asked.length).toBe(1);
    await send(at(run.draft, `/${run.id}`), 'PATCH', { does: 'pause' });
    const goneOn = send(at(run.draft, `/${run.id}`), 'PATCH', { does: 'go-on' });
    release();
    expect(((await (await goneOn).json()) as Run).status).toBe('ended');
    expect(asked).toHaveLength(1);
  });

  it('loses nothing where the server is killed in the middle, and goes on from there', async () => {
    answers = paged();
    const run = await begin(draftOf('/huts'), series({ pauseMs: '100' }));
    await until(run, ({ steps }) => steps.length === 2);
    await app.stop('SIGKILL');
    const before = asked.length;
    app = await startServer(folder);
    const { run: left, steps } = await look(run);
    expect(left).toMatchObject({ status: 'paused', sentence: 'It stopped with the server.' });
    expect(steps.map(({ label }) => label).slice(0, 2)).toEqual(['0', '1']);
    await send(at(run.draft, `/${run.id}`), 'PATCH', { does: 'go-on' });
    await ended(run);
    expect(JSON.parse(await rowsOf(run, 'form=json'))).toEqual(HUTS);
    expect(asked.length - before).toBe(4 - steps.length);
  });

  it('downloads what a response names, from its own site with the credentials', async () => {
    answers = (url) =>
      url.pathname === '/photos'
        ? [200, { photos: [{ at: '/a.png' }, { at: 'b.png' }, { at: '/a.png' }] }]
        : [url.pathname === '/a.png' ? 404 : 200, 'picture'];
    const run = await begin(draftOf('/photos'), series({ kind: 'files', list: '$.photos[*].at' }));
    const { steps, run: last } = await ended(run);
    expect(last.sentence).toBe('3 responses. 2 files asked for. 1 of them failed.');
    expect(steps.map(({ label }) => label)).toEqual(['the draft as it is', `${origin}/a.png`, `${origin}/b.png`]);
  });
});

describe('a run', () => {
  it('of a method that may change something is asked for first, with how often it would be sent', async () => {
    const kept = packKept(keptFrom(randomUUID(), 'x', draftOf('/huts', { method: 'DELETE' }), undefined));
    const response = await send(at(kept.id), 'POST', { kept, order: series({ mostPages: '40' }), leave: {} });
    expect(await response.json()).toMatchObject({
      type: 'question',
      question: { about: 'unsafe', sentence: expect.stringContaining('it would be sent up to 40 times.') },
    });
    const nowhere = {
      kept: { ...kept, way: { toHost: 'http://127.0.0.1:9' } },
      order: series({}),
      leave: { unsafe: true },
    };
    expect((await send(at(kept.id), 'POST', nowhere)).status).toBe(400);
    expect(asked).toEqual([]);
  });

  it.each([
    [
      { ...series({}), loop: { ...FIRST_LOOP, kind: 'pages' } },
      'Give the place of the list, like $.items; a list that is the whole response is at $.',
    ],
    [{ ...series({}), loop: { ...FIRST_LOOP, kind: 'poll' } }, 'These fields are of no series.'],
  ])('is refused in a sentence where it is none', async (order, sentence) => {
    const kept = packKept(keptFrom(randomUUID(), 'x', draftOf('/huts'), undefined));
    const response = await send(at(kept.id), 'POST', { kept, order, leave: {} });
    expect([response.status, ((await response.json()) as { sentence: string }).sentence]).toEqual([400, sentence]);
  });

  it('is begun by nobody but our own page', async () => {
    const kept = packKept(keptFrom(randomUUID(), 'x', draftOf('/huts'), undefined));
    const response = await fetch(at(kept.id), {
      method: 'POST',
      headers: { 'content-type': 'application/json', origin: 'http://other.example' },
      body: JSON.stringify({ kept, order: series({}), leave: {} }),
    });
    expect(response.status).toBe(403);
    expect(asked).toEqual([]);
  });
});

describe('what a run is of', () => {
  it('has nothing more sent for it once it is deleted', async () => {
    answers = paged();
    const run = await begin(draftOf('/huts'), series({ pauseMs: '200' }));
    await until(run, ({ steps }) => steps.length === 1);
    await send(`${app.url}api/captures/${capture}/drafts/${run.draft}`, 'DELETE', {});
    await until(run, ({ run: { status } }) => status === 'paused');
    const before = asked.length;
    await new Promise((resolve) => setTimeout(resolve, 500));
    expect(asked).toHaveLength(before);
  });
});

describe('a trim', () => {
  const own = (name: string, value: string) => ({ name, value, role: 'own', kept: true, reason: '' }) as const;
  const draft = () =>
    draftOf('/huts?page=0&theme=dark', {
      headers: [own('X-Key', 'k'), own('Accept', '*/*'), own('User-Agent', 'Walker')],
    });

  it('keeps each trial, and tells which lines are needed', async () => {
    answers = (url, { headers }) =>
      headers['x-key'] === 'k' && url.searchParams.has('page') ? [200, { huts: [1] }] : [401, {}];
    const run = await begin(draft(), { kind: 'trim', measure: 'now', mostSends: 80 });
    const { run: last, steps } = await ended(run);
    expect(last.sentence).toBe('2 of 5 parts are needed: each makes a difference.');
    expect(last.result.trim?.needed.map(({ name, reason }) => [name, reason])).toEqual([
      ['parameter page', 'without it 401'],
      ['header X-Key', 'without it 401'],
    ]);
    expect(last.result.trim?.text).toBe(
      `GET ${origin}\n/huts\n?page=0\n✗ &theme=dark\n\nX-Key: k\n✗ Accept: */*\n✗ User-Agent: Walker`,
    );
    expect(steps).toHaveLength(asked.length);
    expect(steps.every(({ row }) => row.status === 200 || row.status === 401)).toBe(true);
  });

  it('is part of the report, its secrets inked out', async () => {
    answers = (url) => (url.searchParams.has('page') ? [200, { huts: [1] }] : [401, {}]);
    const token = 'w-2871-5f0c-77120-aa31';
    await ended(await begin(draftOf(`/huts?page=1&token=${token}`), { kind: 'trim', measure: 'now', mostSends: 80 }));
    await ended(
      await begin(draftOf('/huts'), { kind: 'watch', until: `$.huts = ${token}`, everyMs: 1000, mostSends: 1 }),
    );
    const order = { choice: choiceOf('colleague'), parts: ['sent'], format: 'md', notes: [] };
    const told = await (await send(`${app.url}api/captures/${capture}/report`, 'POST', order)).text();
    const last = JSON.parse(told.trim().split('\n').at(-1) ?? '') as ReportProgress;
    if (last.type !== 'written') throw new Error(told);
    expect(last.text).toContain('Sent many times');
    expect(last.text).toContain('1 of 2 parts is needed: the response differs without it.');
    expect(last.text).toContain('can be left out: parameter token');
    expect(last.text).not.toContain(token);
  });

  it('goes on where it was paused, without asking again what it knows', async () => {
    answers = (url) => (url.searchParams.has('page') ? [200, { huts: [1] }] : [404, {}]);
    const run = await begin(draft(), { kind: 'trim', measure: 'now', mostSends: 80 });
    await until(run, ({ steps }) => steps.length === 3);
    await send(at(run.draft, `/${run.id}`), 'PATCH', { does: 'pause' });
    const paused = await until(run, ({ run: { status } }) => status === 'paused');
    expect(paused.run.sentence).toMatch(/^Stopped: /);
    const before = asked.length;
    await send(at(run.draft, `/${run.id}`), 'PATCH', { does: 'go-on' });
    const { steps, run: last } = await ended(run);
    expect(last.result.trim?.needed.map(({ name }) => name)).toEqual(['parameter page']);
    expect(asked.length).toBe(steps.length);
    expect(before).toBeGreaterThanOrEqual(3);
  });
});

describe('a watch', () => {
  it('sends until its condition is met, with what changed each time', async () => {
    answers = () => [200, { price: [40, 40, 28][asked.length - 1], hut: 'Alba' }];
    const run = await begin(draftOf('/price'), { kind: 'watch', until: '$.price < 30', everyMs: 1000, mostSends: 5 });
    const { run: last, steps } = await ended(run);
    expect(last.sentence).toBe('Met: $.price < 30. $.price is 28.');
    expect(steps.map(({ label, sentence, verdict }) => [label, sentence, verdict])).toEqual([
      ['40', 'the first response', 'other'],
      ['40', 'as before', 'other'],
      ['28', '$.price is 28 now, 40 before', 'good'],
    ]);
  });

  it('ends by itself behind its last time, and says so', async () => {
    answers = () => [200, { price: 40 }];
    const run = await begin(draftOf('/price'), { kind: 'watch', until: '$.price < 30', everyMs: 1000, mostSends: 2 });
    expect((await ended(run)).run.sentence).toBe(
      'Not met in 2 responses: $.price < 30. $.price is 40. Ended: that was the last time.',
    );
  });
});

describe('a watch for a change', () => {
  it('is of the first response that told something, also where it went on after a pause', async () => {
    // Longer than what is shown of it; failed at first, and another text than the first from the fourth on.
    const free = (at: number): string => 'bunks '.repeat(60) + at;
    answers = () => (asked.length === 1 ? [400, {}] : [200, { free: free(asked.length < 5 ? 1 : 2) }]);
    const run = await begin(draftOf('/free'), { kind: 'watch', until: '$.free changes', everyMs: 1000, mostSends: 9 });
    await until(run, ({ steps }) => steps.length === 3);
    await send(at(run.draft, `/${run.id}`), 'PATCH', { does: 'pause' });
    await until(run, ({ run: { status } }) => status === 'paused');
    await send(at(run.draft, `/${run.id}`), 'PATCH', { does: 'go-on' });
    const { run: last } = await ended(run);
    expect([last.sentence.slice(0, 20), asked.length]).toEqual(['Met: $.free changes.', 5]);
  });
});

describe('growing', () => {
  it('doubles the size until no more comes, then leaves each filter out with the largest', async () => {
    answers = (url) => {
      const size = Number(url.searchParams.get('size'));
      const all = url.searchParams.has('open') ? HUTS.slice(0, 5) : HUTS;
      return size > 8 ? [400, {}] : [200, { huts: all.slice(0, size) }];
    };
    const run = await begin(draftOf('/huts?size=2&open=1&page=0'), { kind: 'grow', parameter: 'size', list: '$.huts' });
    const { run: last, steps } = await ended(run);
    expect(steps.map(({ label, sentence }) => [label, sentence])).toEqual([
      ['unchanged', '2 rows'],
      ['size 4', '4 rows'],
      ['size 8', '5 rows'],
      ['size 8 without open', '7 rows'],
    ]);
    expect(last.sentence).toBe(
      'The most it gave is 7 rows, with size 8 without open; unchanged it gave 2. Asked for 8, it gave fewer: all there are, or its limit.',
    );
  });
});
