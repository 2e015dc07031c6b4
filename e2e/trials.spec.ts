import { expectNothingBars } from './support/bars';
import { expect, openCapture, test } from './support/fixtures';
import { beginDraft, clickLine, lineOf } from './support/sheet';

type Page = import('@playwright/test').Page;
const trials = (page: Page) => page.getByRole('region', { name: 'Trials' });
const strips = (page: Page) => page.getByRole('list', { name: 'Trials, the newest first' }).locator('[data-trial]');
const held = (page: Page) => page.getByRole('region', { name: /^Held against/ });
const line = lineOf;

async function draftOf(page: Page, url: string, capture: string, exchange: number): Promise<void> {
  await openCapture(page, url, capture);
  await beginDraft(page, exchange);
}

test('a draft is sent by keyboard alone: same, the same without what browsers add, and differs where it was changed', async ({
  page,
  demo,
}) => {
  await draftOf(page, demo.url, 'alba-norte-first-visit', 51);
  await page.keyboard.press('Control+Enter');
  await expect(strips(page)).toHaveCount(1);
  await expect(trials(page)).toContainText('200, as captured.');

  // Down to the first header, and to what only browsers add; left out, it is the same.
  for (let count = 0; count < 8; count++) {
    await page.keyboard.press('Shift+J');
    if ((await page.locator('[data-sheet] + div').textContent())?.includes('only browsers add it') === true) break;
  }
  await page.keyboard.press('Shift+X');
  await page.keyboard.press('Control+Enter');
  await expect(strips(page)).toHaveCount(2);
  await expect(trials(page)).toContainText('200, as captured.');
  await expect(strips(page).first()).toContainText('left out now');

  // What is asked for is another page of it.
  await page.keyboard.press('Shift+K');
  await clickLine(page, '?');
  await page.keyboard.press('End');
  await page.keyboard.type('7');
  await page.keyboard.press('Control+Enter');
  await expect(strips(page)).toHaveCount(3);
  await expect(strips(page).first()).toContainText('Query');
  await page.keyboard.press('Escape');

  await page.keyboard.press('i');
  const dossier = page.getByRole('complementary', { name: 'Dossier of trial 3' });
  await expect(dossier).toContainText('Request');
  await page.keyboard.press('Escape');
  await expect(dossier).toHaveCount(0);
});

test('what is sent is what the sheet says, however soon after a change', async ({ page, demo }) => {
  await draftOf(page, demo.url, 'alba-norte-first-visit', 51);
  await clickLine(page, 'accept-language');
  // All in one go: nothing is drawn between the change and the sending.
  await page.evaluate(() => {
    const content = document.querySelector('[data-sheet]')?.shadowRoot?.querySelector('.cm-content');
    const press = (init: KeyboardEventInit) =>
      content?.dispatchEvent(new KeyboardEvent('keydown', { bubbles: true, ...init }));
    press({ key: 'x', altKey: true, keyCode: 88 });
    press({ key: 'Enter', ctrlKey: true, keyCode: 13 });
  });
  await expect(strips(page)).toHaveCount(1);
  await expect(strips(page).first()).toContainText('accept-language is left out now');
});

