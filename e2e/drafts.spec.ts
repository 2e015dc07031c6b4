import { expectNothingBars } from './support/bars';
import { expect, openCapture, test } from './support/fixtures';
import { beginDraft, clickLine, lineOf, sheetOf } from './support/sheet';

type Page = import('@playwright/test').Page;
const output = (page: Page) => page.locator('[data-output]');
const sheet = sheetOf;
const line = lineOf;
const below = (page: Page) => page.locator('[data-sheet] + div');
/** Gives the keys to the view, as Escape on the sheet does. */
const leave = (page: Page) => page.locator('[data-home]').focus();

async function draftOf(page: Page, url: string, exchange: number): Promise<void> {
  await openCapture(page, url, 'booking-gone-wrong');
  await beginDraft(page, exchange);
}

/** Puts the cursor into a line, the keys with the view. */
async function goToLine(page: Page, text: string): Promise<void> {
  await clickLine(page, text);
  await page.keyboard.press('Escape');
}

test('a variable is named, and kept secret, by the line that it is taken from, however fast the keys come', async ({
  page,
  demo,
}) => {
  await draftOf(page, demo.url, 17);
  await clickLine(page, '/holds');
  // All in one go: nothing is drawn between the way to the line and the key.
  const isThere = await page.evaluate(() => {
    const root = document.querySelector('[data-sheet]')?.shadowRoot;
    const press = (init: KeyboardEventInit) =>
      root?.querySelector('.cm-content')?.dispatchEvent(new KeyboardEvent('keydown', { bubbles: true, ...init }));
    const isOn = () => root?.querySelector('.cm-activeLine')?.textContent?.startsWith('authorization') === true;
    for (let count = 0; count < 40 && !isOn(); count++) press({ key: 'ArrowDown', keyCode: 40 });
    press({ key: 'v', altKey: true, keyCode: 86 });
    return isOn();
  });
  expect(isThere).toBe(true);
  await expect(output(page)).toContainText('$REQ_TOKEN');
  await expect(output(page)).not.toContainText('eyJ');
});

test('a draft is made by key, edited where it stands, undone, and kept with its capture', async ({ page, demo }) => {
  await draftOf(page, demo.url, 17);
  await expect(page).toHaveURL(/\/drafts\?.*draft=/);
  await expect(output(page)).toContainText('https://api.cumbrera.example/holds');

  await clickLine(page, '/holds');
  await page.keyboard.press('End');
  await page.keyboard.type('/again');
  await expect(output(page)).toContainText('/holds/again');
  await expect(line(page, '/holds/again')).toContainText('was /holds');
  await expect(page.getByText('changed in 1 place')).toBeVisible();

  await page.getByRole('button', { name: 'lean', exact: true }).click();
  await expect(output(page)).not.toContainText('sec-fetch-mode');
  await expect(line(page, 'sec-fetch-mode')).toHaveClass(/cm-struck/);
  await page.getByLabel('Name of the draft').fill('the hold, once more');

  await goToLine(page, 'authorization');
  await page.keyboard.press('b');
  await expect(output(page)).toContainText('$REQ_TOKEN');
  await expect(output(page)).not.toContainText('eyJ');
  await expect(line(page, 'authorization').locator('.cm-slot')).toHaveText('token');
  await expect(page.getByLabel('Value of the variable token')).toHaveAttribute('type', 'password');

  await clickLine(page, 'POST https');
  await page.keyboard.press('Home');
  await page.keyboard.press('Delete');
  await page.keyboard.press('Delete');
  await page.keyboard.type('PU');
  await page.keyboard.press('Delete');
  await expect(output(page)).toContainText(/-X PUT/);
  // At once, before typing has rested: nothing is lost by it.
  await page.reload();
  await expect(page.getByLabel('Name of the draft')).toHaveValue('the hold, once more');
  await expect(output(page)).toContainText(/-X PUT/);
  await expect(line(page, 'sec-fetch-mode')).toHaveClass(/cm-struck/);

  // What was changed is told once the draft is held against its exchange: the buttons beside it stand still from then on.
  await expect(page.getByText('changed in 3 places, 9 lines left out')).toBeVisible();
  await page.getByRole('button', { name: 'Delete', exact: true }).first().click();
  await page.getByRole('button', { name: 'Undo', exact: true }).last().click();
  await expect(page.getByLabel('Name of the draft')).toHaveValue('the hold, once more');
});

