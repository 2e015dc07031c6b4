import { expect, type Page } from '@playwright/test';

/** The sheet of the draft that is worked on, as text to be typed in. */
export const sheetOf = (page: Page) => page.getByRole('textbox', { name: 'The request' });

/** Lines of the sheet that hold a text. */
export const lineOf = (page: Page, text: string) => page.locator('[data-sheet] .cm-line').filter({ hasText: text });

/** Clicks on a line once it stands still: what is scrolled to is drawn, and measured, a moment later. */
export async function clickLine(page: Page, text: string): Promise<void> {
  const one = lineOf(page, text).first();
  // Only the lines near those on screen are drawn at all.
  if ((await one.count()) === 0) {
    await sheetOf(page).focus();
    await page.keyboard.press('Control+End');
  }
  await one.scrollIntoViewIfNeeded();
  await page.waitForTimeout(150);
  await one.click();
  await expect(one).toHaveClass(/cm-activeLine/);
}

/** Begins a draft of an exchange by its key. */
export async function beginDraft(page: Page, exchange: number): Promise<void> {
  await page.goto(`${page.url().split('?')[0]}?page=all&exchange=${exchange}`);
  await expect(page.locator(`[data-strip="${exchange}"]`)).toHaveAttribute('aria-selected', 'true');
  await page.keyboard.press('d');
  await expect(sheetOf(page)).toBeVisible();
  await expect(page.locator('[data-output]')).toContainText('curl ');
}
