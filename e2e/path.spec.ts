import { execFile } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { promisify } from 'node:util';
import { dropFiles, expect, openCapture, stripsOf, test } from './support/fixtures';

const run = promisify(execFile);

interface Entry {
  readonly request: { readonly method: string; readonly url: string };
  readonly response: { readonly content: { readonly text?: string; readonly encoding?: string } };
}

const entriesOf = (file: string): Entry[] => JSON.parse(readFileSync(file, 'utf8')).log.entries as Entry[];
const bytesOf = ({ response: { content } }: Entry): Buffer =>
  Buffer.from(content.text ?? '', content.encoding === 'base64' ? 'base64' : 'utf8');

test.use({ permissions: ['clipboard-read', 'clipboard-write'] });

test('from a dropped file to a curl command that brings back the captured bytes', async ({
  page,
  demo,
  freshApp,
  consoleProblems,
}) => {
  const file = 'demo/captures/alba-norte-first-visit.har';
  const entries = entriesOf(file);
  await page.goto(freshApp.url);
  await expect(page.getByRole('heading', { name: 'Nothing is on the shelf yet.' })).toBeVisible();

  await dropFiles(page, [{ name: 'alba-norte.har', text: readFileSync(file, 'utf8') }]);
  const card = page.locator('[data-capture="alba-norte"]');
  await expect(card).toContainText(/Loaded in [\d.]+ s, nothing failed\./);
  await expect(card).toContainText('145');
  await card.getByRole('link').click();

  await expect(page.getByRole('region', { name: 'Brief' })).toContainText(/Loaded in [\d.]+ s\. .+ went to /);
  await page.keyboard.press('g');
  await page.keyboard.press('w');
  const strips = stripsOf(page);
  await expect(strips.first()).toHaveAttribute('aria-setsize', String(entries.length));
  await expect(page.locator('[data-tally]')).toContainText(`${entries.length} exchanges`);
  await expect(page.getByRole('img', { name: /In-flight profile: peak \d+/ })).toContainText('loaded');
  await expect(page.getByLabel('Page', { exact: true })).toContainText('page 1 of 1');

  const wanted = [
    entries.findIndex(({ request }) => request.method === 'GET' && request.url.endsWith('/notices?page=0')),
    entries.findIndex(({ request }) => request.method === 'POST' && request.url.endsWith('/graphql')),
    entries.findIndex(({ request }) => request.url.endsWith('/assets/atlas.41ab.js')),
  ];
  for (const place of wanted) {
    await page.goto(`${page.url().split('?')[0]}?exchange=${place}&dossier`);
    const dossier = page.getByRole('complementary', { name: `Dossier of exchange ${place}` });
    await expect(dossier).toContainText('Returned 200 in');
    await expect(dossier.getByRole('region', { name: 'Response' })).toContainText('content-type');
    await page.keyboard.press('c');
    await expect(page.getByText(`Copied #${place} for curl, POSIX shell`)).toBeVisible();
    const command = await page.evaluate(() => navigator.clipboard.readText());
    expect(command).toMatch(/^curl /);
    const { stdout } = await run('sh', ['-c', command], {
      env: { PATH: process.env['PATH'], CURL_HOME: demo.curlHome },
      encoding: 'buffer',
      maxBuffer: 16_000_000,
    });
    expect(stdout.equals(bytesOf(entries[place] as Entry))).toBe(true);
  }
  expect(consoleProblems).toEqual([]);
});

test('a click on a strip opens its dossier, with its body decoded or drawn', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'booking-gone-wrong');
  // It holds two navigations, the form and what it led to.
  await page.getByLabel('Page', { exact: true }).selectOption('all');
  await page.getByRole('tree').focus();
  await page.keyboard.press('End');
  await stripsOf(page)
    .and(page.getByRole('treeitem', { name: /\/book\/alba-norte.*, 303,/ }))
    .click();
  const dossier = page.getByRole('complementary');
  await expect(dossier.getByRole('heading', { name: '/book/alba-norte' })).toBeVisible();
  await expect(dossier.getByRole('region', { name: 'Payload' })).toContainText("Ines O'Farrow");
  await expect(dossier.getByRole('region', { name: 'Body' })).toContainText(
    'The body of this redirect was not recorded',
  );

  await stripsOf(page)
    .and(page.getByRole('treeitem', { name: /availability\?page=0.*, 401,/ }))
    .click();
  await expect(dossier.getByRole('region', { name: 'Story' })).toContainText('Returned 401');
  await expect(dossier.getByRole('region', { name: 'Request' })).toContainText('Query');
  await expect(dossier.getByRole('region', { name: 'Body' })).toContainText('detail"the token has expired"');

  await page
    .getByRole('treeitem', { name: /logo\.svg/ })
    .first()
    .click();
  const picture = dossier.getByRole('img', { name: 'The body as it was received' });
  await expect(picture).toBeVisible();
  await expect(dossier).toContainText('160 by 40 pixels');

  await stripsOf(page)
    .and(page.getByRole('treeitem', { name: /search\?q=al,.*, none,/ }))
    .click();
  await expect(dossier.getByRole('region', { name: 'Story' })).toContainText('No response arrived');
  await expect(dossier.getByRole('region', { name: 'Body' })).toContainText(
    'No response was recorded, and so no body.',
  );
});
