import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { startSite } from '#demo/site';
import { demoFolder, findDataFolder } from '#server/data-folder';
import { checkStorage } from '#server/db/check';
import { findPackageRoot } from '#server/package-root';
import { UsageError } from '../input';
import { print, tell } from '../output';
import { closeOnSignal, readPort, startApp, takeIn } from './serve';

/** The demo's captures, in the order in which the shelf is to show them. */
const CAPTURES = [
  'alba-norte-first-visit',
  'alba-norte-second-visit',
  'alba-norte-slow-line',
  'alba-norte-fixed-release',
  'booking-gone-wrong',
] as const;

/** Runs the app on a database of the demo's own, with its captures in it and the site they were recorded from. */
export async function demo(options: { port?: string; open?: true }): Promise<void> {
  // Seen to first: what cannot be must not start the site.
  readPort(options.port);
  const folder = demoFolder(findDataFolder());
  const trouble = checkStorage(folder);
  if (trouble !== undefined) throw new UsageError(`${trouble.sentence} ${trouble.advice}`);
  const site = await startSite(join(folder, 'site'));
  // Drafts of the demo's captures are sent to the stand-in site.
  process.env['TRAZADO_TO_HOSTS'] = [...site.toHosts].map((pair) => pair.join('=')).join(',');
  process.env['TRAZADO_SITE_CERTIFICATE'] = site.certPath;
  const app = await startApp({ ...options, data: folder }).catch(async (error: unknown) => {
    await site.close();
    throw error;
  });
  // The shelf shows the newest first.
  const captures = join(findPackageRoot(), 'demo/captures');
  for (const name of CAPTURES.toReversed()) await takeIn(app.url, join(captures, `${name}.har`));
  const curlHome = join(folder, 'curl');
  mkdirSync(curlHome, { recursive: true });
  writeFileSync(join(curlHome, '.curlrc'), site.curlConfig);
  print(`Trazado is at ${app.url} with the demo captures on its shelf.`);
  tell(
    'The stand-in site Cumbrera runs beside it. To run copied curl commands against it, first run in another terminal',
  );
  tell(`  export CURL_HOME='${curlHome}'`);
  tell('Ctrl+C ends both.');
  if (options.open === true) {
    const { default: open } = await import('open');
    await open(app.url);
  }
  await closeOnSignal(async () => {
    await Promise.all([app.close(), site.close()]);
  });
}
