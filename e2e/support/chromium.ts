import type { LaunchOptions } from '@playwright/test';
import { findChromium } from '../../scripts/chromium.mjs';

/** Debian's Chromium, quiet: no traffic of its own and nothing beyond loopback. */
export const chromiumOptions: LaunchOptions = {
  executablePath: findChromium() ?? '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
};
