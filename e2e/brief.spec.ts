import { expectNothingBars } from './support/bars';
import { expect, openCapture, stripsOf, test } from './support/fixtures';

const brief = (page: import('@playwright/test').Page) => page.getByRole('region', { name: 'Brief' });

test('the brief says what delayed the load, and each claim leads to its evidence', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await page.keyboard.press('g');
  await page.keyboard.press('b');
  await expect(page.locator('[data-sentence]')).toContainText(
    /^Loaded in 2\.83 s\. .+ went to waiting for api\.cumbrera\.example to respond, most of it for graphql HutCard \(#77\)/,
  );
  await expect(brief(page)).toContainText(/gaps \d+ %, connection, about \d+ %, server, about \d+ %/);
  const legs = page.getByRole('list', { name: 'Legs of the route' });
  await expect(legs).toContainText('graphql HutCard');

  await expect(page.getByRole('region', { name: 'Time on the route by kind' })).toContainText(/data.*image.*gap/s);
  await expect(page.getByRole('region', { name: 'Bytes by party' })).toContainText(/first.*third/s);

  const finding = page.locator('[data-finding="sent-uncompressed"]').first();
  await expect(finding).toContainText(/atlas\.41ab\.js is sent uncompressed: 1\.1 MB that gzip makes \d+ kB/);
  await finding.getByRole('button', { name: '#6' }).click();
  await expect(page).toHaveURL(/waterfall\?filter=number\+%3D\+6/);
  await expect(stripsOf(page)).toHaveCount(1);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('complementary')).toContainText('atlas.41ab.js');
  await page.goBack();
  await page.goBack();

  await legs.locator('[data-leg="77"]').click();
  await expect(page.locator('[data-strip="77"]')).toHaveAttribute('aria-selected', 'true');
  await page.keyboard.press('r');
  await expect(page.locator('[data-strip="139"]')).toHaveAttribute('aria-selected', 'true');
  await page.keyboard.press('Shift+R');
  await expect(page.locator('[data-strip="77"]')).toHaveAttribute('aria-selected', 'true');
  await expect(page.locator('[data-route]')).toHaveCount(1);
});

test('the route leads to DOM ready, or to the exchange that is asked for', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await page.goto(page.url().replace(/waterfall.*/, 'brief'));
  await expect(page.locator('[data-sentence]')).toContainText('Loaded in');
  await page.getByLabel('Route to').selectOption({ label: 'DOM ready' });
  await expect(page.locator('[data-sentence]')).toContainText('DOM ready after 746 ms.');
  await expect(page).toHaveURL(/to=dom-ready/);
  await page.goBack();
  await expect(page.locator('[data-sentence]')).toContainText('Loaded in');

  await page.goto(page.url().replace(/brief.*/, 'waterfall?exchange=77'));
  await expect(page.locator('[data-strip="77"]')).toHaveAttribute('aria-selected', 'true');
  await page.keyboard.press('Shift+M');
  await expect(page.getByLabel('Route to')).toHaveValue('#77');
  await page.keyboard.press('r');
  // The route ends here: there is no leg behind it.
  await expect(page.locator('[data-strip="77"]')).toHaveAttribute('aria-selected', 'true');
  await page.keyboard.press('Shift+M');
  await expect(page.getByLabel('Route to')).toHaveValue('loaded');
});

test('a finding is dismissed for a reason, stays so, and is taken back', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await page.goto(page.url().replace(/waterfall.*/, 'brief'));
  const finding = page.locator('[data-finding="too-many"]');
  await finding.getByRole('button', { name: 'dismiss' }).click();
  await finding.getByLabel('Why it is dismissed').fill('it is a demo');
  await finding.getByRole('button', { name: 'Dismiss' }).last().click();
  await expect(finding).toHaveCount(0);
  await page.reload();
  await page.getByRole('button', { name: '1 dismissed' }).click();
  await expect(finding).toContainText('Dismissed: it is a demo');
  await finding.getByRole('button', { name: 'restore' }).click();
  await page.reload();
  await expect(finding.getByRole('button', { name: 'dismiss' })).toBeVisible();
});

test('a bar of a chart narrows the waterfall to itself', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'booking-gone-wrong');
  await page.goto(`${page.url().replace(/waterfall.*/, 'brief')}?page=all`);
  await expect(brief(page)).toContainText('2 pages');
  const bySource = page.getByRole('region', { name: 'Bytes by source' });
  await expect(bySource).toContainText(/on the wire.*decoded.*network.*disk/s);
  // A bar is as long as its share of the longest, and there is one for each name.
  const bars = bySource.locator('rect[data-bar]');
  await expect(bars).toHaveCount(await bySource.getByRole('listitem').getByRole('button').count());
  const box = (await bySource.locator('svg').last().boundingBox()) ?? { width: Number.NaN };
  const widths = await bySource
    .locator('g rect')
    .evaluateAll((all) => all.map((one) => one.getBoundingClientRect().width));
  expect(Math.max(...widths)).toBeCloseTo(box.width, 0);
  await page.getByRole('region', { name: 'Exchanges by status' }).getByRole('button', { name: /^5xx/ }).click();
  await expect(page).toHaveURL(/filter=status\+%3D\+5xx/);
  await expect(stripsOf(page)).toHaveCount(1);
  // So does a click on it; and one on the load's profile shows that part of the load.
  await page.goBack();
  await page.getByRole('region', { name: 'Exchanges by status' }).locator('[data-bar="5xx"]').click();
  await expect(page).toHaveURL(/filter=status\+%3D\+5xx/);
  await page.goBack();
  await page.locator('[data-slice]').first().click();
  await expect(page).toHaveURL(/waterfall.*window=/);
});

