import { execFile } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { promisify } from 'node:util';
import { expectNothingBars } from './support/bars';
import { expect, openCapture, test } from './support/fixtures';
import { beginDraft } from './support/sheet';

type Page = import('@playwright/test').Page;
const run = promisify(execFile);
const asked = (page: Page) => page.getByRole('list', { name: 'What was asked' }).locator('[data-asked]');
const stage = (page: Page) => page.getByRole('region', { name: 'The rehearsal' });

async function openRehearsal(page: Page, url: string, capture: string): Promise<void> {
  await openCapture(page, url, capture);
  await page.keyboard.press('g');
  await page.keyboard.press('p');
  await expect(page.getByRole('heading', { name: 'Rehearsal' })).toBeVisible();
}

/** The address for code, once the rehearsal answers. */
async function baseOf(page: Page): Promise<string> {
  const code = stage(page).locator('code', { hasText: '127.0.0.1' });
  return (await code.textContent()) ?? '';
}

test('a rehearsal by keyboard answers as the capture did, and holds each request against the captured one', async ({
  page,
  demo,
}) => {
  await openRehearsal(page, demo.url, 'booking-gone-wrong');
  await expect(page.getByRole('status').filter({ hasText: '37 exchanges' })).toBeVisible();
  await expectNothingBars(page);
  await page.keyboard.press('Shift+Enter');
  await expect(stage(page)).toContainText('nothing was asked yet.');
  const base = await baseOf(page);
  const found = await run('curl', ['-s', '-H', 'x-mine: 1', `${base}/search?q=alba`]);
  expect(found.stdout).toContain('Alba Norte');
  await run('curl', ['-s', '-X', 'GET', '-d', 'pärt', `${base}/search?q=nothing-like-it`]);
  await expect(asked(page)).toHaveCount(2);
  await expect(stage(page)).toContainText('2 requests, 1 of them not captured.');
  await expect(asked(page).first()).toContainText('#16');

  await asked(page).first().click();
  const sheet = page.getByRole('region', { name: 'Request 1' });
  await expect(sheet.getByRole('table', { name: 'What differs', exact: true })).toContainText('x-mine');
  await sheet.getByText('As it arrived, byte for byte').click();
  await expect(sheet.locator('pre')).toContainText('GET /search?q=alba HTTP/1.1');
  await expectNothingBars(page);
  // The next by the arrows, as in every list.
  await asked(page).first().focus();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('region', { name: 'Request 2' })).toContainText(
    'its parameter "q" is al, not nothing-like-it',
  );
  // What was opened of the one before is open.
  await expect(page.getByText('of head and 5 bytes of payload')).toBeVisible();
  await expect(page.getByRole('region', { name: 'Bytes of the payload' })).toContainText('70 c3 a4 72 74');

  // It is there again behind its address, and told of on the shelf.
  await page.reload();
  await expect(page.getByRole('region', { name: 'Request 2' })).toBeVisible();
  await page.goto(demo.url);
  await expect(page.locator('[data-capture="booking-gone-wrong"]')).toContainText('Rehearsed at port');
  await page.goBack();
  await expect(stage(page)).toBeVisible();
  await page.keyboard.press('q');
  await expect(stage(page)).toContainText('Stopped: 2 requests');
  await page.getByRole('button', { name: 'Open as a capture' }).click();
  await expect(page.locator('[data-strip]').first()).toBeVisible();
  await page.goBack();
  await stage(page).getByRole('button', { name: 'Delete' }).click();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(stage(page)).toContainText('Stopped: 2 requests');
  await stage(page).getByRole('button', { name: 'Delete' }).click();
  await expect(page.getByRole('form', { name: 'A rehearsal' })).toBeVisible();
});

test('what is typed before the kept changes are there is typed beside them', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-fixed-release');
  const id = /\/c\/([^/]+)/.exec(page.url())?.[1];
  const address = `${demo.url}api/captures/${id}/variants`;
  const kept = { id: randomUUID(), name: 'kept before', changes: [] };
  expect((await page.request.put(address, { data: { variants: [kept] } })).ok()).toBe(true);
  let answer: (() => void) | undefined;
  await page.route(address, async (route) => {
    if (route.request().method() === 'GET') await new Promise<void>((resolve) => (answer = resolve));
    await route.continue();
  });
  await page.keyboard.press('g');
  await page.keyboard.press('p');
  const changes = page.getByRole('group', { name: 'Changed responses' });
  await changes.getByRole('button', { name: 'write changes' }).click();
  await changes.getByLabel('Changes, a line each').fill('1 status=503');
  await expect.poll(() => answer).toBeDefined();
  answer?.();
  await expect(changes.getByRole('option', { name: 'kept before' })).toBeAttached();
  await expect(changes.getByLabel('Changes, a line each')).toHaveValue('1 status=503');
  const names = async (): Promise<string[]> =>
    ((await (await page.request.get(address)).json()) as { name: string }[]).map(({ name }) => name);
  await expect.poll(names).toEqual(['kept before', 'Changes 1']);
  await page.request.put(address, { data: { variants: [] } });
});