test('a method that may change something is asked about once, and an expired token is told', async ({ page, demo }) => {
  await draftOf(page, demo.url, 'booking-gone-wrong', 19);
  await page.keyboard.press('Control+Enter');
  const question = page.getByRole('alertdialog');
  await expect(question).toContainText('POST may change something at api.cumbrera.example');
  await question.getByRole('button', { name: 'Do not send' }).click();
  await expect(strips(page)).toHaveCount(0);
  await page.getByRole('button', { name: /^Send/ }).click();
  await question.getByRole('button', { name: 'Send it, and do not ask again for this draft' }).click();
  await expect(trials(page)).toContainText('401, not 201 as captured.');
  await expect(held(page)).toContainText('the token has expired');
  await page.getByRole('button', { name: /^Send/ }).click();
  await expect(strips(page)).toHaveCount(2);
  await expect(strips(page).first()).toContainText('unchanged');

  // Another trial as the measure; what is sent back onto the sheet; deleted, and back again.
  await page.getByRole('button', { name: 'Hold against trial 1' }).click();
  await expect(page.getByRole('region', { name: 'Held against the response of trial 1' })).toContainText(
    '401, as in trial 1.',
  );
  await page.getByText('another measure').click();
  await page.getByLabel('A pasted response as the measure').fill('{"title":"Unauthorised"}');
  await page.getByRole('button', { name: 'Hold against it' }).click();
  await expect(page.getByRole('region', { name: 'Held against the pasted response' })).toContainText('$.detail');
  await clickLine(page, '"hut"');
  await page.keyboard.press('End');
  await page.keyboard.type(' ');
  await page.keyboard.press('Backspace');
  await page.getByRole('button', { name: 'strike x' }).click();
  await expect(line(page, '"hut"')).toHaveClass(/cm-struck/);
  await page.getByRole('button', { name: 'Back onto the sheet' }).click();
  await expect(line(page, '"hut"')).not.toHaveClass(/cm-struck/);
  await page.getByLabel('Note on trial 2').fill('once more');
  await page.getByLabel('Note on trial 2').press('Enter');
  await expect(strips(page).first()).toContainText('once more');
  await trials(page).getByRole('button', { name: 'Delete', exact: true }).click();
  await expect(strips(page)).toHaveCount(1);
  await page.getByRole('button', { name: 'Undo', exact: true }).last().click();
  await expect(strips(page)).toHaveCount(2);
  await page.reload();
  await expect(strips(page)).toHaveCount(2);

  await trials(page).getByRole('button', { name: 'Open as a capture' }).click();
  await expect(page.locator('[data-strip]')).toHaveCount(2);
});

test('no response is told, and what cannot be sent is not', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-fixed-release');
  await page.keyboard.press('g');
  await page.keyboard.press('d');
  await page.getByRole('button', { name: 'Empty draft' }).click();
  await page.getByRole('button', { name: /^Send/ }).click();
  await expect(page.getByText('Nothing was sent. The host is missing.')).toBeVisible();
  await clickLine(page, 'GET');
  await page.keyboard.press('End');
  await page.keyboard.type('nowhere.invalid');
  await page.keyboard.press('Control+Enter');
  await expect(trials(page)).toContainText(/The host’s name (is not known|could not be looked up)/);
  await expect(strips(page)).toHaveCount(1);

  // It goes elsewhere where that is said, and stays so.
  await page.getByText('How it is sent').click();
  const sendTo = page.getByLabel('Send to', { exact: true });
  // What is no place is not sent to the request's own host instead.
  await sendTo.fill('http://127.0.0.1:1');
  await expect(sendTo).toHaveAttribute('aria-invalid', 'true');
  await page.getByRole('button', { name: /^Send Ctrl/ }).click();
  await expect(page.getByText('“http://127.0.0.1:1” is no host with a port. Nothing was sent.')).toBeVisible();
  await expect(strips(page)).toHaveCount(1);
  await sendTo.fill('127.0.0.1:1');
  await expect(sendTo).toHaveAttribute('aria-invalid', 'false');
  await expect(page.getByText('How it is sent: to 127.0.0.1:1')).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: /^Send Ctrl/ }).click();
  await expect(trials(page)).toContainText('Nothing listens there: the connection was refused.');
  await page.reload();
  await expect(page.getByText('How it is sent: to 127.0.0.1:1')).toBeVisible();
});

test('the drafts view with trials has no accessibility faults that can be found by machine', async ({ page, demo }) => {
  await draftOf(page, demo.url, 'alba-norte-first-visit', 51);
  await page.keyboard.press('Control+Enter');
  await expect(strips(page)).toHaveCount(1);
  await expect(held(page)).toBeVisible();
  await expectNothingBars(page);
});

