import { execFile, execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { describe, expect } from 'vitest';
import { EMPTY_DRAFT } from './draft';
import { DEFAULT_OPTIONS, findTarget } from './index';
import { own } from './testing/odd-texts';
import { RUNNERS } from './testing/runners';
import { itNeeding } from './testing/tools';

// Where code is redirected to another host, and its client sends credentials there: then, and only then, it is warned of.

const run = promisify(execFile);

async function listen(server: Server): Promise<number> {
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return (server.address() as AddressInfo).port;
}

/** What a client sent of its credentials where a redirect led it; undefined where it followed none. */
async function carried(id: keyof typeof RUNNERS, redirects: 'follow' | undefined) {
  const target = findTarget(id);
  if (target === undefined) throw new Error(`no target ${id}`);
  let asked = 0;
  let sent: readonly string[] | undefined;
  const there = createServer(({ headers }, response) => {
    sent = ['authorization', 'cookie'].filter((name) => headers[name] !== undefined);
    response.end('{"ok":true}');
  });
  const port = await listen(there);
  const here = createServer((_, response) => {
    asked++;
    response.writeHead(302, { location: `http://localhost:${port}/there` }).end();
  });
  const folder = mkdtempSync(join(tmpdir(), `trazado-redirected-${id}-`));
  try {
    const url = `http://127.0.0.1:${await listen(here)}/here`;
    const headers = [own('Authorization', 'Bearer alba-norte'), own('Cookie', 'sid=1')];
    const { text, warnings } = target.render({ ...EMPTY_DRAFT, url, headers }, { ...DEFAULT_OPTIONS, redirects });
    const cwd = join(folder, 'scratch');
    mkdirSync(cwd);
    if (target.language === 'JavaScript')
      execFileSync('ln', ['-s', join(process.cwd(), 'node_modules'), join(folder, 'node_modules')]);
    const env = {
      ...process.env,
      HOME: folder,
      GOFLAGS: '-mod=mod',
      GOCACHE: join(tmpdir(), 'trazado-go-cache'),
      LC_ALL: 'C.UTF-8',
    };
    // Some end with an error where they do not follow.
    for (const [command, ...args] of RUNNERS[id].prepare(folder, [text]))
      await run(command, args, { cwd, env, timeout: 240_000 }).catch(() => undefined);
    return { asked, sent, warnings: warnings.filter((one) => one.includes('wherever it is redirected')) };
  } finally {
    here.close();
    there.close();
    rmSync(folder, { recursive: true });
  }
}

describe('credentials of code that is redirected', () => {
  // A message is not run by a client of its own.
  for (const id of (Object.keys(RUNNERS) as (keyof typeof RUNNERS)[]).filter((one) => one !== 'http'))
    itNeeding(RUNNERS[id].needs, { concurrent: true })(
      `${id} warns where they go to another host, and only there`,
      async () => {
        for (const redirects of ['follow', undefined] as const) {
          const { asked, sent, warnings } = await carried(id, redirects);
          expect(asked).toBe(1);
          if (sent !== undefined) expect(warnings).toHaveLength(sent.length > 0 ? 1 : 0);
        }
        const stops = findTarget(id)?.render(
          { ...EMPTY_DRAFT, url: 'http://a.example/', headers: [own('Cookie', 'sid=1')] },
          { ...DEFAULT_OPTIONS, redirects: 'stop' },
        );
        expect(stops?.warnings.join('\n')).not.toContain('wherever it is redirected');
      },
      600_000,
    );
});
