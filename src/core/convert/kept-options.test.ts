import { createServer } from 'node:http';
import { describe, expect, it } from 'vitest';
import { EMPTY_DRAFT } from './draft';
import { DEFAULT_OPTIONS, findTarget, type RenderOptions } from './index';
import { listen, RUN_ALONE, runAlone } from './testing/alone';
import { RUNNERS, type RunnerId } from './testing/runners';
import { itNeeding } from './testing/tools';

// Whether code that runs keeps to what it was asked for, as a server sees it: to stop at redirects or to follow them, and
// how long to wait. And whether a client that gives up by itself, before the captured answer would have come, is warned of.

/** As long as the test of the least patient of those that run here takes: httpx waits for 5 s. */
const SLOW_MS = 5500;

/** What becomes of a client whose answer takes so long. */
async function waitedBy(id: RunnerId, answerMs: number, timeLimitS: number | undefined) {
  let asked = 0;
  let hasGivenUp = false;
  const server = createServer((_, response) => {
    asked++;
    const timer = setTimeout(() => response.end('{"ok":true}'), answerMs);
    response.on('close', () => {
      clearTimeout(timer);
      if (!response.writableFinished) hasGivenUp = true;
    });
  });
  const url = `http://127.0.0.1:${await listen(server)}/slow`;
  try {
    const { warnings } = await runAlone(id, { url, took: { waitMs: answerMs, wholeMs: answerMs } }, { timeLimitS });
    return { asked, hasGivenUp, warnings };
  } finally {
    server.close();
    server.closeAllConnections();
  }
}

describe('a client that has to wait', () => {
  for (const id of RUN_ALONE)
    itNeeding(RUNNERS[id].needs, { concurrent: true })(
      `${id} is warned of where it gives up by itself, and keeps to a limit`,
      async () => {
        const patient = await waitedBy(id, SLOW_MS, undefined);
        expect(patient).toMatchObject({ asked: 1, hasGivenUp: patient.warnings.includes('gives up after') });
        const limited = await waitedBy(id, 5000, 1);
        expect(limited).toMatchObject({ asked: 1, hasGivenUp: true });
        expect(limited.warnings).toContain('longer than the time limit of 1 s');
      },
      600_000,
    );
});

describe('the patience of clients, by their documentation', () => {
  it.each([
    ['kotlin-okhttp', 10, 'wait'],
    ['vba', 30, 'wait'],
    ['autohotkey', 30, 'wait'],
    ['rust-reqwest', 30, 'whole'],
    ['ruby', 60, 'wait'],
    ['perl', 60, 'wait'],
    ['swift', 60, 'wait'],
    ['csharp', 100, 'whole'],
    ['power-m', 100, 'whole'],
    ['python-aiohttp', 300, 'whole'],
    ['node-fetch', 300, 'wait'],
    ['node-undici', 300, 'wait'],
    ['wget', 900, 'wait'],
  ] as const)('%s gives up after %i s of the %s', (id, seconds, on) => {
    const warned = (waitMs: number, wholeMs: number, timeLimitS?: number): boolean =>
      findTarget(id)
        ?.render(
          { ...EMPTY_DRAFT, url: 'http://a.example/', took: { waitMs, wholeMs } },
          { ...DEFAULT_OPTIONS, timeLimitS },
        )
        .warnings.some((warning) => warning.includes(`gives up after ${seconds} s`)) === true;
    const ms = seconds * 1000;
    expect([warned(ms - 1, ms - 1), warned(ms + 1, ms + 1)]).toEqual([false, true]);
    // A download that takes long is cut off only by a limit of the whole.
    expect(warned(10, ms + 1)).toBe(on === 'whole');
    expect(warned(ms + 1, ms + 1, 2000)).toBe(false);
  });

  it('is that of a part of a call for OkHttp, so that a limit has to be one of each part', () => {
    const { text = '' } =
      findTarget('kotlin-okhttp')?.render(
        { ...EMPTY_DRAFT, url: 'http://a.example/' },
        { ...DEFAULT_OPTIONS, timeLimitS: 30 },
      ) ?? {};
    for (const name of ['call', 'connect', 'write', 'read'])
      expect(text).toContain(`.${name}Timeout(30, TimeUnit.SECONDS)`);
  });

  it('is not known of a draft that was written by hand', () => {
    const { warnings } = findTarget('python-httpx')?.render({ ...EMPTY_DRAFT, url: 'http://a.example/' }) ?? {};
    expect(warnings).toEqual([]);
  });
});

