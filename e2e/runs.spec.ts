import { readFileSync } from 'node:fs';
import { expectNothingBars } from './support/bars';
import { expect, openCapture, test } from './support/fixtures';
import { beginDraft, clickLine, lineOf } from './support/sheet';

type Page = import('@playwright/test').Page;
const pane = (page: Page) => page.getByRole('region', { name: 'Sent many times' });
const steps = (page: Page) => page.getByRole('list', { name: 'What was sent' }).locator('[data-step]');

async function draftOf(page: Page, url: string, capture: string, exchange: number): Promise<void> {
  await openCapture(page, url, capture);
  await beginDraft(page, exchange);
}

test('a trim by keyboard strikes the sheet’s lines as it finds them unneeded, and says why the rest is needed', async ({
  page,
  demo,
}) => {
  await draftOf(page, demo.url, 'booking-gone-wrong', 16);
  await page.keyboard.press('Shift+T');
  await expect(pane(page)).toContainText('13 parts; sends up to 80 requests to api.cumbrera.example');
  await expectNothingBars(page);
  await page.keyboard.press('Shift+Enter');
  await expect(pane(page)).toContainText('1 of 13 parts is needed: the response differs without it.', {
    timeout: 20_000,
  });
  await expect(steps(page).first()).toContainText('unchanged');
  await expect(lineOf(page, 'accept-language')).toHaveClass(/cm-struck/);
  await expect(lineOf(page, 'q=alba')).not.toHaveClass(/cm-struck/);
  await expect(lineOf(page, 'q=alba')).toContainText('without it');
  await expect(page.locator('[data-output]')).not.toContainText('accept-language');
  await expectNothingBars(page);

  // Taken back, and had again as the draft's own preset.
  await pane(page).getByRole('button', { name: 'As it was before' }).click();
  await expect(lineOf(page, 'accept-language')).not.toHaveClass(/cm-struck/);
  await pane(page).getByRole('button', { name: 'Only what is needed' }).click();
  await expect(lineOf(page, 'accept-language')).toHaveClass(/cm-struck/);
  await page.getByRole('button', { name: 'faithful' }).click();
  await expect(lineOf(page, 'accept-language')).not.toHaveClass(/cm-struck/);
  await page.getByRole('button', { name: 'needed', exact: true }).click();
  await expect(lineOf(page, 'accept-language')).toHaveClass(/cm-struck/);

  await steps(page).first().click();
  const dossier = page.getByRole('complementary', { name: 'Dossier of request 1' });
  await expect(dossier).toContainText('q=alba');
  await page.keyboard.press('Escape');
  await expect(dossier).toHaveCount(0);
});

test('a trim of what does not get the captured response asks which is the measure', async ({ page, demo }) => {
  await draftOf(page, demo.url, 'booking-gone-wrong', 14);
  await page.keyboard.press('Shift+T');
  await page.keyboard.press('Shift+Enter');
  await expect(pane(page)).toContainText('The response is 401 now, not 200 as captured.');
  await expect(pane(page)).toContainText('A token or session may have expired.');
  await pane(page).getByRole('button', { name: 'Trim for what it gets now' }).click();
  // Without the token that ran out the same 401 says something else.
  const found = '1 of 15 parts is needed: the response differs without it.';
  await expect(pane(page)).toContainText(found, { timeout: 20_000 });
  await pane(page).getByRole('button', { name: 'Delete' }).click();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(pane(page)).toContainText(found);
});

