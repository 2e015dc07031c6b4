import { readFileSync } from 'node:fs';
import type { Locator, Page } from '@playwright/test';
import { textIn } from '../src/core/content';
import type { CaptureCard } from '../src/core/wire';
import { expectNothingBars } from './support/bars';
import { type MadeName, madeCapture, placeOf } from './support/bodies';
import { dropFiles, expect, test } from './support/fixtures';

const section = (page: Page, name: string): Locator =>
  page.getByRole('complementary').getByRole('region', { name, exact: true });

/** Opens the dossier of one of the made exchanges; the first one drops the capture on the shelf, and follows its card. */
async function openMade(page: Page, url: string, name: MadeName): Promise<Locator> {
  const cards = (await (await fetch(`${url}api/captures`)).json()) as CaptureCard[];
  const id = cards.find((card) => card.name === 'made')?.id ?? (await dropMade(page, url));
  await page.goto(`${url}c/${id}/waterfall?exchange=${placeOf(name)}&dossier`);
  await section(page, 'Relations').waitFor();
  return section(page, 'Body');
}

async function dropMade(page: Page, url: string): Promise<string> {
  await page.goto(url);
  await dropFiles(page, [{ name: 'made.har', text: madeCapture() }]);
  await page.locator('[data-capture="made"] a').first().click();
  await page.getByRole('region', { name: 'Brief' }).waitFor();
  return /\/c\/([^/]+)\/brief/.exec(page.url())?.[1] ?? '';
}

const copied = (page: Page): Promise<string> => page.evaluate(() => navigator.clipboard.readText());
const read = (body: Locator, reading: string): Promise<void> =>
  body.getByRole('group', { name: 'Reading' }).first().getByRole('button', { name: reading, exact: true }).click();

test.beforeEach(({ context }) => context.grantPermissions(['clipboard-read', 'clipboard-write']));
/** Nothing that was captured ever ran. */
test.afterEach(async ({ page }) => {
  expect(await page.evaluate(() => (globalThis as { hurt?: number }).hurt)).toBeUndefined();
});

test('JSON is a tree: walked by key, searched, its paths and values copied', async ({ page, bodyApp }) => {
  const body = await openMade(page, bodyApp.url, 'json');
  const tree = body.getByRole('tree', { name: 'JSON' });
  await tree.focus();
  for (const key of ['ArrowDown', 'ArrowRight', 'ArrowRight', 'ArrowDown', 'ArrowDown']) {
    await page.keyboard.press(key);
  }
  await expect(body.locator('[data-json-path]')).toHaveText('$.huts[0].beds');
  await body.getByRole('button', { name: 'Copy the path for Python' }).click();
  await expect.poll(() => copied(page)).toBe('data["huts"][0]["beds"]');
  await body.getByRole('button', { name: 'Copy the value' }).click({ modifiers: ['Shift'] });
  await expect.poll(() => copied(page)).toBe('beds: 0');

  await body.getByRole('searchbox', { name: 'Search this JSON' }).fill('NEEDLE');
  await expect(body).toContainText('1, Enter for the first');
  await page.keyboard.press('Enter');
  await expect(body.locator('[data-json-path]')).toHaveText('$.huts[33].note');
  await expect(tree.getByText('the needle in the hay')).toBeInViewport();

  await body.getByRole('button', { name: 'fold all', exact: true }).click();
  await expect(tree.getByRole('treeitem')).toHaveCount(3);
  // The raw text is a key away, and so is the way back.
  await page.keyboard.press('b');
  await expect(body.locator('[data-code]')).toContainText('{"huts":[{"name":"Hut 0"');
  await page.keyboard.press('b');
  await expect(tree).toBeVisible();
});

test('an array of objects is a table: sorted, and exported as CSV', async ({ page, bodyApp }) => {
  const body = await openMade(page, bodyApp.url, 'json');
  await read(body, 'table');
  await expect(body.getByRole('combobox', { name: 'Which array' })).toHaveText('$.huts (40 rows)');
  await body.getByRole('button', { name: 'beds' }).click();
  await body.getByRole('button', { name: /^beds/ }).click();
  await expect(body.getByRole('columnheader', { name: /beds/ })).toHaveAttribute('aria-sort', 'descending');
  await expect(body.getByRole('row').nth(1)).toContainText('12');
  await body.getByRole('button', { name: 'Copy the table as CSV' }).click();
  await expect
    .poll(async () => (await copied(page)).split('\r\n').slice(0, 2))
    .toEqual(['name,beds,at.lat,at.lon,changed,note', 'Hut 11,12,42.11,0.5,1759521600,']);

  await body.getByRole('button', { name: 'Generate code for this table' }).click();
  await expect(page.getByLabel('Loop: list at')).toHaveValue('$.huts');
  await expect(page.locator('[data-output]')).toContainText('def cell:');
});