describe('a client whose connection breaks', () => {
  for (const id of RUN_ALONE)
    itNeeding(RUNNERS[id].needs, { concurrent: true })(
      // What only reads may be sent once more (RFC 9110 9.2.2).
      `${id} sends what changes something once, or says that it may not`,
      async () => {
        for (const method of ['POST', 'PUT', 'DELETE']) {
          let asked = 0;
          const server = createServer(({ socket }) => {
            asked++;
            socket.destroy();
          });
          const url = `http://127.0.0.1:${await listen(server)}/here`;
          const { warnings } = await runAlone(id, { method, url }, {});
          server.close();
          expect({ method, asked }).toEqual({ method, asked: warnings.includes('may see it twice') ? 2 : 1 });
        }
      },
      600_000,
    );
});

describe('a client that is redirected', () => {
  for (const id of RUN_ALONE)
    itNeeding(RUNNERS[id].needs, { concurrent: true })(
      `${id} follows where it is to, and stops where it is to`,
      async () => {
        for (const redirects of ['follow', 'stop'] as const) {
          const asked: (string | undefined)[] = [];
          const server = createServer(({ url }, response) => {
            asked.push(url);
            if (url === '/here') response.writeHead(302, { location: '/there' });
            response.end();
          });
          const url = `http://127.0.0.1:${await listen(server)}/here`;
          const { warnings } = await runAlone(id, { url }, { redirects });
          server.close();
          const isSaid = warnings.split('\n').some((one) => /redirect/i.test(one) && !one.includes('gives nothing'));
          if (!isSaid) expect(asked).toEqual(redirects === 'follow' ? ['/here', '/there'] : ['/here']);
          else expect(asked).not.toEqual(redirects === 'follow' ? ['/here', '/there'] : ['/here']);
        }
      },
      600_000,
    );
});

describe('what is asked of an answer', () => {
  const BYTES = Buffer.from(Array.from({ length: 2000 }, (_, at) => (at * 7) % 256));
  const CASES: readonly (readonly [status: number, options: Partial<RenderOptions>])[] = [
    [404, { prints: 'status' }],
    [302, { prints: 'status', redirects: 'stop' }],
    [302, { prints: 'body', redirects: 'stop' }],
    [200, { prints: 'file' }],
  ];

  for (const id of RUN_ALONE)
    itNeeding(RUNNERS[id].needs, { concurrent: true })(
      `${id} prints a status whatever it is, what a redirect holds that it stops at, and saves bytes as they are`,
      async () => {
        for (const [status, options] of CASES) {
          const body = options.prints === 'file' ? BYTES : Buffer.from('moved or missing');
          const server = createServer((_, response) => {
            response.writeHead(status, { 'content-type': 'text/plain', location: '/there' });
            response.end(body);
          });
          const url = `http://127.0.0.1:${await listen(server)}/here`;
          const { printed, said, files, warnings } = await runAlone(id, { url, answer: 'text' }, options);
          server.close();
          if (options.prints === 'file') expect(files['response']).toEqual(body);
          // wget writes them beside what it prints.
          else if (options.prints === 'status')
            expect(`${printed}${id === 'wget' ? said : ''}`).toContain(String(status));
          else expect(printed.toString().includes('moved or missing')).toBe(!warnings.includes('gives nothing'));
        }
      },
      600_000,
    );
});

describe('a redirect that it stops at, by their documentation', () => {
  it.each([
    ['csharp', 'if ((int)response.StatusCode >= 400) response.EnsureSuccessStatusCode();'],
    ['kotlin-okhttp', 'check(response.code < 400)'],
    ['powershell', 'SkipHttpErrorCheck = $true'],
  ] as const)('is no failure for %s', (id, written) => {
    const textOf = (options: Partial<RenderOptions>): string =>
      findTarget(id)?.render({ ...EMPTY_DRAFT, url: 'http://a.example/' }, { ...DEFAULT_OPTIONS, ...options }).text ??
      '';
    expect(textOf({ redirects: 'stop' })).toContain(written);
    expect(textOf({})).not.toContain(written);
  });
});
