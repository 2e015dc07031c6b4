import { execFile, execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { chromium } from '@playwright/test';
import { afterAll, describe, expect, it } from 'vitest';
import { compareSides, readHostMap } from '#core/compare';
import { bodyAsSent } from '#core/content';
import { type Exchange, findResponse } from '#core/model';
import { chromiumOptions } from '../e2e/support/chromium';
import { readLoad } from '../src/cli/loads';
import { DEFAULT_OPTIONS, draftFromExchange, findTarget } from '../src/core/convert';
import { RUNNERS } from '../src/core/convert/testing/runners';
import { itNeeding } from '../src/core/convert/testing/tools';
import { readExchanges } from '../src/server/capture-file';
import { inflateWithZlib } from '../src/server/inflate';
import { rehearseFile } from '../src/server/testing/rehearsed';

const run = promisify(execFile);
const folder = mkdtempSync(join(tmpdir(), 'trazado-rehearsed-'));
afterAll(() => rmSync(folder, { recursive: true }));

/** Clients of ten kinds, each by its own library. */
const TRIED_TARGETS = [
  'curl-sh',
  'wget',
  'httpie',
  'node-fetch',
  'node-http',
  'node-axios',
  'python-requests',
  'python-urllib',
  'php-curl',
  'ruby',
  'perl',
] as const satisfies readonly (keyof typeof RUNNERS)[];

/** A search, a hold, an operation of GraphQL, a change of the hold, and its end. */
const TRIED = [16, 17, 20, 26, 28];

describe('converted code, run against a rehearsal of the booking', () => {
  for (const id of TRIED_TARGETS) {
    const runner = RUNNERS[id];
    itNeeding(runner.needs)(
      `arrives as captured by ${id}`,
      async () => {
        const rehearsal = await rehearseFile('demo/captures/booking-gone-wrong.har');
        const target = findTarget(id);
        const texts = TRIED.map((index) => {
          const draft = draftFromExchange(rehearsal.recording.read(index), 'faithful');
          const url = draft.url.replace(/^https:\/\/[^/]*/, `http://127.0.0.1:${rehearsal.port}`);
          return target?.render({ ...draft, url }, DEFAULT_OPTIONS).text ?? '';
        });
        const own = mkdtempSync(join(folder, id));
        if (target?.language === 'JavaScript')
          execFileSync('ln', ['-s', join(process.cwd(), 'node_modules'), join(own, 'node_modules')]);
        const env = { ...process.env, HOME: own, LC_ALL: 'C.UTF-8' };
        // What fails for good, as the hold did, is a result like any other.
        for (const [command, ...args] of runner.prepare(own, texts))
          await run(command, args, { cwd: own, env, timeout: 100_000 }).catch(() => undefined);
        await rehearsal.close();
        const told = rehearsal.asked.map(({ notes: { taken, verdict, sentence } }) => [
          taken,
          verdict === 'differs' ? sentence : 'as captured',
        ]);
        expect(told).toEqual(TRIED.map((index) => [index, 'as captured']));
      },
      120_000,
    );
  }
});

describe('the first visit, loaded from a rehearsal by a browser without any other network', () => {
  it('is the same page: the same exchanges, the same bodies', { timeout: 120_000 }, async () => {
    const captured = 'demo/captures/alba-norte-first-visit.har';
    const rehearsal = await rehearseFile(captured, { rewrites: true });
    const { addresses, recording, asked } = rehearsal;
    const recorded = join(folder, 'loaded.har');
    const browser = await chromium.launch({
      ...chromiumOptions,
      args: [...(chromiumOptions.args ?? []), '--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE *.localhost'],
    });
    const context = await browser.newContext({ recordHar: { path: recorded, content: 'embed' } });
    const page = await context.newPage();
    const failed: string[] = [];
    page.on('pageerror', ({ message }) => failed.push(message));
    await page.goto(addresses.localUrl(recording.mainUrl ?? '') ?? '', { waitUntil: 'load' });
    await page.waitForTimeout(2000);
    expect(await page.locator('h1').textContent()).toBe('Alba Norte');
    expect(await page.locator('#huts li').count()).toBeGreaterThan(30);
    await context.close();
    await browser.close();
    await rehearsal.close();

    expect(failed).toEqual([]);
    expect(asked.filter(({ notes }) => notes.fits !== 'fits').map(({ notes }) => notes.sentence)).toEqual([]);
    const taken = new Set(asked.map(({ notes }) => notes.taken));
    const never = recording.requests.filter(({ index }) => !taken.has(index)).map(({ index }) => index);
    // The last one had its response from the browser's cache.
    expect(never).toEqual([144]);

    // What the browser's own recorder has, held against the capture as any two loads are.
    const [a, b] = await Promise.all([readLoad(captured), readLoad(recorded)]);
    const pairs = addresses.origins.map((origin) => {
      const local = new URL(addresses.localOrigin(origin) ?? '').host;
      return `${local}=${new URL(origin).hostname}`;
    });
    const { drawn } = compareSides([a.load], [b.load], { map: readHostMap(pairs) });
    const kindOf = new Map(a.load.rows.map(({ index, kind }) => [index, kind]));
    const gone = drawn.pairs.filter(({ a: own, b: other }) => other === undefined && own !== undefined && own !== 144);
    // This recorder keeps no preflights, and not every browser tells it of a copy from its own cache.
    expect(new Set(gone.map((pair) => kindOf.get(pair.a as never)))).toEqual(new Set(['preflight']));
    const rowsOfB = new Map(b.load.rows.map((row) => [row.index, row]));
    const added = drawn.pairs.flatMap((pair) => (pair.a === undefined ? (rowsOfB.get(pair.b as never) ?? []) : []));
    expect(added.filter(({ source }) => source === 'network').map(({ url }) => url)).toEqual([]);

    // And body by body, addresses taken back.
    const bodies = bodiesOf(captured, (text) => text);
    const wrong: string[] = [];
    let compared = 0;
    for (const [url, texts] of bodiesOf(recorded, (text) => addresses.takeBack(text))) {
      const wanted = bodies.get(url);
      compared += texts.length;
      if (wanted === undefined || texts.some((text) => !wanted.includes(text))) wrong.push(url);
    }
    expect(wrong).toEqual([]);
    expect(compared).toBeGreaterThan(100);
  });
});

/** The bodies of a recording by method and URL. */
function bodiesOf(path: string, change: (text: string) => string): Map<string, string[]> {
  const bodies = new Map<string, string[]>();
  for (const exchange of readExchanges({ path, shown: path, damage: undefined })) {
    const body = bodyOf(exchange);
    if (body === undefined) continue;
    // The page makes a name of its own for each visit.
    const key = `${exchange.request.method} ${change(exchange.request.url).replace(/visit=[^&]*/, 'visit=')}`;
    bodies.set(key, [...(bodies.get(key) ?? []), change(body)]);
  }
  return bodies;
}

function bodyOf(exchange: Exchange): string | undefined {
  const response = findResponse(exchange);
  const bytes = response === undefined ? undefined : bodyAsSent(response, inflateWithZlib);
  return bytes === undefined || bytes.length === 0 ? undefined : Buffer.from(bytes).toString('latin1');
}
