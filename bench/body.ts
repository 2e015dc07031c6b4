import { randomUUID } from 'node:crypto';
import { type Browser, chromium, type Page } from '@playwright/test';
import { readJsonTree } from '#core/json';
import type { ImportResult } from '#core/wire';
import { startServer } from '#server/testing/process';
import { chromiumOptions } from '../e2e/support/chromium';

// A body of 10 MB of JSON in the dossier: until it is first drawn, and the longest that the page stood still for it.

const BODY_BYTES = 10_000_000;
const ROUNDS = 5;

function bigJson(): string {
  const rows: string[] = [];
  for (let length = 0, at = 0; length < BODY_BYTES; at++) {
    const row = JSON.stringify({ id: at, hut: `Hut ${at % 500}`, beds: [at % 7, at % 3], note: 'x'.repeat(at % 60) });
    length += row.length + 1;
    rows.push(row);
  }
  return `{"total":${rows.length},"rows":[${rows.join(',')}]}`;
}

const median = (values: readonly number[]): number =>
  [...values].sort((a, b) => a - b)[values.length >> 1] ?? Number.NaN;

/** The same body in a page of its own that does nothing but read it: fetch, JSON.parse, one line drawn. */
async function baseline(page: Page, address: string): Promise<number> {
  return page.evaluate(async (url) => {
    const start = performance.now();
    const value = (await (await fetch(url, { cache: 'no-store' })).json()) as { total: number };
    document.title = String(value.total);
    await new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(drawn)));
    return performance.now() - start;
  }, address);
}

interface Opened {
  readonly firstMs: number;
  readonly longestTaskMs: number;
}

/** Opens the dossier by key, as a user does, and waits for the tree's rows. */
async function open(page: Page): Promise<Opened> {
  await page.evaluate(() => {
    const watched = globalThis as { longest?: number };
    watched.longest = 0;
    new PerformanceObserver((list) => {
      for (const { duration } of list.getEntries()) watched.longest = Math.max(watched.longest ?? 0, duration);
    }).observe({ type: 'longtask' });
  });
  const firstMs = await page.evaluate(async () => {
    const start = performance.now();
    const strip = document.querySelector<HTMLElement>('[data-strip]');
    strip?.click();
    while (document.querySelector('[aria-label="Body"] [role=treeitem]') === null)
      await new Promise(requestAnimationFrame);
    return performance.now() - start;
  });
  await page.waitForTimeout(300);
  const longestTaskMs = await page.evaluate(() => (globalThis as { longest?: number }).longest ?? 0);
  return { firstMs, longestTaskMs };
}

const text = bigJson();
const parseMs = median(
  Array.from({ length: ROUNDS }, () => {
    const start = performance.now();
    JSON.parse(text);
    return performance.now() - start;
  }),
);
const treeMs = median(
  Array.from({ length: ROUNDS }, () => {
    const start = performance.now();
    readJsonTree(text);
    return performance.now() - start;
  }),
);
console.log(`tree of 10 MB of JSON: ${treeMs.toFixed(0)} ms, ${(treeMs / parseMs).toFixed(2)} x JSON.parse`);

const app = await startServer();
let browser: Browser | undefined;
try {
  const entry = {
    startedDateTime: '2026-10-03T09:00:00Z',
    request: { method: 'GET', url: 'https://api.cumbrera.example/all.json', headers: [] },
    response: { status: 200, headers: [], content: { mimeType: 'application/json', text } },
    timings: { wait: 20, receive: 5 },
  };
  const query = new URLSearchParams({ name: 'big', importId: randomUUID() });
  const body = JSON.stringify({ log: { version: '1.2', entries: [entry] } });
  const answer = await fetch(`${app.url}api/captures?${query}`, { method: 'POST', body });
  const [result] = (await answer.json()) as ImportResult[];
  if (result?.type !== 'imported') throw new Error('the capture did not come in');
  browser = await chromium.launch(chromiumOptions);
  const page = await browser.newPage();
  const opened: Opened[] = [];
  const plain: number[] = [];
  for (let round = 0; round < ROUNDS; round++) {
    await page.goto(`${app.url}c/${result.id}/waterfall`);
    await page.locator('[data-strip]').first().waitFor();
    plain.push(await baseline(page, `${app.url}api/captures/${result.id}/exchanges/0/body`));
    opened.push(await open(page));
  }
  const first = median(opened.map(({ firstMs }) => firstMs));
  const longest = median(opened.map(({ longestTaskMs }) => longestTaskMs));
  const ratio = (first / median(plain)).toFixed(2);
  console.log(
    `10 MB of JSON in the dossier: first drawn after ${first.toFixed(0)} ms (wanted 500), ${ratio} x fetch and JSON.parse; ` +
      `longest task ${longest.toFixed(0)} ms (wanted 100)`,
  );
} finally {
  await browser?.close();
  await app.stop();
}
