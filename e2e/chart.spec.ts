import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import { expectNothingBars } from './support/bars';
import { expect, openCapture, stripsOf, test } from './support/fixtures';

const FIRST_VISIT = 'alba-norte-first-visit';
const tally = (page: Page) => page.locator('[data-tally]');
const lanes = (page: Page) => page.locator('[data-lane]');

async function boxOf(page: Page, selector: string): Promise<{ x: number; y: number; width: number; height: number }> {
  const box = await page.locator(selector).boundingBox();
  if (box === null) throw new Error(`${selector} is not on screen`);
  return box;
}

async function drag(page: Page, from: readonly [number, number], to: readonly [number, number]): Promise<void> {
  await page.mouse.move(...from);
  await page.mouse.down();
  await page.mouse.move(...to, { steps: 6 });
  await page.mouse.up();
}

/** The window in the address, in ms. */
const windowOf = (page: Page): number[] =>
  (new URL(page.url()).searchParams.get('window') ?? '').split('_').filter(Boolean).map(Number);

test('the brush zooms, its edges change the window, and a double click shows all again', async ({ page, demo }) => {
  await openCapture(page, demo.url, FIRST_VISIT);
  const band = await boxOf(page, '[data-brush]');
  const y = band.y + 40;
  await drag(page, [band.x + 200, y], [band.x + 400, y]);
  await expect(tally(page)).toContainText(/\d+ of 145 exchanges/);
  await expect(page).toHaveURL(/window=/);
  const [from = 0, to = 0] = windowOf(page);
  // 200 px of the whole load, which fills the width of the band.
  const perPx = (to - from) / 200;
  expect(from / perPx).toBeGreaterThan(150);

  const right = await boxOf(page, '[data-brush-edge="right"]');
  await drag(page, [right.x + right.width / 2, y], [right.x + right.width / 2 + 100, y]);
  await expect.poll(() => windowOf(page)[1]).toBeGreaterThan(to + 90 * perPx);
  expect(windowOf(page)[0]).toBeCloseTo(from, -1);

  const address = page.url();
  await page.goto(address);
  await stripsOf(page).first().waitFor();
  expect(page.url()).toBe(address);
  await page.mouse.dblclick(band.x + 20, y);
  await expect(tally(page)).toContainText('145 exchanges');
  await expect(page).not.toHaveURL(/window=/);
});

test('keys and wheel zoom and move, down to 1 ms and back to the whole load', async ({ page, demo }) => {
  await openCapture(page, demo.url, FIRST_VISIT);
  const band = await boxOf(page, '[data-brush]');
  await page.mouse.move(band.x + band.width / 2, band.y + 200);
  await page.keyboard.down('Control');
  await page.mouse.wheel(0, -600);
  await page.keyboard.up('Control');
  await expect(page).toHaveURL(/window=/);
  const [from = 0, to = 0] = windowOf(page);
  await page.keyboard.press('ArrowRight');
  await expect.poll(() => windowOf(page)[0]).toBeCloseTo(from + (to - from) / 4, 0);
  for (let at = 0; at < 24; at++) await page.keyboard.press('+');
  await expect
    .poll(() => {
      const [a = 0, b = 0] = windowOf(page);
      return b - a;
    })
    .toBeCloseTo(1, 2);
  await page.keyboard.press('0');
  await expect(page).not.toHaveURL(/window=/);
  await page.keyboard.press('End');
  await page.keyboard.press('z');
  await expect(page).toHaveURL(/window=/);
  await page.keyboard.press('w');
  await expect(page.getByRole('combobox', { name: /Filter/ })).toHaveValue(/^end >= [\d.]+ ms and start <= [\d.]+ ms$/);
});

test('hovering reads the time, the phases that it crosses, and the exact values of one exchange', async ({
  page,
  demo,
}) => {
  await openCapture(page, demo.url, FIRST_VISIT);
  const strip = await stripsOf(page).nth(8).boundingBox();
  const band = await boxOf(page, '[data-brush]');
  await page.mouse.move(band.x + 90, (strip?.y ?? 0) + 12);
  const reading = page.locator('[data-reading]');
  await expect(reading).toContainText(/\d+ ms/);
  await expect(reading.getByText('receive', { exact: true }).first()).toBeVisible();
  await expect(page.locator('[data-callout]')).toContainText('logo.svg');
  await expect(page.locator('[data-callout]')).toContainText(/wait\s*[\d.]+ ms/);
  await page.keyboard.press('l');
  await expect(page.getByRole('region', { name: 'How to read the waterfall' })).toBeVisible();
});

