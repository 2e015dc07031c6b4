import type { Page } from '@playwright/test';
import { expectNothingBars } from './support/bars';
import { dropFiles, expect, openCapture, stripsOf, test, untilDiagnosed } from './support/fixtures';

// What people meet every day: keys that do what they say, the focus where they were, and windows of any size.

/** What has the focus, by its role or name and its label. */
const focused = (page: Page): Promise<string> =>
  page.evaluate(() => {
    const { activeElement: element } = document;
    if (element === null || element === document.body) return 'nothing';
    return `${element.getAttribute('role') ?? element.tagName.toLowerCase()} ${element.getAttribute('aria-label') ?? element.id}`.trim();
  });

test('what is typed while a view is on its way is neither lost nor taken for keys', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  // The view's script comes late, as over a slow line.
  await page.route(/FindView/, async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 700));
    await route.continue();
  });
  await page.keyboard.press('f');
  await page.keyboard.type('total ot', { delay: 30 });
  await expect(page.getByLabel('Find in URLs')).toHaveValue('total ot');
  await expect(page.getByLabel('Find in URLs')).toBeFocused();
  expect(page.url()).not.toContain('hide=');
  // The next time what was looked for is marked, so that typing takes its place.
  await page.keyboard.press('Escape');
  await page.keyboard.press('g');
  await page.keyboard.press('w');
  await page.keyboard.press('f');
  // Leaving the field by Escape loses nothing of what was looked for.
  await expect(page.getByLabel('Find in URLs')).toHaveValue('total ot');
  await page.keyboard.type('hut');
  await expect(page.getByLabel('Find in URLs')).toHaveValue('hut');
  // Where it is there already it is gone to, and what is typed then is typed there.
  for (const again of [
    async () => page.keyboard.press('g').then(() => page.keyboard.press('f')),
    async () => page.getByRole('navigation', { name: 'Views' }).getByRole('link', { name: 'Find' }).click(),
  ]) {
    await page.keyboard.press('Escape');
    await again();
    await expect(page.getByLabel('Find in URLs')).toBeFocused();
    await page.keyboard.press('End');
    await page.keyboard.type('s');
  }
  await expect(page.getByLabel('Find in URLs')).toHaveValue('hutss');
});

test('what is typed while the list of actions is on its way is searched for, and taken for no keys', async ({
  page,
  demo,
}) => {
  await page.route(/\/ActionList\./, async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 700));
    await route.continue();
  });
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await page.keyboard.press('Control+k');
  await page.keyboard.type('de', { delay: 30 });
  const list = page.getByRole('dialog', { name: 'All actions' });
  await expect(list.getByLabel('Search the actions')).toHaveValue('de');
  await expect(list.getByLabel('Search the actions')).toBeFocused();
  await page.keyboard.type('ns');
  await expect(list.getByLabel('Search the actions')).toHaveValue('dens');
  expect(page.url()).not.toMatch(/drafts|endpoints|hide=/);
});

test('a script that cannot be fetched any more is told of where it was to be, and the rest of the page goes on', async ({
  page,
  demo,
}) => {
  await page.route(/\/(DraftsView|Dossier|open-draft|NumberDialog)\.[^/]*\.js/, (route) => route.abort());
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  const gone = page.getByRole('alert').filter({ hasText: 'This part of Trazado could not be loaded' });
  await page.keyboard.press('g');
  await page.keyboard.press('d');
  await expect(gone).toContainText('it has probably been stopped, or updated since this page was opened');
  await page.keyboard.press('g');
  await page.keyboard.press('w');
  await stripsOf(page).first().click();
  await expect(page.getByRole('complementary', { name: 'Dossier of' })).toContainText('could not be loaded');
  await expect(stripsOf(page).first()).toBeVisible();
  await page.keyboard.press('Escape');
  // What a key asks for and cannot have is told at the foot.
  await page.keyboard.press('d');
  const notice = page.getByRole('status').filter({ hasText: 'could not be loaded' });
  await expect(notice).toBeVisible();
  await page.keyboard.press('#');
  await expect(gone).toBeVisible();
  // What would have been typed into it is the page's key again.
  const before = page.url();
  await page.keyboard.press('j');
  await expect(page).not.toHaveURL(before);
  await page.unroute(/\/(DraftsView|Dossier|open-draft|NumberDialog)\.[^/]*\.js/);
  await gone.getByRole('button', { name: 'Reload the page' }).click();
  await stripsOf(page).first().click();
  await expect(page.getByRole('complementary', { name: 'Dossier of' }).getByRole('heading').first()).toBeVisible();
});

