import { readFileSync } from 'node:fs';
import type { Download } from '@playwright/test';
import { strToU8, zipSync } from 'fflate';
import { dropFiles, expect, stripsOf, test } from './support/fixtures';

const BOOKING = readFileSync('demo/captures/booking-gone-wrong.har', 'utf8');
/** The same capture in other bytes, so that it is another file. */
const variant = (mark: string): string => BOOKING.replace('"version":"1.2"', `"version":"1.2","comment":"${mark}"`);

test('a second drop of the same file offers the one that is there', async ({ page, emptyApp }) => {
  await page.goto(emptyApp.url);
  await dropFiles(page, [{ name: 'once.har', text: variant('once') }]);
  const card = page.locator('[data-capture="once"]');
  await expect(card).toBeVisible();
  // Said once the bodies are read, without a reload.
  await expect(card).toContainText(
    'of the first load went to waiting for www.cumbrera.example to respond, most of it for /book/alba-norte (#0).',
  );
  await dropFiles(page, [{ name: 'again.har', text: variant('once') }]);
  await expect(page.getByText('Already imported as "once".')).toBeVisible();
  await expect(page.locator('[data-capture="again"]')).toHaveCount(0);
  await page.locator('[data-result="duplicate"]').getByRole('link', { name: 'Open', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'once', exact: true })).toBeVisible();
});

for (const { what, text, says } of [
  { what: 'an empty file', text: '', says: 'The file is empty' },
  { what: 'a picture', text: 'GIF89a', says: 'The file is a picture, not a capture.' },
  { what: 'JSON that is no capture', text: '{"dependencies":{}}', says: 'log should be an object, and is missing.' },
  { what: 'a file cut off too early', text: BOOKING.slice(0, 900), says: 'The file is cut off at byte 900' },
]) {
  test(`${what} is refused with one sentence, and the shelf stays as it was`, async ({ page, emptyApp }) => {
    await page.goto(emptyApp.url);
    await dropFiles(page, [{ name: 'bad file.har', text }]);
    const message = page.locator('[data-upload="failed"]');
    await expect(message).toContainText(says);
    await expect(page.locator('[data-capture="bad file"]')).toHaveCount(0);
    await message.getByRole('button').click();
    await expect(message).toHaveCount(0);
  });
}

test('a file that is cut off later is kept, and its card says what is missing', async ({ page, emptyApp }) => {
  await page.goto(emptyApp.url);
  await dropFiles(page, [{ name: 'half.har', text: variant('half').slice(0, 50_000) }]);
  await expect(page.locator('[data-capture="half"]')).toContainText(
    /The file is cut off at byte 50,0\d\d; the \d+ exchanges before that were kept/,
  );
});

test('text of a capture can be pasted, and a file can be chosen', async ({ page, emptyApp }) => {
  await page.goto(emptyApp.url);
  await page.waitForLoadState('networkidle');
  // Long before the key: keys overtake the order to listen on a busy machine.
  const chooser = page.waitForEvent('filechooser', { timeout: 60_000 });
  await page.evaluate((text) => {
    const clipboardData = new DataTransfer();
    clipboardData.setData('text/plain', text);
    document.body.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true }));
  }, variant('pasted'));
  await expect(page.locator('[data-capture="pasted capture"]')).toBeVisible();
  await page.keyboard.press('o');
  await (await chooser).setFiles({
    name: 'chosen.har',
    mimeType: 'application/json',
    buffer: Buffer.from(variant('chosen')),
  });
  await expect(page.locator('[data-capture="chosen"]')).toBeVisible();
});

