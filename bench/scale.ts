import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';
import { startServer } from '#server/testing/process';
import { chromiumOptions } from '../e2e/support/chromium';
import { captureOf } from './made';

// What a capture of a hundred thousand exchanges is like to work with: how long it takes until it is on the shelf and until
// its findings are there, against JSON.parse of the same text; how long a small write waits meanwhile, against one with
// nothing else to do; and what each view holds the page's thread up for, against a capture of a hundredth of its size.

const MANY = Number(process.env['BENCH_EXCHANGES'] ?? 100_000);
const FEW = MANY / 100;
const VIEWS = ['brief', 'waterfall', 'endpoints', 'find', 'drafts', 'handoff'] as const;
/** What a view still does behind what it shows first. */
const SETTLED_MS = 8000;
const WRITE_EVERY_MS = 100;

const folder = mkdtempSync(join(tmpdir(), 'trazado-scale-'));
const app = await startServer(folder);
const browser = await chromium.launch(chromiumOptions);
try {
  const many = captureOf(MANY);
  const parseMs = await timed(() => JSON.parse(many));
  const idleMs = Math.max(...(await writeWhile(new Promise((resolve) => setTimeout(resolve, 3000)))));
  let id = '';
  const importing = timed(async () => {
    id = await take('many', many);
  });
  const besideImport = await writeWhile(importing);
  tell('on the shelf', await importing, parseMs, 'JSON.parse');
  tell('longest write beside the import', Math.max(...besideImport), idleMs, 'one with nothing beside it');
  const finding = timed(() => findingsOf(id));
  const besideFinding = await writeWhile(finding);
  tell('findings behind it', await finding, parseMs, 'JSON.parse');
  tell('longest write beside them', Math.max(...besideFinding), idleMs, 'one with nothing beside it');
  const few = await take('few', captureOf(FEW));
  await findingsOf(few);
  const [ofMany, ofFew] = [await openViews(id), await openViews(few)];
  for (const view of VIEWS) {
    const [own, base] = [ofMany.get(view), ofFew.get(view)];
    if (own === undefined || base === undefined) continue;
    console.log(
      `${view}: longest task ${own.longestMs} ms, with ${FEW} ${base.longestMs} ms; ${own.nodes} elements, with ${FEW} ${base.nodes}`,
    );
  }
} finally {
  await browser.close();
  await app.stop();
  rmSync(folder, { recursive: true, force: true });
}

async function timed(run: () => unknown): Promise<number> {
  const since = performance.now();
  await run();
  return performance.now() - since;
}

function tell(what: string, ms: number, baseMs: number, base: string): void {
  console.log(`${what}: ${ms.toFixed(0)} ms, ${(ms / baseMs).toFixed(1)} x ${base} (${baseMs.toFixed(0)} ms)`);
}

async function take(name: string, har: string): Promise<string> {
  const answer = await fetch(`${app.url}api/captures?name=${name}&importId=${crypto.randomUUID()}`, {
    method: 'POST',
    body: har,
  });
  const [{ id } = { id: '' }] = (await answer.json()) as { id: string }[];
  return id;
}

async function findingsOf(id: string): Promise<void> {
  for (;;) {
    const answer = await fetch(`${app.url}api/captures/${id}/findings`);
    if (((await answer.json()) as { state: string }).state === 'there') return;
  }
}

/** Writes a setting again and again until something is over. @returns how long each took, in ms */
async function writeWhile(something: Promise<unknown>): Promise<number[]> {
  let isOver = false;
  const end = something.finally(() => {
    isOver = true;
  });
  const took: number[] = [];
  while (!isOver) {
    took.push(
      await timed(async () => {
        const answer = await fetch(`${app.url}api/settings/filters`, {
          method: 'PUT',
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify({ named: [], recent: [`status = ${took.length}`] }),
        });
        await answer.json();
      }),
    );
    await new Promise((resolve) => setTimeout(resolve, WRITE_EVERY_MS));
  }
  await end;
  return took;
}

interface Opened {
  readonly longestMs: number;
  readonly nodes: number;
}

/** Goes through the views one after the other. @returns by view its longest task, in ms, and the elements of the page then */
async function openViews(id: string): Promise<Map<string, Opened>> {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.addInitScript(() => {
    const tasks: number[] = [];
    Object.assign(globalThis, { tasks });
    new PerformanceObserver((list) => {
      for (const { duration } of list.getEntries()) tasks.push(duration);
    }).observe({ type: 'longtask', buffered: true });
  });
  await page.goto(`${app.url}c/${id}/rehearsal`);
  await page.waitForTimeout(SETTLED_MS);
  const opened = new Map<string, Opened>();
  for (const view of VIEWS) {
    await longestTask(page);
    await page.locator(`nav a[href*="/${view}"]`).first().click();
    await page.waitForTimeout(SETTLED_MS);
    const nodes = await page.locator('*').count();
    opened.set(view, { longestMs: await longestTask(page), nodes });
  }
  await page.close();
  return opened;
}

/** The longest task since the last time that was asked; 0 where none was of 50 ms and more. */
function longestTask(page: Page): Promise<number> {
  return page.evaluate(() => {
    const { tasks } = globalThis as unknown as { tasks: number[] };
    return Math.round(Math.max(0, ...tasks.splice(0)));
  });
}