test('a page whose own script cannot be fetched says what to do, and one that comes says nothing of it', async ({
  page,
  demo,
}) => {
  await page.goto(demo.url);
  await page.locator('[data-capture]').first().waitFor();
  await expect(page.getByText('Loading Trazado.')).toHaveCount(0);
  await page.route(/\/(Shelf|CaptureApp)\.[^/]*\.js/, (route) => route.abort());
  for (const address of [demo.url, `${demo.url}c/any/brief`]) {
    await page.goto(address);
    await expect(page.getByText('start it again in its terminal, then reload this page')).toBeVisible();
  }
});

test('what Trazado itself does wrong is told of, not shown as a blank screen', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  const [, id = ''] = /c\/([^/]+)/.exec(page.url()) ?? [];
  // An answer that is none of those that the server gives.
  await page.route(`**/api/captures/${id}`, (route) => route.fulfill({ json: { id, name: 'no overview' } }));
  await page.reload();
  await expect(page.getByRole('alert')).toContainText('Trazado cannot show this: it met a fault of its own.');
  await page.getByRole('button', { name: 'To the shelf' }).click();
  await expect(page.getByRole('heading', { name: 'Shelf' })).toBeVisible();
});

test('a view that could not be drawn is drawn again where it is led elsewhere', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  // An answer that is none of those that the server gives.
  await page.route('**/variation?*', (route) => route.fulfill({ json: {} }));
  await page.goto(page.url().replace('waterfall', 'endpoints'));
  const name = 'GET api.cumbrera.example/notices';
  await page.locator(`[data-endpoint="${name}"]`).getByRole('button', { name, exact: true }).click();
  await expect(page.getByRole('alert')).toContainText('it met a fault of its own');
  await page.goBack();
  await expect(page.locator(`[data-endpoint="${name}"]`)).toBeVisible();
  await expect(page.getByRole('alert')).toHaveCount(0);
});

test('choosers and boxes give the keys back on Escape and Enter', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  for (const key of ['Escape', 'Enter']) {
    for (const [opens, name] of [
      ['a', 'Sort strips by'],
      ['n', 'Group strips by'],
      ['v', 'Measure at the right edge'],
    ] as const) {
      await page.keyboard.press(opens);
      await expect(page.getByLabel(name)).toBeFocused();
      await page.keyboard.press(key);
      expect(await focused(page)).toBe('tree Exchanges');
      await page.keyboard.press('Home');
      await page.keyboard.press('j');
      await expect(page).toHaveURL(/exchange=1(&|$)/);
    }
  }
  await page.keyboard.press('f');
  const box = page.getByLabel('whole words');
  await box.focus();
  await page.keyboard.press('Space');
  await expect(box).toBeChecked();
  await page.keyboard.press('Escape');
  expect(await focused(page)).toBe('input Find in URLs, headers, payloads, bodies and messages');
});

