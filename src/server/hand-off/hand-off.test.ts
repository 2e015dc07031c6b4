import { randomUUID } from 'node:crypto';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { unzipSync } from 'fflate';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { generateCapture } from '../../../bench/generate';
import { choiceOf, type ExchangePreview, type HandOffChoice } from '../../core/redact';
import type { HandOffProgress, ImportResult, MadeHandOff, ReportProgress } from '../../core/wire';
import { newDataFolder, type RunningApp, runCli, startServer } from '../testing/process';

let app: RunningApp;
let captureId: string;
let at: string;

async function takeIn(name: string, body: Buffer): Promise<string> {
  const query = new URLSearchParams({ name, importId: randomUUID() });
  const answer = await fetch(`${app.url}api/captures?${query}`, { method: 'POST', body: new Uint8Array(body) });
  const [result] = (await answer.json()) as ImportResult[];
  if (result?.type !== 'imported') throw new Error('the capture did not come in');
  return result.id;
}

beforeAll(async () => {
  app = await startServer();
  captureId = await takeIn('booking of w-2871-5f0c', readFileSync('demo/captures/booking-gone-wrong.har'));
  at = `${app.url}api/captures/${captureId}`;
});
afterAll(() => app.stop());

const JSON_TYPE = { 'content-type': 'application/json' };
const post = (url: string, body: unknown, signal?: AbortSignal): Promise<Response> =>
  fetch(url, {
    method: 'POST',
    headers: JSON_TYPE,
    body: JSON.stringify(body),
    ...(signal === undefined ? {} : { signal }),
  });

async function lastOf<T>(answer: Response): Promise<T> {
  const lines = (await answer.text()).trim().split('\n');
  return JSON.parse(lines.at(-1) ?? '') as T;
}

async function make(change: Partial<HandOffChoice> = {}, places?: readonly number[]): Promise<MadeHandOff> {
  const order = { choice: { ...choiceOf('colleague'), ...change }, ...(places === undefined ? {} : { places }) };
  const last = await lastOf<HandOffProgress>(await post(`${at}/hand-off`, order));
  if (last.type !== 'made') throw new Error(JSON.stringify(last));
  return last.made;
}

const savedOf = async (made: MadeHandOff): Promise<string> => (await fetch(`${at}/hand-off/${made.id}/har`)).text();
const COOKIE = 'w-2871-5f0c';

