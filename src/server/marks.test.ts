import { randomUUID } from 'node:crypto';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { isObject, type Json, normaliseEntry } from '../core/har';
import { Comments, type Mark, marksOfComment } from '../core/marks';
import { choiceOf } from '../core/redact';
import type { HandOffProgress, ImportResult } from '../core/wire';
import { newDataFolder, type RunningApp, runCli, startServer } from './testing/process';

const NOTE = 'Why does w-2871-5f0c get no bed?\n\nAsk the warden.';
const LINE = 'Note: Why does w-2871-5f0c get no bed?\nAsk the warden.';

let app: RunningApp;
let at: string;
beforeAll(async () => {
  app = await startServer();
  const query = new URLSearchParams({ name: 'booking', importId: randomUUID() });
  const body = readFileSync('demo/captures/booking-gone-wrong.har');
  const answer = await fetch(`${app.url}api/captures?${query}`, { method: 'POST', body });
  const [result] = (await answer.json()) as ImportResult[];
  if (result?.type !== 'imported') throw new Error('the capture did not come in');
  at = `${app.url}api/captures/${result.id}`;
});
afterAll(() => app.stop());

const send = (path: string, method: string, body: unknown): Promise<Response> =>
  fetch(`${at}/${path}`, { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
const mark = (target: string, note: string, isMarked = false) => send('marks', 'PATCH', { target, note, isMarked });
const all = async () => (await (await fetch(`${at}/marks`)).json()) as Mark[];

interface SavedHar {
  readonly log: { readonly entries: { comment?: string }[]; readonly pages: { id: string; comment?: string }[] };
}
const saved = async (): Promise<SavedHar> => (await (await send('har', 'POST', {})).json()) as SavedHar;

describe('marks and notes', () => {
  it('are kept, changed, and gone once they say and mark nothing', async () => {
    expect((await mark('exchange 20', '', true)).status).toBe(200);
    await mark('exchange 20', 'twice', true);
    await mark('finding retried 17,19', 'known');
    expect(await all()).toEqual([
      { target: 'exchange 20', isMarked: true, note: 'twice' },
      { target: 'finding retried 17,19', isMarked: false, note: 'known' },
    ]);
    await mark('exchange 20', '', false);
    await mark('finding retried 17,19', '  ');
    expect(await all()).toEqual([]);
  });

  it('keep the note while the mark changes, and the mark while the note does', async () => {
    await send('marks', 'PATCH', { target: 'exchange 20', note: 'twice' });
    await send('marks', 'PATCH', { target: 'exchange 20', isMarked: true });
    expect(await all()).toEqual([{ target: 'exchange 20', isMarked: true, note: 'twice' }]);
    await send('marks', 'PATCH', { target: 'exchange 20', note: '' });
    expect(await all()).toEqual([{ target: 'exchange 20', isMarked: true, note: '' }]);
    await send('marks', 'PATCH', { target: 'exchange 20', isMarked: false });
    expect(await all()).toEqual([]);
    expect((await send('marks', 'PATCH', { target: 'exchange 20' })).status).toBe(400);
  });

  it.each([
    ['exchange -1', 'x'],
    ['host api', 'x'],
    ['exchange 2', 'x'.repeat(10_001)],
  ])('of "%s" are refused where they can be none', async (target, note) => {
    expect((await mark(target, note)).status).toBe(400);
    expect(await all()).toEqual([]);
  });

  it('are comments in what is saved, and in nothing where there are none', async () => {
    const before = await saved();
    expect(before.log.entries.some(({ comment }) => comment?.includes('Note:'))).toBe(false);
    const page = before.log.pages[0]?.id ?? '';
    await mark('exchange 3', NOTE);
    await mark(`page ${page}`, 'For the hosting team.');
    await mark(`leg #8 ${page}`, 'the slow one');
    const { log } = await saved();
    const changed = log.entries.flatMap(({ comment }, place) =>
      comment === before.log.entries[place]?.comment ? [] : [[place, comment]],
    );
    expect(changed).toEqual([[3, LINE]]);
    expect(log.pages[0]?.comment).toBe('Note: For the hosting team.\n#8: the slow one');
    const file = join(newDataFolder(), 'noted.har');
    writeFileSync(file, JSON.stringify({ log }));
    // The file by itself: found by its notes, and told of in a report.
    expect(runCli(['list', file, '--where', 'note ~ warden']).stdout.toString()).toMatch(/\n\s*3 .*logo\.svg\n$/);
    const report = join(newDataFolder(), 'report.md');
    expect(runCli(['report', file, '--out', report, '--parts', 'noted', '--secrets']).status).toBe(0);
    expect(readFileSync(report, 'utf8')).toContain('> Ask the warden.');
  });

  it('leave with the capture, their secrets inked out', async () => {
    const lines = (await (await send('hand-off', 'POST', { choice: choiceOf('colleague') })).text()).trim().split('\n');
    const last = JSON.parse(lines.at(-1) ?? '') as HandOffProgress;
    if (last.type !== 'made') throw new Error(JSON.stringify(last));
    const har = await (await fetch(`${at}/hand-off/${last.made.id}/har`)).text();
    const entry = (JSON.parse(har) as SavedHar).log.entries[3];
    expect(entry?.comment).toBe(LINE.replace('w-2871-5f0c', 'cookie-1-xx'));
  });
});

describe('a note as a comment', () => {
  const failed = (comment?: string): Json =>
    ({ request: { method: 'GET', url: 'https://a.example/' }, response: { status: 0 }, comment }) as unknown as Json;
  const noted = (entry: Json, note: string): Json =>
    new Comments([{ target: 'exchange 0', isMarked: true, note }]).entry(entry, 0);
  const outcomeOf = (entry: Json) => (isObject(entry) ? normaliseEntry(entry, 0).outcome : undefined);

  it.each([undefined, 'net::ERR_CONNECTION_REFUSED'])('is not taken for why a request failed: %s', (comment) => {
    const entry = failed(comment);
    const after = noted(entry, 'net::ERR_NAME_NOT_RESOLVED was what support said');
    expect(after).not.toEqual(entry);
    expect(outcomeOf(after)).toEqual(outcomeOf(entry));
  });

  it('stands once, however often it is written, and is read back', () => {
    const once = noted(failed('net::ERR_ABORTED'), 'one\n\ntwo');
    expect(noted(once, 'one\n\ntwo')).toEqual(once);
    const { comment } = once as unknown as { comment: string };
    expect(marksOfComment(comment, 0)).toEqual([{ target: 'exchange 0', isMarked: false, note: 'one\ntwo' }]);
    expect(marksOfComment('net::ERR_ABORTED', 0)).toEqual([]);
  });
});