test('the focus is in the view after every change of view, and where it was after every closing', async ({
  page,
  demo,
}) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await expect.poll(() => focused(page)).toBe('tree Exchanges');
  for (const [key, home] of [
    ['b', 'section Brief'],
    ['e', 'section Endpoints'],
    ['d', 'section Drafts'],
    ['w', 'tree Exchanges'],
  ] as const) {
    await page.keyboard.press('g');
    await page.keyboard.press(key);
    await expect.poll(() => focused(page)).toBe(home);
  }
  // By mouse on the rail, too: the focus does not stay behind on the way in.
  await page.getByRole('link', { name: 'Brief' }).click();
  await expect.poll(() => focused(page)).toBe('section Brief');
  await page.getByRole('link', { name: 'Waterfall' }).click();
  await expect.poll(() => focused(page)).toBe('tree Exchanges');
  // Enter opens the dossier of the strip, never another view.
  await page.keyboard.press('Home');
  await page.keyboard.press('j');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('complementary', { name: 'Dossier of exchange 1' })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect.poll(() => focused(page)).toBe('tree Exchanges');
  expect(page.url()).toContain('/waterfall');
  // The bar gives the keys to the view as well.
  await page.keyboard.press('/');
  await page.keyboard.type('kind = script');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Enter');
  await expect.poll(() => focused(page)).toBe('tree Exchanges');
  // From a hit the dossier leads back to the hit.
  await page.keyboard.press('g');
  await page.keyboard.press('f');
  await page.getByLabel('Find in URLs').fill('hut');
  await page.locator('[data-hit]').first().waitFor();
  await page.locator('[data-hit]').first().focus();
  const hit = await page.locator('[data-hit]').first().getAttribute('data-hit');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('complementary')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect.poll(() => page.evaluate(() => document.activeElement?.getAttribute('data-hit'))).toBe(hit);
});

test('walking over strips from elsewhere is said, and brings the focus to the tree', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await page.getByRole('link', { name: 'Waterfall' }).focus();
  await page.keyboard.press('j');
  expect(await focused(page)).toBe('tree Exchanges');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('complementary')).toBeVisible();
  await page.keyboard.press('j');
  await expect(page.locator('[data-cursor]')).toHaveText(/^#1 GET /);
});

test('a list is one tab stop, with arrows inside', async ({ page, demo }) => {
  await page.goto(demo.url);
  await page.locator('[data-capture]').first().waitFor();
  const names = await page
    .locator('[data-capture]')
    .evaluateAll((cards) => cards.map((card) => card.getAttribute('data-capture')));
  const stops = (within: string): Promise<number> =>
    page
      .locator(within)
      .evaluate(
        (list) =>
          [...list.querySelectorAll('a, button, input, select, [tabindex]')].filter(
            (one) => (one as HTMLElement).tabIndex === 0,
          ).length,
      );
  expect(await stops('[data-home] ul')).toBe(1);
  await page.keyboard.press('j');
  await page.keyboard.press('j');
  const current = (): Promise<string | null | undefined> =>
    page.evaluate(() => document.activeElement?.closest('[data-capture]')?.getAttribute('data-capture'));
  expect(await current()).toBe(names[1]);
  await page.keyboard.press('ArrowRight');
  expect(await focused(page)).toBe(`button ${names[1]}: side A of a comparison`);
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowRight');
  expect(await focused(page)).toBe(`input Choose ${names[1]}`);
  await page.keyboard.press('ArrowDown');
  expect(await focused(page)).toBe(`input Choose ${names[2]}`);
  await page.keyboard.press('Enter');
  await page.keyboard.press('j');
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/\/brief/);
  await expect.poll(() => focused(page)).toBe('section Brief');
  await page.keyboard.press('g');
  await page.keyboard.press('e');
  await page.locator('[data-endpoint]').first().waitFor();
  expect(await stops('tbody:visible')).toBe(1);
  await page.keyboard.press('Tab');
  const endpoint = (): Promise<string | null | undefined> =>
    page.evaluate(() => document.activeElement?.closest('[data-endpoint]')?.getAttribute('data-endpoint'));
  const first = await endpoint();
  await page.keyboard.press('ArrowDown');
  expect(await endpoint()).not.toBe(first);
  expect(await endpoint()).toBeTruthy();
});

