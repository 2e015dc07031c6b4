import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import { expect, openCapture, stripsOf, test } from './support/fixtures';

// What people come for, each from what is on the screen, in at most three steps: a step is a click, a choice, a key or a text.

const MOST_STEPS = 3;

type Step = (does: () => Promise<unknown>) => Promise<void>;

interface Task {
  readonly name: string;
  readonly does: (page: Page, step: Step) => Promise<void>;
}

const strip = (page: Page, index: number) => page.locator(`[data-strip="${index}"]`);
const section = (page: Page, name: string) =>
  page.getByRole('complementary').getByRole('region', { name, exact: true });
const index = (page: Page, name: string) => page.getByRole('button', { name: new RegExp(`^Section \\d, ${name}$`) });
const clipboard = (page: Page): Promise<string> => page.evaluate(() => navigator.clipboard.readText());

const TASKS: readonly Task[] = [
  {
    name: 'load another file',
    does: async (page, step) => {
      // Long before the key: keys overtake the order to listen on a busy machine.
      const asked = page.waitForEvent('filechooser', { timeout: 60_000 });
      await step(() => page.keyboard.press('Control+k'));
      await expect(page.getByRole('dialog', { name: 'All actions' })).toBeVisible();
      await step(() => page.keyboard.type('open file'));
      await step(() => page.keyboard.press('Enter'));
      expect((await asked).isMultiple()).toBe(true);
    },
  },
  {
    name: 'see the slowest request',
    does: async (page, step) => {
      await step(() => page.getByLabel('Sort strips by').selectOption('duration'));
      const first = (await stripsOf(page).first().getAttribute('data-strip')) ?? '';
      await step(() => strip(page, Number(first)).click());
      await expect(section(page, 'Timing')).toContainText(/Total \d/);
    },
  },
  {
    name: 'learn why something is not cached',
    does: async (page, step) => {
      await step(() => strip(page, 14).click());
      await step(() => index(page, 'Cache').click());
      await expect(section(page, 'Cache')).toBeInViewport();
    },
  },
  {
    name: 'copy a request as curl for PowerShell',
    does: async (page, step) => {
      await step(() => strip(page, 14).click());
      await step(() => page.getByLabel('Copy as', { exact: true }).selectOption('curl-ps'));
      await expect.poll(() => clipboard(page)).toMatch(/-H '"user-agent: [^\n]*"' `\n/);
    },
  },
  {
    name: 'find a value in bodies',
    does: async (page, step) => {
      await step(() => page.getByRole('link', { name: 'Find' }).click());
      await step(() => page.keyboard.type('renew'));
      await expect(page.locator('[data-find-outcome="ended"]')).toContainText(/\d+ hits? in \d+ exchange/);
    },
  },
  {
    name: 'see the failed API calls',
    does: async (page, step) => {
      await step(() => page.keyboard.press('/'));
      await step(() => page.keyboard.type('failed api'));
      await step(() => page.getByRole('option', { name: /failed and kind = data/ }).click());
      await expect(page.locator('[data-tally]')).toContainText(/^[2-9] of 30 exchanges/);
    },
  },
  {
    name: 'save the list as CSV',
    does: async (page, step) => {
      await step(() => page.getByRole('button', { name: 'export' }).click());
      const [download] = await Promise.all([
        page.waitForEvent('download'),
        step(() => page.getByRole('button', { name: 'CSV', exact: true }).click()),
      ]);
      expect(readFileSync(await download.path(), 'utf8')).toMatch(/^index,page,method,url/);
    },
  },
  {
    name: 'read what a request sent',
    does: async (page, step) => {
      await step(() => strip(page, 13).click());
      await step(() => index(page, 'Payload').click());
      await expect(section(page, 'Payload')).toBeInViewport();
    },
  },
  {
    name: 'compare two requests',
    does: async (page, step) => {
      await step(() => strip(page, 14).click());
      await step(() => page.getByLabel('Compare with exchange number').fill('9'));
      await step(() => page.keyboard.press('Enter'));
      await expect(page.getByRole('region', { name: 'Compared with #9' })).toContainText('timing and size');
    },
  },
  {
    name: 'learn what a header means',
    does: async (page, step) => {
      await step(() => strip(page, 14).click());
      await step(() => section(page, 'Response').getByRole('button', { name: 'cache-control', exact: true }).click());
      await expect(section(page, 'Response')).toContainText('RFC 9111 5.2');
    },
  },
  {
    name: 'hide third parties',
    does: async (page, step) => {
      await step(() => page.getByLabel('third parties').uncheck());
      await expect(page.locator('[data-tally]')).toContainText(/hidden third-party/);
    },
  },
  {
    name: 'zoom to a range, and back',
    does: async (page, step) => {
      const band = page.getByRole('img', { name: /^In-flight profile/ });
      const box = await band.boundingBox();
      if (box === null) throw new Error('the band is not drawn');
      await step(async () => {
        await page.mouse.move(box.x + 100, box.y + 60);
        await page.mouse.down();
        await page.mouse.move(box.x + 300, box.y + 60, { steps: 4 });
        await page.mouse.up();
      });
      await expect(page).toHaveURL(/window=/);
      await step(() => page.getByRole('button', { name: 'whole load' }).click());
      await expect(page).not.toHaveURL(/window=/);
    },
  },
  {
    name: 'get Python for three calls, once Python was copied before',
    does: async (page, step) => {
      await page.evaluate(() => localStorage.setItem('copy-as', 'python-requests'));
      await step(() => page.getByRole('button', { name: 'export' }).click());
      await step(() => page.getByLabel('Only the exchanges of these numbers').fill('9, 13-14'));
      const [download] = await Promise.all([
        page.waitForEvent('download'),
        step(() => page.getByRole('button', { name: 'Save the code of 3 requests' }).click()),
      ]);
      expect(readFileSync(await download.path(), 'utf8')).toContain('import requests');
    },
  },
];

for (const { name, does } of TASKS) {
  test(`at most three steps to ${name}`, async ({ page, context, demo }) => {
    await context.grantPermissions(['clipboard-read', 'clipboard-write']);
    await openCapture(page, demo.url, name === 'hide third parties' ? 'alba-norte-first-visit' : 'booking-gone-wrong');
    await strip(page, 9).waitFor();
    let steps = 0;
    await does(page, async (act) => {
      steps++;
      await act();
    });
    expect(steps).toBeLessThanOrEqual(MOST_STEPS);
  });
}
