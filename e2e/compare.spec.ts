import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import { captureOf } from '../bench/made';
import type { CaptureCard } from '../src/core/wire';
import { expectNothingBars } from './support/bars';
import { expect, openCapture, test } from './support/fixtures';

const FIRST = 'alba-norte-first-visit';
const FIXED = 'alba-norte-fixed-release';

async function idsOf(url: string): Promise<ReadonlyMap<string, string>> {
  const cards = (await (await fetch(`${url}api/captures`)).json()) as CaptureCard[];
  return new Map(cards.map(({ name, id }) => [name, id]));
}

/** Opens a comparison of demo captures by its address. */
async function openComparison(page: Page, url: string, a: string, b: string, rest = ''): Promise<void> {
  const ids = await idsOf(url);
  await page.goto(`${url}compare?a=${ids.get(a)}&b=${ids.get(b)}${rest}`);
  await pairsOf(page).first().waitFor();
}

const pairsOf = (page: Page) => page.getByRole('tree', { name: 'Pairs of exchanges' }).locator('[data-pair]');
const sheet = (page: Page) => page.getByRole('complementary');

test('two captures are marked on the shelf by key, and compared', async ({ page, demo }) => {
  await page.goto(demo.url);
  await page.locator(`[data-capture="${FIRST}"] a`).focus();
  await page.keyboard.press('a');
  await expect(page.getByText('1 on side A, 0 on side B')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Compare them' })).toBeDisabled();
  await page.locator(`[data-capture="${FIXED}"] a`).focus();
  await page.keyboard.press('b');
  // The choice is in the address: a reload brings it back.
  await expect(page).toHaveURL(/\?a=.+&b=/);
  await page.reload();
  await expect(page.getByText('1 on side A, 1 on side B')).toBeVisible();
  await page.keyboard.press('m');
  await expect(page.getByRole('heading', { name: 'Loaded in 1.03 s instead of 2.83 s: 1.80 s sooner.' })).toBeVisible();
  await expect(page.getByRole('heading', { name: `${FIRST} against ${FIXED}` })).toBeVisible();
});

test('the difference adds up on the screen, however it is split', async ({ page, demo }) => {
  await openComparison(page, demo.url, FIRST, FIXED);
  for (const split of ['phase', 'host', 'party', 'what made it']) {
    await page.getByLabel('Split the difference by').selectOption(split);
    const values = await page.locator('[data-ledger] tr td:last-child').allTextContents();
    const ms = values.map((text) => {
      const [, sign, amount, unit] = /^([+−±]?)([\d.]+) ?(ms|s)?$/.exec(text) ?? [];
      return (sign === '−' ? -1 : 1) * Number(amount) * (unit === 's' ? 1000 : 1);
    });
    const [from = 0, ...rest] = ms;
    const to = rest.pop() ?? 0;
    // Seconds are told to a hundredth.
    const roughness = 5 * values.filter((text) => text.endsWith(' s')).length;
    expect(Math.abs(from + rest.reduce((sum, one) => sum + one, 0) - to), split).toBeLessThanOrEqual(roughness);
  }
});

test('what many did together is one row, which unfolds; a pair opens beside the list, by keys alone', async ({
  page,
  demo,
}) => {
  await openComparison(page, demo.url, FIRST, FIXED);
  const group = page.locator('[data-pair-group]').first();
  await expect(group).toContainText('43 → 12 exchanges');
  await page.keyboard.press('j');
  await page.keyboard.press('Enter');
  await expect(page.locator('[data-pair="9-11"]')).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.locator('[data-pair="9-11"]')).toHaveCount(0);
  await page.keyboard.press('j');
  await page.keyboard.press('Enter');
  await expect(sheet(page)).toContainText('It made the load 414 ms quicker.');
  await expect(sheet(page).locator('[data-compared-part="caching"]')).toContainText('fresh for');
  await page.keyboard.press('Escape');
  await expect(sheet(page)).toHaveCount(0);
  await expect(page.getByRole('tree', { name: 'Pairs of exchanges' })).toBeFocused();
});

