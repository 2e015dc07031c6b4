import { readFileSync } from 'node:fs';
import type { Download, Page } from '@playwright/test';
import { choiceOf } from '../src/core/redact/choice';
import type { CaptureCard } from '../src/core/wire';
import { expectNothingBars } from './support/bars';
import { expect, openCapture, test } from './support/fixtures';

const BOOKING = 'booking-gone-wrong';
const COOKIE = 'w-2871-5f0c';

async function openHandOff(page: Page, url: string): Promise<void> {
  await forgetChoice(url);
  await openCapture(page, url, BOOKING);
  await page.keyboard.press('g');
  await page.keyboard.press('h');
  await expect(proof(page)).toContainText('Proven: it may leave.');
}

/** The app is shared by tests, and keeps what each of them chose. */
async function forgetChoice(url: string): Promise<void> {
  const cards = (await (await fetch(`${url}api/captures`)).json()) as CaptureCard[];
  const id = cards.find(({ name }) => name === BOOKING)?.id;
  const body = JSON.stringify(choiceOf('colleague'));
  await fetch(`${url}api/captures/${id}/hand-off/choice`, {
    method: 'PUT',
    headers: { 'content-type': 'application/json' },
    body,
  });
}

const bar = (page: Page) => page.getByRole('combobox', { name: /Filter/ });
const proof = (page: Page) => page.getByRole('region', { name: 'Proof', exact: true });
const part = (page: Page, name: string) => page.getByRole('region', { name, exact: true });
const sheet = (page: Page) => page.getByRole('region', { name: 'The exchange as it leaves' });

async function saved(page: Page): Promise<[har: string, proof: string]> {
  const files: Download[] = [];
  page.on('download', (download) => files.push(download));
  await page.keyboard.press('x');
  await expect.poll(() => files.length).toBe(2);
  const texts = await Promise.all(files.map(async (file) => readFileSync(await file.path(), 'utf8')));
  page.removeAllListeners('download');
  return [texts[0] ?? '', texts[1] ?? ''];
}

test('a capture is looked at as it would leave, changed, undone, and saved with its proof, by keys', async ({
  page,
  demo,
  consoleProblems,
}) => {
  await openHandOff(page, demo.url);
  await expectNothingBars(page);
  // The first exchange in which something is inked out is the one that is looked at.
  await expect(sheet(page).locator('[data-inked="cookie"]')).toHaveText('cookie-1-xx');
  await expect(sheet(page)).not.toContainText(COOKIE);
  await part(page, 'cookies')
    .getByRole('button', { name: `Leave walker ${COOKIE}` })
    .click();
  await expect(part(page, 'Suspicious, and left')).toContainText(COOKIE);
  await expect(sheet(page)).toContainText(COOKIE);
  await expect(proof(page)).toContainText('none of 2 values is left');
  // It is kept: whoever comes back finds it as it was left.
  await page.reload();
  await expect(part(page, 'Suspicious, and left')).toContainText(COOKIE);
  await part(page, 'Suspicious, and left')
    .getByRole('button', { name: `Ink out walker ${COOKIE}` })
    .click();
  await expect(sheet(page)).not.toContainText(COOKIE);
  await page.keyboard.press('u');
  await expect(sheet(page)).toContainText(COOKIE);
  await part(page, 'Suspicious, and left').getByRole('button', { name: 'Ink out all cookies' }).click();
  await page.getByLabel('A name, an order number; or /an expression/').fill('/[/');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert')).toHaveText('/[/ is not a regular expression.');
  await page.getByLabel('A name, an order number; or /an expression/').fill('Alba Norte');
  await page.keyboard.press('Enter');
  await expect(part(page, 'your own words')).toContainText('Alba Norte');
  await sheet(page).focus();
  await page.keyboard.press('j');
  await expect(page).toHaveURL(/exchange=\d+/);
  await part(page, 'Suspicious, and left')
    .getByRole('button', { name: `Ink out walker ${COOKIE}` })
    .click();
  await expect(part(page, 'Suspicious, and left')).not.toContainText(COOKIE);
  const [har, told] = await saved(page);
  expect(har).not.toMatch(/Alba Norte|w-2871-5f0c/);
  expect(told).toMatch(/^ok {4}none of 4 values is left, in any encoding\n/);
  expect(told).not.toMatch(/Alba Norte|w-2871/);
  expect(consoleProblems).toEqual([]);
});

test('what the filter shows leaves alone; where it shows nothing, nothing does', async ({ page, demo }) => {
  await openHandOff(page, demo.url);
  await page.keyboard.press('s');
  await page.getByLabel('Which exchanges leave').selectOption('shown');
  await bar(page).fill('kind = style');
  await page.keyboard.press('Enter');
  await expect(proof(page)).toContainText('what was written loads: 3 exchanges');
  await bar(page).fill('status = 999');
  await page.keyboard.press('Enter');
  await expect(page.getByText('No exchanges shown: nothing would leave.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Save as HAR' })).toBeDisabled();
});

