import { randomUUID } from 'node:crypto';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type CDPSession, chromium, type Page } from '@playwright/test';
import { startServer } from '#server/testing/process';
import { chromiumOptions } from '../e2e/support/chromium';

// What a day's work costs the page's main thread: coming back to the brief, and a shelf of many captures.

const ROUNDS = 7;
const FEW = 5;
const MANY = 500;
const DEMO = 'demo/captures/alba-norte-first-visit.har';
/** A long session, where it is at hand. */
const SESSION = '../shared/captures/api-session.har';

const folder = mkdtempSync(join(tmpdir(), 'trazado-everyday-'));
const browser = await chromium.launch(chromiumOptions);
try {
  for (const path of [DEMO, SESSION]) if (existsSync(path)) await benchBrief(path);
  await benchShelf();
} finally {
  await browser.close();
  rmSync(folder, { recursive: true, force: true });
}

function middle(values: readonly number[]): number {
  return [...values].sort((a, b) => a - b)[values.length >> 1] ?? Number.NaN;
}

/** CPU time of the page's main thread so far, in ms. */
async function taskMs(session: CDPSession): Promise<number> {
  const { metrics } = await session.send('Performance.getMetrics');
  return 1000 * (metrics.find(({ name }) => name === 'TaskDuration')?.value ?? Number.NaN);
}

/** What something costs the main thread until nothing more comes of it. */
async function costOf(page: Page, session: CDPSession, run: () => Promise<unknown>): Promise<number> {
  const before = await taskMs(session);
  await run();
  let last = await taskMs(session);
  for (;;) {
    await page.waitForTimeout(150);
    const now = await taskMs(session);
    if (now - last < 3) return now - before;
    last = now;
  }
}

async function openPage(): Promise<{ page: Page; session: CDPSession }> {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const session = await page.context().newCDPSession(page);
  await session.send('Performance.enable');
  return { page, session };
}

function take(url: string, name: string, har: string): Promise<Response> {
  return fetch(`${url}api/captures?name=${encodeURIComponent(name)}&importId=${randomUUID()}`, {
    method: 'POST',
    body: har,
  });
}

async function benchBrief(path: string): Promise<void> {
  const app = await startServer(mkdtempSync(join(folder, 'data-')));
  try {
    const answer = await take(app.url, 'one', readFileSync(path, 'utf8'));
    const [{ id } = { id: '' }] = (await answer.json()) as { id: string }[];
    const { page, session } = await openPage();
    await page.goto(`${app.url}c/${id}/brief`);
    await page.locator('[data-finding]').first().waitFor();
    const go = async (key: string, shown: string): Promise<number> =>
      costOf(page, session, async () => {
        await page.keyboard.press('g');
        await page.keyboard.press(key);
        await page.locator(shown).first().waitFor();
      });
    const to = { brief: [] as number[], waterfall: [] as number[] };
    for (let round = 0; round < ROUNDS; round++) {
      to.waterfall.push(await go('w', '[role="tree"]'));
      to.brief.push(await go('b', '[data-sentence]'));
    }
    const [brief, waterfall] = [middle(to.brief), middle(to.waterfall)];
    console.log(
      `back to the brief, ${path.replace(/^.*\//, '')}: ${brief.toFixed(0)} ms of main thread, ${(brief / waterfall).toFixed(2)} x going to the waterfall  wanted: 100 ms`,
    );
    await page.close();
  } finally {
    await app.stop();
  }
}

async function benchShelf(): Promise<void> {
  const app = await startServer(mkdtempSync(join(folder, 'data-')));
  const har = JSON.parse(readFileSync(DEMO, 'utf8')) as { log: { comment?: string; entries: unknown[] } };
  har.log.entries = har.log.entries.slice(0, 12);
  const fill = async (from: number, to: number): Promise<void> => {
    for (let at = from; at < to; at++) {
      await take(app.url, `capture ${at}`, JSON.stringify({ ...har, log: { ...har.log, comment: `${at}` } }));
    }
  };
  try {
    const opened = async (): Promise<number> => {
      const costs: number[] = [];
      for (let round = 0; round < ROUNDS; round++) {
        const { page, session } = await openPage();
        costs.push(
          await costOf(page, session, async () => {
            await page.goto(app.url);
            await page.locator('[data-capture]').first().waitFor();
          }),
        );
        await page.close();
      }
      return middle(costs);
    };
    await fill(0, FEW);
    const few = await opened();
    await fill(FEW, MANY);
    const many = await opened();
    console.log(
      `a shelf of ${MANY}: ${many.toFixed(0)} ms of main thread, ${(many / few).toFixed(2)} x a shelf of ${FEW}  wanted: as quick`,
    );
  } finally {
    await app.stop();
  }
}