test('a series gathers all pages as one table, outlasts a reload, and is saved as the code writes it', async ({
  page,
  demo,
}) => {
  await draftOf(page, demo.url, 'alba-norte-fixed-release', 53);
  // It begins with what the captured response counts.
  await page.keyboard.press('Shift+L');
  await expect(page.getByLabel('What it does')).toHaveValue('pages');
  await expect(page.getByLabel('Loop: total at')).toHaveValue('$.total');
  await page.getByLabel('Loop: pause in ms').fill('0');
  await pane(page)
    .getByRole('button', { name: /^Begin/ })
    .click();
  await expect(pane(page)).toContainText('6 responses, 120 rows. All 120 rows came.', { timeout: 20_000 });
  await expect(steps(page)).toHaveCount(6);
  await page.reload();
  const table = page.getByRole('region', { name: 'Gathered rows' });
  await expect(table).toContainText('1000');
  await expect(table).toContainText('0 repeated');
  await table.getByLabel('with the value that each row came from').check();
  await expect(table).toContainText('from page');
  await expectNothingBars(page);
  const download = page.waitForEvent('download');
  await table.getByRole('button', { name: 'save the rows' }).click();
  const lines = readFileSync(await (await download).path(), 'utf8')
    .trimEnd()
    .split('\n');
  expect(lines).toHaveLength(121);
  expect(lines[0]).toBe('from page,id,hut,title,text,writtenAt');
  expect(lines.at(-1)).toMatch(/^5,1119,/);
  await pane(page).getByRole('button', { name: 'Open as a capture' }).click();
  await expect(page.locator('[data-strip]')).toHaveCount(6);
});

test('a series through values goes on where it was paused', async ({ page, demo }) => {
  await draftOf(page, demo.url, 'alba-norte-fixed-release', 53);
  await clickLine(page, '?page');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Shift+L');
  await expect(page.getByLabel('What it does')).toHaveValue('pages');
  await page.getByLabel('What it does').selectOption('values');
  const csv = Buffer.from('valle;page;nota\r\nAlbá;0;"uno\r\ndos"\r\nNorte;2;\r\nSur;4;\r\n', 'latin1');
  const file = { name: 'pages.csv', mimeType: 'text/csv', buffer: csv };
  await page.getByLabel('A CSV file with the values').setInputFiles(file);
  await expect(page.getByLabel('Loop: values')).toHaveValue('Albá\nNorte\nSur\n');
  await page.getByLabel('Column with the values').selectOption('nota');
  await expect(page.getByRole('alert')).toContainText('"uno…" of column "nota" has a line break in it');
  await expect(page.getByLabel('Loop: values')).toHaveValue('');
  await page.getByLabel('Column with the values').selectOption('page');
  await expect(page.getByLabel('Column with the values')).toHaveValue('page');
  await expect(page.getByRole('alert')).toHaveCount(0);
  await expect(page.getByLabel('Loop: values')).toHaveValue('0\n2\n4\n');
  await page.getByLabel('Loop: pause in ms').fill('1500');
  await pane(page)
    .getByRole('button', { name: /^Begin/ })
    .click();
  await expect(steps(page)).toHaveCount(1);
  await pane(page)
    .getByRole('button', { name: /^Pause/ })
    .click();
  await expect(pane(page)).toContainText('paused.');
  await pane(page)
    .getByRole('button', { name: /^Go on/ })
    .click();
  await expect(pane(page)).toContainText('3 responses, 60 rows. All values were sent.', { timeout: 20_000 });
  await expect(steps(page)).toHaveCount(3);
});

test('a watch tells when its condition is met, and growing what is the most', async ({ page, demo }) => {
  await draftOf(page, demo.url, 'alba-norte-fixed-release', 53);
  await page.keyboard.press('Shift+W');
  await page.getByLabel('Watch: until').fill('$.total <');
  await expect(pane(page)).toContainText('Behind < stands what it is compared with.');
  await page.getByLabel('Watch: until').fill('$.total > 100');
  await page.getByLabel('Watch: every').fill('1');
  await pane(page)
    .getByRole('button', { name: /^Begin/ })
    .click();
  await expect(pane(page)).toContainText('Met: $.total > 100. $.total is 120.');
  await page.keyboard.press('Shift+G');
  await pane(page)
    .getByRole('button', { name: /^Begin/ })
    .click();
  await expect(pane(page)).toContainText('It gives 20 rows: its query has no parameter that could be varied.');
  await expect(pane(page).getByLabel('Which run')).toContainText('watch');
});