test('the captured page opens from it, with a response changed', async ({ page, demo, context }) => {
  await openCapture(page, demo.url, 'alba-norte-fixed-release');
  await page.keyboard.press('g');
  await page.keyboard.press('p');
  await expect(page.getByRole('heading', { name: 'Rehearsal' })).toBeVisible();
  const changes = page.getByRole('group', { name: 'Changed responses' });
  await changes.getByRole('button', { name: 'write changes' }).click();
  await changes.getByLabel('Changes, a line each').fill('1 status=nothing');
  await expect(page.getByRole('form', { name: 'A rehearsal' })).toContainText('"nothing" is no status');
  await expect(page.getByRole('button', { name: /^Begin/ })).toBeDisabled();
  await changes.getByLabel('Changes, a line each').fill('2 body=<h1>Changed for a rehearsal</h1>');
  await changes.getByLabel('Name of the changes').fill('another page');
  await page.getByLabel('Times').selectOption('0');
  await page.getByRole('button', { name: /^Begin/ }).click();
  const link = stage(page).getByRole('link');
  await expect(link).toBeVisible();
  const site = await context.newPage();
  await site.goto((await link.getAttribute('href')) ?? '');
  await expect(site.locator('h1')).toHaveText('Changed for a rehearsal');
  await site.close();
  await expect(asked(page).filter({ hasText: '#2' })).toHaveCount(1);

  // Kept with the capture, also where the page is left before the typing rested, and taken away again.
  const chooseAgain = async (name: string): Promise<void> => {
    await page.reload();
    await expect(stage(page)).toBeVisible();
    await page.keyboard.press('Shift+N');
    await changes.getByLabel('Changed responses').selectOption({ label: name });
  };
  await chooseAgain('another page');
  await changes.getByLabel('Name of the changes').fill('a page of ours');
  await chooseAgain('a page of ours');
  await expect(changes.getByLabel('Changes, a line each')).toHaveValue('2 body=<h1>Changed for a rehearsal</h1>');
  await changes.getByRole('button', { name: 'Delete' }).click();
  await stage(page).getByRole('button', { name: 'Delete' }).click();
});

test('a server that is away is told of, and nothing is said to be done that was not', async ({ page, demo }) => {
  await openRehearsal(page, demo.url, 'booking-gone-wrong');
  await page.keyboard.press('Shift+Enter');
  await run('curl', ['-s', `${await baseOf(page)}/search?q=alba`]);
  await expect(asked(page)).toHaveCount(1);
  await page.route('**/api/captures/*/rehearsals**', (route) => route.abort());
  await page.route('**/api/captures/*/rehearsals/**', (route) => route.abort());
  await expect(stage(page).getByRole('alert')).toContainText('Trazado does not respond');
  await expect(stage(page)).toContainText('when last heard of: 1 request');
  await stage(page).getByRole('button', { name: 'Delete' }).click();
  await expect(page.getByText('Trazado does not respond')).toHaveCount(2);
  await expect(page.getByText('Stopped and deleted')).toHaveCount(0);
  await expect(asked(page)).toHaveCount(1);
  await page.unrouteAll();
  await expect(stage(page)).toContainText('Answering at port');
  await expect(stage(page).getByRole('alert')).toHaveCount(0);
  await stage(page).getByRole('button', { name: 'Delete' }).click();
  await expect(page.getByRole('form', { name: 'A rehearsal' })).toBeVisible();
});

test('code is tried in a rehearsal beside the draft', async ({ page, demo, context }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await openCapture(page, demo.url, 'booking-gone-wrong');
  await beginDraft(page, 16);
  await page.keyboard.press('Shift+Y');
  await page.getByRole('button', { name: 'Begin a rehearsal' }).click();
  await page.getByRole('button', { name: 'Copy it for the rehearsal' }).click();
  const command = await page.evaluate(() => navigator.clipboard.readText());
  expect(command).toMatch(/^curl 'http:\/\/127\.0\.0\.1:\d+\/search\?q=alba'/);
  await run('sh', ['-c', command]);
  const arrived = page.getByRole('list', { name: 'What arrived' });
  await expect(arrived.getByRole('listitem')).toHaveCount(1);
  await expect(arrived).toContainText('As captured, but for');
  await arrived.getByRole('button', { name: 'part by part' }).click();
  await expect(page.getByRole('region', { name: 'Request 1' })).toContainText('Taken for #16');
  await stage(page).getByRole('button', { name: 'Delete' }).click();
});

test('the rehearsal view has no accessibility faults that can be found by machine', async ({ page, demo }) => {
  await openRehearsal(page, demo.url, 'booking-gone-wrong');
  await page.keyboard.press('Shift+Enter');
  await run('curl', ['-s', `${await baseOf(page)}/search?q=alba`]);
  await asked(page).first().click();
  await expectNothingBars(page);
  await stage(page).getByRole('button', { name: 'Delete' }).click();
});

test('changes that were deleted come back beside what was written since', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-slow-line');
  await page.keyboard.press('g');
  await page.keyboard.press('p');
  const changes = page.getByRole('group', { name: 'Changed responses' });
  const write = async (name: string): Promise<void> => {
    await changes.getByRole('combobox', { name: 'Changed responses' }).selectOption('nothing');
    await changes.getByRole('button', { name: 'write changes' }).click();
    await changes.getByLabel('Name of the changes').fill(name);
  };
  await write('first');
  await write('second');
  await changes.getByRole('combobox', { name: 'Changed responses' }).selectOption('first');
  await changes.getByRole('button', { name: 'Delete' }).click();
  await changes.getByRole('combobox', { name: 'Changed responses' }).selectOption('second');
  await changes.getByLabel('Changes, a line each').fill('2 status=503');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(changes.getByRole('combobox').getByRole('option', { name: 'first' })).toBeAttached();
  await expect(changes.getByLabel('Changes, a line each')).toHaveValue('2 status=503');
});