test('a list that comes back with the filter is walked by arrows as before', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await page.goto(`${page.url().replace('/waterfall', '/endpoints').replace(/\?.*/, '')}?filter=host+%3D+nowhere`);
  await expect(page.getByText('No exchanges shown.')).toBeVisible();
  await page.getByRole('combobox', { name: 'Filter', exact: true }).fill('');
  await page.keyboard.press('Enter');
  await page.locator('[data-endpoint]').first().waitFor();
  await page.keyboard.press('Tab');
  const current = (): Promise<string | null | undefined> =>
    page.evaluate(() => document.activeElement?.closest('[data-endpoint]')?.getAttribute('data-endpoint'));
  const first = await current();
  expect(first).toBeTruthy();
  await page.keyboard.press('ArrowDown');
  expect(await current()).not.toBe(first);
});

test('a number typed leads to its exchange, no number to none, and one that is filtered out is told of', async ({
  page,
  demo,
}) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  const ask = async (typed: string): Promise<void> => {
    const dialog = page.getByRole('dialog', { name: 'Go to an exchange' });
    await page.keyboard.press('#');
    await dialog.waitFor();
    await page.keyboard.type(typed);
    await page.keyboard.press('Enter');
    await expect(dialog).toBeHidden();
  };
  await ask('#17');
  await expect(page).toHaveURL(/exchange=17(&|$)/);
  await ask('');
  await ask('1e1');
  await expect(page.getByText('There is no exchange 1e1.')).toBeVisible();
  await expect(page).toHaveURL(/exchange=17(&|$)/);
  await page.keyboard.press('/');
  await page.keyboard.type('kind = script');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/filter=kind/);
  await ask('17');
  await page.getByRole('button', { name: 'Show all and go to it' }).click();
  await expect(page.locator('[data-strip="17"]')).toHaveAttribute('aria-selected', 'true');
});

test('the dialog for taking away stays, and says what was saved', async ({ page, demo }) => {
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await page.keyboard.press('x');
  const dialog = page.getByRole('dialog', { name: 'Export' });
  const status = dialog.getByRole('status').last();
  await dialog.getByRole('button', { name: 'CSV', exact: true }).click();
  await expect(status).toContainText(/^Saved alba-norte-first-visit\.csv, \d+ kB\./);
  await dialog.getByLabel('Only the exchanges of these numbers').fill('77');
  await dialog.getByRole('button', { name: 'Save', exact: false }).last().click();
  await expect(status).toContainText('It has 1 request.');
  await page.route(/\/har$/, (route) => route.abort());
  await dialog.getByRole('button', { name: 'HAR of these' }).click();
  await expect(status).not.toContainText('Saved');
  await expect(status).not.toBeEmpty();
});

test('several captures are chosen by key, deleted and brought back at once', async ({ page, emptyApp }) => {
  await page.goto(emptyApp.url);
  const text = (at: number): string =>
    JSON.stringify({ log: { version: '1.2', comment: `choose ${at}`, entries: [] } });
  await dropFiles(
    page,
    [0, 1, 2].map((at) => ({ name: `choose-${at}.har`, text: text(at) })),
  );
  await expect(page.locator('[data-capture^="choose-"]')).toHaveCount(3);
  await page.goto(`${emptyApp.url}?search=choose-`);
  await page.locator('[data-capture^="choose-"]').first().waitFor();
  for (const key of ['j', 'x', 'j', 'x']) await page.keyboard.press(key);
  await expect(page.getByText('2 captures chosen')).toBeVisible();
  await page.keyboard.press('Delete');
  await expect(page.locator('[data-capture^="choose-"]')).toHaveCount(1);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.locator('[data-capture^="choose-"]')).toHaveCount(3);
});

