import { randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { EMPTY_DRAFT } from '#core/convert';
import { keptFrom, type PackedKeptDraft, packKept, type SharedVariable } from '#core/sheet';
import type { ImportResult } from '#core/wire';
import { type RunningApp, startServer } from './testing/process';

let app: RunningApp;
let at: string;
beforeAll(async () => {
  app = await startServer();
  const query = new URLSearchParams({ name: 'booking', importId: randomUUID() });
  const body = readFileSync('demo/captures/booking-gone-wrong.har');
  const [result] = (await (
    await fetch(`${app.url}api/captures?${query}`, { method: 'POST', body })
  ).json()) as ImportResult[];
  if (result?.type !== 'imported') throw new Error('the capture did not come in');
  at = `${app.url}api/captures/${result.id}/drafts`;
});
afterAll(() => app.stop());

const draft = (name: string): PackedKeptDraft =>
  packKept(
    keptFrom(
      randomUUID(),
      name,
      {
        ...EMPTY_DRAFT,
        url: 'https://a.example/‹hut›',
        payload: { type: 'bytes', bytes: Uint8Array.of(0, 255) },
        variables: [{ name: 'hut', value: '', isSecret: true }],
      },
      17,
    ),
  );
const put = (value: unknown, id: string) =>
  fetch(`${at}/${id}`, { method: 'PUT', headers: { 'content-type': 'application/json' }, body: JSON.stringify(value) });
const list = async () => (await (await fetch(at)).json()) as { drafts: PackedKeptDraft[]; variables: SharedVariable[] };
const all = async (): Promise<PackedKeptDraft[]> => (await list()).drafts;

describe('drafts', () => {
  it('are kept as they are, in the order in which they were begun, changed, dropped and brought back', async () => {
    const [first, second] = [draft('first'), draft('second')];
    for (const one of [first, second]) expect((await put(one, one.id)).status).toBe(200);
    const renamed = { ...first, name: 'another' };
    await put(renamed, first.id);
    expect(await all()).toEqual([renamed, second]);
    await fetch(`${at}/${first.id}`, { method: 'DELETE' });
    expect(await all()).toEqual([second]);
    await put(renamed, first.id);
    expect((await all()).map(({ name }) => name)).toEqual(['second', 'another']);
  });

  it('share their variables, which are kept apart from them', async () => {
    const one = draft('shares');
    await put(one, one.id);
    const hut = { name: 'hut', value: 'alba', isSecret: false };
    expect((await list()).variables).toContainEqual({ name: 'hut', value: '', isSecret: true });
    const keep = (set: unknown, removed: unknown = []) =>
      fetch(at.replace('/drafts', '/variables'), {
        method: 'PATCH',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ set, removed }),
      });
    const taken = { ...hut, name: 'token', takenFrom: { draft: one.id, part: 'json', place: '$.token' } };
    const first = await keep([hut, taken], []);
    expect(await first.json()).toEqual({ variables: [hut, taken] });
    expect((await list()).variables).toEqual([hut, taken]);
    // Another page knows nothing of them: what it sets and removes leaves all others alone.
    const night = { name: 'night', value: '7', isSecret: false };
    await keep([night, { ...hut, value: 'jara' }]);
    expect((await list()).variables).toEqual([{ ...hut, value: 'jara' }, taken, night]);
    await keep([hut], ['night', 'unknown']);
    expect((await list()).variables).toEqual([hut, taken]);
    expect((await keep([], ['a b'])).status).toBe(400);
    for (const wrong of [[hut, hut], [{ ...hut, name: 'a b' }], [{ ...taken, takenFrom: { draft: 'x' } }]])
      expect((await keep(wrong)).status).toBe(400);
    expect((await list()).variables).toEqual([hut, taken]);
  });

  it('of another capture are not overwritten', async () => {
    const one = draft('mine');
    await put(one, one.id);
    const elsewhere = at.replace(/captures\/[^/]+/, `captures/${randomUUID()}`);
    const answer = await fetch(`${elsewhere}/${one.id}`, {
      method: 'PUT',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ ...one, name: 'theirs' }),
    });
    expect(answer.status).toBe(404);
    expect((await all()).find(({ id }) => id === one.id)?.name).toBe('mine');
  });

  it.each<[string, (one: PackedKeptDraft) => unknown]>([
    ['without a name', (one) => ({ ...one, name: ' ' })],
    ['of another id', (one) => ({ ...one, id: randomUUID() })],
    [
      'with a variable that is no name',
      (one) => ({ ...one, draft: { ...one.draft, variables: [{ name: 'a b', value: '', isSecret: false }] } }),
    ],
    ['laid out in no known way', (one) => ({ ...one, sheet: { ...one.sheet, layout: 'song' } })],
    ['that is none', () => ({})],
  ])('%s are refused', async (_, change) => {
    const one = draft('good');
    const answer = await put(change(one), one.id);
    expect(answer.status).toBe(400);
    expect(((await answer.json()) as { sentence: string }).sentence).toMatch(/\.$/);
  });
});
