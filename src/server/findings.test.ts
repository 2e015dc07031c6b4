import { randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { DelayName, VisitForecast } from '#core/cache';
import type { CaptureCard, ImportResult } from '#core/wire';
import { type RunningApp, startServer } from './testing/process';
import { fetchRowsAt } from './testing/rows';

let app: RunningApp;
let at: string;
beforeAll(async () => {
  app = await startServer();
  const query = new URLSearchParams({ name: 'first', importId: randomUUID() });
  const body = readFileSync('demo/captures/alba-norte-first-visit.har');
  const answer = await fetch(`${app.url}api/captures?${query}`, { method: 'POST', body });
  const [result] = (await answer.json()) as ImportResult[];
  if (result?.type !== 'imported') throw new Error('the capture did not come in');
  at = `${app.url}api/captures/${result.id}`;
});
afterAll(() => app.stop());

interface Found {
  readonly state: string;
  readonly findings: { rule: string; evidence: number[] }[];
  readonly dismissed: Record<string, string>;
}
const found = async (): Promise<Found> => (await (await fetch(`${at}/findings`)).json()) as Found;
const patch = (value: unknown) =>
  fetch(`${at}/findings`, {
    method: 'PATCH',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(value),
  });

describe('findings', () => {
  it('are waited for behind an import, and the rows know then who names whom', async () => {
    const { state, findings } = await found();
    expect(state).toBe('there');
    expect(findings.map(({ rule }) => rule)).toContain('sent-uncompressed');
    const rows = await fetchRowsAt(at);
    expect(rows[139]?.namedBy).toBe(77);
    expect(rows[139]?.isOnRoute).toBe(true);
    const card = (await (await fetch(at)).json()) as CaptureCard;
    expect(card.isDiagnosed).toBe(true);
    expect(card.overview.sentence).toMatch(
      /; \d+ ms of that went to waiting for api\.cumbrera\.example to respond, most of it for graphql HutCard \(#77\)\.$/,
    );
  });

  it('are dismissed for a reason, and that is taken back', async () => {
    expect(await (await patch({ key: 'too-many 1,2', reason: ' as it is ' })).json()).toEqual({
      'too-many 1,2': 'as it is',
    });
    expect((await found()).dismissed).toEqual({ 'too-many 1,2': 'as it is' });
    expect(await (await patch({ key: 'too-many 1,2', reason: null })).json()).toEqual({});
  });

  it.each([{}, { key: '' }, { key: 'a', reason: '' }, { key: 'a', reason: 7 }])('%j is refused', async (value) => {
    expect((await patch(value)).status).toBe(400);
  });

  it('of no capture are not found', async () => {
    const answer = await fetch(`${app.url}api/captures/${randomUUID()}/findings`);
    expect(answer.status).toBe(404);
  });
});

describe('the forecast', () => {
  it('adds up to every exchange of the page, and spares the more the sooner the next visit is', async () => {
    const forecast = (await (await fetch(`${at}/forecast`)).json()) as Record<DelayName, VisitForecast>;
    const counts = Object.values(forecast).map(({ reused, revalidated, fetched }) => reused + revalidated + fetched);
    expect(counts).toEqual([145, 145, 145, 145]);
    const reused = Object.values(forecast).map((visit) => visit.reused);
    expect([...reused].sort((a, b) => b - a)).toEqual(reused);
    expect(forecast.minute.reused).toBeGreaterThan(10);
  });

  it('of a page that is not there is of nothing', async () => {
    const forecast = (await (await fetch(`${at}/forecast?page=none`)).json()) as Record<DelayName, VisitForecast>;
    expect(forecast.day).toEqual({ reused: 0, revalidated: 0, fetched: 0, wireBytes: 0, sparedBytes: 0 });
  });
});
