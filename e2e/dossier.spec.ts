import type { Page } from '@playwright/test';
import { expectNothingBars } from './support/bars';
import { expect, openCapture, stripsOf, test } from './support/fixtures';

const section = (page: Page, name: string) =>
  page.getByRole('complementary').getByRole('region', { name, exact: true });

async function openExchange(page: Page, url: string, index: number): Promise<void> {
  await openCapture(page, url, 'booking-gone-wrong');
  await page.goto(`${page.url().split('?')[0]}?exchange=${index}&dossier&page=all`);
  await section(page, 'Relations').waitFor();
}

test('a refused call tells its story, its token, and how it went on', async ({ page, demo }) => {
  await openExchange(page, demo.url, 11);
  await expect(section(page, 'Story')).toContainText(
    /Requested by api\.js \(#6\) at \d+ ms\. Returned 401 in .+ Sent again as #14 and succeeded\./,
  );
  await expect(section(page, 'Timing')).toContainText('ends at');
  const request = section(page, 'Request');
  await expect(request).toContainText(/Bearer ey…\w\w/);
  await expect(request).not.toContainText('eyJ');
  await request.getByText(/token, expired \d+ min before it was sent/).click();
  await expect(request.locator('[data-token]')).toContainText('"exp"');
  await request.getByRole('button', { name: 'show' }).click();
  await expect(request).toContainText(/Bearer eyJ/);
  await request.getByRole('button', { name: 'raw order', exact: true }).click();
  await expect(request.getByRole('button', { name: 'grouped' })).toBeVisible();

  await section(page, 'Relations')
    .getByRole('button', { name: /#14 availability/ })
    .first()
    .click();
  await expect(section(page, 'Story')).toContainText('Repeats #11, which had failed: status 401');
  await page.keyboard.press('9');
  await expect(section(page, 'Relations')).toBeInViewport();
});

test('a header and a status are explained where they stand, and everything in the reference', async ({
  page,
  demo,
}) => {
  await openExchange(page, demo.url, 13);
  const response = section(page, 'Response');
  await expect(response).toContainText('OK: the request succeeded and the body is the result.');
  await response.getByRole('button', { name: 'cache-control', exact: true }).click();
  await expect(response).toContainText('no-store: Must not be stored at all.');
  await expect(section(page, 'Cookies')).toContainText(/walker\s*w-…0c/);
  const before = page.url();
  await page.keyboard.press('g');
  await page.keyboard.press('r');
  // What is typed on the way is what is looked up.
  await page.keyboard.type('stale');
  const search = page.getByRole('searchbox', { name: /Search the reference/ });
  await expect(search).toHaveValue('stale');
  await expect(search).toBeFocused();
  const entries = page.getByRole('region', { name: 'Entries' });
  await expect(entries).toContainText('stale-while-revalidate');
  await expect(entries).not.toContainText('accept-language');
  await expect(page).toHaveURL(/\/c\/[^/]+\/reference\?.*term=stale/);
  await expectNothingBars(page);
  // The capture stays open beside it: its views are in the rail, and the place in them is where it was left.
  await page.keyboard.press('Escape');
  await expect(entries).toBeFocused();
  await page.getByRole('navigation', { name: 'Views' }).getByRole('link', { name: 'Waterfall' }).click();
  expect(new URL(page.url()).searchParams.get('exchange')).toBe(new URL(before).searchParams.get('exchange'));
  await page.goto(`${demo.url}/reference?search=stale`);
  await expect(page.getByRole('searchbox')).toHaveValue('stale');
  await expect(entries).not.toContainText('accept-language');
  await expectNothingBars(page);
});

test('phases, milestones and words of ours lead to what they mean, and back', async ({ page, demo }) => {
  await openExchange(page, demo.url, 13);
  const entries = page.getByRole('region', { name: 'Entries' });
  await section(page, 'Timing').getByRole('link', { name: 'Time to first byte' }).click();
  await expect(entries.locator('dt').first()).toHaveText(/^time to first byte\s*phase/);
  await page.goBack();
  await section(page, 'Timing').getByRole('link', { name: 'wait', exact: true }).click();
  await expect(entries.locator('dt').first()).toHaveText(/^wait\s*phase/);
  await page.goBack();
  await expect(section(page, 'Timing')).toBeVisible();
  await page.keyboard.press('Escape');
  await page.locator('[data-tally]').getByRole('link', { name: 'DOM ready' }).click();
  await expect(entries.locator('dt').first()).toHaveText(/^DOM ready\s*milestone/);
  await page.getByRole('searchbox', { name: /Search the reference/ }).fill('');
  await entries.getByRole('button', { name: 'close code' }).click();
  await expect(entries.locator('dt').first()).toHaveText(/^1000\s*close code/);
});

test('the dossier of a socket lists its messages', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await page.goto(`${page.url().split('?')[0]}?filter=kind+%3D+socket`);
  await stripsOf(page).first().click();
  await expect(section(page, 'Body')).toContainText(/\d+ messages/);
  await expect(section(page, 'Body')).toContainText(/#0\d+\.\d ms→ sent/);
});

test('what a directive did here is told, and cookies are followed through the capture', async ({ page, demo }) => {
  await openExchange(page, demo.url, 1);
  const response = section(page, 'Response');
  await response.getByRole('button', { name: 'cache-control', exact: true }).click();
  await expect(response.locator('[data-here]').first()).toContainText(/^Here: Revalidated on the next visit/);
  await openExchange(page, demo.url, 9);
  const trail = section(page, 'Cookies').locator('[data-cookie-trail="walker"]');
  await expect(trail).toContainText(/first (sent|set) by #\d+\..* later requests? carried it\./);
  await trail.getByRole('button').first().click();
  await expect(page).toHaveURL(/exchange=\d+/);
});

test('an exchange is compared with another, and found in the body that names it', async ({ page, demo }) => {
  await openExchange(page, demo.url, 14);
  const relations = section(page, 'Relations');
  await relations.getByRole('button', { name: 'Compare with #11' }).first().click();
  const comparison = relations.getByRole('region', { name: 'Compared with #11' });
  await expect(comparison.locator('[data-compared-part="status"]')).toContainText(/status\s*200\s*401/);
  await expect(comparison.locator('[data-compared-part="path"]')).toContainText('the same');
  await comparison.getByRole('button', { name: 'Close' }).click();
  await expect(comparison).toHaveCount(0);
  await openExchange(page, demo.url, 6);
  await relations.getByRole('button', { name: 'show in its body' }).click();
  await expect(page).toHaveURL(/hit=response\+body/);
  await expect(section(page, 'Body').locator('[data-hit-mark]')).toHaveText(/api\.js/);
});

test('any two exchanges are compared: by marking one and then the other, or by number', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'booking-gone-wrong');
  await page.goto(`${page.url().split('?')[0]}?exchange=14&page=all`);
  await page.locator('[data-strip="14"]').waitFor();
  await page.keyboard.press('m');
  await expect(page.getByText('#14 is marked.')).toBeVisible();
  await page.keyboard.press('k');
  await page.keyboard.press('m');
  const relations = section(page, 'Relations');
  const compared = relations.getByRole('region', { name: 'Compared with #14' });
  await expect(compared.locator('[data-compared-part="path"]')).toContainText(/renew.*availability/);
  await page.reload();
  await expect(compared).toBeVisible();
  const field = relations.getByLabel('Compare with exchange number');
  await field.fill('13');
  await field.press('Enter');
  await expect(relations.getByRole('alert')).toHaveText('#13 is this exchange.');
  await field.fill('#9');
  await field.press('Enter');
  await expect(relations.getByRole('region', { name: 'Compared with #9' })).toBeVisible();
  await page.goBack();
  await expect(compared).toBeVisible();
});