describe('a hand-off', () => {
  it('is made, proven, and saved without its secrets; its name has none either', async () => {
    const made = await make();
    expect(made.proof.map(({ holds }) => holds)).toEqual([true, true, true]);
    const text = await savedOf(made);
    expect(Buffer.byteLength(text)).toBe(made.bytes);
    expect(text).not.toContain(COOKIE);
    expect(made.name).toBe('booking of cookie-1-xx');
    const cookie = made.replaced.find(({ value }) => value === COOKIE);
    expect(cookie?.count).toBe(text.split('cookie-1-xx').length - 1);
    const entries = (JSON.parse(text) as { log: { entries: unknown[] } }).log.entries;
    const having = entries.flatMap((entry, place) => (JSON.stringify(entry).includes('cookie-1-xx') ? [place] : []));
    expect(cookie?.places).toEqual(having);
  });

  it('leaves what was switched off, and takes out what was pointed at or is an own word', async () => {
    const made = await make({ off: [COOKIE], pointed: ['Wayfarer/1.0'], words: ['/H-0000\\d/i'] });
    const text = await savedOf(made);
    expect(text).toContain(COOKIE);
    expect(text).not.toMatch(/Wayfarer\/1|h-00001/i);
    expect(made.left.map(({ value, firstAt }) => [value, firstAt])).toEqual([[COOKIE, 9]]);
  });

  it('does not leave where taking something out changes what the analysis says, and says what', async () => {
    // By its name the browser was told that this file never changes.
    const made = await make({ words: ['base.9f2c.css'] });
    expect(made.proof.at(-1)).toEqual({
      holds: false,
      sentence: expect.stringContaining('as they were recorded'),
      details: ['Lost on page 1: never-kept (wasteful) on #1.'],
    });
    expect((await fetch(`${at}/hand-off/${made.id}/har`)).status).toBe(409);
  });

  it('may be a part, whose analysis is that of the part', async () => {
    const made = await make({ withoutBodies: ['image'] }, [0, 3, 9]);
    expect(made.proof.every(({ holds }) => holds)).toBe(true);
    const { entries } = (
      JSON.parse(await savedOf(made)) as {
        log: { entries: { request: { url: string }; response: { content: { text?: string } } }[] };
      }
    ).log;
    expect(entries.map(({ request }) => new URL(request.url).pathname)).toEqual([
      '/book/alba-norte',
      '/logo.svg',
      '/session',
    ]);
    expect(entries.map(({ response }) => response.content.text !== undefined)).toEqual([true, false, true]);
  });

  it('shows an exchange as it leaves, just as it is in the file', async () => {
    const made = await make();
    const shown = (await (await fetch(`${at}/hand-off/${made.id}/exchanges/9`)).json()) as ExchangePreview;
    const lines = [...shown.response.head, ...shown.response.body].map((line) => line.map(({ text }) => text).join(''));
    const { entries } = (
      JSON.parse(await savedOf(made)) as {
        log: { entries: { response: { headers: { name: string; value: string }[]; content: { text: string } } }[] };
      }
    ).log;
    const { headers, content } = entries[9]?.response ?? { headers: [], content: { text: '' } };
    expect(lines.slice(1)).toEqual([...headers.map(({ name, value }) => `${name}: ${value}`), content.text]);
    const secrets = shown.response.head.flatMap((line) => line.flatMap(({ secret }) => secret?.value ?? []));
    expect(secrets).toEqual([COOKIE]);
    expect((await fetch(`${at}/hand-off/${made.id}/exchanges/9000`)).status).toBe(404);
  });

  it.each([
    ['an expression that is none', { words: ['/(/'] }, /^\/\(\/ is not a regular expression\.$/],
    ['an empty word', { words: [' '] }, /^An empty word would be found everywhere\.$/],
    ['an unknown kind', { kinds: ['tokens'] }, /"choice\.kinds\.0" is none of token,/],
  ])('refuses %s in one sentence', async (_, change, sentence) => {
    const answer = await post(`${at}/hand-off`, { choice: { ...choiceOf('public'), ...change } });
    expect(answer.status).toBe(400);
    expect(((await answer.json()) as { sentence: string }).sentence).toMatch(sentence);
  });

  it('breaks off an expression that takes too long', async () => {
    const order = { choice: { ...choiceOf('colleague'), words: ['/(?:\\w+\\s?)+#$/'] } };
    const last = await lastOf<HandOffProgress>(await post(`${at}/hand-off`, order));
    expect(last).toMatchObject({ type: 'failed', problem: { sentence: expect.stringContaining('takes too long') } });
  });

  it('is given to nobody who asks for another capture’s, and is dropped when newer ones are made', async () => {
    const made = await make();
    const other = await takeIn('first', readFileSync('demo/captures/alba-norte-fixed-release.har'));
    expect((await fetch(`${app.url}api/captures/${other}/hand-off/${made.id}/har`)).status).toBe(404);
    for (let count = 0; count < 3; count++) await make();
    expect((await fetch(`${at}/hand-off/${made.id}/har`)).status).toBe(404);
    await expect.poll(() => readdirSync(join(app.dataFolder, 'hand-off'))).toHaveLength(3);
  });

  it('leaves nothing behind where it is cancelled', async () => {
    const file = join(newDataFolder(), 'large.har');
    generateCapture(file, 20e6);
    const id = await takeIn('large', readFileSync(file));
    await expect
      .poll(async () => (await fetch(`${app.url}api/captures/${id}/findings`)).json(), { timeout: 60_000 })
      .toMatchObject({ state: 'there' });
    const before = readdirSync(join(app.dataFolder, 'hand-off'));
    const abort = new AbortController();
    const answer = await post(`${app.url}api/captures/${id}/hand-off`, { choice: choiceOf('public') }, abort.signal);
    const reader = answer.body?.getReader();
    const { value } = (await reader?.read()) ?? {};
    expect(new TextDecoder().decode(value)).toContain('"progress"');
    // Meanwhile others are answered.
    let isOver = false;
    const heard = (async () => {
      while ((await reader?.read())?.done !== true);
      isOver = true;
    })().catch(() => undefined);
    await fetch(`${app.url}api/captures`);
    expect(isOver).toBe(false);
    abort.abort();
    await heard;
    await expect.poll(() => readdirSync(join(app.dataFolder, 'hand-off')), { timeout: 5000 }).toEqual(before);
  });
});

describe('bodies', () => {
  it('are a zip with the paths of the site, each file once', async () => {
    const places = Array.from({ length: 37 }, (_, place) => place);
    const answer = await post(`${at}/bodies`, { places });
    expect(answer.headers.get('content-type')).toBe('application/zip');
    const files = unzipSync(new Uint8Array(await answer.arrayBuffer()));
    const folder = join(newDataFolder(), 'bodies');
    expect(runCli(['bodies', 'demo/captures/booking-gone-wrong.har', '--out', folder]).status).toBe(0);
    const written = readdirSync(folder, { recursive: true, withFileTypes: true })
      .filter((entry) => entry.isFile())
      .map((entry) => join(entry.parentPath, entry.name));
    expect(
      Object.keys(files)
        .map((path) => join(folder, path))
        .sort(),
    ).toEqual(written.sort());
    for (const path of Object.keys(files))
      expect(Buffer.from(files[path] ?? [])).toEqual(readFileSync(join(folder, path)));
    expect((await post(`${at}/bodies`, { places: [] })).status).toBe(400);
  });
});

describe('what was chosen', () => {
  it('is kept with its capture', async () => {
    const read = async () => (await (await fetch(`${at}/hand-off/choice`)).json()) as HandOffChoice;
    expect(await read()).toEqual(choiceOf('colleague'));
    const choice: HandOffChoice = { ...choiceOf('supplier'), words: ['Ana'], off: [COOKIE], blank: ['font'] };
    const put = (body: unknown) =>
      fetch(`${at}/hand-off/choice`, { method: 'PUT', headers: JSON_TYPE, body: JSON.stringify(body) });
    expect((await put(choice)).status).toBe(200);
    expect((await put({ ...choice, words: ['/[/'] })).status).toBe(400);
    expect(await read()).toEqual(choice);
  });
});

describe('a report', () => {
  const order = (change: object = {}) => ({
    choice: choiceOf('colleague'),
    parts: ['figures', 'findings'],
    format: 'html',
    notes: [`Why did ${COOKIE} get no bed?`],
    ...change,
  });
  const written = async (change: object = {}) =>
    await lastOf<Extract<ReportProgress, { type: 'written' }>>(await post(`${at}/report`, order(change)));

  it('is written without secrets, those of the writer’s own words too, and drawn in a box', async () => {
    const { text, id, proof, name } = await written();
    expect(proof.every(({ holds }) => holds)).toBe(true);
    expect(text).not.toContain(COOKIE);
    expect([text, name]).toEqual([expect.stringContaining('cookie-1-xx'), 'booking of cookie-1-xx']);
    const drawn = await fetch(`${at}/report/${id}`);
    expect(drawn.headers.get('content-security-policy')).toContain("sandbox; default-src 'none'");
    expect(await drawn.text()).toBe(text);
    await expect.poll(() => existsSync(join(app.dataFolder, 'hand-off', id))).toBe(false);
  });

  it('is of the page that is asked for, in Markdown, compared with another capture', async () => {
    const cards = (await (await fetch(`${app.url}api/captures`)).json()) as { id: string; name: string }[];
    const comparedWith = cards.find(({ name }) => name === 'first')?.id;
    const { text } = await written({ page: 2, format: 'md', parts: ['comparison'], comparedWith });
    expect(text).toMatch(/^# /);
    expect(text).toContain('## Compared: A is booking of cookie-1-xx, B is first');
    const none = await post(`${at}/report`, order({ comparedWith: randomUUID() }));
    expect(none.status).toBe(404);
    const wrong = await lastOf<ReportProgress>(await post(`${at}/report`, order({ page: 9 })));
    expect(wrong).toMatchObject({
      type: 'failed',
      problem: { sentence: expect.stringContaining('there is no page 9') },
    });
  });
});