test('an expired token is renewed by the value that another response gives, found where the capture shows it', async ({
  page,
  demo,
}) => {
  await draftOf(page, demo.url, 'booking-gone-wrong', 19);
  // A page that was left too soon to ask where its value came from made the variable.
  await clickLine(page, 'authorization');
  const value = (await line(page, 'authorization').first().textContent())?.split(' ').at(-1);
  await page.evaluate(
    async (set) => {
      const id = location.pathname.split('/')[2];
      const headers = { 'content-type': 'application/json' };
      await fetch(`/api/captures/${id}/variables`, { method: 'PATCH', headers, body: JSON.stringify(set) });
    },
    { removed: [], set: [{ name: 'token', value, isSecret: true }] },
  );
  await page.reload();
  await page.getByRole('button', { name: /^Send/ }).click();
  await page.getByRole('button', { name: 'Send it, and do not ask again for this draft' }).click();
  await expect(trials(page)).toContainText('401, not 201 as captured.');
  await clickLine(page, 'authorization');
  await page.keyboard.press('Escape');
  await page.keyboard.press('b');
  const variables = page.getByRole('region', { name: 'Variables' });
  await expect(variables).toContainText(/taken from the response of .*\(#\d+\), at \$\.token/);
  await variables.getByRole('button', { name: 'renew token', exact: true }).click();
  const order = page.getByRole('region', { name: 'Drafts in order' });
  await order.getByRole('button', { name: 'Send it, do not ask again for this draft, and go on' }).click();
  await expect(order.getByText(/^(200|201)$/)).toBeVisible();
  // Known again, the site is busy the first time, as it was when it was captured.
  await page.getByRole('button', { name: /^Send Ctrl/ }).click();
  await expect(strips(page)).toHaveCount(2);
  await expect(trials(page)).not.toContainText('401, not 201 as captured.');
  await page.getByRole('button', { name: /^Send Ctrl/ }).click();
  await expect(strips(page)).toHaveCount(3);
  await expect(trials(page)).toContainText('201, as captured.');
});

test('a captured selection becomes drafts that are sent in order, each taking from those before', async ({
  page,
  demo,
}) => {
  await openCapture(page, demo.url, 'booking-gone-wrong');
  await page.goto(`${page.url().split('?')[0]}?page=all&filter=${encodeURIComponent('kind = data and status < 400')}`);
  await expect(page.locator('[data-strip]').first()).toBeVisible();
  await page.keyboard.press('x');
  await page.getByLabel('Only the exchanges of these numbers').fill('13-19');
  await page.getByRole('button', { name: 'As drafts to send in order' }).click();
  await expect(page.getByRole('textbox', { name: 'The request' })).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: /^In order/ }).click();
  const order = page.getByRole('region', { name: 'Drafts in order' });
  await order.getByRole('button', { name: /^Send \d+ drafts in order$/ }).click();
  const goOn = order.getByRole('button', { name: 'Send it, do not ask again for this draft, and go on' });
  for (let count = 0; count < 6; count++) {
    await expect(order.getByRole('button', { name: 'Cancel' })).toHaveCount(0);
    if ((await goOn.count()) === 0) break;
    await goOn.click();
  }
  await expect(order.getByText(/^20[01]$/).first()).toBeVisible();
  // What was sent so is a trial of its draft, the one that is open too.
  await expect(strips(page)).toHaveCount(1);
});

test('a redirect is a response, and where it leads a draft of its own', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await beginDraft(page, 0);
  await page.keyboard.press('Control+Enter');
  await expect(trials(page)).toContainText('It leads to https://www.cumbrera.example/');
  await expect(strips(page)).toHaveCount(1);
  await page.getByRole('button', { name: 'Make a draft of it' }).click();
  await expect(line(page, 'GET https://www.cumbrera.example')).toBeVisible();
  await expect(page.getByLabel('Name of the draft')).toHaveValue(/^GET www\.cumbrera\.example/);
});