test('pictures stand side by side, and each links to its dossier', async ({ page, demo }) => {
  await openComparison(page, demo.url, FIRST, FIXED, '&pair=9-11&dossier');
  await expect(sheet(page).getByRole('img')).toHaveCount(2);
  for (const picture of await sheet(page).getByRole('img').all())
    await expect.poll(() => picture.evaluate((image: HTMLImageElement) => image.naturalWidth)).toBeGreaterThan(100);
  await sheet(page)
    .getByRole('link', { name: `B: ${FIXED}, #11` })
    .click();
  await expect(page.getByRole('complementary', { name: 'exchange 11' })).toBeVisible();
});

test('the filter narrows pairs by what became of them, and the counts lead there', async ({ page, demo }) => {
  await openComparison(page, demo.url, FIRST, FIXED);
  await page.getByRole('button', { name: '1 new' }).click();
  await expect(pairsOf(page)).toHaveCount(1);
  await expect(pairsOf(page).first()).toContainText('all.77d0.css');
  await expect(page.getByRole('combobox', { name: 'Filter' })).toHaveValue('change = new');
  await page.getByRole('combobox', { name: 'Filter' }).fill('kind = script and delta.wire < -100 kB');
  await expect(pairsOf(page).first()).toContainText('atlas.41ab.js');
  await expect(pairsOf(page)).toHaveCount(1);
  await page.getByRole('combobox', { name: 'Filter' }).fill('delta.');
  await expect(page.getByRole('option', { name: /delta\.wait/ })).toBeVisible();
});

test('a wrong match is parted and another made by hand, kept over a reload, and taken back', async ({ page, demo }) => {
  await openComparison(page, demo.url, FIRST, FIXED, '&order=start&pair=7-8&dossier');
  await expect(sheet(page)).toContainText('the same endpoint, by its place among the calls');
  await page.keyboard.press('p');
  await expect(page.getByText('No longer taken for the same.')).toBeVisible();
  await expect(page.getByRole('button', { name: '82 gone' })).toBeVisible();
  await page.goto(page.url().replace('pair=7-8', 'pair=7-'));
  await expect(sheet(page)).toContainText('Only A has this exchange.');
  await sheet(page)
    .getByLabel(/It is the same as exchange/)
    .fill('999');
  await page.keyboard.press('Enter');
  await expect(sheet(page).getByRole('alert')).toHaveText('B has no exchange 999.');
  await sheet(page)
    .getByLabel(/It is the same as exchange/)
    .fill('8');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: '81 gone' })).toBeVisible();
  await page.reload();
  await page.goto(page.url().replace('pair=7-', 'pair=7-8'));
  await expect(sheet(page)).toContainText('Matched: matched by hand');
  await page.keyboard.press('p');
  await expect(page.getByText('Matched by itself again.')).toBeVisible();
});

test('sides are swapped with the pair that is looked at', async ({ page, demo }) => {
  await openComparison(page, demo.url, FIRST, FIXED, '&pair=6-7');
  await page.keyboard.press('x');
  await expect(page.getByRole('heading', { name: 'Loaded in 2.83 s instead of 1.03 s: 1.80 s later.' })).toBeVisible();
  await expect(page).toHaveURL(/pair=7-6/);
});

test('what else differs is a key away: causes, findings, sums, cache, connection, loads', async ({ page, demo }) => {
  await openComparison(page, demo.url, FIRST, 'alba-norte-second-visit');
  const part = page.locator('[data-part]');
  await page.keyboard.press('1');
  await expect(part).toContainText('not explained');
  await page.keyboard.press('2');
  await expect(part).toContainText('revalidated although unchanged');
  await page.keyboard.press('3');
  await expect(part.getByRole('row', { name: /^preflight/ })).toContainText('−25');
  await page.keyboard.press('4');
  await expect(part).toContainText('The forecast of the earlier visit was right for');
  await expect(part.getByRole('row', { name: /atlas\.41ab\.js/ }).first()).toContainText('forbids storing it');
  await page.keyboard.press('5');
  await expect(part).toContainText('Nothing in the two loads shows that their connections to the network differ.');
  await page.keyboard.press('6');
  await part.getByLabel('Host', { exact: true }).fill('a b');
  await part.getByRole('button', { name: 'Map the host' }).click();
  await expect(part.getByRole('alert')).toBeVisible();
  await page.keyboard.press('Escape');
});

