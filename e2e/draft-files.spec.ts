import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import { expect, openCapture, test } from './support/fixtures';

const BOOKING = 'booking-gone-wrong';
const files = (page: Page) => page.getByLabel('Save, open or copy drafts');

test('drafts are saved as a file without secrets, opened in another capture, and undone', async ({ page, demo }) => {
  await openCapture(page, demo.url, BOOKING);
  await page.goto(`${page.url().replace(/\?.*$/, '')}?exchange=14`);
  await page.locator('[data-strip="14"]').waitFor();
  await page.keyboard.press('d');
  await expect(page.getByRole('region', { name: 'Drafts' })).toContainText('Bearer');
  const [saved] = await Promise.all([page.waitForEvent('download'), files(page).selectOption('json')]);
  const path = await saved.path();
  const text = readFileSync(path, 'utf8');
  expect(text).toContain('Bearer ‹token›');
  expect(text).not.toMatch(/eyJ[\w-]+\.eyJ/);
  const [har] = await Promise.all([page.waitForEvent('download'), files(page).selectOption('har')]);
  const { log } = JSON.parse(readFileSync(await har.path(), 'utf8')) as {
    log: { entries: { request: { url: string } }[] };
  };
  expect(log.entries.map(({ request }) => request.url)).toContain(
    'https://api.cumbrera.example/huts/alba-norte/availability?page=0',
  );
  await openCapture(page, demo.url, 'alba-norte-slow-line');
  await page.keyboard.press('g');
  await page.keyboard.press('d');
  await expect(page.getByText('No drafts of this capture yet.')).toBeVisible();
  await page.getByLabel('File of drafts').setInputFiles('README.md');
  await expect(page.getByText('The file holds no drafts: it is not JSON.')).toBeVisible();
  await page
    .getByLabel('File of drafts')
    .setInputFiles({ name: 'x.json', mimeType: 'application/json', buffer: readFileSync(path) });
  await expect(page.getByRole('region', { name: 'Drafts' })).toContainText('Bearer token');
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(page.getByText('No drafts of this capture yet.')).toBeVisible();
});

test('a draft is copied to another capture with its variables', async ({ page, demo }) => {
  await openCapture(page, demo.url, BOOKING);
  await page.goto(`${page.url().replace(/\?.*$/, '')}?exchange=14`);
  await page.locator('[data-strip="14"]').waitFor();
  await page.keyboard.press('d');
  await expect(page.getByRole('region', { name: 'Drafts' })).toContainText('Bearer');
  await files(page).selectOption({ label: 'copy this draft to alba-norte-second-visit' });
  await expect(page.getByText(/^Copied "/)).toBeVisible();
  await openCapture(page, demo.url, 'alba-norte-second-visit');
  await page.keyboard.press('g');
  await page.keyboard.press('d');
  await expect(page.getByRole('region', { name: 'Drafts' })).toContainText('/huts/alba-norte/availability');
});
