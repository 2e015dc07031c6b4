import { findTarget } from '../src/core/convert';
import { CASES } from '../src/core/convert/testing/cases';
import { startEcho } from '../src/core/convert/testing/echo';
import { differences } from '../src/core/convert/testing/harness';
import { fillIn } from '../src/core/convert/value';
import { expect, test } from './support/fixtures';

/** Waits for an XMLHttpRequest to be over. */
const DONE = "if (typeof request !== 'undefined') await new Promise((done) => { request.onloadend = done; });\n";

/** Headers that browsers add by themselves. */
const ADDS = (
  'host connection content-length content-type accept accept-encoding accept-language user-agent origin referer ' +
  'pragma cache-control cookie sec-ch-ua sec-ch-ua-mobile sec-ch-ua-platform sec-fetch-dest sec-fetch-mode sec-fetch-site'
).split(' ');

for (const id of ['js-fetch', 'js-xhr'] as const) {
  test(`what is written as ${id} sends what the draft says, or warns, in a page`, async ({ page }) => {
    const target = findTarget(id);
    if (target === undefined) throw new Error('no target');
    const echo = await startEcho();
    const origin = `http://127.0.0.1:${echo.port}`;
    await page.goto(`${origin}/`);
    const wrong: string[] = [];
    let same = 0;
    for (const { name, draft, options, arrives } of CASES) {
      // The browser asks for secrets; saving needs somebody to say where.
      if (options.secretsFromEnv || options.prints === 'file') continue;
      const wanted = draft(origin);
      const { text, warnings } = target.render(wanted, options);
      const code = options.asFunction ? `${text.replace('export ', '')}\nawait send();` : text;
      echo.take();
      await page.evaluate(`(async () => {\n${code}\n${id === 'js-xhr' ? DONE : ''}})()`).catch(() => undefined);
      // What the page itself asks for, its icon, is no part of it.
      const arrived = echo.take().filter(({ requestLine }) => !requestLine.includes('/favicon.ico'));
      const all = differences(arrives?.(fillIn(wanted)) ?? fillIn(wanted), arrived, { adds: ADDS }, echo);
      const why = all.filter(({ covers }) => !covers.test(warnings.join('\n')));
      if (why.length > 0) wrong.push(`${name}: ${why.map(({ what }) => what).join('; ')}`);
      else if (all.length === 0 && warnings.some((warning) => warning.startsWith('In the URL')))
        wrong.push(`${name}: warned of a URL that arrived`);
      else same++;
    }
    await echo.close();
    expect(wrong).toEqual([]);
    expect(same).toBeGreaterThan(200);
    expect(await page.evaluate('document.title')).toBe('');
  });
}