test('several loads on one side alone are looked through for what the slow ones share', async ({ page, demo }) => {
  const ids = [...(await idsOf(demo.url)).values()];
  await page.goto(`${demo.url}compare?${ids.map((id) => `a=${id}`).join('&')}`);
  await expect(page.getByRole('heading', { name: /^1 of 5 loads is slow/ })).toBeVisible();
  await expectNothingBars(page);
  await page.keyboard.press('m');
  await expect(page.getByRole('heading', { name: /in the median: .+ later\.$/ })).toBeVisible();
  await page.goBack();
  await expect(page.getByRole('heading', { name: /^1 of 5 loads is slow/ })).toBeVisible();
});

test('a capture is compared from its rail, and its chooser takes pages one by one', async ({ page, demo }) => {
  await openCapture(page, demo.url, FIRST);
  await page.getByRole('navigation').getByRole('link', { name: 'Compare' }).click();
  await expect(page.getByRole('button', { name: `${FIRST} on side A` })).toHaveAttribute('aria-pressed', 'true');
  await expectNothingBars(page);
  await page.getByRole('button', { name: 'booking-gone-wrong, page 2 on side B' }).click();
  await page.keyboard.press('m');
  await expect(page.getByText('145 exchanges against 7: one side may be only a part of a load.')).toBeVisible();
});

test('two exchanges of different captures, marked by m in each, are compared; so is what is pasted', async ({
  page,
  demo,
}) => {
  await openCapture(page, demo.url, FIRST);
  await page.locator('[data-strip="2"]').click();
  await page.getByRole('complementary').waitFor();
  await page.keyboard.press('m');
  await expect(page.getByText('#2 is marked.')).toBeVisible();
  await openCapture(page, demo.url, FIXED);
  await page.locator('[data-strip="2"]').click();
  await page.getByRole('complementary').waitFor();
  await page.keyboard.press('m');
  await expect(
    page.getByRole('heading', {
      name: `#2 /huts/alba-norte of ${FIRST} compared with #2 /huts/alba-norte of ${FIXED}`,
    }),
  ).toBeVisible();
  const other = page.getByRole('region', { name: 'The other' });
  await other.getByLabel(/or paste/).fill('to the hut');
  await expect(page.getByRole('alert')).toContainText('neither a request nor a response');
  await other.getByLabel(/or paste/).fill("curl 'https://www.cumbrera.example/huts/brisa-norte'");
  await expect(page.locator('[data-compared-part="path"]')).toContainText('brisa-norte');
  await expectNothingBars(page);
});

test('pairs are taken away as CSV and JSON, the whole as a picture', async ({ page, demo }) => {
  await openComparison(page, demo.url, FIRST, FIXED, '&filter=change+%3D+new');
  const read = async (key: string): Promise<string> => {
    const download = page.waitForEvent('download');
    await page.keyboard.press(key);
    return readFileSync(await (await download).path(), 'utf8');
  };
  const csv = (await read('Shift+C')).trim().split('\r\n');
  expect(csv).toHaveLength(2);
  expect(csv[0]).toMatch(/^a,b,change,/);
  expect(csv[1]).toMatch(/^,4,new,,all\.77d0\.css,/);
  const json = JSON.parse(await read('Shift+J')) as {
    sentence: string;
    pairs: unknown[];
    ledger: { byPhase: unknown[] };
  };
  expect([json.pairs.length, json.sentence.slice(0, 35)]).toEqual([1, 'Loaded in 1.03 s instead of 2.83 s:']);
  const svg = await read('Shift+V');
  expect(svg).toMatch(/^<svg [\s\S]*<title>Loaded in 1\.03 s/);
  const errors = await page.evaluate(
    (text) => new DOMParser().parseFromString(text, 'image/svg+xml').querySelectorAll('parsererror').length,
    svg,
  );
  expect(errors).toBe(0);
});

