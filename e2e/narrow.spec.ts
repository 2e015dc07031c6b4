import type { Page } from '@playwright/test';
import { expect, openCapture, stripsOf, test } from './support/fixtures';

const bar = (page: Page) => page.getByRole('combobox', { name: /Filter/ });
const tally = (page: Page) => page.locator('[data-tally]');

test("a filter is typed with the capture's own values offered, narrows the chart, and is in the address", async ({
  page,
  demo,
}) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await page.keyboard.press('/');
  await page.keyboard.type('ki');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(bar(page)).toHaveValue('kind ');
  await page.keyboard.type('= da');
  const data = page.getByRole('option', { name: /^data/ });
  await expect(data).toContainText(/\d\d/);
  const count = Number(/\d+$/.exec((await data.textContent()) ?? '')?.[0]);
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Tab');
  await expect(bar(page)).toHaveValue('kind = data ');
  await expect(tally(page)).toContainText(`${count} of 145 exchanges`);
  await page.keyboard.press('Enter');
  await expect(bar(page)).not.toBeFocused();
  await expect(page).toHaveURL(/filter=kind/);
  await page.reload();
  await expect(tally(page)).toContainText(`${count} of 145 exchanges`);
  await page.goBack();
  await expect(tally(page)).toContainText('145 exchanges');
});

test('what is typed right behind a name that was taken stands behind it, however late the next frame is', async ({
  page,
  demo,
}) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await page.keyboard.press('/');
  await page.keyboard.type('ki');
  await page.evaluate(() => {
    window.requestAnimationFrame = (frame) => window.setTimeout(() => frame(performance.now()), 700);
  });
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await page.keyboard.type('= dat');
  await page.waitForTimeout(900);
  await page.keyboard.type('a');
  await expect(bar(page)).toHaveValue('kind = data');
});

test('while a filter is typed what of it is whole holds, and the bar says what is wrong and where', async ({
  page,
  demo,
}) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await page.keyboard.press('/');
  await page.keyboard.type('kind = script and wait >');
  await expect(page.getByRole('alert')).toHaveText(
    'A value to compare wait with is expected; found the end of the expression.',
  );
  await expect(stripsOf(page).first()).toHaveAttribute('aria-label', /script/);
  await page.keyboard.type(' 90000 ms');
  await expect(page.getByText('no match')).toBeVisible();
  await expect(stripsOf(page)).toHaveCount(0);
  await page.keyboard.press('Escape');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert')).toContainText('None of the 145 exchanges matches this filter.');
  await page.getByRole('button', { name: 'Clear the filter', exact: true }).last().click();
  await expect(tally(page)).toContainText('145 exchanges');
});

test('what is no filter is searched as text, and the filter that is meant is offered', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'booking-gone-wrong');
  await page.goto(`${page.url().split('?')[0]}?page=all`);
  await stripsOf(page).first().waitFor();
  await bar(page).fill('status:404');
  await expect(page.getByText('no match')).toBeVisible();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(bar(page)).toHaveValue('status = 404 ');
  await expect(tally(page)).toContainText('1 of 37 exchanges');
  await bar(page).fill('failed api');
  await page.getByRole('option', { name: /failed and kind = data/ }).click();
  await expect(tally(page)).toContainText(/^[2-9] of 37 exchanges/);
  await bar(page).fill('foot');
  await page.getByRole('button', { name: 'Find it in headers, payloads and bodies' }).click();
  await expect(page.getByLabel('Find in URLs')).toHaveValue('foot');
});

test('a filter asks for headers, cookies and regular expressions, and one that never ends is given up', async ({
  page,
  demo,
}) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  const filter = async (text: string): Promise<void> => {
    await bar(page).fill(text);
    await bar(page).press('Enter');
  };
  await filter('res.content-encoding = br');
  await expect(tally(page)).toContainText(/^\d+ of 145/);
  await filter('/availability\\?page=[12]$/ and not kind = preflight');
  await expect(tally(page)).toContainText('2 of 145 exchanges');
  await filter('/(([a-z:.]+)+)+\\d$/');
  await expect(page.getByRole('alert')).toContainText('takes too long', { timeout: 15_000 });
  await expect(stripsOf(page).first()).toBeVisible();
});

