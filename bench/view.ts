import { spawnSync } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { closeSync, createReadStream, mkdtempSync, openSync, readFileSync, rmSync, statSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';
import { analyse, takeFacts } from '#core/analysis';
import { Columns, evaluateFilter, parseFilter } from '#core/filter';
import { HarReader, isObject, normaliseEntry } from '#core/har';
import { openConnection } from '#server/db/connection';
import { readEntries } from '#server/db/entries';
import { startServer } from '#server/testing/process';
import { chromiumOptions } from '../e2e/support/chromium';
import { generateCapture } from './generate';

// What a user waits for with a capture of 10,000 exchanges: the filter, the find, the first strips, every frame.

const EXCHANGES = Number(process.env['BENCH_EXCHANGES'] ?? 10_000);
const FIND_MB = Number(process.env['BENCH_MB'] ?? 200);
const ROUNDS = 5;
/** What is typed into the filter: it narrows what is shown more than once. */
const LETTERS = 'status = 404 and wait > 20';

const folder = mkdtempSync(join(tmpdir(), 'trazado-view-'));
try {
  const only = process.argv[2];
  if (only === undefined || only === 'filter') benchFilter();
  if (only === undefined || only === 'find') await benchFind();
  if (only === undefined || only === 'frames') await benchFrames();
} finally {
  rmSync(folder, { recursive: true });
}

function median(values: readonly number[]): number {
  return [...values].sort((a, b) => a - b)[values.length >> 1] ?? Number.NaN;
}

/** Of the exchanges of a generated capture without bodies, so that there are as many as wanted. */
function smallCapture(): string {
  const path = join(folder, 'small.har');
  const file = openSync(path, 'w');
  const start = Date.UTC(2026, 9, 3);
  writeSync(
    file,
    `{"log":{"version":"1.2","pages":[{"id":"p","startedDateTime":"${new Date(start).toISOString()}","title":"bench","pageTimings":{"onContentLoad":9000,"onLoad":28000}}],"entries":[`,
  );
  for (let at = 0; at < EXCHANGES; at++) {
    const host = ['www', 'api', 'img', 'live'][at % 4];
    const entry = {
      pageref: 'p',
      startedDateTime: new Date(start + at * 3).toISOString(),
      request: {
        method: 'GET',
        url: `https://${host}.cumbrera.example/huts/${at % 700}/beds?page=${at % 9}`,
        headers: [{ name: 'accept', value: '*/*' }],
      },
      response: {
        status: at % 50 === 0 ? 404 : 200,
        headers: [],
        content: { size: at * 7, mimeType: 'application/json' },
        _transferSize: at * 3,
      },
      timings: {
        blocked: at % 5,
        dns: at % 40 === 0 ? 12 : -1,
        connect: at % 40 === 0 ? 30 : -1,
        ssl: at % 40 === 0 ? 18 : -1,
        send: 0.2,
        wait: 20 + (at % 300),
        receive: 5 + (at % 90),
      },
      _resourceType: ['document', 'xhr', 'image', 'script'][at === 0 ? 0 : 1 + (at % 3)],
    };
    writeSync(file, `${at === 0 ? '' : ',\n'}${JSON.stringify(entry)}`);
  }
  writeSync(file, ']}}');
  closeSync(file);
  return path;
}

function benchFilter(): void {
  const facts: ReturnType<typeof takeFacts>[] = [];
  const reader = new HarReader({
    onEntry: ({ value, place }) => void (isObject(value) && facts.push(takeFacts(normaliseEntry(value, place)))),
  });
  reader.push(readFileSync(smallCapture()));
  const { capture } = reader.end();
  const analysis = Array.from({ length: ROUNDS }, () =>
    timed(() => analyse(facts, capture.pages, capture.completeness)),
  );
  console.log(`Analysis of ${EXCHANGES} exchanges: ${median(analysis).toFixed(0)} ms (wanted: 500).`);
  const { rows } = analyse(facts, capture.pages, capture.completeness);
  const columns = new Columns(rows, new Map(), new Map());
  const texts = [
    'beds?page=3',
    'kind = data and wait > 200 ms and not status = 4xx',
    'host ~ api or (query.page in (1, 2) and endpoint ~ "huts/{}")',
  ];
  for (const text of texts) {
    const parsed = parseFilter(text);
    if (!parsed.ok) throw new Error(text);
    const first = timed(() => evaluateFilter(parsed.filter, columns));
    const again = median(Array.from({ length: 21 }, () => timed(() => evaluateFilter(parsed.filter, columns))));
    console.log(
      `Filter over ${EXCHANGES}: ${again.toFixed(2)} ms, ${first.toFixed(1)} ms the first time (wanted: 5)  ${text}`,
    );
  }
}

function timed(run: () => unknown): number {
  const since = performance.now();
  run();
  return performance.now() - since;
}

async function benchFind(): Promise<void> {
  const path = join(folder, 'find.har');
  generateCapture(path, FIND_MB * 1e6);
  const app = await startServer();
  try {
    await take(app.url, path);
    const connection = openConnection(app.dataFolder, true);
    const captureId = connection.sqlite.prepare('select id from captures').pluck().get() as string;
    // A new capture is signed behind its back; find works meanwhile, only slower.
    const count = (table: string): number =>
      connection.sqlite.prepare(`select count(*) from ${table}`).pluck().get() as number;
    while (count('signatures') < count('entries')) await new Promise((resolve) => setTimeout(resolve, 100));
    await readBodies(app.url, captureId);
    const bodies = join(folder, 'bodies');
    const bytes = writeBodies(connection, captureId, bodies);
    for (const [text, matchesCase] of [
      ['stands-nowhere-4711', true],
      ['stands-nowhere-4711', false],
      ['"free":39,', true],
      // Its letters stand in every exchange, and in this row in none.
      ['"bed":', true],
      ['page=3', false],
    ] as const) {
      const query = new URLSearchParams({ text, regex: 'false', case: String(matchesCase), word: 'false' });
      const ratios: { ratio: number; own: number; grep: number; first: number; hits: number }[] = [];
      for (let round = 0; round < ROUNDS; round++) {
        const grep = timed(() => spawnSync('grep', [matchesCase ? '-cF' : '-ciF', '--', text, bodies]));
        const { ms, firstMs, hits } = await findIn(`${app.url}api/captures/${captureId}/find?${query}`);
        ratios.push({ ratio: ms / grep, own: ms, grep, first: firstMs, hits });
      }
      const { own, grep, first, hits } = ratios[ROUNDS - 1] ?? { own: 0, grep: 0, first: 0, hits: 0 };
      console.log(
        `Find over ${Math.round(bytes / 1e6)} MB of bodies: ${median(ratios.map(({ ratio }) => ratio)).toFixed(2)} x grep -F${matchesCase ? '' : 'i'} (wanted: 2); ${own.toFixed(0)} ms, first hits after ${first.toFixed(0)} ms, grep ${grep.toFixed(0)} ms, ${hits} hits  ${text}`,
      );
    }
    connection.sqlite.close();
  } finally {
    await app.stop();
  }
}

/** Searches as the page does. */
async function findIn(
  address: string,
): Promise<{ readonly ms: number; readonly firstMs: number; readonly hits: number }> {
  const since = performance.now();
  let firstMs = Number.NaN;
  let hits = 0;
  let rest = '';
  for await (const chunk of (await fetch(address)).body ?? []) {
    const lines = (rest + Buffer.from(chunk).toString()).split('\n');
    rest = lines.pop() ?? '';
    for (const line of lines) {
      const message = JSON.parse(line) as { readonly hits?: readonly unknown[] };
      hits += message.hits?.length ?? 0;
      if (hits > 0 && Number.isNaN(firstMs)) firstMs = performance.now() - since;
    }
  }
  return { ms: performance.now() - since, firstMs, hits };
}

function writeBodies(connection: ReturnType<typeof openConnection>, captureId: string, path: string): number {
  const file = openSync(path, 'w');
  for (const { value } of readEntries(connection, captureId)) {
    const { text, encoding } = (value as unknown as { response: { content: { text: string; encoding?: string } } })
      .response.content;
    writeSync(file, Buffer.from(text, encoding === 'base64' ? 'base64' : 'utf8'));
    writeSync(file, '\n');
  }
  closeSync(file);
  return statSync(path).size;
}

/** Bodies are read behind an import: what that takes of the machine is nobody's who is measured here. */
async function readBodies(url: string, id: string): Promise<void> {
  for (;;) {
    const found = (await (await fetch(`${url}api/captures/${id}/findings`)).json()) as { readonly state: string };
    if (found.state !== 'reading') return;
  }
}

async function take(url: string, path: string): Promise<string> {
  const query = new URLSearchParams({ name: 'bench', importId: randomUUID() });
  const body = createReadStream(path) as unknown as ReadableStream;
  const answer = await fetch(`${url}api/captures?${query}`, { method: 'POST', body, duplex: 'half' } as RequestInit);
  const [result] = (await answer.json()) as { id: string }[];
  return result?.id ?? '';
}

/** Frame times of a scripted session in real Chromium, from its own trace of frames. */
async function benchFrames(): Promise<void> {
  const app = await startServer();
  const browser = await chromium.launch(chromiumOptions);
  try {
    const id = await take(app.url, smallCapture());
    await readBodies(app.url, id);
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    const firsts: number[] = [];
    const cards: number[] = [];
    for (let round = 0; round < ROUNDS; round++) {
      cards.push(await firstPaintOf(page, app.url, '[data-capture]'));
      firsts.push(await firstPaintOf(page, `${app.url}c/${id}/waterfall`, '[data-strip]'));
    }
    const ratio = median(firsts.map((ms, round) => ms / (cards[round] ?? ms)));
    console.log(
      `First strips of ${EXCHANGES}: ${median(firsts).toFixed(0)} ms after the address was opened, ${ratio.toFixed(1)} x the shelf with its one card (wanted: 1000 ms of 10,000, 2000 ms of 100,000).`,
    );
    await page.waitForLoadState('networkidle');
    await page.waitForTimeout(3000);
    const scrolling = await framesOf(page, () => wheelOver(page, 640, 500, 60, 120));
    const throwing = await framesOf(page, () => wheelOver(page, 640, 500, 60, 400));
    const zooming = await framesOf(page, () => zoomOver(page));
    const hovering = await framesOf(page, () => hoverOver(page));
    await page.keyboard.press('/');
    const letters = await lettersOf(page, LETTERS);
    // What this machine's browser makes of the plainest thing that scrolls.
    await page.setContent(
      `<div style="height:700px;overflow:auto">${'<p style="height:26px;margin:0">x</p>'.repeat(EXCHANGES)}</div>`,
    );
    const plain = await framesOf(page, () => wheelOver(page, 640, 500, 60, 400));
    await page.setContent('<input autofocus>');
    const plainLetters = await lettersOf(page, LETTERS);
    report('scrolling a list of plain text', plain, plain);
    report('scrolling, a notch of the wheel at a time', scrolling, plain);
    report('scrolling as fast as the plain list', throwing, plain);
    report('zooming', zooming, plain);
    report('hovering', hovering, plain);
    console.log(
      `A letter in the filter stands there after ${letters.middle.toFixed(0)} ms, the slowest of ${LETTERS.length} after ${letters.worst.toFixed(0)} ms; in a plain field after ${plainLetters.middle.toFixed(0)} and ${plainLetters.worst.toFixed(0)} ms (a frame is 16).`,
    );
  } finally {
    await browser.close();
    await app.stop();
  }
}

/** When something was first painted, in ms since the address was opened: told by the page itself, however busy it is then. */
async function firstPaintOf(page: Page, address: string, selector: string): Promise<number> {
  await page.goto(address, { waitUntil: 'commit' });
  return page.evaluate(
    // Nothing in it has a name: what names functions for traces is not there in the page.
    (wanted) =>
      new Promise<number>((resolve) =>
        new MutationObserver((_, observer) => {
          if (document.querySelector(wanted) === null) return;
          observer.disconnect();
          requestAnimationFrame(() => {
            const { port1, port2 } = new MessageChannel();
            port1.onmessage = () => resolve(performance.now());
            port2.postMessage(undefined);
          });
        }).observe(document, { childList: true, subtree: true }),
      ),
    selector,
  );
}

async function wheelOver(page: Page, x: number, y: number, steps: number, by: number): Promise<void> {
  await page.mouse.move(x, y);
  for (let at = 0; at < steps; at++) {
    await page.mouse.wheel(0, at < steps / 2 ? by : -by);
    await page.waitForTimeout(30);
  }
}

async function zoomOver(page: Page): Promise<void> {
  await page.keyboard.down('Control');
  await wheelOver(page, 640, 500, 60, -60);
  await page.keyboard.up('Control');
}

/** How long after each key its letter stood there, in ms, by the browser's own measure (Event Timing, in steps of 8 ms). */
async function lettersOf(page: Page, letters: string): Promise<{ readonly middle: number; readonly worst: number }> {
  await page.evaluate(() => {
    const durations: number[] = [];
    Object.assign(globalThis, { durations });
    new PerformanceObserver((list) => {
      for (const { name, duration } of list.getEntries()) if (name === 'keydown') durations.push(duration);
    }).observe({ type: 'event', durationThreshold: 16 } as PerformanceObserverInit);
  });
  for (const letter of letters) {
    await page.keyboard.press(letter === ' ' ? 'Space' : letter);
    await page.waitForTimeout(150);
  }
  await page.waitForTimeout(500);
  const slow = await page.evaluate(() => (globalThis as unknown as { durations: number[] }).durations);
  // The quicker ones are not told.
  const all = [...slow, ...Array.from({ length: Math.max(0, letters.length - slow.length) }, () => 16)];
  return { middle: median(all), worst: Math.max(...all) };
}

async function hoverOver(page: Page): Promise<void> {
  for (let at = 0; at < 60; at++) {
    await page.mouse.move(400 + at * 12, 300 + (at % 20) * 20);
    await page.waitForTimeout(30);
  }
}

interface TraceEvent {
  readonly name: string;
  readonly pid: number;
  readonly tid: number;
  readonly ts: number;
  readonly dur?: number;
  readonly args?: { readonly name?: string };
}

/** What the page's main thread worked for each frame, in ms, by the browser's own trace of what is done meanwhile. */
async function framesOf(page: Page, run: () => Promise<void>): Promise<number[]> {
  const browser = page.context().browser();
  if (browser === null) throw new Error('there is no browser');
  await browser.startTracing(page, {
    categories: ['devtools.timeline', 'devtools.timeline.frame', 'disabled-by-default-devtools.timeline', 'toplevel'],
  });
  await run();
  const { traceEvents } = JSON.parse((await browser.stopTracing()).toString()) as { traceEvents: TraceEvent[] };
  const keyOf = ({ pid, tid }: TraceEvent): string => `${pid} ${tid}`;
  const frames = traceEvents.filter(({ name }) => name === 'BeginCommitCompositorFrame').sort((a, b) => a.ts - b.ts);
  // Other renderers have main threads too: ours made most of the frames.
  const counts = new Map<string, number>();
  for (const frame of frames) counts.set(keyOf(frame), (counts.get(keyOf(frame)) ?? 0) + 1);
  const [main] = [...counts].sort((a, b) => b[1] - a[1])[0] ?? [''];
  const starts = frames.filter((frame) => keyOf(frame) === main).map(({ ts }) => ts);
  const work = new Array<number>(starts.length).fill(0);
  for (const task of traceEvents) {
    if (task.name !== 'RunTask' || keyOf(task) !== main || task.dur === undefined) continue;
    const at = starts.findLastIndex((ts) => ts <= task.ts + (task.dur ?? 0));
    if (at !== -1) work[at] = (work[at] ?? 0) + task.dur / 1000;
  }
  return work;
}

function report(what: string, frames: readonly number[], plain: readonly number[]): void {
  const at = (values: readonly number[], share: number): number =>
    [...values].sort((a, b) => a - b)[Math.floor(values.length * share)] ?? Number.NaN;
  console.log(
    `Main thread's work for a frame while ${what}: p50 ${at(frames, 0.5).toFixed(1)} ms, p95 ${at(frames, 0.95).toFixed(1)} ms, ${(at(frames, 0.95) / at(plain, 0.95)).toFixed(2)} x the p95 of a plain list (${frames.length} frames; wanted: p95 16.7).`,
  );
}