test('a table has the columns that are chosen, its nested lists opened, and a byte order mark where asked', async ({
  page,
  bodyApp,
}) => {
  const body = await openMade(page, bodyApp.url, 'nested');
  await read(body, 'table');
  const table = body.getByRole('region', { name: 'Table' });
  const heads = table.getByRole('columnheader');
  await expect(heads).toHaveText(['row', 'hut', 'nights', 'beds']);
  await body.getByRole('combobox', { name: /row for each/ }).selectOption('nights');
  await expect(heads).toHaveText(['row', 'hut', 'nights.on', 'nights.price', 'beds']);
  await table.getByRole('button', { name: 'nights.price' }).click();
  // By keys: the summary opens, and one stop further arrows go from column to column.
  await body.getByText('4 columns').focus();
  await page.keyboard.press('Enter');
  await page.keyboard.press('Tab');
  await page.keyboard.press('Tab');
  await page.keyboard.press('Tab');
  await expect(body.getByRole('checkbox', { name: 'hut' })).toBeFocused();
  await page.keyboard.press('End');
  await page.keyboard.press('Space');
  await expect(body.getByText('3 of 4 columns')).toBeVisible();
  await expectNothingBars(page);
  const saved = async (): Promise<string> => {
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      body.getByRole('button', { name: 'save as CSV' }).click(),
    ]);
    return readFileSync(await download.path(), 'utf8');
  };
  const csv = 'hut,nights.on,nights.price\r\nPeña Ártica,Tue,31\r\nPeña Ártica,Mon,34\r\nBrisa Alta,Mon,40\r\n';
  expect(await saved()).toBe(csv);
  await body.getByRole('checkbox', { name: /byte order mark/ }).check();
  expect(await saved()).toBe(`\ufeff${csv}`);
  await expect(body.getByRole('button', { name: 'save as CSV' })).toBeFocused();
});

test('an instant in a value is told in the zone shown', async ({ page, bodyApp }) => {
  const body = await openMade(page, bodyApp.url, 'json');
  await body.getByRole('searchbox').fill('1759482000');
  await page.keyboard.press('Enter');
  await expect(body.locator('[data-unfolded]')).toContainText(/As seconds since 1970: .*2025.* before this exchange/);
});

test('code is coloured, and formatted where it was squeezed', async ({ page, bodyApp }) => {
  const body = await openMade(page, bodyApp.url, 'script');
  await expect(body.locator('[data-code]')).toContainText('const free=e=>{let n=0');
  await read(body, 'formatted');
  await expect(body.locator('[data-code]')).toContainText('for (const b of e.beds)');
  const lines = await body.locator('[data-code] .cm-line').count();
  expect(lines).toBeGreaterThan(4);
});

test('a page’s picture runs nothing', async ({ page, bodyApp }) => {
  const body = await openMade(page, bodyApp.url, 'page');
  await read(body, 'picture');
  const frame = body.frameLocator('iframe');
  await expect(frame.getByRole('heading', { name: 'Alba Norte' })).toBeVisible();
  await frame.getByText('beds').click();
  await expect(body.locator('iframe')).toHaveAttribute('sandbox', '');
});

test('fonts, sound, documents and bytes each have their reading', async ({ page, bodyApp }) => {
  const font = await openMade(page, bodyApp.url, 'font');
  await expect(font.locator('[data-specimen]')).toContainText('quacking zephyrs');
  await expect(font).toContainText(/Overland.*, \d+ characters/);
  const sound = await openMade(page, bodyApp.url, 'sound');
  await expect(sound).toContainText('Duration 1 s.');
  const pdf = await openMade(page, bodyApp.url, 'pdf');
  await expect(pdf).toContainText('page 1 of 1');
  await expect(pdf.getByRole('img', { name: 'Page 1' })).toHaveAttribute('width', /4\d\d/);
  const bytes = await openMade(page, bodyApp.url, 'bytes');
  await expect(bytes.getByRole('region', { name: 'Bytes' })).toContainText(/00000000\s*00 01 02 41 42 ff\s*···AB·/);
});

