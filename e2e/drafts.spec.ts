import { expectNothingBars } from './support/bars';
import { expect, openCapture, stripsOf, test } from './support/fixtures';

type Page = import('@playwright/test').Page;
const output = (page: Page) => page.locator('[data-output]');
const sheet = (page: Page) => page.getByRole('region', { name: 'Drafts' });

async function draftOf(page: Page, url: string, exchange: number): Promise<void> {
  await openCapture(page, url, 'booking-gone-wrong');
  await page.goto(`${page.url().split('?')[0]}?page=all&exchange=${exchange}`);
  await expect(page.locator(`[data-strip="${exchange}"]`)).toHaveAttribute('aria-selected', 'true');
  await page.keyboard.press('d');
  await expect(output(page)).toContainText('curl ');
}

test('a draft is made by key, edited, undone, and kept with its capture', async ({ page, demo }) => {
  await draftOf(page, demo.url, 17);
  await expect(page).toHaveURL(/\/drafts\?.*draft=/);
  await expect(output(page)).toContainText('https://api.cumbrera.example/holds');

  await page.getByLabel('Path', { exact: true }).fill('/holds/again');
  await expect(output(page)).toContainText('/holds/again');
  await page.getByRole('button', { name: 'lean', exact: true }).click();
  await expect(output(page)).not.toContainText('sec-fetch-mode');
  await expect(sheet(page)).toContainText('left out: added by browsers only');
  await page.getByLabel('Name of the draft').fill('the hold, once more');

  await page.getByRole('button', { name: 'Make the header authorization a variable' }).click();
  await expect(output(page)).toContainText('$REQ_TOKEN');
  await expect(output(page)).not.toContainText('eyJ');
  await expect(page.getByLabel('Value of variable token')).toHaveAttribute('type', 'password');
  await expect(sheet(page)).toContainText('{{token}} is a secret variable.');
  await page.locator('body').press('u');
  await expect(output(page)).toContainText('eyJ');

  await page.getByLabel('Method', { exact: true }).fill('PUT');
  // At once, before typing has rested: nothing is lost by it.
  await page.reload();
  await expect(page.getByLabel('Name of the draft')).toHaveValue('the hold, once more');
  await expect(output(page)).toContainText(/-X PUT/);
  await expect(sheet(page)).toContainText('Method POST became PUT.');

  await page.getByRole('button', { name: 'Delete', exact: true }).click();
  await page.getByRole('button', { name: 'Undo', exact: true }).last().click();
  await expect(page.getByLabel('Name of the draft')).toHaveValue('the hold, once more');
});

test('the headers of a draft are one row of tab stops, with arrows from row to row', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await page.goto(`${page.url().split('?')[0]}?exchange=77`);
  await stripsOf(page).first().waitFor();
  await page.keyboard.press('d');
  const value = (name: string) => page.getByLabel(`Value of header ${name}`, { exact: true });
  await value('accept').focus();
  await page.keyboard.press('ArrowDown');
  await expect(value('accept-encoding')).toBeFocused();
  await page.keyboard.press('Tab');
  await expect(page.getByLabel('Make the header accept-encoding a variable')).toBeFocused();
  await page.keyboard.press('Tab');
  await expect(page.getByLabel('Delete the header accept-encoding')).toBeFocused();
  await page.keyboard.press('Tab');
  expect(await page.evaluate(() => document.activeElement?.closest('[data-header]') === null)).toBe(true);
  await page.keyboard.press('Shift+Tab');
  await expect(page.getByLabel('Delete the header accept-encoding')).toBeFocused();
});

test('the payload is edited as what it is, and favourites are on keys', async ({ page, demo, context }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await draftOf(page, demo.url, 17);
  await page.locator('body').press('3');
  await expect(output(page)).toContainText("'hut': 'alba-norte'");
  await page.locator('body').press('y');
  expect(await page.evaluate(() => navigator.clipboard.readText())).toContain('requests.post(');

  await page.getByLabel('Output format').selectOption('go');
  const written = page.waitForResponse((answer) => answer.request().method() === 'PUT');
  await page.getByRole('button', { name: 'add to favourites' }).click();
  await written;
  await page.reload();
  await expect(output(page)).toContainText('curl ');
  await expect(page.getByRole('list', { name: 'Favourite targets' }).getByRole('listitem')).toHaveCount(4);
  await page.locator('body').press('4');
  await expect(output(page)).toContainText('package main');
  await page.getByRole('button', { name: 'remove from favourites' }).click();
  await expect(page.getByRole('list', { name: 'Favourite targets' }).getByRole('listitem')).toHaveCount(3);
  // It stays chosen: what is looked at does not change by it.
  await expect(output(page)).toContainText('package main');
  await page.locator('body').press('1');

  const editor = page.getByRole('textbox', { name: 'Payload' });
  await editor.fill('{"hut": "jara"');
  await expect(sheet(page)).toContainText('Not valid JSON:');
  await editor.fill('{"hut": "jara"}');
  await expect(output(page)).toContainText('jara');
  await page.getByLabel('Type of the payload').selectOption('form');
  await page.getByRole('button', { name: 'add a field' }).click();
  await expect(output(page)).toContainText('x-www-form-urlencoded');
  await page.getByLabel('Output format').selectOption('go');
  await expect(output(page)).toContainText('http.NewRequest');
});

