import { expectNothingBars } from './support/bars';
import { expect, openCapture, stripsOf, test } from './support/fixtures';

test('the chart can be used by keyboard alone, and its address brings the place back', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'booking-gone-wrong');
  const current = page.locator('[aria-selected="true"]');
  for (const key of ['j', 'j', 'ArrowDown', 'k']) await page.keyboard.press(key);
  await expect(current).toHaveAttribute('aria-posinset', '2');
  await page.keyboard.press('End');
  await expect(current).toHaveAttribute('aria-posinset', (await current.getAttribute('aria-setsize')) ?? '');
  await page.keyboard.press('Home');
  await page.keyboard.press('Enter');
  const dossier = page.getByRole('complementary');
  await expect(dossier).toBeVisible();
  await page.keyboard.press('5');
  await expect(dossier.getByRole('heading', { name: 'Response' })).toBeInViewport();
  await page.keyboard.press('j');
  await expect(dossier.getByRole('region', { name: 'Story' })).toContainText('#1 ');

  await page.reload();
  await expect(dossier.getByRole('region', { name: 'Story' })).toContainText('#1 ');
  await expect(current).toHaveAttribute('data-strip', '1');
  await page.keyboard.press('Escape');
  await expect(dossier).toHaveCount(0);
  await page.goBack();
  await expect(dossier).toBeVisible();
});

test('one sheet shows every key, none of them twice, and leads to the list of actions', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'booking-gone-wrong');
  const sheet = page.getByRole('dialog', { name: 'All keys' });
  for (const view of ['b', 'w', 'f', 'e', 'd', 'r']) {
    await page.locator('body').press('Escape');
    await page.keyboard.press('g');
    await page.keyboard.press(view);
    // These two bring a field that takes the focus, whenever they come.
    if (view === 'f' || view === 'r') await expect(page.locator('main input[data-home]')).toBeFocused();
    await page.keyboard.press('Escape');
    await page.locator('main').press('?');
    await expect(sheet.getByRole('region', { name: 'Everywhere' })).toContainText('Go to the shelf');
    const keys = (await sheet.locator('dd').allTextContents()).flatMap((text) => text.split(' or '));
    expect(keys.filter((key, at) => keys.indexOf(key) !== at)).toEqual([]);
    await page.keyboard.press('Escape');
    await expect(sheet).toHaveCount(0);
  }
  await page.locator('main').press('?');
  await sheet.getByRole('button', { name: /Search and run actions/ }).click();
  await expect(page.getByRole('dialog', { name: 'All actions' })).toBeVisible();
  await expect(sheet).toHaveCount(0);
});

test('every action is listed with its key, and can be run from the list', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'booking-gone-wrong');
  await page.keyboard.press('Control+k');
  const list = page.getByRole('dialog', { name: 'All actions' });
  await expect(
    list.getByRole('button', { name: 'Copy the curl command, for a POSIX shell c', exact: true }),
  ).toBeVisible();
  await page.keyboard.type('last exch');
  await page.keyboard.press('Enter');
  await expect(list).toHaveCount(0);
  await expect(page.locator('[aria-selected="true"]')).toBeVisible();
  await page.keyboard.press('g');
  await page.keyboard.press('s');
  await expect(page.getByRole('heading', { name: 'Shelf' })).toBeVisible();
});

test('a tab with two navigations offers each on its own clock, and says that they were inferred', async ({
  page,
  demo,
}) => {
  await openCapture(page, demo.url, 'booking-gone-wrong');
  const pages = page.getByLabel('Page', { exact: true });
  await expect(pages.locator('option')).toHaveCount(3);
  await expect(page.locator('[data-tally]')).toContainText('loaded unknown');
  await page.getByText('remarks on this capture').click();
  await expect(page.getByText('their boundaries were inferred from its documents')).toBeVisible();
  await page.keyboard.press('Escape');
  await pages.selectOption({ index: 1 });
  await expect(page.locator('[data-tally]')).toContainText(/loaded \d+ ms/);
  await expect(stripsOf(page).first()).toHaveAttribute('aria-label', /\/book\/alba-norte.*, 303,/);
  await expect(page).toHaveURL(/page=/);
  await page.reload();
  await expect(stripsOf(page).first()).toHaveAttribute('aria-label', /, 303,/);
  await page.goBack();
  await expect(page.locator('[data-tally]')).toContainText('loaded unknown');
});

