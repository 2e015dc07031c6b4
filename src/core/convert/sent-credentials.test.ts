import { createServer } from 'node:http';
import { describe, expect } from 'vitest';
import { EMPTY_DRAFT } from './draft';
import { DEFAULT_OPTIONS, findTarget } from './index';
import { listen, RUN_ALONE, runAlone } from './testing/alone';
import { own } from './testing/odd-texts';
import { RUNNERS, type RunnerId } from './testing/runners';
import { itNeeding } from './testing/tools';

// What becomes of credentials in code that runs: whether a client sends them to another host that it is redirected to, and
// whether it sends others in their place. Then, and only then, it is warned of.

/** What a client sent of its credentials where a redirect led it; undefined where it followed none. */
async function carried(id: RunnerId, redirects: 'follow' | undefined) {
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
  const url = `http://127.0.0.1:${await listen(here)}/here`;
  const headers = [own('Authorization', 'Bearer alba-norte'), own('Cookie', 'sid=1')];
  const { warnings } = await runAlone(id, { url, headers }, { redirects });
  here.close();
  there.close();
  return { asked, sent, isWarned: warnings.includes('wherever it is redirected') };
}

describe('credentials of code that is redirected', () => {
  for (const id of RUN_ALONE)
    itNeeding(RUNNERS[id].needs, { concurrent: true })(
      `${id} warns where they go to another host, and only there`,
      async () => {
        for (const redirects of ['follow', undefined] as const) {
          const { asked, sent, isWarned } = await carried(id, redirects);
          expect(asked).toBe(1);
          if (sent !== undefined) expect(isWarned).toBe(sent.length > 0);
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

describe('credentials of ~/.netrc', () => {
  for (const id of RUN_ALONE)
    itNeeding(RUNNERS[id].needs, { concurrent: true })(
      `${id} warns where they take the place of the draft’s, and only there`,
      async () => {
        let sent: string | undefined;
        const server = createServer(({ headers }, response) => {
          sent = headers.authorization;
          response.end('{"ok":true}');
        });
        const url = `http://127.0.0.1:${await listen(server)}/huts`;
        const netrc = 'machine 127.0.0.1 login walker password bread\n';
        const headers = [own('Authorization', 'Bearer alba-norte')];
        const { warnings } = await runAlone(id, { url, headers }, {}, netrc);
        server.close();
        expect(sent).toBeDefined();
        expect(warnings.includes('~/.netrc')).toBe(sent !== 'Bearer alba-norte');
      },
      600_000,
    );
});
