import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';
import { chromiumOptions } from '../e2e/support/chromium';

// Takes the pictures of docs/screenshots from the demo data, at 1280x800.

const OUT = new URL('../docs/screenshots/', import.meta.url).pathname;
const CAPTURE = 'alba-norte-first-visit';

interface Shot {
  readonly name: string;
  readonly look: 'paper' | 'blueprint';
  readonly prepare: (page: Page) => Promise<void>;
}

const openChart = async (page: Page): Promise<void> => {
  await page.locator(`[data-capture="${CAPTURE}"]`).getByRole('link').click();
  await page.getByRole('listbox').waitFor();
};
const openDossier = async (page: Page): Promise<void> => {
  await openChart(page);
  await page.getByRole('listbox').getByRole('option').nth(6).click();
  await page.getByRole('region', { name: 'Body' }).waitFor();
};
const stay = async (): Promise<void> => undefined;

const SHOTS: readonly Shot[] = [
  { name: 'shelf-paper', look: 'paper', prepare: stay },
  { name: 'waterfall-paper', look: 'paper', prepare: openChart },
  { name: 'waterfall-blueprint', look: 'blueprint', prepare: openChart },
  { name: 'dossier-paper', look: 'paper', prepare: openDossier },
  { name: 'dossier-blueprint', look: 'blueprint', prepare: openDossier },
];

const folder = mkdtempSync(join(tmpdir(), 'trazado-shots-'));
const app = spawn(process.execPath, ['bin/trazado', 'demo', '--port', '0'], {
  env: { ...process.env, TRAZADO_DATA: folder },
  stdio: ['ignore', 'pipe', 'inherit'],
});
const browser = await chromium.launch(chromiumOptions);
try {
  const url = await new Promise<string>((resolve) => {
    app.stdout.on('data', (chunk: Buffer) => {
      const found = /http:\S+/.exec(chunk.toString())?.[0];
      if (found !== undefined) resolve(found);
    });
  });
  for (const { name, look, prepare } of SHOTS) {
    const context = await browser.newContext({
      viewport: { width: 1280, height: 800 },
      colorScheme: look === 'paper' ? 'light' : 'dark',
      reducedMotion: 'reduce',
    });
    const page = await context.newPage();
    await page.goto(url);
    await page.locator('[data-capture]').first().waitFor();
    await prepare(page);
    await page.evaluate(() => document.fonts.ready);
    await page.waitForTimeout(300);
    await page.screenshot({ path: join(OUT, `${name}.png`) });
    await context.close();
  }
} finally {
  await browser.close();
  app.kill('SIGTERM');
  rmSync(folder, { recursive: true, force: true });
}
