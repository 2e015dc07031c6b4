import { join } from 'node:path';
import { test as base, type Locator, type Page } from '@playwright/test';
import type { CaptureCard } from '../../src/core/wire';
import { startLauncher, startServer } from '../../src/server/testing/process';

export { expect } from '@playwright/test';

export interface RunningDemo {
  readonly url: string;
  /** Folder whose .curlrc brings the stand-in site's hosts to it. */
  readonly curlHome: string;
}

interface Fixtures {
  /** An app of the test's own, on whose shelf nobody else puts anything. */
  readonly freshApp: { readonly url: string };
  /** Problems that the page's console told of: none is wanted. */
  readonly consoleProblems: string[];
}

interface WorkerFixtures {
  /** The app with the demo captures, beside its stand-in site. */
  readonly demo: RunningDemo;
  /** The app with an empty shelf. */
  readonly emptyApp: { readonly url: string };
  /** The app that is given the made capture: others want theirs empty. */
  readonly bodyApp: { readonly url: string };
}

export const test = base.extend<Fixtures, WorkerFixtures>({
  demo: [
    // biome-ignore lint/correctness/noEmptyPattern: Playwright reads a fixture's needs from this pattern.
    async ({}, use) => {
      const { url, dataFolder, stop } = await startLauncher(['demo', '--port', '0']);
      await untilDiagnosed(url);
      await use({ url, curlHome: join(dataFolder, 'demo/curl') });
      await stop();
    },
    { scope: 'worker', timeout: 120_000 },
  ],
  emptyApp: [
    // biome-ignore lint/correctness/noEmptyPattern: as above.
    async ({}, use) => {
      const { url, stop } = await startServer();
      await use({ url });
      await stop();
    },
    { scope: 'worker', timeout: 60_000 },
  ],
  bodyApp: [
    // biome-ignore lint/correctness/noEmptyPattern: as above.
    async ({}, use) => {
      const { url, stop } = await startServer();
      await use({ url });
      await stop();
    },
    { scope: 'worker', timeout: 60_000 },
  ],
  // biome-ignore lint/correctness/noEmptyPattern: as above.
  freshApp: async ({}, use) => {
    const { url, stop } = await startServer();
    await use({ url });
    await stop();
  },
  consoleProblems: [
    async ({ page }, use) => {
      const problems: string[] = [];
      page.on('pageerror', (error) => problems.push(error.message));
      page.on('console', (message) => {
        if (message.type() === 'error') problems.push(message.text());
      });
      await use(problems);
    },
    { auto: true },
  ],
});

/**
 * Waits until the bodies of all captures are read: until then briefs say less, and a view that is open begins anew when they
 * are. Of what its worker was fetching then no end is ever reported, so that the network never counts as idle.
 */
export async function untilDiagnosed(url: string): Promise<void> {
  for (;;) {
    const cards = (await (await fetch(`${url}api/captures`)).json()) as CaptureCard[];
    if (cards.every(({ isDiagnosed }) => isDiagnosed)) return;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
}

/** Drops files on the middle of the page, as a user's file manager would. */
export async function dropFiles(page: Page, files: readonly { name: string; text: string }[]): Promise<void> {
  // Only once the page has all it asked for does it surely listen.
  await page.waitForLoadState('networkidle');
  const transfer = await page.evaluateHandle((given) => {
    const data = new DataTransfer();
    for (const { name, text } of given) data.items.add(new File([text], name));
    return data;
  }, files);
  for (const type of ['dragenter', 'dragover', 'drop'])
    await page.dispatchEvent('main', type, { dataTransfer: transfer });
}

/** Opens a demo capture's waterfall, as its card would lead there. */
export async function openCapture(page: Page, url: string, name: string): Promise<void> {
  const cards = (await (await fetch(`${url}api/captures`)).json()) as CaptureCard[];
  await page.goto(`${url}c/${cards.find((card) => card.name === name)?.id}/waterfall`);
  await stripsOf(page).first().waitFor();
}

/** The strips that are drawn. */
export const stripsOf = (page: Page): Locator => page.getByRole('tree', { name: 'Exchanges' }).locator('[data-strip]');
