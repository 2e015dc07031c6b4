import { execFile } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { readPath } from '../../json';
import {
  type Draft,
  EMPTY_DRAFT,
  type Loop,
  renderLoop,
  renderScript,
  SCRIPT_TARGETS,
  type ScriptTarget,
} from '../index';
import { own } from '../testing/odd-texts';
import { describeNeeding, PYTHON, SCRIPT_NEEDS } from '../testing/tools';

const run = promisify(execFile);

/** Huts in pages of two, a hold that is confirmed at the third asking, photos under addresses of all kinds. */
let server: Server;
let origin: string;
let asked: string[] = [];
let polls = 0;
let tokens: string[] = [];
let posted: string[] = [];
let served: unknown;
const HUTS = [
  { name: 'Alba "Norte"', place: { height: 2100, tags: ['a', 'b'] } },
  { name: 'Jara, Vieja', place: { height: 1800 } },
  { name: "Cantil d'Alta", open: true },
];
beforeAll(async () => {
  server = createServer((request, response) => {
    const url = new URL(request.url ?? '/', 'http://x');
    asked.push(`${request.url} ${request.headers['x-key'] ?? '-'}`);
    tokens.push(request.headers.authorization ?? '-');
    const json = (value: unknown): void =>
      void response.setHeader('content-type', 'application/json').end(JSON.stringify(value));
    if (url.pathname === '/huts') {
      const page = Number(url.searchParams.get('page'));
      json({ data: { 'the items': HUTS.slice(page * 2, page * 2 + 2), total: HUTS.length } });
    } else if (url.pathname === '/breaks') {
      // Busy at the second page, once; and dead behind the third.
      const page = Number(url.searchParams.get('page'));
      if (page === 1 && ++polls === 1) response.writeHead(429, { 'retry-after': '0' }).end();
      else if (page > 2) response.writeHead(500).end('out of huts');
      else json({ items: [{ page }] });
    } else if (url.pathname === '/posted') {
      const chunks: Buffer[] = [];
      request.on('data', (chunk: Buffer) => chunks.push(chunk));
      request.on('end', () => {
        const text = Buffer.concat(chunks).toString();
        posted.push(text === '' ? String(request.headers['x-page']) : text);
        json({ items: posted.length < 3 ? [posted.length] : [] });
      });
    } else if (url.pathname === '/nights') {
      // A service that gives its last page for every number behind it.
      json({ nights: [{ night: Math.min(2, Number(url.searchParams.get('page'))) }] });
    } else if (url.pathname === '/job') {
      // What is waited for comes at the third asking; its member is not there before.
      polls++;
      json(
        polls < 3
          ? {}
          : {
              result: {
                done: true,
                error: null,
                left: 0,
                none: 'null and void',
                zero: '"0"',
                states: [{ now: 'ready' }],
                'a.b "c"': 'é',
              },
            },
      );
    } else if (url.pathname === '/hold') json({ state: ++polls % 3 === 0 ? 'it\'s "held"' : 'waiting' });
    else if (url.pathname === '/list')
      json({
        list: [
          { photos: [{ at: '/photo/a.png?x=1' }, { at: `${origin}/photo/..%2Fb.png` }] },
          { photos: [{ at: '/photo/' }] },
        ],
      });
    else if (/\/served(\/files)?$/.test(url.pathname) && asked.length === 1) json(served);
    else if (url.pathname === '/served') json(served);
    else if (url.pathname === '/paged') {
      const { items, total } = served as { items: unknown[]; total: unknown };
      const page = Number(url.searchParams.get('page'));
      json({ items: items.slice(page * 2, page * 2 + 2), total });
    } else if (/^\/(photo|api)|\.bin$/.test(url.pathname)) response.end(`picture ${url.pathname}`);
    else response.writeHead(404).end();
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => server.close());

const draftOf = (path: string): Draft => ({ ...EMPTY_DRAFT, url: `${origin}${path}`, headers: [own('X-Key', "k'1")] });
const steps = (text: string) => readPath(text) ?? [];

const runLoop = (draft: Draft, loop: Loop, target: ScriptTarget): ReturnType<typeof runText> =>
  runText(renderLoop(draft, loop, target).text, target);

async function runText(
  text: string,
  target: ScriptTarget,
): Promise<{ stdout: string; stderr: string; files: Record<string, string> }> {
  const folder = mkdtempSync(join(tmpdir(), 'trazado-loop-'));
  const path = join(folder, target === 'node-fetch' ? 'run.mjs' : 'run');
  writeFileSync(path, text);
  asked = [];
  tokens = [];
  posted = [];
  polls = 0;
  const [command, ...args]: [string, ...string[]] =
    target === 'curl-sh' ? ['sh', path] : target === 'node-fetch' ? ['node', path] : [PYTHON, path];
  try {
    const { stdout, stderr } = await run(command, args, { cwd: folder });
    const names = readdirSync(folder, { recursive: true, withFileTypes: true }).filter(
      (entry) => entry.isFile() && !entry.name.startsWith('run'),
    );
    return {
      stdout,
      stderr,
      files: Object.fromEntries(
        names.map((entry) => [entry.name, readFileSync(join(entry.parentPath, entry.name), 'utf8')]),
      ),
    };
  } finally {
    rmSync(folder, { recursive: true });
  }
}

const csv = (...lines: string[]): string => lines.map((line) => `${line}\n`).join('');
const TABLE = [
  'name,place.height,place.tags,open',
  '"Alba ""Norte""",2100,"[""a"",""b""]",',
  '"Jara, Vieja",1800,,',
  "Cantil d'Alta,,,true",
];

/** Lists as services send them, and the very table that each language makes of them. */
const LISTS: readonly (readonly [string, unknown, string])[] = [
  ['plain values', ['a', 'b,c', 3, 0.5, true, null, ''], csv('value', 'a', '"b,c"', '3', '0.5', 'true', '""', '""')],
  ['lists', [[1, 'a'], []], csv('value', '"[1,""a""]"', '[]')],
  ['nothing', [], ''],
  ['objects without members', [{}, {}], ''],
  ['members that are missing or null', [{ a: null, b: false }, { c: 'x' }], csv('a,b,c', ',false,', ',,x')],
  ['objects in objects', [{ a: { b: { c: 1 } }, 'd.e': 2 }, { a: {} }], csv('a.b.c,d.e', '1,2', ',')],
  ['a mixture', [1, { a: 2 }], csv('value,a', '1,', ',2')],
  ['line ends and quotes', [{ a: 'x\r\ny', 'b"c': '"' }], csv('a,"b""c"', '"x\r\ny",""""')],
  [
    'what a table program would run',
    ['=1+1', '+1', '-1', '-x', '@a', ' =b', '1', 'a=b'],
    csv('value', "'=1+1", "'+1", '-1', "'-x", "'@a", "' =b", '1', 'a=b'),
  ],
  ['letters beyond ASCII', [{ név: 'ű', tags: ['é'] }], csv('név,tags', 'ű,"[""é""]"')],
];

for (const target of SCRIPT_TARGETS) {
  describeNeeding(SCRIPT_NEEDS[target])(`loops for ${target}, run against a service`, () => {
    const pages = {
      type: 'pages',
      parameter: 'page',
      from: 0,
      to: undefined,
      step: 1,
      list: steps("$.data['the items']"),
      total: undefined,
      mostPages: 50,
      pauseMs: 1,
    } as const;

    it('page until the list is empty, and write what they gathered as CSV', async () => {
      const { stdout } = await runLoop(draftOf('/huts?page=7&size=2'), pages, target);
      expect(stdout).toBe(csv(...TABLE));
      expect(asked).toEqual(["/huts?page=0&size=2 k'1", "/huts?page=1&size=2 k'1", "/huts?page=2&size=2 k'1"]);
    });

    it('page until the total is reached, or to the last page named', async () => {
      await runLoop(draftOf('/huts'), { ...pages, total: steps('data.total') }, target);
      expect(asked).toHaveLength(2);
      await runLoop(draftOf('/huts'), { ...pages, to: 0 }, target);
      expect(asked).toHaveLength(1);
    });

    it('stop at a page that comes again, and at the most pages, which is said', async () => {
      const nights = { ...pages, list: steps('$.nights') };
      const { stdout } = await runLoop(draftOf('/nights'), nights, target);
      expect(stdout).toBe(csv('night', '0', '1', '2'));
      expect(asked).toHaveLength(4);
      const { stdout: some, stderr } = await runLoop(draftOf('/nights'), { ...nights, mostPages: 2 }, target);
      expect(some).toBe(csv('night', '0', '1'));
      expect(stderr.trim()).toBe('Stopped after 2 pages: there may be more.');
      expect(asked).toHaveLength(2);
    });

    it('lose no row where a page fails, and ask a busy server again', async () => {
      const failed = await runLoop(draftOf('/breaks'), { ...pages, list: ['items'] }, target).catch(
        (error: unknown) => error as { stdout: string; code: number },
      );
      expect(failed).toMatchObject({ stdout: csv('page', '0', '1', '2') });
      expect('code' in failed ? failed.code : 0).not.toBe(0);
      expect(asked.slice(0, 3).map((line) => line.split(' ')[0])).toEqual([
        '/breaks?page=0',
        '/breaks?page=1',
        '/breaks?page=1',
      ]);
    });

    it.each([
      [
        'JSON',
        'application/json',
        '{"query":"q","variables":{"page":7,"size":2}}',
        '{"query":"q","variables":{"page":1,"size":2}}',
      ],
      ['a form', 'application/x-www-form-urlencoded', 'size=2&page=7', 'size=2&page=1'],
    ])('count in %s', async (_, type, text, second) => {
      const draft: Draft = {
        ...draftOf('/posted'),
        method: 'POST',
        headers: [own('Content-Type', type)],
        payload: { type: 'text', text },
      };
      await runLoop(draft, { ...pages, list: ['items'] }, target);
      expect(posted[1]).toBe(second);
      expect(posted).toHaveLength(3);
    });

    it('count in a header', async () => {
      const draft: Draft = { ...draftOf('/posted'), headers: [own('X-Page', '7')] };
      await runLoop(draft, { ...pages, list: ['items'], parameter: 'X-Page' }, target);
      expect(posted).toEqual(['0', '1', '2']);
    });

    it('send credentials with downloads from their own site, and from no other', async () => {
      served = { files: ['/photo/a.png', `http://localhost:${new URL(origin).port}/photo/b.png`] };
      const draft: Draft = {
        ...draftOf('/served'),
        headers: [{ ...own('Authorization', 'Bearer t0k'), role: 'credential' }],
      };
      await runLoop(draft, { type: 'files', at: steps('$.files[*]'), folder: 'f' }, target);
      expect(tokens).toEqual(['Bearer t0k', 'Bearer t0k', '-']);
    });

    it('say so where there is no list, instead of an empty table', async () => {
      for (const list of ['$.data', '$.data.total.x', '$.data.total[0]', '$[0]', '$.data["the items"].length'])
        await expect(runLoop(draftOf('/huts'), { ...pages, list: steps(list) }, target)).rejects.toThrow(
          `There is no list at ${list} in the response.`,
        );
      expect(asked).toHaveLength(1);
    });

    it('ask again until a place of the answer is what is waited for, and give up in the end', async () => {
      const poll = { type: 'poll', at: steps('$.state'), until: 'it\'s "held"', pauseMs: 1, most: 5 } as const;
      const { stdout } = await runLoop(draftOf('/hold'), poll, target);
      expect(stdout).toContain('held');
      expect(asked).toHaveLength(3);
      await expect(runLoop(draftOf('/hold'), { ...poll, most: 2 }, target)).rejects.toThrow(
        /condition was not met in 2 tries/,
      );
    });

    it.each([
      ['$.result.done', 'true'],
      ['$.result.left', '0'],
      ['$.result.states[0].now', 'ready'],
      ["$.result['states']", '[{"now":"ready"}]'],
      ['$.result.none', 'null and void'],
      ['$.result.zero', '"0"'],
      ['$.result[\'a.b "c"\']', 'é'],
    ])('wait for a member that is not there yet: %s is %s', async (at, until) => {
      await runLoop(draftOf('/job'), { type: 'poll', at: steps(at), until, pauseMs: 1, most: 4 }, target);
      expect(asked).toHaveLength(3);
    });

    it.each([
      ['false for 0', false, '0'],
      ['1 for true', 1, 'true'],
      ['true for 1', true, '1'],
      ['a list for what is in it', ['done'], 'done'],
    ])('never take %s', async (_, value, until) => {
      served = { value };
      await expect(
        runLoop(draftOf('/served'), { type: 'poll', at: ['value'], until, pauseMs: 1, most: 2 }, target),
      ).rejects.toThrow('The condition was not met in 2 tries.');
    });

    it('print the answer that was waited for, as JSON', async () => {
      served = { at: [true, null, 1.5, 'ű'] };
      const { stdout } = await runLoop(
        draftOf('/served'),
        { type: 'poll', at: ['at', 0], until: 'true', pauseMs: 1, most: 1 },
        target,
      );
      expect(stdout).toBe('{"at":[true,null,1.5,"ű"]}\n');
    });

    it('take what is not there for null', async () => {
      const poll = { type: 'poll', at: steps('$.result.error'), until: 'null', pauseMs: 1, most: 4 } as const;
      await runLoop(draftOf('/job'), poll, target);
      expect(asked).toHaveLength(1);
    });

    it('write an array of the answer as a table', async () => {
      const { stdout } = await runLoop(
        draftOf('/huts?page=0'),
        { type: 'table', list: steps("$.data['the items']") },
        target,
      );
      expect(stdout).toBe(csv(...TABLE.slice(0, 3).map((row) => row.replace(/,(open)?$/, ''))));
    });

    it.each(LISTS)('write a list of %s as the very same table', async (_, list, table) => {
      served = list;
      expect((await runLoop(draftOf('/served'), { type: 'table', list: [] }, target)).stdout).toBe(table);
    });

    it.each([
      ['a number', 3, 2],
      ['a text', '3', 3],
      ['null', null, 3],
      ['true', true, 3],
      ['a number that is no whole one', 2.5, 2],
    ])('take a total that is %s for what it is', async (_, total, wanted) => {
      served = { items: HUTS, total };
      await runLoop(draftOf('/paged'), { ...pages, list: ['items'], total: ['total'] }, target);
      expect(asked).toHaveLength(wanted);
    });

    it('download every address of an answer into a folder, and never out of it', async () => {
      const { files } = await runLoop(
        draftOf('/list'),
        { type: 'files', at: steps('$.list[*].photos[*].at'), folder: 'the photos' },
        target,
      );
      expect(
        Object.keys(files)
          .map((name) => name.split('-')[0])
          .sort(),
      ).toEqual(['0', '1', '2']);
      expect(files['0-a.png']).toBe('picture /photo/a.png');
    });

    it('understand addresses as the answer means them, and pass over what is none', async () => {
      const paths: Record<string, string> = {
        'a.bin': '/api/v1/served/a.bin',
        'sub/b.bin': '/api/v1/served/sub/b.bin',
        '../up.bin': '/api/v1/up.bin',
        '/root.bin': '/root.bin',
        [`${origin.replace('http:', '')}/c.bin`]: '/c.bin',
        '?q=1': '/api/v1/served/files?q=1',
        './d:e.bin': '/api/v1/served/d:e.bin',
        'f/g:h.bin': '/api/v1/served/f/g:h.bin',
        'i.bin?at=http://x.example/': '/api/v1/served/i.bin?at=http://x.example/',
        'é ö.bin': '/api/v1/served/%C3%A9%20%C3%B6.bin',
        './': '/api/v1/served/',
        '#top': '/api/v1/served/files?page=2',
        '': '/api/v1/served/files?page=2',
      };
      served = { files: [...Object.keys(paths), null, 7, {}, true] };
      const { files } = await runLoop(
        draftOf('/api/v1/served/files?page=2'),
        { type: 'files', at: steps('$.files[*]'), folder: 'files' },
        target,
      );
      expect(asked.slice(1).map((line) => line.split(' ')[0])).toEqual(Object.values(paths));
      expect(Object.keys(files).sort()).toEqual(
        Object.values(paths)
          .map(
            (path, at) =>
              `${at}-${
                path
                  .replace(/[?].*$/, '')
                  .split('/')
                  .at(-1) || 'file'
              }`,
          )
          .sort(),
      );
    });

    it('end in a sentence where an answer lacks what later requests need', async () => {
      served = { token: 7 };
      for (const [source, sentence] of [
        [{ type: 'json', path: ['token'] }, 'There is no text at $.token in the response.'],
        [{ type: 'json', path: ['data', 0] }, 'There is no text at $.data[0] in the response.'],
        [{ type: 'cookie', name: 'sid' }, 'The response sets no cookie sid.'],
        [{ type: 'location' }, 'The response has no Location.'],
      ] as const) {
        const step = (index: number) => ({
          index,
          draft: draftOf('/served'),
          ended: 'well' as const,
          retries: 0,
          answer: { json: undefined, setCookies: [], location: undefined },
        });
        const carries = [{ name: 'token', value: 'x', from: 0, source, to: [1] }];
        const { text } = renderScript({ steps: [step(0), step(1)], carries }, target);
        await expect(runText(text, target)).rejects.toThrow(sentence);
        expect(asked).toHaveLength(1);
      }
    });
  });
}
