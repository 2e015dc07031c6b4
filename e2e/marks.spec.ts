import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import type { CaptureCard } from '../src/core/wire';
import { expectNothingBars } from './support/bars';
import { expect, openCapture, test } from './support/fixtures';

const BOOKING = 'booking-gone-wrong';
const bar = (page: Page) => page.getByRole('combobox', { name: /Filter/ });

test('an exchange is marked and noted by keys, filtered by it, and the note leaves as its comment and in the report', async ({
  page,
  demo,
  consoleProblems,
}) => {
  await openCapture(page, demo.url, BOOKING);
  await page.locator('[data-strip="3"]').waitFor();
  await page.keyboard.press('j');
  await page.keyboard.press('j');
  await expect(page).toHaveURL(/exchange=[1-9]/);
  const index = Number(new URL(page.url()).searchParams.get('exchange'));
  await page.keyboard.press('Shift+K');
  await expect(page.locator(`[data-mark="${index}"]`).first()).toBeVisible();
  await page.keyboard.press('Shift+A');
  await page.getByRole('dialog', { name: 'Note' }).waitFor();
  await expectNothingBars(page, { within: 'dialog[open]' });
  await page.keyboard.type('Why is this asked for twice?');
  await page.keyboard.press('Control+Enter');
  await expect(page.getByRole('dialog')).toBeHidden();
  await bar(page).fill('marked and note ~ twice');
  await page.keyboard.press('Enter');
  await expect(page.locator('[data-tally]')).toContainText('1 of 30 exchanges');
  await bar(page).fill('note ~ /TWICE/i');
  await page.keyboard.press('Enter');
  await expect(page.locator('[data-tally]')).toContainText('1 of 30 exchanges');
  // It is there again when the page is, and in the dossier.
  await page.reload();
  await page.locator(`[data-strip="${index}"]`).waitFor();
  await page.keyboard.press('Enter');
  await expect(page.locator('[data-note]')).toHaveText('Why is this asked for twice?');
  const cards = (await (await fetch(`${demo.url}api/captures`)).json()) as CaptureCard[];
  const id = cards.find(({ name }) => name === BOOKING)?.id;
  const har = (await (
    await fetch(`${demo.url}api/captures/${id}/har`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ places: [index] }),
    })
  ).json()) as { log: { entries: { comment?: string }[] } };
  expect(har.log.entries.map(({ comment }) => comment)).toEqual(['Note: Why is this asked for twice?']);
  await page.goto(`${demo.url}c/${id}/handoff?what=report`);
  const drawn = page.frameLocator('iframe[title="The report"]');
  await expect(drawn.getByRole('heading', { name: 'Noted' })).toBeVisible();
  await expect(drawn.locator('p.note')).toHaveText('Why is this asked for twice?');
  expect(consoleProblems).toEqual([]);
});

test('a finding, a leg and the page are noted; a note is deleted, and brought back', async ({ page, demo }) => {
  await openCapture(page, demo.url, BOOKING);
  await page.keyboard.press('g');
  await page.keyboard.press('b');
  const note = async (button: string, text: string): Promise<void> => {
    await page.getByRole('button', { name: button }).first().click();
    await page.getByRole('dialog').getByRole('textbox').fill(text);
    await page.getByRole('button', { name: 'Save the note' }).click();
  };
  await note('Note something on this finding', 'Known since release 4.');
  await note('Note something on this page', 'Asked about by the hosting team.');
  const leg = page.getByRole('list', { name: 'Legs of the route' }).getByRole('listitem').first();
  await leg.hover();
  await leg.getByRole('button', { name: /^Note something on/ }).click();
  await page.getByRole('dialog').getByRole('textbox').fill('Before the server woke up.');
  await page.keyboard.press('Control+Enter');
  await expect(page.locator('[data-note]')).toHaveText([
    'Asked about by the hosting team.',
    'Before the server woke up.',
    'Known since release 4.',
  ]);
  await note('Change the note on this page', '');
  await expect(page.locator('[data-note]')).toHaveCount(2);
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(page.locator('[data-note]')).toHaveCount(3);
  await page.keyboard.press('g');
  await page.keyboard.press('h');
  await page.getByLabel('What is handed off').selectOption('report');
  await page.getByLabel('How the report is written').selectOption('md');
  const report = page.getByRole('region', { name: 'The report as it leaves' });
  for (const text of ['> Asked about by', ': Before the server woke up.', 'Known since release 4.'])
    await expect(report).toContainText(text);
});