test('cards can be renamed, noted, searched and ordered, and the address keeps the search', async ({
  page,
  emptyApp,
}) => {
  await page.goto(emptyApp.url);
  await dropFiles(page, [
    { name: 'aa.har', text: variant('aa') },
    { name: 'bb.har', text: variant('bb') },
  ]);
  // A card that comes moves those below it away from under the pointer.
  for (const name of ['aa', 'bb']) await expect(page.getByText(`"${name}" was imported.`)).toBeVisible();
  await page.getByRole('button', { name: 'Rename aa' }).click();
  await page.getByLabel('Name of aa').fill('zz renamed');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Write a note on zz renamed' }).click();
  await page.getByRole('textbox', { name: 'Note on zz renamed' }).fill('asked by Ilse');
  await page.keyboard.press('Enter');
  await expect(page.locator('[data-capture="zz renamed"]')).toContainText('asked by Ilse');
  await page.getByRole('button', { name: 'Rename bb' }).click();
  await page.getByLabel('Name of bb').fill('never');
  await page.keyboard.press('Escape');
  await page.keyboard.press('/');
  await page.keyboard.type('ilse');
  await expect(page.locator('[data-capture]')).toHaveCount(1);
  await expect(page).toHaveURL(/search=ilse/);
  await page.reload();
  await expect(page.locator('[data-capture]')).toHaveCount(1);
  await page.getByLabel('Search names').fill('');
  await page.getByLabel('Order of the shelf').selectOption('name');
  await expect(page.locator('[data-capture]').last()).toHaveAttribute('data-capture', 'zz renamed');
  await expect(page.locator('[data-capture="bb"]')).toBeVisible();
});

test('a file named in the address waits for a click, then is taken in and opened', async ({ page, emptyApp }) => {
  const path = new URL('../demo/captures/alba-norte-fixed-release.har', import.meta.url).pathname;
  await page.goto(`${emptyApp.url}?open=${encodeURIComponent('/no/such.har')}`);
  await page.getByRole('button', { name: 'Import', exact: true }).click();
  await expect(page.getByRole('alert')).toContainText('/no/such.har cannot be read: there is no such file.');
  await page.goto(`${emptyApp.url}?open=${encodeURIComponent(path)}`);
  await expect(page.locator('[data-capture="alba-norte-fixed-release"]')).toHaveCount(0);
  await page.getByRole('button', { name: 'Import', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'alba-norte-fixed-release' })).toBeVisible();
});

test('a shelf of 500 captures draws only those on screen, and shows the last when scrolled to', async ({
  page,
  demo,
}) => {
  const [card] = (await (await page.request.get(`${demo.url}api/captures`)).json()) as { id: string; name: string }[];
  const many = Array.from({ length: 500 }, (_, at) => ({
    ...card,
    id: `${card?.id}${at}`,
    name: `visit ${at}`,
    importedAt: 500 - at,
  }));
  await page.route('**/api/captures', (route) => route.fulfill({ json: many }));
  await page.goto(demo.url);
  await expect(page.getByText('500 captures')).toBeVisible();
  expect(await page.locator('[data-capture]').count()).toBeLessThan(25);
  await page.locator('[data-capture="visit 3"]').hover();
  await page.mouse.wheel(0, 1_000_000);
  await expect(page.locator('[data-capture="visit 499"]')).toBeVisible();
  await page.getByLabel('Search names').fill('visit 499');
  await expect(page.getByText('1 of 500 captures')).toBeVisible();
});

test('a file on its way shows how far it is, can be cancelled, and leaves nothing behind', async ({
  page,
  emptyApp,
}) => {
  await page.goto(emptyApp.url);
  await page.waitForLoadState('networkidle');
  // The upload is held back, so that there is time to look at it.
  await page.route(
    '**/api/captures?*',
    (route) => new Promise((resolve) => setTimeout(() => resolve(route.abort()), 30_000)),
  );
  await dropFiles(page, [{ name: 'on its way.har', text: variant('on its way') }]);
  const line = page.locator('[data-upload="sending"]');
  await expect(line.getByRole('progressbar')).toBeVisible();
  await line.getByRole('button', { name: 'Cancel on its way' }).click();
  await expect(page.getByRole('region', { name: 'Imports' })).toHaveCount(0);
  await expect(page.locator('[data-capture="on its way"]')).toHaveCount(0);
});

test('deleting can be undone', async ({ page, emptyApp }) => {
  await page.goto(emptyApp.url);
  await dropFiles(page, [{ name: 'to delete.har', text: variant('to delete') }]);
  const card = page.locator('[data-capture="to delete"]');
  await card.getByRole('button', { name: 'Delete to delete' }).click();
  await expect(card).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(card).toBeVisible();
});