test('the comparison, its difference, its sums and its pairs are copied as text', async ({ page, context, demo }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await openComparison(page, demo.url, FIRST, FIXED);
  const copy = async (name: string): Promise<string> => {
    await page.getByRole('button', { name }).click();
    await expect(page.getByText('Copied.')).toBeVisible();
    return page.evaluate(() => navigator.clipboard.readText());
  };
  await expect
    .poll(() => copy('Copy the comparison as text'))
    .toMatch(/^Loaded in 1\.03 s instead of 2\.83 s: 1\.80 s sooner\.\n[\s\S]*\nSums\n[\s\S]*\nExchanges\n/);
  await expect
    .poll(() => copy('Copy the difference as text'))
    .toMatch(
      /^## The difference\n\n\| what \| time \|\n\| --- \| ---: \|\n\| A: alba-norte-first-visit \| 2\.83 s \|\n[\s\S]*\| B: .+ \| 1\.03 s \|\n$/,
    );
  // Just the pairs that are shown.
  await page.getByRole('combobox', { name: /Filter/ }).fill('change = gone');
  await page.keyboard.press('Enter');
  const shown = Number((await page.getByRole('button', { name: /^\d+ gone$/ }).textContent())?.split(' ')[0]);
  const pairs = await (async () => {
    await expect.poll(() => copy('Copy the pairs shown as text')).toMatch(/^## Pairs\n/);
    return page.evaluate(() => navigator.clipboard.readText());
  })();
  const lines = pairs.split('\n').filter((line) => line.startsWith('| \\#'));
  expect(lines).toHaveLength(shown);
  for (const line of lines) expect(line).toContain('| gone |');
  await page.keyboard.press('3');
  await expect
    .poll(() => copy('Copy as text: Milestones'))
    .toMatch(/\n\| loaded \| 2\.83 s \| 1\.03 s \| −1\.80 s \|\n/);
  await expect.poll(() => copy('Copy as text: Sums, by kind')).toMatch(/\n\| image \| \d+ \| \d+ \| \S+ \|\n/);
});

test('of thousands of pairs only those on screen are drawn, wherever one scrolls', async ({ page, bodyApp }) => {
  const take = async (name: string, slowerBy: number): Promise<string> => {
    const query = new URLSearchParams({ name, importId: crypto.randomUUID() });
    const answer = await fetch(`${bodyApp.url}api/captures?${query}`, {
      method: 'POST',
      body: captureOf(4000, slowerBy),
    });
    return ((await answer.json()) as { readonly id: string }[])[0]?.id ?? '';
  };
  const [a, b] = [await take('many', 0), await take('many-slower', 40)];
  await page.goto(`${bodyApp.url}compare?a=${a}&b=${b}&order=start`);
  const rows = page.getByRole('tree', { name: 'Pairs of exchanges' }).getByRole('treeitem');
  await rows.first().waitFor({ timeout: 30_000 });
  await expect(rows.first()).toHaveAttribute('aria-setsize', '4000');
  expect(await rows.count()).toBeLessThan(60);
  await page.getByRole('tree', { name: 'Pairs of exchanges' }).evaluate((list) => list.scrollTo({ top: 1e6 }));
  await expect(rows.last()).toHaveAttribute('aria-posinset', '4000');
  expect(await rows.count()).toBeLessThan(60);
});

test('what is not there any more is told, with a way on; nothing bars anyone, by day or night', async ({
  page,
  demo,
  consoleProblems,
}) => {
  const ids = await idsOf(demo.url);
  await page.goto(`${demo.url}compare?a=${ids.get(FIRST)}&b=5e0a52ee-7f93-4d52-9a2c-8e8b61a1f1a1`);
  await expect(page.getByRole('alert')).toContainText('This capture is not on the shelf.');
  await page.getByRole('button', { name: 'Choose others' }).last().click();
  await expect(page.getByRole('button', { name: `${FIRST} on side A` })).toBeVisible();
  consoleProblems.length = 0;
  await openComparison(page, demo.url, FIRST, 'alba-norte-slow-line', '&pair=6-6&dossier');
  await sheet(page).locator('[data-compared-part]').first().waitFor();
  await expectNothingBars(page);
  await page.emulateMedia({ colorScheme: 'dark' });
  await expectNothingBars(page, { isNight: true });
  expect(consoleProblems).toEqual([]);
});