test('what is selected anywhere is secret everywhere, until that is undone', async ({ page, demo }) => {
  await openCapture(page, demo.url, BOOKING);
  await page.keyboard.press('Shift+S');
  await expect(page.getByText('Nothing is selected.')).toBeVisible();
  await page.evaluate(() => {
    const text = [...document.querySelectorAll('h1')].find((one) => one.textContent?.includes('booking'))?.firstChild;
    if (text !== null && text !== undefined) document.getSelection()?.setBaseAndExtent(text, 0, text, 7);
  });
  await page.keyboard.press('Shift+S');
  await expect(page.getByText('“booking” is secret: the hand-off inks it out everywhere.')).toBeVisible();
  await page.keyboard.press('g');
  await page.keyboard.press('h');
  const own = page.getByRole('region', { name: 'your own words', exact: true });
  await expect(own).toContainText('pointed at');
  await page.getByRole('button', { name: 'Delete the word booking' }).click();
  await expect(own).toHaveCount(0);
  await page.keyboard.press('u');
  await expect(own).toContainText('booking');
  const [file] = await Promise.all([page.waitForEvent('download'), page.keyboard.press('x')]);
  const har = readFileSync(await file.path(), 'utf8');
  expect(har).not.toContain('booking');
  // The app is shared: others' reports would have it inked out, too.
  await page.getByRole('button', { name: 'Delete the word booking' }).click();
  await expect(own).toHaveCount(0);
});

test('what is typed before a dialog is there goes into it, and is no key of the view behind', async ({
  page,
  demo,
}) => {
  await page.route(/\/(?:NoteDialog|NumberDialog|ActionList)\.[^/]*\.js/, async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 800));
    await route.continue();
  });
  await openCapture(page, demo.url, BOOKING);
  await page.locator('[data-strip="3"]').waitFor();
  await page.keyboard.press('#');
  await page.keyboard.type('12');
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/exchange=12(&|$)/);
  await page.keyboard.press('Shift+A');
  await page.keyboard.type('j of all, no key');
  await page.keyboard.press('Enter');
  await page.keyboard.type('n');
  await expect(page.getByRole('textbox', { name: /Note on #12/ })).toHaveValue('j of all, no key\nn');
  await page.keyboard.type(' more');
  await page.keyboard.press('Control+Enter');
  await expect(page.getByText('Noted.')).toBeVisible();
  await expect(page).toHaveURL(/exchange=12(&|$)/);
  // Once it is there, what is typed behind what was noted goes on with it.
  await page.keyboard.press('Shift+A');
  await page.keyboard.type('.');
  await expect(page.getByRole('textbox', { name: /Note on #12/ })).toHaveValue('j of all, no key\nn more.');
  await page.keyboard.press('Escape');
  await page.reload();
  await page.locator('[data-strip="3"]').waitFor();
  await page.keyboard.press('Control+k');
  await page.keyboard.type('endpoints');
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/\/endpoints/);
});

test('the first key in a dialog that just opened goes behind what was typed before it', async ({ page, demo }) => {
  // Their scripts come once something was typed for them.
  const letCome = new Map<string, () => void>();
  for (const name of ['NoteDialog', 'ActionList']) {
    const isTyped = new Promise<void>((resolve) => letCome.set(name, resolve));
    await page.route(new RegExp(`/${name}\\.[^/]*\\.js`), async (route) => {
      await isTyped;
      await route.continue();
    });
  }
  // The earliest keys there can be: as the dialog is drawn, and as it is shown, before anything that waits for its turn.
  await page.addInitScript(() => {
    const press = (key: string): void => {
      const event = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true });
      if (document.activeElement?.dispatchEvent(event) === true) document.execCommand('insertText', false, key);
    };
    const isDialog = (node: Node): boolean => node instanceof HTMLDialogElement;
    new MutationObserver((changes) => {
      if (changes.some(({ addedNodes }) => [...addedNodes].some(isDialog))) press('e');
    }).observe(document, { childList: true, subtree: true });
    const { showModal } = HTMLDialogElement.prototype;
    HTMLDialogElement.prototype.showModal = function () {
      showModal.call(this);
      queueMicrotask(() => press('d'));
    };
  });
  await openCapture(page, demo.url, BOOKING);
  await page.locator('[data-strip="3"]').waitFor();
  await page.keyboard.press('j');
  await page.keyboard.press('Shift+A');
  await page.keyboard.type('Fail');
  letCome.get('NoteDialog')?.();
  await expect(page.getByRole('textbox', { name: /^Note on/ })).toHaveValue('Failed');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+k');
  await page.keyboard.type('add');
  letCome.get('ActionList')?.();
  await expect(page.getByRole('dialog', { name: 'All actions' }).getByRole('textbox')).toHaveValue('added');
});