test('a zip gives a line for each capture in it, good or bad', async ({ page, emptyApp }) => {
  await page.goto(emptyApp.url);
  await page.waitForLoadState('networkidle');
  const buffer = Buffer.from(zipSync({ 'in zip.har': strToU8(variant('in zip')), 'bad.har': strToU8('{') }));
  await page.getByLabel('HAR files').setInputFiles({ name: 'both.zip', mimeType: 'application/zip', buffer });
  await expect(page.locator('[data-result="imported"]')).toContainText('"in zip" was imported.');
  await expect(page.locator('[data-result="unreadable"]')).toContainText(
    '"bad" could not be imported. The file is cut off at byte 1',
  );
  await expect(page.locator('[data-capture="in zip"]')).toBeVisible();
});

test('a dropped folder gives the captures in it, at any depth', async ({ page, emptyApp }) => {
  await page.goto(emptyApp.url);
  await page.waitForLoadState('networkidle');
  // A drop made by script can carry no folder, so one of the browser's own sandboxed folders stands in for it.
  await page.evaluate(
    async (files) => {
      type Make = (
        kind: number,
        size: number,
        done: (system: FileSystem) => void,
        failed: (error: Error) => void,
      ) => void;
      const { webkitRequestFileSystem } = window as unknown as { webkitRequestFileSystem: Make };
      const { root } = await new Promise<FileSystem>((done, failed) => webkitRequestFileSystem(0, 5e6, done, failed));
      const make = { create: true };
      for (const [path, text] of Object.entries(files)) {
        const steps = path.split('/');
        let folder = root;
        for (const step of steps.slice(0, -1)) {
          folder = await new Promise((done, failed) => {
            folder.getDirectory(step, make, (entry) => done(entry as FileSystemDirectoryEntry), failed);
          });
        }
        const entry = await new Promise<FileSystemEntry>((done, failed) => {
          folder.getFile(steps.at(-1), make, done, failed);
        });
        type Writer = { write: (blob: Blob) => void; onwriteend: () => void };
        const written = entry as unknown as { createWriter: (done: (writer: Writer) => void) => void };
        await new Promise<void>((done) => {
          written.createWriter((writer) => {
            writer.onwriteend = done;
            writer.write(new Blob([text]));
          });
        });
      }
      const dropped = await new Promise<FileSystemEntry>((done, failed) => root.getDirectory('sent', {}, done, failed));
      DataTransferItem.prototype.webkitGetAsEntry = () => dropped;
      const dataTransfer = new DataTransfer();
      dataTransfer.items.add(new File([], 'sent'));
      document.body.dispatchEvent(new DragEvent('drop', { dataTransfer, bubbles: true, cancelable: true }));
    },
    {
      'sent/top.har': variant('top'),
      'sent/inner/deeper/low.har': variant('low'),
      'sent/inner/notes.txt': 'no capture',
    },
  );
  await expect(page.locator('[data-capture="top"]')).toBeVisible();
  await expect(page.locator('[data-capture="low"]')).toBeVisible();
  await expect(page.locator('[data-upload]')).toHaveCount(2);
});

test('what is pasted by mistake is told apart from a capture', async ({ page, emptyApp }) => {
  await page.goto(emptyApp.url);
  await page.waitForLoadState('networkidle');
  await page.evaluate(() => {
    const clipboardData = new DataTransfer();
    clipboardData.setData('text/plain', 'a shopping list');
    document.body.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true }));
  });
  await expect(page.getByText('The pasted text is not a capture.')).toBeVisible();
});

test('a capture without exchanges says what to do instead of showing an empty chart', async ({ page, emptyApp }) => {
  await page.goto(emptyApp.url);
  await dropFiles(page, [{ name: 'nothing.har', text: '{"log":{"version":"1.2","entries":[]}}' }]);
  await page.locator('[data-capture="nothing"]').getByRole('link').click();
  await expect(page.getByRole('alert')).toContainText('its log was empty when it was saved');
});

test('an address of a capture that is gone says so', async ({ page, emptyApp }) => {
  await page.goto(`${emptyApp.url}c/00000000-0000-4000-8000-000000000000/waterfall`);
  await expect(page.getByRole('alert')).toContainText('This capture is not on the shelf.');
  await page.getByRole('button', { name: 'To the shelf' }).click();
  await expect(page.getByRole('heading', { name: 'Shelf' })).toBeVisible();
});