test('requests come from pasted text, several at once, and loops are written for them', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-fixed-release');
  await page.keyboard.press('g');
  await page.keyboard.press('d');
  await expect(page.getByText('No drafts of this capture yet.')).toBeVisible();
  await page.getByRole('button', { name: 'From pasted text' }).click();
  await page.getByLabel('Text to read requests from').fill('walkers book beds');
  await page.getByRole('button', { name: 'Read it' }).click();
  await expect(page.getByText('No request found in this text.')).toBeVisible();
  await page
    .getByLabel('Text to read requests from')
    .fill(`curl 'https://a.example/huts?page=4' -H 'X-A: it'\\''s'\ncurl https://b.example -d x=1`);
  await page.getByRole('button', { name: 'Read it' }).click();
  await expect(page.getByLabel('Draft', { exact: true }).locator('option')).toHaveCount(2);
  await page.getByLabel('Draft', { exact: true }).selectOption({ index: 0 });
  await expect(page.getByLabel('Value of header X-A')).toHaveValue("it's");

  await page.getByLabel('What it does').selectOption('pages');
  await page.getByLabel('Loop: list at').fill('$.data[');
  await expect(sheet(page)).toContainText('The list is a place like $.items.');
  await page.getByLabel('Loop: list at').fill('$.data');
  await expect(output(page)).toContainText('REQ_PAGE=0');
  await page.getByLabel('Output format').selectOption('ruby');
  await expect(sheet(page)).toContainText('choose one of these');
});

test('a parameter that counts begins a loop over it, with its list and its end, which stays with its draft', async ({
  page,
  demo,
}) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  const waterfall = page.url().split('?')[0] ?? '';
  const endpoint = encodeURIComponent('GET api.cumbrera.example/huts/alba-norte/availability');
  await page.goto(`${waterfall.replace('waterfall', 'endpoints')}?endpoint=${endpoint}`);
  const begin = page
    .locator('[data-field="query page"]')
    .getByRole('button', { name: 'generate a loop over this parameter' });
  await begin.click();
  await expect(page.getByLabel('What it does')).toHaveValue('pages');
  await expect(page.getByLabel('Loop: parameter')).toHaveValue('page');
  // The recorded response has its list at $.nights, and says at $.pages how many pages there are.
  await expect(page.getByLabel('Loop: list at')).toHaveValue('$.nights');
  await expect(page.getByLabel('Loop: pages at')).toHaveValue('$.pages');
  await page.getByLabel('Loop: pause in ms').fill('750');
  await expect(output(page)).toContainText('sleep 0.75');
  const name = page.getByLabel('Name of the draft');
  const first = await name.inputValue();
  await page.reload();
  await expect(page.getByLabel('Loop: pause in ms')).toHaveValue('750');
  // One more of the same request has another name.
  await page.goBack();
  await begin.click();
  await expect(name).toHaveValue(`${first}, 2`);
});

test('what is shown is exported as one script that carries tokens on', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'booking-gone-wrong');
  await page.goto(`${page.url().split('?')[0]}?page=all&filter=${encodeURIComponent('kind = data and status < 400')}`);
  // Keys are heard once the strips stand.
  await expect(page.locator('[data-strip]').first()).toBeVisible();
  await page.keyboard.press('x');
  await page.getByLabel('What to turn the requests into').selectOption('python-requests');
  const download = page.waitForEvent('download');
  const which = page.getByLabel('Only the exchanges of these numbers');
  await which.fill('beds');
  await expect(page.getByRole('dialog')).toContainText('"beds" is not a number');
  await expect(page.getByRole('button', { name: 'Save the code' })).toBeDisabled();
  await which.fill('13-20');
  await page.getByRole('button', { name: /^Save the code of [3-8] requests$/ }).click();
  const stream = await (await download).createReadStream();
  const chunks: Buffer[] = [];
  for await (const chunk of stream) chunks.push(chunk as Buffer);
  expect(Buffer.concat(chunks).toString()).toContain("token = value_at(data, 'token')");
  await expect(page.getByText(/token is taken from the response of #13/)).toBeVisible();
});

test('the drafts view has no accessibility faults that can be found by machine', async ({ page, demo }) => {
  await draftOf(page, demo.url, 17);
  await expectNothingBars(page);
});