test('a value is taken from the response of a draft that is chosen, and kept where it no longer is', async ({
  page,
  demo,
}) => {
  await draftOf(page, demo.url, 'alba-norte-second-visit', 0);
  const first = await page.getByLabel('Name of the draft').inputValue();
  await page.getByRole('button', { name: 'Empty draft' }).click();
  await clickLine(page, 'GET https://');
  await page.keyboard.press('End');
  await page.keyboard.type('stats.tallyfox.example');
  await page.keyboard.press('Enter');
  await page.keyboard.type('/settings.json');
  await page.keyboard.press('Enter');
  await page.keyboard.type('?site=cumbrera');
  await page.keyboard.press('Escape');
  await page.keyboard.press('b');
  const variables = page.getByRole('region', { name: 'Variables' });
  await expect(page.getByLabel('Value of the variable site')).toHaveValue('cumbrera');
  await variables.getByText('take site from a response').click();
  await page.getByLabel('Draft whose response gives site').selectOption({ label: first });
  await page.getByLabel('Part of the response').selectOption('header');
  await page.getByLabel('Place in the response').fill('location');
  await variables.getByRole('button', { name: 'take', exact: true }).click();
  await expect(variables).toContainText(`taken from the response of ${first}, at the header location`);
  await variables.getByRole('button', { name: 'renew site' }).click();
  await expect(page.getByLabel('Value of the variable site')).toHaveValue(/^https:\/\/www\.cumbrera\.example/);
  await variables.getByRole('button', { name: 'keep its value' }).click();
  await expect(variables).not.toContainText('taken from');
  await expect(page.getByLabel('Value of the variable site')).toHaveValue(/^https:\/\/www\.cumbrera\.example/);
  await variables.getByText('take site from a response').click();
  await page.getByLabel('Draft whose response gives site').selectOption({ label: first });
  await page.getByLabel('Part of the response').selectOption('header');
  await expect(variables.getByRole('button', { name: 'take', exact: true })).toBeDisabled();
  await page.getByLabel('Place in the response').fill('location');
  await page.getByLabel('How it is written').selectOption('encoded');
  await variables.getByRole('button', { name: 'take', exact: true }).click();
  await expect(variables).toContainText('at the header location, percent-encoded');
  await variables.getByRole('button', { name: 'renew site' }).click();
  await expect(page.getByLabel('Value of the variable site')).toHaveValue(/^https%3A%2F%2Fwww\.cumbrera\.example/);
});

test('leave to send what may change something is for the place that was asked about', async ({ page, demo }) => {
  await draftOf(page, demo.url, 'booking-gone-wrong', 13);
  const question = page.getByRole('alertdialog', { name: 'Before it is sent' });
  const sendTo = page.getByLabel('Send to', { exact: true });
  const press = (): Promise<void> => page.getByRole('button', { name: /^Send Ctrl/ }).click();
  await page.getByText('How it is sent').click();
  await sendTo.fill('127.0.0.1:1');
  await press();
  await expect(question).toContainText('POST may change something at 127.0.0.1:1, in place of api.cumbrera.example');
  await question.getByRole('button', { name: /^Send it/ }).click();
  await expect(strips(page)).toHaveCount(1);
  await press();
  await expect(strips(page)).toHaveCount(2);
  await expect(question).toBeHidden();
  // At its own host it has not been asked about.
  await sendTo.fill('');
  await press();
  await expect(question).toContainText('POST may change something at api.cumbrera.example: it would be sent there now');
  // Nor is that leave for what is written while the question stands.
  await sendTo.fill('127.0.0.1:2');
  await question.getByRole('button', { name: /^Send it/ }).click();
  await expect(question).toContainText('POST may change something at 127.0.0.1:2');
  await expect(strips(page)).toHaveCount(2);
});