test('a server that is gone is told of, not shown as a blank screen', async ({ page, emptyApp }) => {
  await page.route('**/api/captures', (route) => route.abort());
  await page.goto(emptyApp.url);
  await expect(page.getByRole('alert')).toContainText('Trazado does not respond');
  await page.unroute('**/api/captures');
  await page.getByRole('button', { name: 'Try again' }).click();
  await expect(page.getByRole('alert')).toHaveCount(0);
});

test('markup in every text of a capture stays text: nothing runs, nothing is fetched', async ({
  page,
  emptyApp,
  consoleProblems,
}) => {
  const markup = '<img src="https://evil.example/x.png" onerror="window.ran=1"><script>window.ran=1</script>';
  const poison = (value: unknown): unknown => {
    if (typeof value === 'string') return `${value}${markup}`;
    if (Array.isArray(value)) return value.map(poison);
    if (typeof value !== 'object' || value === null) return value;
    const exact = new Set(['startedDateTime', 'pageref', 'id', 'encoding', 'url']);
    return Object.fromEntries(Object.entries(value).map(([key, item]) => [key, exact.has(key) ? item : poison(item)]));
  };
  const har = poison(JSON.parse(BOOKING)) as {
    log: { entries: { request: { url: string }; response: { content: { mimeType: string } } }[] };
  };
  for (const [at, entry] of har.log.entries.entries()) {
    entry.request.url = at % 2 === 0 ? `javascript:window.ran=1//${markup}` : `https://www.cumbrera.example/${markup}`;
    entry.response.content.mimeType = ['text/html', 'image/svg+xml', 'application/json'][at % 3] ?? '';
  }
  const foreign: string[] = [];
  page.on('request', (request) => {
    if (!request.url().startsWith(emptyApp.url) && !request.url().startsWith('blob:')) foreign.push(request.url());
  });
  await page.goto(emptyApp.url);
  await dropFiles(page, [{ name: `hostile ${markup}.har`, text: JSON.stringify(har) }]);
  await page.locator('[data-capture^="hostile"]').getByRole('link').click();
  await page.getByRole('region', { name: 'Brief' }).waitFor();
  await page.keyboard.press('g');
  await page.keyboard.press('w');
  await stripsOf(page).first().waitFor();
  for (let count = 0; count < 8; count++) {
    await page.keyboard.press('j');
    await page.keyboard.press('Enter');
    await page.getByRole('region', { name: 'Body' }).waitFor();
  }
  expect(await page.evaluate(() => (window as { ran?: number }).ran)).toBeUndefined();
  expect(foreign).toEqual([]);
  expect(consoleProblems.filter((text) => !/image|Failed to load resource/.test(text))).toEqual([]);
});

test('several captures are chosen: reports of them, a table, and a comparison of the oldest with the others', async ({
  page,
  demo,
}) => {
  await page.goto(demo.url);
  for (const name of ['booking-gone-wrong', 'alba-norte-fixed-release'])
    await page.getByLabel(`Choose ${name}`).check();
  const files: Download[] = [];
  page.on('download', (download) => files.push(download));
  await page.getByRole('button', { name: 'Report on them' }).click();
  await expect(page.getByText('2 reports saved, without secrets.')).toBeVisible();
  const texts = await Promise.all(files.map(async (file) => readFileSync(await file.path(), 'utf8')));
  expect(files.map((file) => file.suggestedFilename()).sort()).toEqual([
    'alba-norte-fixed-release report.html',
    'booking-gone-wrong report.html',
  ]);
  for (const text of texts) expect(text).toMatch(/^<!doctype html>[\s\S]*<h2>Findings/);
  const [csv] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'chosen as CSV' }).click(),
  ]);
  const rows = readFileSync(await csv.path(), 'utf8')
    .trim()
    .split('\r\n');
  expect(rows[0]).toMatch(/^name,recordedAt,/);
  expect(
    rows
      .slice(1)
      .map((row) => row.split(',')[0])
      .sort(),
  ).toEqual(['alba-norte-fixed-release', 'booking-gone-wrong']);
  await page.getByRole('button', { name: 'Compare the oldest with the others' }).click();
  await expect(page).toHaveURL(/\/compare\?a=[^&]+&b=/);
});
