import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';
import { chromiumOptions } from '../e2e/support/chromium';
import { startLauncher } from '../src/server/testing/process';

// Takes the pictures of docs/screenshots from the demo data, at 1280x800.

const OUT = new URL('../docs/screenshots/', import.meta.url).pathname;
const CAPTURE = 'alba-norte-first-visit';

interface Shot {
  readonly name: string;
  readonly look: 'paper' | 'blueprint';
  readonly prepare: (page: Page) => Promise<void>;
}

const openChart = async (page: Page): Promise<void> => {
  const link = page.locator(`[data-capture="${CAPTURE}"]`).getByRole('link');
  const href = (await link.getAttribute('href')) ?? '';
  await page.goto(new URL(href.replace('/brief', '/waterfall'), page.url()).href);
  await page.getByRole('tree').waitFor();
};
const openDossier = async (page: Page): Promise<void> => {
  await openChart(page);
  await page.getByRole('tree').locator('[data-strip]').nth(6).click();
  await page.getByRole('region', { name: 'Body' }).waitFor();
};
const openAt = (place: string) => async (page: Page) => {
  await openChart(page);
  await page.goto(page.url().replace(/waterfall.*/, place));
  await page.waitForLoadState('networkidle');
};
const openPayload = async (page: Page): Promise<void> => {
  await openAt('waterfall?exchange=77&dossier')(page);
  await page.getByRole('region', { name: 'Payload' }).waitFor();
  await page.keyboard.press('4');
};
const openDraft = async (page: Page): Promise<void> => {
  await openAt('waterfall?exchange=51')(page);
  await page.keyboard.press('d');
  await page.locator('[data-output]').getByText('curl').first().waitFor();
  await page.waitForTimeout(500);
  for (const key of ['Control+Enter', 'Control+Enter']) {
    await page.keyboard.press(key);
    await page.waitForTimeout(1500);
  }
  await page.getByRole('button', { name: 'lean', exact: true }).click();
  await page.locator('[data-home]').first().focus();
  await page.keyboard.press('Control+Enter');
  await page.waitForTimeout(1500);
};
/** What the loads waited for is known once their bodies are read. */
const showShelf = async (page: Page): Promise<void> => {
  for (const card of await page.locator('[data-capture]').all()) await card.getByText('went to').waitFor();
};
const showHits = async (page: Page): Promise<void> => {
  await openAt('find?search=alba-norte')(page);
  await page.locator('[data-hit]').first().waitFor();
  await page.getByText('Searching').waitFor({ state: 'detached' });
};

const openComparison = async (page: Page): Promise<void> => {
  const idOf = async (name: string): Promise<string> => {
    const href = (await page.locator(`[data-capture="${name}"]`).getByRole('link').getAttribute('href')) ?? '';
    return href.split('/')[2] ?? '';
  };
  const [a, b] = [await idOf(CAPTURE), await idOf('alba-norte-fixed-release')];
  await page.goto(new URL(`/compare?a=${a}&b=${b}&split=cause`, page.url()).href);
  await page.locator('[data-pair]').first().waitFor();
};

/** The booking leaves with its sessions inked out, one of its exchanges noted. */
const openHandOff =
  (rest: string) =>
  async (page: Page): Promise<void> => {
    const href =
      (await page.locator('[data-capture="booking-gone-wrong"]').getByRole('link').getAttribute('href')) ?? '';
    const id = href.split('/')[2] ?? '';
    const at = new URL(`/api/captures/${id}/marks`, page.url()).href;
    const note = { target: 'exchange 20', isMarked: true, note: 'Is this what the walker saw?' };
    await page.request.patch(at, { data: note });
    await page.goto(new URL(`/c/${id}/handoff?exchange=9${rest}`, page.url()).href);
    await page.getByText('Proven: it may leave.').waitFor();
    await page.waitForTimeout(800);
  };

/** A rehearsal of the booking, asked by code that is right, code that lacks something, and for what was not captured. */
const openRehearsal = async (page: Page): Promise<void> => {
  const href = (await page.locator('[data-capture="booking-gone-wrong"]').getByRole('link').getAttribute('href')) ?? '';
  await page.goto(new URL(href.replace('/brief', '/rehearsal'), page.url()).href);
  await page.getByRole('button', { name: /^Begin/ }).click();
  const code = page.getByRole('region', { name: 'The rehearsal' }).locator('code', { hasText: '127.0.0.1' });
  const base = (await code.textContent()) ?? '';
  for (const path of ['/search?q=alba', '/search?q=faro', '/book/alba-norte'])
    await page.request.get(base + path, { headers: { 'user-agent': 'hut-check/1.0', 'x-script': 'nightly' } });
  await page.getByRole('list', { name: 'What was asked' }).locator('[data-asked]').first().click();
  await page.waitForTimeout(800);
};

const SHOTS: readonly Shot[] = [
  { name: 'shelf-paper', look: 'paper', prepare: showShelf },
  { name: 'brief-paper', look: 'paper', prepare: openAt('brief') },
  { name: 'brief-blueprint', look: 'blueprint', prepare: openAt('brief') },
  { name: 'waterfall-paper', look: 'paper', prepare: openChart },
  { name: 'waterfall-blueprint', look: 'blueprint', prepare: openChart },
  { name: 'lanes-paper', look: 'paper', prepare: openAt('waterfall?lanes=kind&together&window=200_1500') },
  { name: 'find-paper', look: 'paper', prepare: showHits },
  { name: 'endpoints-paper', look: 'paper', prepare: openAt('endpoints?endpoint=GET+api.cumbrera.example%2Fnotices') },
  { name: 'body-paper', look: 'paper', prepare: openPayload },
  { name: 'dossier-paper', look: 'paper', prepare: openDossier },
  { name: 'compare-paper', look: 'paper', prepare: openComparison },
  { name: 'compare-blueprint', look: 'blueprint', prepare: openComparison },
  { name: 'hand-off-paper', look: 'paper', prepare: openHandOff('') },
  { name: 'hand-off-blueprint', look: 'blueprint', prepare: openHandOff('') },
  { name: 'rehearsal-paper', look: 'paper', prepare: openRehearsal },
  { name: 'report-paper', look: 'paper', prepare: openHandOff('&what=report') },
  { name: 'drafts-paper', look: 'paper', prepare: openDraft },
  { name: 'drafts-blueprint', look: 'blueprint', prepare: openDraft },
  { name: 'dossier-blueprint', look: 'blueprint', prepare: openDossier },
];

const app = await startLauncher(['demo', '--port', '0']);
const browser = await chromium.launch(chromiumOptions);
try {
  for (const { name, look, prepare } of SHOTS) {
    const context = await browser.newContext({
      viewport: { width: 1280, height: 800 },
      colorScheme: look === 'paper' ? 'light' : 'dark',
      reducedMotion: 'reduce',
    });
    const page = await context.newPage();
    await page.goto(app.url);
    await page.locator('[data-capture]').first().waitFor();
    await prepare(page);
    await page.evaluate(() => document.fonts.ready);
    await page.waitForTimeout(300);
    await page.screenshot({ path: join(OUT, `${name}.png`) });
    await context.close();
  }
} finally {
  await browser.close();
  await app.stop();
}