test('the condition is a dialog of checks: Escape closes it, each remark leads to its exchanges, and what is fine is said', async ({
  page,
  demo,
}) => {
  await openCapture(page, demo.url, 'alba-norte-second-visit');
  await page.locator('#condition').click();
  const dialog = page.getByRole('dialog', { name: 'The state of this capture' });
  await expect(dialog.getByText(/Bodies were recorded for \d+ of \d+/)).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(dialog).toBeHidden();
  expect(await focused(page)).toBe('button condition');
  await page.keyboard.press('Enter');
  // Asked for again in the very moment in which it closes.
  await dialog.getByText(/Bodies were recorded/).waitFor();
  await page.evaluate(() => {
    (document.querySelector('dialog[open]') as HTMLDialogElement).close();
    document.querySelector<HTMLElement>('#condition')?.click();
  });
  await dialog
    .getByRole('button', { name: /^Show (this|these)/ })
    .first()
    .click();
  await expect(page).toHaveURL(/filter=number\+in/);
  await expect(stripsOf(page).first()).toBeVisible();
});

/** A session of somebody's own: odd addresses, hosts without a name, a long title, records that lack things. */
const oddSession = (comment: string): string =>
  JSON.stringify({
    log: {
      version: '1.2',
      comment,
      creator: { name: 'recorder', version: '1' },
      pages: [
        {
          id: 'page_1',
          title: `https://booking.cumbrera.example/${'a/very/long/way/up/'.repeat(12)}`,
          startedDateTime: '2026-03-01T08:00:00.000Z',
          pageTimings: { onContentLoad: 400, onLoad: 900 },
        },
      ],
      entries: [
        'https://booking.cumbrera.example/',
        `https://api.cumbrera.example/items/${'0123456789abcdef'.repeat(20)}`,
        'not an address',
        'data:text/plain,items',
        'http://[2001:db8::1]:8080/items?q=%E0%A4%A',
        `https://${'sub.'.repeat(30)}cumbrera.example/items?${'list[]=1&'.repeat(60)}`,
      ].map((url, at) => ({
        pageref: 'page_1',
        startedDateTime: new Date(Date.UTC(2026, 2, 1, 8, 0, 0, at * 60)).toISOString(),
        time: 80,
        request: {
          method: at === 4 ? 'PROPPATCH' : 'GET',
          url,
          httpVersion: 'HTTP/1.1',
          headers: [],
          cookies: [],
          queryString: [],
          headersSize: -1,
          bodySize: -1,
        },
        response: {
          status: at === 3 ? 500 : 200,
          statusText: '',
          httpVersion: 'HTTP/1.1',
          headers: [{ name: 'X-Long', value: 'v'.repeat(400) }],
          cookies: [],
          content: { size: 9, mimeType: 'text/plain', text: 'the items' },
          redirectURL: '',
          headersSize: -1,
          bodySize: -1,
        },
        cache: {},
        timings: { send: 1, wait: 70, receive: 9 },
      })),
    },
  });

/**
 * What lies beyond the window and cannot be scrolled to, what other things lie on, what is cut without a title that says the
 * whole, and what is cut to nothing.
 */