test('lines are left out and restored by key and by click, one by one and by groups, and undone after a reload', async ({
  page,
  demo,
}) => {
  await draftOf(page, demo.url, 17);
  await goToLine(page, 'accept-language');
  await page.keyboard.press('x');
  await expect(line(page, 'accept-language')).toHaveClass(/cm-struck/);
  await expect(output(page)).not.toContainText('accept-language');
  await expect(below(page)).toContainText('left out');
  await page.keyboard.press('x');
  await expect(output(page)).toContainText('accept-language');

  await page.locator('[data-sheet] .cm-bracket').filter({ hasText: 'only browsers add it' }).first().click();
  await expect(output(page)).not.toContainText('sec-fetch-site');
  await goToLine(page, 'sec-fetch-dest');
  await page.keyboard.press('Shift+X');
  await expect(output(page)).toContainText('sec-fetch-site');

  await page.locator('[data-sheet] .cm-lineNumbers .cm-gutterElement').filter({ hasText: /^2$/ }).click();
  await expect(output(page)).toContainText('/holds');
  // A member of the payload, with the comma that parts it from the others.
  await goToLine(page, '"nights"');
  await page.keyboard.press('x');
  await expect(output(page)).toContainText('{"hut":"alba-norte","note"');

  // What is kept of the undo is kept once typing rests.
  await page.waitForFunction(() => Object.keys(sessionStorage).some((key) => key.startsWith('sheet of ')));
  await page.waitForTimeout(700);
  await page.reload();
  await expect(line(page, '"nights"')).toHaveClass(/cm-struck/);
  await leave(page);
  await page.keyboard.press('u');
  await expect(output(page)).toContainText('"nights":');
});

test('what is wrong is said as one types, names are completed, and the payload is laid out as what it is', async ({
  page,
  demo,
}) => {
  await draftOf(page, demo.url, 17);
  await sheet(page).focus();
  await page.keyboard.press('Control+End');
  await page.keyboard.type('x');
  await expect(page.getByRole('list', { name: 'What is wrong on the sheet' })).toContainText('Not JSON');
  await page.keyboard.press('Backspace');
  await expect(page.getByRole('list', { name: 'What is wrong on the sheet' })).toHaveCount(0);

  await clickLine(page, 'accept: ');
  await page.keyboard.press('Home');
  await page.keyboard.type('x-cumb');
  await expect(page.locator('[data-sheet] .cm-tooltip-autocomplete')).toContainText('x-cumbrera-client');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+z');
  await expect(line(page, 'x-cumbaccept')).toHaveCount(0);

  await page.getByLabel('How the payload is written').selectOption('fields');
  await expect(output(page)).toContainText('x-www-form-urlencoded');
  await page.getByLabel('How the payload is written').selectOption('parts');
  await expect(output(page)).toContainText('--form-string name=value');
  await page.getByLabel('A file as the payload').setInputFiles({
    name: 'ridge.bin',
    mimeType: 'application/octet-stream',
    buffer: Buffer.from([0, 255, 0]),
  });
  await expect(sheet(page)).toContainText('[attached: 3 B');
});

test('what is typed while a file is read stays, and a file that cannot be read is told of', async ({ page, demo }) => {
  await draftOf(page, demo.url, 17);
  const file = { name: 'ridge.bin', mimeType: 'application/octet-stream', buffer: Buffer.from([0, 255, 0]) };
  // A large file, as it were.
  await page.evaluate(() => {
    const read = Blob.prototype.arrayBuffer;
    Blob.prototype.arrayBuffer = async function slowly() {
      await new Promise((resolve) => setTimeout(resolve, 1500));
      return read.call(this);
    };
  });
  await clickLine(page, '/holds');
  await page.getByLabel('A file as the payload').setInputFiles(file);
  await sheet(page).focus();
  await page.keyboard.press('Control+Home');
  await page.keyboard.press('End');
  await page.keyboard.type('/again');
  await expect(sheet(page)).toContainText('[attached: 3 B');
  await expect(output(page)).toContainText('cumbrera.example/again/holds');

  await page.evaluate(() => {
    Blob.prototype.arrayBuffer = () => Promise.reject(new DOMException('gone', 'NotReadableError'));
  });
  await page.getByLabel('A file as the payload').setInputFiles(file);
  await expect(page.getByRole('status').filter({ hasText: 'The file cannot be read' })).toBeVisible();
});

