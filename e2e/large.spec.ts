import { randomUUID } from 'node:crypto';
import type { Page } from '@playwright/test';
import { expect, stripsOf, test } from './support/fixtures';

const EXCHANGES = 100_000;
const START = Date.UTC(2026, 9, 3);

/** As many exchanges as nobody scrolls through, one after the other. */
function largeCapture(): string {
  const entries = Array.from({ length: EXCHANGES }, (_, at) => ({
    startedDateTime: new Date(START + at * 3).toISOString(),
    time: 20 + (at % 90),
    request: { method: 'GET', url: `https://api.cumbrera.example/huts/${at}/beds` },
    response: { status: at % 50 === 0 ? 404 : 200, content: { size: at % 5000, mimeType: 'application/json' } },
    timings: { wait: 15 + (at % 60), receive: 5 },
    _resourceType: 'xhr',
  }));
  return JSON.stringify({ log: { version: '1.2', entries } });
}

/** What is drawn of the chart: strips, and elements in all. */
const drawnOf = (page: Page): Promise<{ strips: number; elements: number }> =>
  page.getByRole('tree', { name: 'Exchanges' }).evaluate((tree) => ({
    strips: tree.querySelectorAll('[data-strip]').length,
    elements: tree.querySelectorAll('*').length,
  }));

test('of a hundred thousand exchanges as much is drawn as of a few, wherever one scrolls and zooms', async ({
  page,
  bodyApp,
}) => {
  const query = new URLSearchParams({ name: 'a hundred thousand', importId: randomUUID() });
  const answer = await fetch(`${bodyApp.url}api/captures?${query}`, { method: 'POST', body: largeCapture() });
  const [imported] = (await answer.json()) as { readonly id: string; readonly exchanges: number }[];
  expect(imported?.exchanges).toBe(EXCHANGES);
  try {
    await page.goto(`${bodyApp.url}c/${imported?.id}/waterfall`);
    await expect(stripsOf(page).first()).toHaveAttribute('aria-setsize', String(EXCHANGES));
    const expectFew = async (): Promise<void> => {
      const { strips, elements } = await drawnOf(page);
      expect(strips).toBeGreaterThan(20);
      expect(strips).toBeLessThan(45);
      expect(elements).toBeLessThan(800);
    };
    await expectFew();
    await page.keyboard.press('End');
    await expect(page.locator(`[data-strip="${EXCHANGES - 1}"]`)).toBeVisible();
    await expectFew();
    await page.keyboard.press('z');
    await expect(page).toHaveURL(/window=/);
    await expectFew();
    await page.keyboard.press('Home');
    await expect(page.locator('[data-strip="0"]')).toBeVisible();
    await expectFew();
    // A filter leaves each fiftieth, and the tally of the whole load says so.
    await page.keyboard.press('0');
    await page.keyboard.press('/');
    await page.keyboard.type('status = 404');
    await page.keyboard.press('Enter');
    await expect(page.locator('[data-tally]')).toContainText('2,000 of 100,000');
    await expectFew();
  } finally {
    await fetch(`${bodyApp.url}api/captures/${imported?.id}`, {
      method: 'PATCH',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ deleted: true }),
    });
  }
});
