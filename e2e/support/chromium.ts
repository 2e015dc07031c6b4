import type { LaunchOptions } from '@playwright/test';

/** Debian's Chromium, quiet: no traffic of its own and nothing beyond loopback. */
export const chromiumOptions: LaunchOptions = {
  executablePath: process.env['TRAZADO_CHROMIUM'] ?? '/usr/bin/chromium',
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