test('a variable is one for all drafts, called otherwise, filled in, and put back', async ({ page, demo }) => {
  await draftOf(page, demo.url, 17);
  await goToLine(page, '"hut"');
  await page.keyboard.press('b');
  await expect(line(page, '"hut"').locator('.cm-slot')).toHaveText('hut');
  const first = await page.getByLabel('Name of the draft').inputValue();
  await page.getByRole('button', { name: 'Duplicate' }).click();
  await expect(page.getByLabel('Name of the draft')).toHaveValue(/copy/);
  await page.getByLabel('Name of the variable hut').fill('place');
  await page.getByLabel('Name of the variable hut').press('Enter');
  await page.getByLabel('Value of the variable place').fill('jara');
  await expect(line(page, '"hut"').locator('.cm-slot')).toHaveText('place');
  await expect(output(page)).toContainText('jara');
  await page.getByLabel('Draft', { exact: true }).selectOption({ label: first });
  await clickLine(page, '"hut"');
  await expect(line(page, '"hut"').locator('.cm-slot')).toHaveText('place');
  await expect(output(page)).toContainText('jara');
  await page.getByRole('button', { name: 'Put the value of place back in its place' }).click();
  await expect(line(page, '"hut": "jara"')).toBeVisible();
  await expect(page.getByLabel('Name of the variable place')).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo', exact: true }).last().click();
  await expect(line(page, '"hut"').locator('.cm-slot')).toHaveText('place');
  await expect(page.getByLabel('Value of the variable place')).toHaveValue('jara');
});

test('two pages that make variables of one capture lose none of each other', async ({ page, demo }) => {
  await draftOf(page, demo.url, 17);
  const other = await page.context().newPage();
  await other.goto(page.url());
  await expect(line(other, '"hut"')).toBeVisible();
  for (const [one, member] of [
    [page, 'hut'],
    [other, 'nights'],
  ] as const) {
    await goToLine(one, `"${member}"`);
    await one.keyboard.press('b');
    await expect(one.getByLabel(`Name of the variable ${member}`)).toBeVisible();
  }
  // What the other one set is here with the answer to what this one sets.
  await expect(other.getByLabel('Name of the variable hut')).toBeVisible();
  await page.reload();
  for (const member of ['hut', 'nights']) await expect(page.getByLabel(`Name of the variable ${member}`)).toBeVisible();
});

test('favourites are on keys', async ({ page, demo, context }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await draftOf(page, demo.url, 17);
  await leave(page);
  await page.keyboard.press('3');
  await expect(output(page)).toContainText("'hut': 'alba-norte'");
  await page.keyboard.press('y');
  await expect.poll(() => page.evaluate(() => navigator.clipboard.readText())).toContain('requests.post(');

  await page.getByLabel('Output format').selectOption('go');
  const written = page.waitForResponse((answer) => answer.request().method() === 'PUT');
  await page.getByRole('button', { name: 'add to favourites' }).click();
  await written;
  await page.reload();
  await expect(output(page)).toContainText('curl ');
  await expect(page.getByRole('list', { name: 'Favourite targets' }).getByRole('listitem')).toHaveCount(4);
  await leave(page);
  await page.keyboard.press('4');
  await expect(output(page)).toContainText('package main');
  await page.getByRole('button', { name: 'remove from favourites' }).click();
  await expect(page.getByRole('list', { name: 'Favourite targets' }).getByRole('listitem')).toHaveCount(3);
  // It stays chosen: what is looked at does not change by it.
  await expect(output(page)).toContainText('package main');
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
  await expect(line(page, "X-A: it's")).toBeVisible();

  await page.getByLabel('What it does').selectOption('pages');
  await page.getByLabel('Loop: list at').fill('$.data[');
  await expect(page.getByRole('region', { name: 'Drafts' })).toContainText('The list is a place like $.items.');
  await page.getByLabel('Loop: list at').fill('$.data');
  await expect(output(page)).toContainText('REQ_PAGE=0');
  await page.getByLabel('Output format').selectOption('ruby');
  await expect(page.getByRole('region', { name: 'Drafts' })).toContainText('choose one of these');
});
test('a parameter that counts begins a loop over it, with its list and its end, which stays with its draft', async ({
  page,
  demo,
  context,
}) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
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
  // Of a long script only what is on screen is drawn: it is copied to be read.
  await expect
    .poll(async () => {
      await page.getByRole('button', { name: /^Copy/ }).first().click();
      return page.evaluate(() => navigator.clipboard.readText());
    })
    .toContain('sleep 0.75');
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