test('the lean command leaves out what only browsers add, and a socket is warned of', async ({ browser, demo }) => {
  const context = await browser.newContext({ permissions: ['clipboard-read', 'clipboard-write'] });
  const page = await context.newPage();
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  const copied = (): Promise<string> => page.evaluate(() => navigator.clipboard.readText());
  await page.keyboard.press('Home');
  await page.keyboard.press('j');
  await page.keyboard.press('c');
  await expect(page.getByText('Copied #1 for curl, POSIX shell')).toBeVisible();
  const faithful = await copied();
  expect(faithful).toContain('sec-ch-ua');
  await page.keyboard.press('Shift+C');
  await expect(page.getByText(/Left out: .*upgrade-insecure-requests|Left out: .* more\./)).toBeVisible();
  const lean = await copied();
  expect(lean).not.toContain('sec-');
  expect(lean.length).toBeLessThan(faithful.length);
  await page.goto(`${page.url().split('?')[0]}?page=all`);
  await stripsOf(page).first().waitFor();
  await page.keyboard.press('End');
  await stripsOf(page)
    .and(page.getByRole('treeitem', { name: / socket GET beds/ }))
    .click();
  await page.keyboard.press('c');
  await expect(
    page.getByText('A socket is not possible here: only its opening request is sent, over http.'),
  ).toBeVisible();
  await context.close();
});

test('an exchange that cannot be fetched says so in its dossier, and can be asked for again', async ({
  page,
  demo,
}) => {
  await openCapture(page, demo.url, 'booking-gone-wrong');
  await page.route('**/exchanges/*', (route) => route.abort());
  await stripsOf(page).nth(3).click();
  const dossier = page.getByRole('complementary');
  await expect(dossier.getByRole('alert')).toContainText('Trazado does not respond');
  await page.unroute('**/exchanges/*');
  await dossier.getByRole('button', { name: 'Try again' }).click();
  await expect(dossier.getByRole('region', { name: 'Story' })).toContainText('#3 ');
  await dossier.getByRole('button', { name: 'Close the dossier' }).click();
  await expect(dossier).toHaveCount(0);
});

test('while the next exchange is on its way, the dossier says so, and its buttons do what stands there', async ({
  page,
  context,
  demo,
}) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await openCapture(page, demo.url, 'booking-gone-wrong');
  await stripsOf(page).nth(3).click();
  const dossier = page.getByRole('complementary');
  await expect(dossier.getByRole('region', { name: 'Story' })).toContainText('#3 ');
  let release = (): void => {};
  const released = new Promise<void>((resolve) => {
    release = resolve;
  });
  await page.route('**/exchanges/5', async (route) => {
    await released;
    await route.continue();
  });
  await stripsOf(page).nth(5).click();
  await expect(dossier.locator('[aria-busy="true"]')).toHaveCSS('opacity', '0.4');
  await dossier.getByRole('button', { name: 'Copy as curl' }).click();
  await expect(page.getByText('Copied #3 for curl, POSIX shell')).toBeVisible();
  release();
  await expect(dossier.getByRole('region', { name: 'Story' })).toContainText('#5 ');
  await expect(dossier.locator('[aria-busy="false"]')).toHaveCSS('opacity', '1');
});

test('the zone of the times can be chosen, is always named, and is in the address', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'booking-gone-wrong');
  await stripsOf(page).first().click();
  const story = page.getByRole('region', { name: 'Story' });
  await expect(story).toContainText(/Started .+ UTC\./);
  await page.getByLabel('Time zone').selectOption('utc');
  await expect(page).toHaveURL(/zone=utc/);
  await expect(story).toContainText(/Started .+ UTC\./);
});

test('the browser stays quick in a large capture: only the strips on screen are drawn', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  const strips = stripsOf(page);
  const count = Number(await strips.first().getAttribute('aria-setsize'));
  const drawn = await strips.count();
  expect(drawn).toBeLessThan(count / 2);
  const visible = await strips.evaluateAll(
    (all) =>
      all.filter((one) => one.getBoundingClientRect().bottom <= innerHeight && one.getBoundingClientRect().top > 150)
        .length,
  );
  if (page.viewportSize()?.height === 800) expect(visible).toBeGreaterThanOrEqual(22);
});

for (const colorScheme of ['light', 'dark'] as const) {
  test(`nothing bars anyone from the shelf, the chart and the dossier (${colorScheme})`, async ({ browser, demo }) => {
    const context = await browser.newContext({ colorScheme, reducedMotion: 'reduce' });
    const page = await context.newPage();
    const check = (): Promise<void> => expectNothingBars(page, { isNight: colorScheme === 'dark' });
    await page.goto(demo.url);
    await page.locator('[data-capture]').first().waitFor();
    await check();
    await openCapture(page, demo.url, 'booking-gone-wrong');
    await check();
    await stripsOf(page).nth(12).click();
    await page.getByRole('region', { name: 'Body' }).waitFor();
    await check();
    await page.keyboard.press('?');
    await check();
    await context.close();
  });
}

test('the look follows the system and can be set', async ({ browser, demo }) => {
  const context = await browser.newContext({ colorScheme: 'light' });
  const page = await context.newPage();
  const paper = (): Promise<string> => page.evaluate(() => getComputedStyle(document.body).backgroundColor);
  await page.goto(demo.url);
  const day = await paper();
  await page.getByLabel('Look').selectOption('blueprint');
  const night = await paper();
  expect(night).not.toBe(day);
  await page.reload();
  expect(await paper()).toBe(night);
  await page.getByLabel('Look').selectOption('system');
  expect(await paper()).toBe(day);
  await context.close();
});