test('a regular expression waits for its worker as long as that takes, and one without is not called slow', async ({
  page,
  demo,
}) => {
  // Longer than an expression may take.
  await page.route(/filter\.worker/, async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 2600));
    await route.continue();
  });
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await bar(page).fill('/availability\\?page=[12]$/ and not kind = preflight');
  await expect(tally(page)).toContainText('2 of 145 exchanges');
  await expect(page.getByRole('alert')).toHaveCount(0);
  await page.unroute(/filter\.worker/);
  await page.route(/filter\.worker/, (route) => route.abort());
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await bar(page).fill('/availability/');
  await expect(page.getByRole('alert')).toContainText('This filter is not applied. This part of Trazado could not');
  await bar(page).fill('availability');
  await expect(page.getByRole('alert')).toHaveCount(0);
});

test('a filter that could not be loaded says so and hides nothing, and applies once it can be', async ({
  page,
  demo,
}) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await page.route(/\/filtering\./, (route) => route.abort());
  await page.goto(`${page.url()}?filter=kind+%3D+image`);
  await expect(page.getByRole('alert')).toContainText('This filter is not applied. This part of Trazado could not');
  await expect(tally(page)).toContainText('145 exchanges');
  await page.unroute(/\/filtering\./);
  await bar(page).fill('kind = preflight');
  await expect(page.getByRole('alert')).toHaveCount(0);
  await expect(tally(page)).toContainText('of 145 exchanges');
});

test('a click on a value filters by it or leaves it out, and the same again takes it back', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'booking-gone-wrong');
  await tally(page)
    .getByText(/5 failed/)
    .click();
  await expect(bar(page)).toHaveValue('failed');
  await expect(stripsOf(page)).toHaveCount(5);
  await stripsOf(page).first().click();
  const dossier = page.getByRole('complementary');
  const host = dossier.getByRole('button', { name: 'Only those with host = img.cumbrera.example' });
  await host.focus();
  await page.keyboard.press('Enter');
  await expect(bar(page)).toHaveValue('failed and host = img.cumbrera.example');
  await expect(stripsOf(page)).toHaveCount(1);
  await host.press('Enter');
  await expect(bar(page)).toHaveValue('failed');
  await dossier.getByRole('button', { name: 'All but those with host = img.cumbrera.example' }).press('Enter');
  await expect(bar(page)).toHaveValue('failed and not host = img.cumbrera.example');
  await expect(stripsOf(page)).toHaveCount(4);
});

test('filters are remembered, kept under a name, and forgotten with a way back', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  const read = page.waitForResponse('**/api/settings/filters');
  await bar(page).fill('wait > 100 ms');
  await read;
  // However soon the page is left: nothing is written before it is read again, which now takes long.
  await page.evaluate(() => {
    const { fetch } = window;
    window.fetch = async (address, options) => {
      if (String(address).endsWith('/filters') && options?.method === undefined)
        await new Promise((resolve) => setTimeout(resolve, 20_000));
      return fetch(address, options);
    };
  });
  await bar(page).press('Enter');
  await page.getByRole('button', { name: 'Save this filter under a name' }).click();
  await page.getByLabel('Save it as').fill('slow servers');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Saved as "slow servers".')).toBeVisible();
  await openCapture(page, demo.url, 'booking-gone-wrong');
  await page.keyboard.press('/');
  await expect(page.getByRole('option', { name: /wait > 100 ms recent/ })).toBeVisible();
  await page.getByRole('option', { name: /saved as "slow servers"/ }).click();
  await expect(bar(page)).toHaveValue('wait > 100 ms ');
  await bar(page).fill('');
  await page.getByRole('button', { name: 'Delete "slow servers"' }).click();
  await expect(page.getByRole('option', { name: /slow servers/ })).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await bar(page).focus();
  await expect(page.getByRole('option', { name: /slow servers/ })).toHaveCount(1);
});

