import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { runCli } from '../src/server/testing/process';
import { expectNothingBars } from './support/bars';
import { expect, test } from './support/fixtures';

test('a report opens by itself, fetches nothing, and prints on A4', async ({ page }) => {
  const out = join(mkdtempSync(join(tmpdir(), 'trazado-printed-')), 'report.html');
  const { status } = runCli(['report', 'demo/captures/alba-norte-first-visit.har', '--out', out, '--note', 'Why?']);
  expect(status).toBe(0);
  const asked: string[] = [];
  const told: string[] = [];
  page.on('request', (request) => asked.push(request.url()));
  page.on('console', (message) => told.push(message.text()));
  await page.goto(pathToFileURL(out).href);
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('Alba Norte: beds and weather');
  await expect(page.getByRole('img')).toHaveCount(2);
  expect([asked, told]).toEqual([[pathToFileURL(out).href], []]);
  await expectNothingBars(page);
  // On paper nothing is cut off at the right.
  await page.setViewportSize({ width: 690, height: 976 });
  await page.emulateMedia({ media: 'print' });
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(690);
  const path = `${out}.pdf`;
  await page.pdf({ path, preferCSSPageSize: true });
  const pdf = readFileSync(path, 'latin1');
  expect(pdf).toMatch(/\/MediaBox\s*\[0 0 59[45](?:\.\d+)? 84[12](?:\.\d+)?\]/);
});