const outOfReach = (page: Page): Promise<string[]> =>
  page.evaluate(() => {
    const reached = (element: Element): boolean => {
      for (let one: Element | null = element; one !== null; one = one.parentElement) {
        const { overflowX, overflowY, position } = getComputedStyle(one);
        if (/auto|scroll/.test(overflowX + overflowY) || position === 'fixed') return true;
      }
      return false;
    };
    const bad: string[] = [];
    for (const element of document.querySelectorAll('a, button, input, select, summary')) {
      const box = element.getBoundingClientRect();
      if (box.width === 0 || box.height === 0 || getComputedStyle(element).visibility === 'hidden') continue;
      const isOut = box.right > innerWidth + 1 || box.bottom > innerHeight + 1 || box.left < -1 || box.top < -1;
      if (isOut && !reached(element)) bad.push(`out of reach: ${element.outerHTML.slice(0, 120)}`);
      if (isOut || !element.checkVisibility() || element.closest('[aria-hidden="true"]') !== null) continue;
      const on = document.elementFromPoint(box.left + box.width / 2, box.top + box.height / 2);
      // What is scrolled out of its frame is under the frame's neighbours; what it stands in scrolls it back.
      const frame = element.closest('main')?.getBoundingClientRect();
      const isScrolledOut = frame !== undefined && (box.bottom > frame.bottom || box.top < frame.top);
      const isSticky = on?.closest('thead, dialog, .sticky') !== null;
      // The dossier lies on the chart, which goes on beside it.
      const isDossier = on?.closest('aside') !== element.closest('aside');
      const isOnIt = on !== null && !element.contains(on) && !on.contains(element);
      if (isOnIt && !isScrolledOut && !isSticky && !isDossier)
        bad.push(`under ${on.outerHTML.slice(0, 80)}: ${element.outerHTML.slice(0, 120)}`);
    }
    for (const element of document.querySelectorAll('h1, h2, p, .truncate')) {
      const isCut =
        element.scrollWidth > element.clientWidth + 1 && getComputedStyle(element).textOverflow === 'ellipsis';
      if (isCut && element.closest('[title]') === null)
        bad.push(`cut without a title: ${element.textContent?.slice(0, 80)}`);
      if (isCut && element.clientWidth < 40) bad.push(`cut to nothing: ${element.textContent?.slice(0, 80)}`);
    }
    return bad;
  });

for (const [width, height] of [
  [1280, 800],
  [1024, 700],
  [640, 400],
] as const) {
  test(`everything is within reach and bars nobody at ${width} x ${height}`, async ({ page, demo, emptyApp }) => {
    test.slow();
    await page.setViewportSize({ width, height });
    await page.goto(demo.url);
    await page.locator('[data-capture]').first().waitFor();
    expect(await outOfReach(page)).toEqual([]);
    await expectNothingBars(page);
    const id = /c\/([^/]+)/.exec(
      (await page.locator('[data-capture="booking-gone-wrong"] a').getAttribute('href')) ?? '',
    )?.[1];
    let base = `${demo.url}c/${id}`;
    if (width !== 1024) {
      await page.goto(emptyApp.url);
      await dropFiles(page, [{ name: `session-${width}.har`, text: oddSession(String(width)) }]);
      const card = page.locator(`[data-capture="session-${width}"] a`);
      base = `${emptyApp.url}${((await card.getAttribute('href')) ?? '').slice(1).replace('/brief', '')}`;
      await untilDiagnosed(emptyApp.url);
    }
    for (const view of [
      'brief',
      'waterfall',
      'find?search=items',
      'endpoints',
      'drafts',
      'waterfall?exchange=3&dossier',
    ]) {
      await page.goto(`${base}/${view}`);
      await page.waitForLoadState('networkidle');
      await page.locator('[data-home]').first().waitFor();
      expect([view, await outOfReach(page)]).toEqual([view, []]);
      const { scrollWidth, clientWidth } = await page
        .locator('main')
        .evaluate(({ scrollWidth, clientWidth }) => ({ scrollWidth, clientWidth }));
      expect([view, scrollWidth - clientWidth]).toEqual([view, 0]);
      await expectNothingBars(page);
    }
    await page.goto(`${base}/waterfall?exchange=0`);
    await stripsOf(page).first().waitFor();
    await page.keyboard.press('d');
    await page.getByLabel('Output format').waitFor();
    await page.waitForLoadState('networkidle');
    expect(await outOfReach(page)).toEqual([]);
    await expectNothingBars(page);
  });
}

test('in forced colours the current strip is framed', async ({ page, demo }) => {
  await page.emulateMedia({ forcedColors: 'active' });
  await openCapture(page, demo.url, 'alba-norte-first-visit');
  await page.keyboard.press('Home');
  const frame = await stripsOf(page)
    .and(page.locator('[aria-selected="true"]'))
    .evaluate((strip) => getComputedStyle(strip).outlineWidth);
  expect(frame).toBe('2px');
});