test('strips stand in lanes that fold to a profile, by mouse and by key; repeated calls fold together', async ({
  page,
  demo,
}) => {
  await openCapture(page, demo.url, FIRST_VISIT);
  await page.keyboard.press('n');
  await page.getByLabel('Group strips by').selectOption('host');
  await expect(lanes(page).first()).toHaveAttribute('aria-expanded', 'true');
  await page.getByRole('tree').focus();
  await page.keyboard.press('[');
  await expect(stripsOf(page)).toHaveCount(0);
  await expect(lanes(page).filter({ hasText: 'img.cumbrera.example' })).toContainText(/\d+ exchanges, [\d.]+ [kM]B/);
  await page.keyboard.press('Home');
  await page.keyboard.press('j');
  await page.keyboard.press('Enter');
  const second = lanes(page).nth(1);
  await expect(second).toHaveAttribute('aria-expanded', 'true');
  await expect(second).toHaveAttribute('aria-selected', 'true');
  await expect(stripsOf(page).first()).toBeVisible();
  // The address follows within a few hundredths of a second.
  await page.waitForTimeout(300);
  await page.reload();
  await expect(lanes(page).nth(1)).toHaveAttribute('aria-expanded', 'true');
  await expect(lanes(page).first()).toHaveAttribute('aria-expanded', 'false');

  await page.getByLabel('Group strips by').selectOption('connection');
  const first = lanes(page).first();
  await expect(first).toContainText(/^cumbrera\.example, connection 933.*1 exchange, .*; no set-up recorded/);
  await expect(lanes(page).nth(1)).toContainText(
    /^www\.cumbrera\.example and 1 more, connection 942.*; opened by #1 \/hut\/alba/,
  );
  await expect(page.getByText(/^\d+ lanes by/)).toBeVisible();
  await page.getByLabel('Group strips by').selectOption('none');
  await page.getByRole('tree').focus();
  await page.keyboard.press('Shift+E');
  const photos = lanes(page).filter({ hasText: 'photos/{}.webp' });
  await expect(photos).toContainText('43 calls');
  await photos.click();
  await expect(stripsOf(page).filter({ hasText: 'stove-480.webp' })).toBeVisible();
});