test('a choice is kept under a name for every capture, deleted, and brought back', async ({ page, demo }) => {
  await openHandOff(page, demo.url);
  await page.getByLabel('Who it is for').selectOption('supplier');
  await part(page, 'Bodies').getByLabel('Bodies of kind image').selectOption('none');
  await page.getByRole('button', { name: 'Keep this choice under a name' }).click();
  await page.getByLabel('Name of this choice').fill('the hosting team');
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('Who it is for')).toHaveValue('own:the hosting team');
  await openCapture(page, demo.url, 'alba-norte-fixed-release');
  await page.keyboard.press('g');
  await page.keyboard.press('h');
  await page.getByLabel('Who it is for').selectOption('the hosting team');
  await expect(part(page, 'Bodies').getByLabel('Bodies of kind image')).toHaveValue('none');
  await page.getByRole('button', { name: 'Delete the choice the hosting team' }).click();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(page.getByLabel('Who it is for')).toHaveValue('own:the hosting team');
});

test('a report is written, drawn, changed and saved', async ({ page, demo, consoleProblems }) => {
  await openHandOff(page, demo.url);
  await page.getByLabel('What is handed off').selectOption('report');
  const drawn = page.frameLocator('iframe[title="The report"]');
  await expect(drawn.getByRole('heading', { name: 'Figures' })).toBeVisible();
  await page.getByLabel('figures', { exact: true }).uncheck();
  await page.getByLabel('The question, and what you found').fill(`Why did ${COOKIE} get no bed?`);
  await expect(drawn.getByText('Why did cookie-1-xx get no bed?')).toBeVisible();
  await expect(drawn.getByRole('heading', { name: 'Figures' })).toHaveCount(0);
  // The report itself is held by its own test: its frame lets nobody in.
  await expectNothingBars(page, { within: 'aside' });
  await page.getByLabel('The capture that it is compared with').selectOption('alba-norte-fixed-release');
  await expect(drawn.getByRole('heading', { name: /^Compared: A is booking-gone-wrong/ })).toBeVisible();
  await page.getByLabel('How the report is written').selectOption('md');
  await expect(page.getByRole('region', { name: 'The report as it leaves' })).toContainText('## Findings');
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Save the report' }).click(),
  ]);
  expect(file.suggestedFilename()).toBe('booking-gone-wrong report.md');
  const text = readFileSync(await file.path(), 'utf8');
  expect([text.includes('cookie-1-xx'), text.includes(COOKIE)]).toEqual([true, false]);
  expect(consoleProblems).toEqual([]);
});

test('nothing is claimed of what has not been looked through yet', async ({ page, demo }) => {
  await forgetChoice(demo.url);
  let letGo = (): void => undefined;
  const held = new Promise<void>((resolve) => {
    letGo = resolve;
  });
  await page.route('**/hand-off', async (route) => {
    if (route.request().method() === 'POST') await held;
    await route.continue();
  });
  await openCapture(page, demo.url, BOOKING);
  await page.keyboard.press('g');
  await page.keyboard.press('h');
  await expect(proof(page)).toContainText('Looking for secrets');
  await expect(part(page, 'Inked out')).toContainText('Not looked through yet.');
  await expect(part(page, 'Suspicious, and left')).toContainText('Not looked through yet.');
  letGo();
  await expect(proof(page)).toContainText('Proven: it may leave.');
  await expect(part(page, 'Inked out')).not.toContainText('Not looked through yet.');
});

test('what cannot be made says so, and can be made again', async ({ page, demo }) => {
  await openCapture(page, demo.url, BOOKING);
  await page.route('**/hand-off', (route) => route.abort());
  await page.keyboard.press('g');
  await page.keyboard.press('h');
  await expect(page.getByRole('alert')).toContainText('Trazado does not respond');
  await expect(page.getByRole('button', { name: 'Save as HAR' })).toBeDisabled();
  await page.unroute('**/hand-off');
  await page.getByRole('button', { name: 'Try again' }).click();
  await expect(proof(page)).toContainText('Proven: it may leave.');
});
