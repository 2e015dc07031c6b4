import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';
import { chromiumOptions } from '../../e2e/support/chromium';
import { type LoggedRequest, type RunningSite, startSite } from '../site';
import { enrich, type Har, retime } from './enrich';
import { logProtocol, type ProtocolRequest } from './protocol-log';

// Records the demo's captures: real page loads of the stand-in site by a real browser, written to demo/captures.

const OUT = new URL('../captures/', import.meta.url).pathname;
const AGENT = 'Mozilla/5.0 (X11; Linux x86_64) Wayfarer/1.0 (made up for Cumbrera)';
/** A line of 1.6 Mbit/s with 150 ms of latency. */
const SLOW_LINE = { offline: false, latency: 150, downloadThroughput: 200_000, uploadThroughput: 94_000 };

interface Scenario {
  readonly release: RunningSite['release'];
  readonly slow?: boolean;
  readonly visit: (page: Page) => Promise<void>;
  /** One file for each visit; later visits share the first one's cache. */
  readonly files: readonly string[];
}

const visitHut = async (page: Page): Promise<void> => {
  await page.goto('http://cumbrera.example/hut/alba-norte', { waitUntil: 'load' });
  await page.waitForSelector('body[data-done]', { state: 'attached', timeout: 60_000 });
};

const visitBooking = async (page: Page): Promise<void> => {
  await page.goto('https://www.cumbrera.example/book/alba-norte', { waitUntil: 'load' });
  await page.waitForURL('**/book/thanks', { timeout: 60_000 });
  await page.waitForLoadState('load');
};

const SCENARIOS: readonly Scenario[] = [
  { release: 'first', visit: visitHut, files: ['alba-norte-first-visit.har', 'alba-norte-second-visit.har'] },
  { release: 'first', slow: true, visit: visitHut, files: ['alba-norte-slow-line.har'] },
  { release: 'first', visit: visitBooking, files: ['booking-gone-wrong.har'] },
  { release: 'fixed', visit: visitHut, files: ['alba-norte-fixed-release.har'] },
];

const folder = mkdtempSync(join(tmpdir(), 'trazado-record-'));
const site = await startSite(folder);
const browser = await chromium.launch({
  ...chromiumOptions,
  args: [...(chromiumOptions.args ?? []), ...site.chromiumArgs],
});
try {
  // Photos are drawn and the browser's processes started at the first visit; one that is thrown away spares the
  // recorded ones this wait.
  for (const release of ['first', 'fixed'] as const) {
    await record({ release, visit: visitHut, files: ['warm-up.har'] }, folder);
  }
  for (const scenario of SCENARIOS) await record(scenario, OUT);
} finally {
  await browser.close();
  await site.close();
  rmSync(folder, { recursive: true, force: true });
}

async function record(scenario: Scenario, out: string): Promise<void> {
  site.release = scenario.release;
  const path = join(folder, 'recorded.har');
  const context = await browser.newContext({
    userAgent: AGENT,
    locale: 'en-GB',
    viewport: { width: 1280, height: 800 },
    recordHar: { path, content: 'embed' },
  });
  const logs: ProtocolRequest[][] = [];
  const siteLogs: LoggedRequest[][] = [];
  for (const _file of scenario.files) {
    const loggedBefore = site.requests.length;
    const page = await context.newPage();
    logs.push(await prepare(page, scenario.slow === true));
    await scenario.visit(page);
    await page.close();
    siteLogs.push(site.requests.slice(loggedBefore));
  }
  await context.close();
  const whole = JSON.parse(readFileSync(path, 'utf8')) as Har;
  scenario.files.forEach((file, visit) => {
    const har = ofPage(whole, visit);
    retime(har, logs[visit] ?? []);
    enrich(har, logs[visit] ?? []);
    writeFileSync(join(out, file), `${JSON.stringify(har)}\n`);
    // What the site itself saw of the visit: the truth about what was and was not asked for.
    writeFileSync(join(out, file.replace(/\.har$/, '.log.json')), siteLogText(siteLogs[visit] ?? []));
    console.log(`${file}: ${har.log.entries.length} exchanges`);
  });
}

function siteLogText(requests: readonly LoggedRequest[]): string {
  const lines = requests.map(({ method, url, status }) => ({ method, url, status }));
  return `${JSON.stringify(lines, null, 1)}\n`;
}

async function prepare(page: Page, isSlow: boolean): Promise<ProtocolRequest[]> {
  const session = await page.context().newCDPSession(page);
  await session.send('Emulation.setUserAgentOverride', {
    userAgent: AGENT,
    acceptLanguage: 'en-GB',
    platform: 'Linux',
    userAgentMetadata: {
      brands: [{ brand: 'Wayfarer', version: '1' }],
      platform: 'Linux',
      platformVersion: '',
      architecture: '',
      model: '',
      mobile: false,
    },
  });
  const log = await logProtocol(session);
  if (isSlow) await session.send('Network.emulateNetworkConditions', SLOW_LINE);
  return log;
}

/** The part of a recording that belongs to one of its pages, as a capture of its own. */
function ofPage(whole: Har, visit: number): Har {
  const page = whole.log.pages[visit];
  if (page === undefined) throw new Error(`the recording has no page ${visit}`);
  const entries = whole.log.entries.filter((entry) => entry.pageref === page.id);
  const creator = { name: 'Cumbrera recorder', version: '1.0' };
  const browser = { name: 'Wayfarer', version: '1.0' };
  return { log: { ...whole.log, creator, browser, pages: [page], entries: structuredClone(entries) } };
}