test('strips are arranged by any measure, and the right edge tells it', async ({ page, demo }) => {
  await openCapture(page, demo.url, FIRST_VISIT);
  await page.getByLabel('Sort strips by').selectOption('wire');
  await page.getByLabel('Measure at the right edge').selectOption('wire');
  await expect(stripsOf(page).first()).toHaveAttribute('aria-label', /atlas\.41ab\.js.*on the wire 1\.1 MB/);
  await page.getByLabel('Sort strips by').selectOption('end');
  await expect(stripsOf(page).first()).toHaveAttribute('aria-label', /#0 document/);
});

test('every exchange has one strip, wherever the list is scrolled', async ({ page, demo }) => {
  await openCapture(page, demo.url, FIRST_VISIT);
  for (const [wheel, has] of [
    [0, 0],
    [2000, 77],
    [-700, 55],
    [9000, 144],
  ] as const) {
    await page.mouse.move(700, 500);
    await page.mouse.wheel(0, wheel);
    await expect(page.locator(`[data-strip="${has}"]`)).toBeVisible();
    const drawn = await stripsOf(page).evaluateAll((all) => all.map((one) => one.getAttribute('data-strip')));
    expect(new Set(drawn).size).toBe(drawn.length);
    // Their stairs are drawn in a few blocks of eight, on the screen and a little beyond it.
    const blocks = await page.getByRole('tree').locator('svg[data-stairs]').count();
    expect(blocks).toBeLessThanOrEqual(drawn.length / 8 + 2);
    expect(blocks).toBeGreaterThanOrEqual(drawn.length / 8);
  }
});

test('a click holds while the strips move under the pointer', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'booking-gone-wrong');
  await page.getByLabel('Page', { exact: true }).selectOption('all');
  const tree = page.getByRole('tree', { name: 'Exchanges' });
  await tree.evaluate((list) => list.scrollTo(0, list.scrollHeight));
  const strip = stripsOf(page).and(page.getByRole('treeitem', { name: /^#17 / }));
  await expect(strip).toBeVisible();
  const before = await strip.boundingBox();
  const at = { x: (before?.x ?? 0) + 400, y: (before?.y ?? 0) + 13 };
  await page.mouse.move(at.x, at.y);
  await page.mouse.down();
  await tree.evaluate((list) => list.scrollBy(0, -150));
  await expect(stripsOf(page).and(page.getByRole('treeitem', { name: /^#6 / }))).toBeAttached();
  await page.mouse.move(at.x, at.y + 150);
  await page.mouse.up();
  await expect(page.getByRole('complementary', { name: 'Dossier of exchange 17' })).toBeVisible();
});

test('a redirect is tied to where it led', async ({ page, demo }) => {
  await openCapture(page, demo.url, FIRST_VISIT);
  await expect(page.locator('[data-ties="2"] path.stroke-redirect')).toHaveCount(2);
});

test('one key hides noise, and the tally says how much', async ({ page, demo }) => {
  await openCapture(page, demo.url, FIRST_VISIT);
  await page.keyboard.press('t');
  await expect(tally(page)).toContainText(/\d+ hidden third-party/);
  await expect(tally(page)).toContainText(/of 145 exchanges/);
  await page.reload();
  await tally(page)
    .getByText(/hidden third-party/)
    .click();
  await expect(tally(page)).toContainText('145 exchanges');
});

test('the chart and the exchanges shown can be exported', async ({ page, demo }) => {
  await openCapture(page, demo.url, FIRST_VISIT);
  await page.goto(`${page.url()}?filter=kind+%3D+font`);
  await stripsOf(page).first().waitFor();
  const take = async (button: string): Promise<Buffer> => {
    await page.getByRole('tree').focus();
    await page.keyboard.press('x');
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('dialog', { name: 'Export' }).getByRole('button', { name: button }).click(),
    ]);
    return readFileSync(await download.path());
  };
  const har = JSON.parse((await take('HAR of these')).toString());
  expect(har.log.entries.map(({ request }: { request: { url: string } }) => request.url).sort()).toEqual([
    'https://type.letterpile.example/overland-400.ttf',
    'https://type.letterpile.example/overland-700.ttf',
  ]);
  expect(har.log.pages).toHaveLength(1);
  expect(JSON.parse((await take('JSON')).toString())).toHaveLength(2);
  expect((await take('CSV')).toString().split('\r\n')).toHaveLength(4);
  const svg = (await take('SVG of the whole load')).toString();
  expect(svg).toContain('overland-400.ttf');
  expect(svg).toContain('filtered by kind = font');
  expect((await take('PNG of the whole load')).subarray(1, 4).toString()).toBe('PNG');
  const drawn = await page.evaluate((text) => {
    const parsed = new DOMParser().parseFromString(text, 'image/svg+xml');
    return { problems: parsed.querySelectorAll('parsererror').length, rects: parsed.querySelectorAll('rect').length };
  }, svg);
  expect(drawn.problems).toBe(0);
  expect(drawn.rects).toBeGreaterThan(5);
});

test('every list is exported as a table, each with what it shows', async ({ page, context, demo }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await openCapture(page, demo.url, 'booking-gone-wrong');
  const capture = page.url().replace(/\/waterfall.*/, '');
  const take = async (what: RegExp): Promise<string> => {
    // A field that has the focus takes letters as text.
    await page.keyboard.press('Escape');
    await page.keyboard.press('x');
    const dialog = page.getByRole('dialog', { name: 'Export' });
    const button = dialog.getByRole('button', { name: what });
    await expect(button).toBeVisible();
    const [download] = await Promise.all([page.waitForEvent('download'), button.click()]);
    await dialog.getByRole('button', { name: 'Close' }).click();
    return readFileSync(await download.path(), 'utf8');
  };
  await page.goto(`${capture}/endpoints?page=all&filter=kind+%3D+data`);
  await page.locator('[data-endpoint]').first().waitFor();
  const endpoints = await take(/^CSV of the \d+ endpoints$/);
  expect(endpoints).toMatch(/^endpoint,calls,failed,/);
  expect(endpoints.trim().split('\r\n')).toHaveLength(1 + (await page.locator('[data-endpoint]').count()));
  await page.keyboard.press('x');
  await page.getByRole('button', { name: 'Copy as text' }).click();
  await expect(page.getByText(/^Copied the \d+ endpoints\.$/)).toBeVisible();
  const copied = await page.evaluate(() => navigator.clipboard.readText());
  expect(copied).toMatch(/^## \d+ endpoints\n\n\| endpoint \| calls \| failed \|/);
  expect(copied.trim().split('\n')).toHaveLength(endpoints.trim().split('\r\n').length + 3);
  await page.goto(`${capture}/find?page=all&search=availability`);
  await expect(page.locator('[data-find-outcome="ended"]')).toContainText('hits');
  const hits: { place: string; match: string }[] = JSON.parse(await take(/^JSON of the \d+ hits$/));
  expect(await page.locator('[data-find-outcome]').textContent()).toContain(`${hits.length} hits`);
  expect(hits.every(({ match }) => /availability/i.test(match))).toBe(true);
  await page.goto(`${capture}/brief`);
  await expect(page.getByRole('list', { name: 'Findings' }).getByRole('listitem').first()).toBeVisible();
  const findings: { rule: string; claim: string }[] = JSON.parse(await take(/^JSON of the \d+ findings$/));
  await expect(page.getByRole('list', { name: 'Findings' })).toContainText(findings[0]?.claim ?? 'none');
  expect(await take(/^CSV of the \d+ legs$/)).toMatch(
    /^leg,index,url,startMs,endMs\r\n(?:gap,,,0,[\d.]+\r\n)?exchange,0,https:/,
  );
  // The brief stays behind the other views, and leaves them their keys.
  await page.keyboard.press('g');
  await page.keyboard.press('w');
  await expect(page.getByRole('button', { name: 'export' })).toHaveCount(1);
});

test('the buttons of an export stay where they are while its code is on its way', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'booking-gone-wrong');
  let letGo = (): void => undefined;
  const held = new Promise<void>((resolve) => {
    letGo = resolve;
  });
  await page.route(/CodeOfSelection[^/]*\.js/, async (route) => {
    await held;
    await route.continue();
  });
  await page.keyboard.press('x');
  const dialog = page.getByRole('dialog', { name: 'Export' });
  const button = dialog.getByRole('button', { name: 'HAR of these' });
  await expect(dialog).toContainText('Loading');
  const before = await button.boundingBox();
  letGo();
  await expect(dialog.getByRole('button', { name: /^Save the code of/ })).toBeVisible();
  expect(await button.boundingBox()).toEqual(before);
});

test('counts lead to what they count', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'booking-gone-wrong');
  const capture = page.url().replace(/\/waterfall.*/, '');
  await page.goto(`${capture}/endpoints?filter=kind+%3D+data`);
  const row = page
    .locator('[data-endpoint]')
    .filter({ has: page.getByTitle('Show them in the waterfall') })
    .first();
  const failed = row.getByTitle('Show them in the waterfall');
  const count = Number(await failed.textContent());
  await failed.click();
  await expect(stripsOf(page)).toHaveCount(count);
  await page.goto(`${capture}/brief`);
  await page.getByTitle('Show them in the waterfall').filter({ hasText: '%' }).click();
  await expect(page.getByLabel('Filter', { exact: true })).toHaveValue('outcome = cached');
});

for (const colorScheme of ['light', 'dark'] as const) {
  test(`nothing bars anyone from lanes, filter, find and endpoints (${colorScheme})`, async ({ browser, demo }) => {
    const context = await browser.newContext({ colorScheme, reducedMotion: 'reduce' });
    const page = await context.newPage();
    const check = (): Promise<void> => expectNothingBars(page, { isNight: colorScheme === 'dark' });
    await openCapture(page, demo.url, 'booking-gone-wrong');
    const capture = page.url().replace(/\/waterfall.*/, '');
    await page.goto(`${capture}/waterfall?lanes=outcome&together&window=0_900`);
    await stripsOf(page).first().waitFor();
    await page.keyboard.press('l');
    await check();
    await page.keyboard.press('/');
    await page.keyboard.type('kind = ');
    await page.getByRole('listbox', { name: 'Suggestions' }).getByRole('option').first().waitFor();
    await check();
    await page.keyboard.type('= ');
    await page.getByRole('alert').first().waitFor();
    await check();
    await page.goto(`${capture}/find?search=beds`);
    await page.locator('[data-hit]').first().waitFor();
    await check();
    await page.goto(`${capture}/endpoints`);
    await page.locator('[data-endpoint*="availability"] button').first().click();
    await page.locator('[data-field]').first().waitFor();
    await check();
    await context.close();
  });
}