test('what a response allows is told as steps, and what the next visit does', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await page.goto(`${page.url().split('?')[0]}?exchange=3&dossier`);
  const cache = page.getByRole('complementary').getByRole('region', { name: 'Cache' });
  const journey = cache.getByRole('list', { name: 'Where the response was looked up' });
  await expect(journey.locator('[data-stop="answered"]')).toContainText('originresponded: Responded 200');
  await expect(journey.getByRole('listitem').nth(1)).toContainText(
    'browser’s cachepassed on: No sign of a stored copy',
  );
  await expect(cache.locator('[data-cache-steps]')).toContainText(/Fresh for 4 min 59 s\. Expires: /);
  await expect(cache).toContainText(/after a minute\s*used without asking/);
  await expect(cache).toContainText(/after an hour\s*(revalidated|downloaded again)/);
});

test('the brief can be used by anyone, by day and by night', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await page.goto(page.url().replace(/waterfall.*/, 'brief'));
  await page.locator('[data-finding]').first().waitFor();
  await page.getByRole('region', { name: 'Bytes by kind' }).waitFor();
  for (const colorScheme of ['light', 'dark'] as const) {
    await page.emulateMedia({ colorScheme });
    await expectNothingBars(page, { isNight: colorScheme === 'dark' });
  }
});

test('the load is played again with a change, and the next visit is foretold', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await page.goto(page.url().replace(/waterfall.*/, 'brief'));
  const whatIf = page.getByRole('region', { name: 'What if' });
  // What is asked first is not the document, without which there is nothing to ask.
  await expect(whatIf.locator('[data-what-if]')).toContainText(/It would take \d/);
  await whatIf.getByRole('combobox', { name: 'What', exact: true }).selectOption('#2');
  await expect(whatIf.locator('[data-what-if]')).toHaveText('Without its document there would be no load.');
  await whatIf.getByRole('combobox', { name: 'Change' }).selectOption('answer-in');
  await expect(whatIf.locator('[data-what-if]')).toContainText(/It would take \d/);
  await whatIf.getByRole('combobox', { name: 'What', exact: true }).selectOption('#139');
  await whatIf.getByRole('combobox', { name: 'Change' }).selectOption('answer-in');
  await expect(whatIf.locator('[data-what-if]')).toContainText(
    /It would take 2\.7\d s instead of 2\.83 s, 1\d\d ms less\./,
  );
  await whatIf.getByLabel('Server wait in ms').fill('5000');
  await expect(whatIf.locator('[data-what-if]')).toContainText('It would take 2.83 s all the same');
  // The photo that a call names would come beside the others: their connections decide then.
  await whatIf.getByRole('combobox', { name: 'What', exact: true }).selectOption('#77');
  await whatIf.getByLabel('Server wait in ms').fill('100');
  await expect(whatIf.locator('[data-what-if]')).toContainText('It would take 2.83 s all the same');
  const visit = page.getByRole('region', { name: 'Next visit' });
  const anew = visit.locator('[data-visit="minute"]').getByRole('button').last();
  const count = await anew.textContent();
  await anew.click();
  await expect(page.getByRole('combobox', { name: /Filter/ })).toHaveValue('forecast.minute = fetched');
  await expect(page.getByText(new RegExp(`^${count} of \\d+ exchanges`))).toBeVisible();
});

test('where the load cannot be played again, that is said, and tried again', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await page.locator('[data-strip]').first().waitFor();
  let isDown = true;
  await page.route(/\/exchanges$/, (route) => (isDown ? route.abort() : route.continue()));
  await page.keyboard.press('g');
  await page.keyboard.press('b');
  const again = page.getByRole('alert').getByRole('button', { name: 'Try again' });
  await again.waitFor();
  isDown = false;
  await again.click();
  await expect(page.locator('[data-what-if]')).toContainText(/It would take \d/);
});

test('the sentence, a finding, a table and the whole brief are copied as text', async ({ page, context, demo }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await page.keyboard.press('g');
  await page.keyboard.press('b');
  const copy = async (name: string): Promise<string> => {
    await page.getByRole('button', { name }).first().click();
    await expect(page.getByText('Copied.')).toBeVisible();
    return page.evaluate(() => navigator.clipboard.readText());
  };
  await page.locator('[data-finding]').first().waitFor();
  const sentence = (await page.locator('[data-sentence]').textContent()) ?? '';
  await expect.poll(() => copy('Copy the sentence')).toBe(sentence);
  const claim = (await page.locator('[data-finding] h3').first().textContent()) ?? '';
  await expect.poll(() => copy('Copy this finding as text')).toContain(claim);
  await expect
    .poll(() => copy('Copy the route as text'))
    .toMatch(/^## What the load waited for\n[\s\S]*\| From \| Length \|/);
  await expect
    .poll(() => copy('Copy where the time went, as text'))
    .toMatch(/^## Where the time went\n\n\| On \| Time \|/);
  await expect
    .poll(() => copy('Copy as text: Bytes by kind'))
    .toMatch(
      /^## Bytes by kind\n\n\| {3}\| on the wire \| decoded \|\n\| --- \| ---: \| ---: \|\n\| \w+ \| [\d.]+ [kM]?B \|/,
    );
  const whole = await (async () => {
    await expect.poll(() => copy('Copy the whole brief as text')).toMatch(/^# Alba Norte: beds and weather\n/);
    return page.evaluate(() => navigator.clipboard.readText());
  })();
  for (const part of ['## Figures', '## What the load waited for', '## Where the time went', '## Findings'])
    expect(whole).toContain(part);
});