test('streams are read one by one, deferred responses are merged', async ({ page, bodyApp }) => {
  const lines = await openMade(page, bodyApp.url, 'lines');
  await lines.getByRole('searchbox', { name: 'Filter the lines by text' }).fill('alba');
  await expect(lines.locator('[data-records]')).toContainText('1 of 2 lines');
  await lines.getByRole('button', { name: /#1/ }).click();
  await expect(lines.getByRole('tree', { name: 'JSON' })).toContainText('"warn"');
  const events = await openMade(page, bodyApp.url, 'events');
  await events.getByRole('button', { name: /#0 beds/ }).click();
  await expect(events).toContainText('event #0, id 7');
  const mixed = await openMade(page, bodyApp.url, 'mixed');
  await expect(mixed.locator('[data-part]')).toHaveCount(2);
  await read(mixed, 'merged');
  await expect(mixed).toContainText('2 parts merged into the whole response');
  await expect(mixed.getByRole('tree', { name: 'JSON' })).toContainText('beds24');
});

test('hostile bodies are shown as what they are', async ({ page, bodyApp }) => {
  const damaged = await openMade(page, bodyApp.url, 'damaged');
  await expect(damaged.getByRole('alert')).toHaveText(
    'The JSON is damaged at line 1, character 34 of the text: a value was expected there. What came before is shown.',
  );
  await expect(damaged.getByRole('tree')).toContainText('"Alba"');
  const deep = await openMade(page, bodyApp.url, 'deep');
  await deep.getByRole('button', { name: 'unfold all' }).click();
  await deep.getByRole('tree').focus();
  await page.keyboard.press('End');
  await expect(deep.locator('[data-json-path]')).toHaveText(/^\$\[0\].* … .*\[0\]$/);
  const line = await openMade(page, bodyApp.url, 'line');
  await expect(line.locator('[data-code]')).toContainText('var a="xxxx');
  await line.getByRole('button', { name: /Show all 400 kB/ }).click();
  await expect(line.locator('[data-code] .cm-editor')).toBeVisible();
  const markup = await openMade(page, bodyApp.url, 'markup');
  await expect(markup.getByRole('tree')).toContainText('"<script>top.hurt=1</script>"');
  const bomb = await openMade(page, bodyApp.url, 'bomb');
  await expect(bomb.getByRole('region', { name: 'Bytes' })).toContainText('1f 8b');
  const font = await openMade(page, bodyApp.url, 'brokenFont');
  await expect(font.getByRole('alert')).toContainText('The browser refuses this font');
  const image = await openMade(page, bodyApp.url, 'brokenImage');
  await expect(image).toContainText('The browser cannot draw this image');
  const svg = await openMade(page, bodyApp.url, 'svg');
  await expect(svg).toContainText('40 by 20 pixels');
});

test('a payload is told by its fields and parts, an address by its own', async ({ page, bodyApp }) => {
  await openMade(page, bodyApp.url, 'upload');
  const payload = section(page, 'Payload');
  await expect(payload.locator('[data-part]')).toHaveCount(2);
  await expect(payload.locator('[data-part]').nth(1)).toContainText(/list\s*file beds\.json\s*application\/json, 14 B/);
  await expect(payload.getByRole('tree', { name: 'JSON' })).toContainText('beds');
  await openMade(page, bodyApp.url, 'form');
  await expect(payload).toContainText(/guest\s*Ana B/);
  await page.keyboard.press('p');
  await expect(payload.locator('[data-code]')).toContainText('guest=Ana+B&back=');
  const request = section(page, 'Request');
  await expect(request).toContainText(/port\s*8443/);
  await expect(request).toContainText(/day\s*1759482000.*1 of 2 named day/);
  await expect(request).toContainText(/bare\s*emptyno value|no value/);
  await expect(request).toContainText(/fragment\s*top/);
  await request.getByRole('button', { name: 'Copy day' }).first().focus();
  await page.keyboard.press('Enter');
  await expect.poll(() => copied(page)).toBe('1759482000');
});

test('every reading can be used by anyone', async ({ page, bodyApp }) => {
  for (const [name, reading] of [
    ['json', 'table'],
    ['script', 'source'],
    ['mixed', 'parts'],
    ['lines', 'one by one'],
  ] as const) {
    const body = await openMade(page, bodyApp.url, name);
    await read(body, reading);
    await test.step(name, () => expectNothingBars(page, { within: 'aside' }));
  }
});

/** The encodings of WHATWG Encoding 4.2 that browsers decode, but for UTF-8. */
const OLDER = (
  'ibm866 iso-8859-2 iso-8859-3 iso-8859-4 iso-8859-5 iso-8859-6 iso-8859-7 iso-8859-8 iso-8859-8-i iso-8859-10 ' +
  'iso-8859-13 iso-8859-14 iso-8859-15 iso-8859-16 koi8-r koi8-u macintosh windows-874 windows-1250 windows-1251 ' +
  'windows-1252 windows-1253 windows-1254 windows-1255 windows-1256 windows-1257 windows-1258 x-mac-cyrillic ' +
  'gbk gb18030 big5 euc-jp iso-2022-jp shift_jis euc-kr utf-16be utf-16le'
).split(' ');

test('the server and the command line read text of older charsets as this browser does', async ({ page }) => {
  // What a byte stands for, alone and with each that may follow; each with a line's end behind it.
  const runs = Array.from({ length: 256 }, (_, first) => [
    ...[first, 0x0a, 0x0a],
    ...Array.from({ length: first < 0x80 ? 0 : 256 - 0x30 }, (__, at) => at + 0x30)
      // Of these four this browser makes half of a character (Big5, WHATWG Encoding 12.1.1).
      .filter((second) => first !== 0x88 || ![0x62, 0x64, 0xa3, 0xa5].includes(second))
      .flatMap((second) => [first, second, 0x0a]),
  ]);
  const inBrowser = await page.evaluate(
    ([encodings, bytes]) =>
      encodings.map((encoding) => bytes.map((run) => new TextDecoder(encoding).decode(Uint8Array.from(run)))),
    [OLDER, runs] as const,
  );
  for (const [at, encoding] of OLDER.entries()) {
    const differing = runs.filter((run, of) => textIn(encoding, Uint8Array.from(run)) !== inBrowser[at]?.[of]);
    expect(
      differing.map(([first]) => first?.toString(16)),
      encoding,
    ).toEqual([]);
  }
});