test('find streams hits with their places, and a jump opens the dossier at the hit', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'booking-gone-wrong');
  await page.keyboard.press('f');
  await expect(page.getByLabel('Find in URLs')).toBeFocused();
  await page.keyboard.type('the token has expired');
  const outcome = page.locator('[data-find-outcome="ended"]');
  await expect(outcome).toContainText(/1 hit in 1 exchange/);
  const hit = page.locator('[data-hit]').first();
  await expect(hit).toContainText('response body $.detail');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  const mark = page.getByRole('complementary').locator('[data-hit-mark]');
  await expect(mark).toContainText('the token has expired');
  await expect(mark).toBeInViewport();
  await page.reload();
  await expect(mark).toBeInViewport();
});

test('find knows a price as it is written on the page, data first, and folds the hits of one list', async ({
  page,
  demo,
}) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await page.keyboard.press('f');
  await page.keyboard.type('34,00 €');
  await expect(page.locator('[data-find-outcome="ended"]')).toContainText(/hits in/);
  const folds = page.locator('[data-fold="$.nights[*].price"]');
  await expect(folds.first()).toContainText('30 hits');
  await expect(page.locator('[data-hit], [data-fold]').first()).toContainText('$.nights[');
  await folds.first().focus();
  await page.keyboard.press('Enter');
  await expect(folds.first()).toHaveAttribute('aria-expanded', 'true');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  const mark = page.getByRole('complementary').locator('[data-hit-mark]');
  await expect(mark).toHaveText('price34');
  await page.keyboard.press('Escape');
  await expect(folds.first()).toHaveAttribute('aria-expanded', 'true');
});

test('find narrows with the filter, tells of hits that are filtered out, and bounds a hostile expression', async ({
  page,
  demo,
}) => {
  await openCapture(page, demo.url, 'booking-gone-wrong');
  await page.goto(
    `${page.url().replace('/waterfall', '/find')}?search=availability&filter=kind+%3D+preflight&page=all`,
  );
  const outcome = page.locator('[data-find-outcome="ended"]');
  await expect(outcome).toContainText(/more are in exchanges that are filtered out/);
  await expect(page.locator('[data-hit]').first()).toContainText('address');
  await page.getByLabel('regular expression').check();
  await page.getByLabel('Find in URLs').fill('(([a-z]|[a-z:/.]+)+)+!$');
  await expect(page.getByRole('alert')).toContainText('takes too long', { timeout: 20_000 });
  await page.getByLabel('Find in URLs').fill('(');
  await expect(page.getByRole('alert')).toContainText('cannot be read');
  await page.getByLabel('regular expression').uncheck();
  await page.getByLabel('Find in URLs').fill('stands nowhere at all');
  await expect(outcome).toContainText('No matches');
});

test('endpoints show how their calls spread, and what varies from call to call', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await page.keyboard.press('g');
  await page.keyboard.press('e');
  const photos = page.locator('[data-endpoint="GET img.cumbrera.example/photos/{}.webp"]');
  await expect(photos).toContainText(/43.*median/);
  const notices = page.locator('[data-endpoint="GET api.cumbrera.example/notices"]');
  await notices.getByRole('button', { name: 'GET api.cumbrera.example/notices', exact: true }).click();
  await expect(page.locator('[data-field="query page"]')).toContainText('counts up by 1012');
  await page.getByRole('button', { name: /Show the \d+ fields that stay/ }).click();
  await expect(page.locator('[data-field="header accept"]')).toContainText('stays');
  await expect(page).toHaveURL(/endpoint=/);
  await page.reload();
  await page.getByRole('button', { name: '#109', exact: true }).click();
  await expect(page.getByRole('complementary').getByRole('region', { name: 'Story' })).toContainText('#109 ');
});
