import { execFile, execFileSync, spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readPath } from '../../json';
import { type GatheredRow, rowsAsCsv, rowsAsLines, Series, type SeriesLoop, waitBefore } from '../../series';
import {
  DEFAULT_OPTIONS,
  type Draft,
  EMPTY_DRAFT,
  fillIn,
  findTarget,
  type Loop,
  renderLoop,
  renderScript,
  type ScriptTarget,
} from '../index';
import { grammarOf } from '../testing/grammar';
import { LOOPS } from '../testing/loops';
import { own } from '../testing/odd-texts';
import { describeNeeding, RUN_TARGETS, type RunTarget, SCRIPT_COMMANDS, SCRIPT_NEEDS } from '../testing/tools';

const run = promisify(execFile);

/** Huts in pages of two, a hold that is confirmed at the third asking, photos under addresses of all kinds. */
let server: Server;
let origin: string;
let asked: string[] = [];
let polls = 0;
let tokens: string[] = [];
let posted: string[] = [];
let served: unknown;
const CURSORS = ['a+b/c=&d', 'é "q" %41', '7'];
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
    } else if (url.pathname === '/cursor') {
      const chunks: Buffer[] = [];
      request.on('data', (chunk: Buffer) => chunks.push(chunk));
      request.on('end', () => {
        const text = Buffer.concat(chunks).toString();
        const given =
          text === '' ? url.searchParams.get('after') : (JSON.parse(text) as { after: string | null }).after;
        posted.push(text === '' ? (request.url ?? '') : text);
        const at = given === null ? 0 : 1 + CURSORS.indexOf(given);
        // The second page is empty, and still names the one behind it.
        json({ rows: at === 1 ? [] : [{ at }], info: { next: CURSORS[at] ?? null } });
      });
    } else if (url.pathname === '/linked/pages') {
      const page = Number(url.searchParams.get('page') ?? 1);
      const first = `<${origin}/linked/pages?page=1>; rel="first"; title="a, b"`;
      const next = page === 1 ? `<${origin}/linked/pages?page=2&x=a,b>` : '<../linked/pages?page=3>';
      if (page < 3) response.setHeader('link', `${first}, ${next}; rel="next"`);
      json([{ page }]);
    } else if (url.pathname === '/linked/forms') {
      const page = Number(url.searchParams.get('page') ?? 0);
      const next = `<?page=${page + 1}>`;
      response.setHeader(
        'link',
        [
          `${next}; title="a, b"; REL = next, </x>; rel=last`,
          ['</x>; rel="prev"', `${next}; rel="last next"`],
          `${next}; foo; rel="next last"; title="x"`,
          `</x>; title="b; rel=next"; rel=prev, ${next};rel=next;title=y`,
        ][page] ?? '</x>; rel="next-archive", </y>; title="c; rel=next"',
      );
      json([{ page }]);
    } else if (url.pathname === '/named') {
      json({ items: [1], next: served });
    } else if (url.pathname === '/offset') {
      const offset = Number(url.searchParams.get('offset'));
      response.setHeader('content-range', 'items 0-1/5');
      json({ items: [0, 1, 2, 3, 4].slice(offset, offset + (offset === 2 ? 1 : 2)) });
    } else if (/^\/tiles\/\d+\/b$/.test(url.pathname)) {
      const page = Number(url.pathname.split('/')[2]);
      json({ items: Array.from({ length: page < 6 ? 2 : 1 }, (_, at) => `${page}.${at}`), pages: 3 });
    } else if (url.pathname === '/ready') {
      if (++polls < 3) response.writeHead(polls === 1 ? 404 : 503).end('not yet');
      else response.end('there it is');
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
    } else if (url.pathname === '/photo-empty') response.end();
    else if (/^\/(photo|api)|\.bin$/.test(url.pathname)) response.end(`picture ${url.pathname}`);
    else response.writeHead(404).end();
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => server.close());

const draftOf = (path: string): Draft => ({ ...EMPTY_DRAFT, url: `${origin}${path}`, headers: [own('X-Key', "k'1")] });
const steps = (text: string) => readPath(text) ?? [];

/** Loops are run as code, and by the app itself: what holds of the one holds of the other. */
type Runs = RunTarget | 'the app';

const runLoop = (draft: Draft, loop: Loop, target: Runs): ReturnType<typeof runText> =>
  target === 'the app' ? runSeries(draft, loop as SeriesLoop) : runText(renderLoop(draft, loop, target).text, target);

/** What a series in the app gathers, written as the loop's code prints it. */
async function runSeries(draft: Draft, loop: SeriesLoop): ReturnType<typeof runText> {
  begin();
  const series = new Series(draft, loop);
  const rows: GatheredRow[] = [];
  let state = series.begin();
  for (let tries = 1; state.end === undefined; tries++) {
    const request = series.requestAt(state);
    if (request === undefined) throw new Error('a series without a request is over');
    const { url, method, headers, payload } = fillIn(request.draft);
    const answer = await fetch(url, {
      method,
      headers: headers.map(({ name, value }): [string, string] => [name, value]),
      ...(payload.type === 'text' ? { body: payload.text } : {}),
    });
    const response = {
      status: answer.status,
      headers: [...answer.headers].map(([name, value]) => ({ name, value })),
      text: await answer.text(),
    };
    if (waitBefore(tries, response, Date.now()) !== undefined) continue;
    tries = 0;
    const after = series.take(state, response, url);
    if (after.rows > state.rows) rows.push(...series.rowsOf(response).map((json) => ({ json, value: request.value })));
    state = after;
  }
  const table = 'rows' in loop && loop.rows === 'jsonl' ? rowsAsLines(() => rows, {}) : rowsAsCsv(() => rows, {});
  const stdout = [...table].join('');
  const { why, sentence } = state.end;
  if (why === 'failed') throw Object.assign(new Error(sentence), { stdout, code: 1 });
  return { stdout, stderr: why === 'bounded' ? sentence : '', files: {} };
}

function begin(): void {
  asked = [];
  tokens = [];
  posted = [];
  polls = 0;
}

async function runText(
  text: string,
  target: RunTarget,
): Promise<{ stdout: string; stderr: string; files: Record<string, string> }> {
  const folder = mkdtempSync(join(tmpdir(), 'trazado-loop-'));
  const [command, ...args] = SCRIPT_COMMANDS[target];
  const path = join(folder, `run.${findTarget(target)?.extension}`);
  writeFileSync(path, text);
  begin();
  try {
    const { stdout, stderr } = await run(command, [...args, path], { cwd: folder });
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

for (const target of [...RUN_TARGETS, 'the app'] as const) {
  const needed = target === 'the app' ? [] : SCRIPT_NEEDS[target];
  describeNeeding(needed)(`loops for ${target}, run against a service`, () => {
    const pages = {
      type: 'pages',
      parameter: 'page',
      from: 0,
      to: undefined,
      step: 1,
      list: steps("$.data['the items']"),
      total: undefined,
      pages: undefined,
      shortEnds: false,
      rows: 'csv',
      mostPages: 50,
      pauseMs: 1,
    } as const;

    it('page until the list is empty, and write what they gathered as CSV', async () => {
      const { stdout } = await runLoop(draftOf('/huts?page=7&size=2'), pages, target);
      expect(stdout).toBe(csv(...TABLE));
      expect(asked).toEqual(["/huts?page=0&size=2 k'1", "/huts?page=1&size=2 k'1", "/huts?page=2&size=2 k'1"]);
    });

    it('page until the total is reached, or to the last page named', async () => {
      await runLoop(draftOf('/huts'), { ...pages, total: { in: 'json', at: steps('data.total') } }, target);
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
      // What a server failed at is not sent again: nobody knows what it did.
      expect(asked.map((line) => line.split(' ')[0])).toEqual([
        '/breaks?page=0',
        '/breaks?page=1',
        '/breaks?page=1',
        '/breaks?page=2',
        '/breaks?page=3',
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

    it('count in a segment of the path, and end where a page is short or where the pages do', async () => {
      const tiles = { ...pages, list: ['items'], parameter: 'path.2', from: 4 } as const;
      const { stdout } = await runLoop(draftOf('/tiles/4/b'), { ...tiles, shortEnds: true }, target);
      expect(stdout).toBe(csv('value', '4.0', '4.1', '5.0', '5.1', '6.0'));
      const counted = { ...tiles, pages: { in: 'json', at: ['pages'] }, to: 9, rows: 'jsonl' } as const;
      const { stdout: rows } = await runLoop(draftOf('/tiles/4/b'), counted, target);
      expect(rows).toBe(csv('"4.0"', '"4.1"', '"5.0"', '"5.1"', '"6.0"'));
      expect(asked).toHaveLength(3);
    });

    it('go on by as many rows as came, to the total that a header names', async () => {
      const offset = { ...pages, list: ['items'], parameter: 'offset', step: 'rows' } as const;
      const total = { in: 'header', name: 'Content-Range' } as const;
      const { stdout } = await runLoop(draftOf('/offset?offset=0'), { ...offset, total }, target);
      expect(stdout).toBe(csv('value', '0', '1', '2', '3', '4'));
      expect(asked.map((line) => line.split(' ')[0])).toEqual([
        '/offset?offset=0',
        '/offset?offset=2',
        '/offset?offset=3',
      ]);
    });

    it.each([
      ['a query that has none yet', '/cursor?size=2', undefined, (after: string) => `/cursor?size=2&after=${after}`],
      ['a query that has one', '/cursor?after=&size=2', undefined, (after: string) => `/cursor?after=${after}&size=2`],
      ['JSON', '/cursor', '{"after": null, "size": 2}', (after: string) => `{"after": ${after}, "size": 2}`],
    ])('follow a cursor in %s', async (_, path, payload, written) => {
      const follow = {
        type: 'follow',
        parameter: 'after',
        next: { in: 'json', at: ['info', 'next'] },
        list: ['rows'],
        rows: 'csv',
        mostPages: 9,
        pauseMs: 1,
      } as const;
      const draft: Draft =
        payload === undefined
          ? draftOf(path)
          : {
              ...draftOf(path),
              method: 'POST',
              headers: [own('Content-Type', 'application/json')],
              payload: { type: 'text', text: payload },
            };
      // An empty parameter is the first page here, too.
      CURSORS[-1 as number] = '';
      const { stdout } = await runLoop(draft, follow, target);
      expect(stdout).toBe(csv('at', '0', '2', '3'));
      const decoded = posted.map((one) => (payload === undefined ? decodeURIComponent(one.replaceAll('+', ' ')) : one));
      const first = payload ?? path;
      const others = CURSORS.map((one) => written(payload === undefined ? one : JSON.stringify(one)));
      expect(decoded).toEqual([first, ...others]);
    });

    it('follow the Link header, with the credentials, and to no other site', async () => {
      const follow = {
        type: 'follow',
        parameter: undefined,
        next: { in: 'link' },
        list: [],
        rows: 'jsonl',
        mostPages: 9,
        pauseMs: 1,
      } as const;
      const { stdout } = await runLoop(draftOf('/linked/pages'), follow, target);
      expect(stdout).toBe(csv('{"page":1}', '{"page":2}', '{"page":3}'));
      expect(asked).toEqual(["/linked/pages k'1", "/linked/pages?page=2&x=a,b k'1", "/linked/pages?page=3 k'1"]);
      await runLoop(draftOf('/linked/forms'), follow, target);
      expect(asked.map((line) => line.split(' ')[0])).toEqual([
        '/linked/forms',
        ...[1, 2, 3, 4].map((page) => `/linked/forms?page=${page}`),
      ]);
      const named = { ...follow, next: { in: 'json', at: ['next'] }, list: ['items'] } as const;
      served = `http://localhost:${new URL(origin).port}/named?q=1`;
      await expect(runLoop(draftOf('/named'), named, target)).rejects.toThrow(
        `The next page is at another site, which is not told the credentials: ${served}`,
      );
      expect(asked).toHaveLength(1);
      // One that names itself for ever ends.
      served = '?page=2';
      expect((await runLoop(draftOf('/named'), named, target)).stdout).toBe(csv('1', '1'));
    });

    it.each([
      ['a query', '/paged?page=7', undefined, 'page', ['/paged?page=a%26b', '/paged?page=', '/paged?page=1%200']],
      [
        'a query that has none',
        '/paged',
        undefined,
        'page',
        ['/paged?page=a%26b', '/paged?page=', '/paged?page=1%200'],
      ],
      ['JSON that held a number', '/posted', '{"page":7}', 'page', ['{"page":"a&b"}', '{"page":""}', '{"page":"1 0"}']],
      ['JSON that held a text', '/posted', '{"page":"x"}', 'page', ['{"page":"a&b"}', '{"page":""}', '{"page":"1 0"}']],
    ])('go through values in %s', async (_, path, payload, parameter, wanted) => {
      served = { items: [1], total: 1 };
      const values = ['a&b', '', '1 0'];
      const loop = { ...pages, type: 'values', parameter, values, list: ['items'] } as const;
      const draft: Draft =
        payload === undefined
          ? draftOf(path)
          : {
              ...draftOf(path),
              method: 'POST',
              headers: [own('Content-Type', 'application/json')],
              payload: { type: 'text', text: payload },
            };
      await runLoop(draft, loop, target);
      expect(payload === undefined ? asked.map((line) => line.replace(/ [^ ]*$/, '')) : posted).toEqual(wanted);
    });

    it('go through numbers as numbers, and past a value that has nothing', async () => {
      served = { items: [1, 2, 3], total: 3 };
      const loop = { ...pages, type: 'values', parameter: 'page', list: ['items'] } as const;
      const { stdout } = await runLoop(draftOf('/paged?page=1'), { ...loop, values: ['0', '7', '1'] }, target);
      expect(stdout).toBe(csv('value', '1', '2', '3'));
      const draft: Draft = {
        ...draftOf('/posted'),
        method: 'POST',
        headers: [own('Content-Type', 'application/json')],
        payload: { type: 'text', text: '{"page":1}' },
      };
      await runLoop(draft, { ...loop, values: ['10', '-2'] }, target);
      expect(posted).toEqual(['{"page":10}', '{"page":-2}']);
    });

    it('say so where there is no list, instead of an empty table', async () => {
      for (const list of ['$.data', '$.data.total.x', '$.data.total[0]', '$[0]', '$.data["the items"].length'])
        await expect(runLoop(draftOf('/huts'), { ...pages, list: steps(list) }, target)).rejects.toThrow(
          `There is no list at ${list} in the response`,
        );
      expect(asked).toHaveLength(1);
    });

    it('write an array of the answer as a table', async () => {
      const { stdout } = await runLoop(
        draftOf('/huts?page=0'),
        { type: 'table', list: steps("$.data['the items']"), rows: 'csv' },
        target,
      );
      expect(stdout).toBe(csv(...TABLE.slice(0, 3).map((row) => row.replace(/,(open)?$/, ''))));
    });

    it.each(LISTS)('write a list of %s as the very same table', async (_, list, table) => {
      served = list;
      expect((await runLoop(draftOf('/served'), { type: 'table', list: [], rows: 'csv' }, target)).stdout).toBe(table);
    });

    it.each([
      ['a number', 3, 2],
      ['a text', '3', 3],
      ['null', null, 3],
      ['true', true, 3],
      ['a number that is no whole one', 2.5, 2],
    ])('take a total that is %s for what it is', async (_, total, wanted) => {
      served = { items: HUTS, total };
      await runLoop(draftOf('/paged'), { ...pages, list: ['items'], total: { in: 'json', at: ['total'] } }, target);
      expect(asked).toHaveLength(wanted);
    });

    // Code alone asks again until something holds, downloads into a folder, and makes steps.
    if (target === 'the app') return;

    it('ask again until the status is the one that is waited for', async () => {
      const poll = { type: 'poll', until: { in: 'status', status: 200 }, pauseMs: 1, most: 5 } as const;
      expect((await runLoop(draftOf('/ready'), poll, target)).stdout).toBe('there it is\n');
      expect(asked).toHaveLength(3);
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

    it('ask again until a place of the answer is what is waited for, and give up in the end', async () => {
      const poll = {
        type: 'poll',
        until: { in: 'json', at: steps('$.state'), text: 'it\'s "held"' },
        pauseMs: 1,
        most: 5,
      } as const;
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
      await runLoop(
        draftOf('/job'),
        { type: 'poll', until: { in: 'json', at: steps(at), text: until }, pauseMs: 1, most: 4 },
        target,
      );
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
        runLoop(
          draftOf('/served'),
          { type: 'poll', until: { in: 'json', at: ['value'], text: until }, pauseMs: 1, most: 2 },
          target,
        ),
      ).rejects.toThrow('The condition was not met in 2 tries.');
    });

    it.each([
      ['< 30', 29.5, true],
      ['<= 30', 30, true],
      ['> -2.5', -2, true],
      ['>= 30', 30.0, true],
      ['< 30', 30, false],
      ['< 30', '29', false],
      ['>= 0', null, false],
      ['>= 0', true, false],
      ['> 0', [1], false],
    ])('wait for a number: %s of %j', async (until, value, isMet) => {
      served = { value };
      const poll = { type: 'poll', until: { in: 'json', at: ['value'], text: until }, pauseMs: 1, most: 1 } as const;
      const ran = runLoop(draftOf('/served'), poll, target);
      if (isMet) expect((await ran).stdout).toContain('"value"');
      else await expect(ran).rejects.toThrow('The condition was not met in 1 try.');
    });

    it('print the answer that was waited for, as JSON', async () => {
      served = { at: [true, null, 1.5, 'ű'] };
      const { stdout } = await runLoop(
        draftOf('/served'),
        { type: 'poll', until: { in: 'json', at: ['at', 0], text: 'true' }, pauseMs: 1, most: 1 },
        target,
      );
      expect(stdout).toBe('{"at":[true,null,1.5,"ű"]}\n');
    });

    it('take what is not there for null', async () => {
      const poll = {
        type: 'poll',
        until: { in: 'json', at: steps('$.result.error'), text: 'null' },
        pauseMs: 1,
        most: 4,
      } as const;
      await runLoop(draftOf('/job'), poll, target);
      expect(asked).toHaveLength(1);
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

    it('end with the step, the status and the response where one fails, or go on where that is asked', async () => {
      const step = (index: number, path: string) => ({
        index,
        draft: draftOf(path),
        ended: 'well' as const,
        retries: 0,
        isRedirected: false,
        answer: { json: undefined, page: undefined, setCookies: [], headers: [], location: undefined },
      });
      const sequence = { steps: [step(3, '/breaks?page=7'), step(5, '/huts?page=0')], carries: [] };
      const failed = await runText(renderScript(sequence, target).text, target).catch((error: unknown) => error);
      const { stderr } = failed as { stderr: string };
      for (const told of ['#3 GET /breaks?page=7', '500', 'out of huts']) expect(stderr).toContain(told);
      expect(asked).toHaveLength(1);
      const { text } = renderScript(sequence, target, DEFAULT_OPTIONS, { goesOn: true });
      const { stdout } = await runText(text, target);
      expect(stdout.split('\n').slice(0, 2)).toEqual([`500 ${origin}/breaks?page=7`, `200 ${origin}/huts?page=0`]);
    });

    it('end with what came where its JSON is read and it is none', async () => {
      const answer = { json: undefined, page: undefined, setCookies: [], headers: [], location: undefined };
      const step = { draft: draftOf('/photo/a'), ended: 'well' as const, retries: 0, isRedirected: false, answer };
      const source = { type: 'json', path: ['id'], holds: 'number' } as const;
      const carries = [{ name: 'id', value: '7', from: 3, source, as: 'plain' as const, to: [4] }];
      const { text } = renderScript(
        {
          steps: [
            { ...step, index: 3 },
            { ...step, index: 4 },
          ],
          carries,
        },
        target,
      );
      await expect(runText(text, target)).rejects.toThrow(
        '#3 GET /photo/a\nThe response is no JSON:\npicture /photo/a',
      );
      expect(asked).toHaveLength(1);
      const loop = renderLoop(draftOf('/photo/a'), { type: 'table', list: ['items'], rows: 'csv' }, target);
      await expect(runText(loop.text, target)).rejects.toThrow('The response is no JSON:\npicture /photo/a');
      // What holds nothing is none either.
      const empty = renderLoop(draftOf('/photo-empty'), { type: 'table', list: ['items'], rows: 'csv' }, target);
      await expect(runText(empty.text, target)).rejects.toThrow('The response is no JSON:');
    });

    it('end in a sentence where an answer lacks what later requests need', async () => {
      served = { token: 7, half: 7.5, text: '7', true: true, list: [7] };
      for (const [source, sentence] of [
        [{ type: 'json', path: ['token'], holds: 'text' }, 'There is no text at $.token in the response.'],
        [{ type: 'json', path: ['data', 0], holds: 'text' }, 'There is no text at $.data[0] in the response.'],
        [{ type: 'json', path: ['half'], holds: 'number' }, 'There is no whole number at $.half in the response.'],
        [{ type: 'json', path: ['text'], holds: 'number' }, 'There is no whole number at $.text in the response.'],
        [{ type: 'json', path: ['true'], holds: 'number' }, 'There is no whole number at $.true in the response.'],
        [{ type: 'json', path: ['list'], holds: 'number' }, 'There is no whole number at $.list in the response.'],
        [{ type: 'text', before: '{"token":"', after: '"' }, 'Nothing stands behind {"token":" in the response.'],
        [{ type: 'text', before: '{"token":', after: '#' }, 'Nothing stands behind {"token": in the response.'],
        [{ type: 'cookie', name: 'sid' }, 'The response sets no cookie sid.'],
        [{ type: 'location' }, 'The response has no Location.'],
        [{ type: 'parameter', name: 'code' }, 'The Location of the response has no parameter code.'],
      ] as const) {
        const step = (index: number) => ({
          index,
          draft: draftOf('/served'),
          ended: 'well' as const,
          retries: 0,
          isRedirected: false,
          answer: { json: undefined, page: undefined, setCookies: [], headers: [], location: undefined },
        });
        const carries = [{ name: 'token', value: 'x', from: 0, source, as: 'encoded' as const, to: [1] }];
        const { text } = renderScript({ steps: [step(0), step(1)], carries }, target);
        await expect(runText(text, target)).rejects.toThrow(sentence);
        expect(asked).toHaveLength(1);
      }
    });
  });
}

describe('scripts that are held against their grammar or formatter', () => {
  const QUOTES = ["it's", 'a "b" $c `d` #e', '$(x) @(y) {z}', '\u2019‘’', 'é ‹page›'];
  const scripts = (target: ScriptTarget): string[] => {
    const draft = (text: string): Draft => ({
      ...draftOf('/huts?page=1'),
      method: 'POST',
      headers: [{ ...own('Authorization', `Bearer ${text}`), role: 'credential' }],
      payload: { type: 'text', text },
    });
    const loops = LOOPS.flatMap((loop) => QUOTES.map((text) => renderLoop(draft(text), loop, target).text));
    const steps = QUOTES.map((text, index) => ({
      index,
      draft: { ...draft(`‹token› ${text}`), variables: [{ name: 'token', value: '', isSecret: false }] },
      ended: index === 1 ? 404 : ('well' as const),
      retries: index,
      isRedirected: index === 2,
      answer: { json: undefined, page: undefined, setCookies: [], headers: [], location: undefined },
    }));
    const sources = [
      { type: 'json', path: ['a', 0, "it's"], holds: 'text' },
      { type: 'json', path: ['a', "it's"], holds: 'number' },
      { type: 'cookie', name: 's.id' },
      { type: 'text', before: `<i a="it's" \\ $b="`, after: '"' },
      { type: 'header', name: "X-It's" },
      { type: 'location' },
      { type: 'parameter', name: "it's" },
    ] as const;
    const sequences = sources.map((source) => {
      const carries = [{ name: 'token', value: 'x', from: 0, source, as: 'encoded' as const, to: [1] }];
      return renderScript({ steps, carries }, target).text;
    });
    return [...loops, ...sequences];
  };

  it('ask of sed only what POSIX defines (XCU, sed; XBD 9.3)', () => {
    const programs = scripts('curl-sh').flatMap((text) => [...text.matchAll(/\bsed (?:-n )?'([^']*)'/g)]);
    expect(new Set(programs.map(([, program]) => program)).size).toBeGreaterThanOrEqual(5);
    expect(programs.filter(([, program]) => /\\[^(){}[\].*^$\\/\d]/.test(program ?? ''))).toEqual([]);
  });

  it('are PowerShell', async () => {
    const isAllowed = await grammarOf('powershell');
    expect(scripts('powershell').filter((text) => !isAllowed(text))).toEqual([]);
  });

  describeNeeding(['gofmt', 'go'])('in Go', () => {
    it('are formatted, and vetted without a word', () => {
      const folder = mkdtempSync(join(tmpdir(), 'trazado-gofmt-'));
      const texts = scripts('go');
      for (const [at, text] of texts.entries()) {
        mkdirSync(join(folder, `s${at}`));
        writeFileSync(join(folder, `s${at}`, 'main.go'), text);
      }
      writeFileSync(join(folder, 'go.mod'), 'module scripts\n\ngo 1.19\n');
      expect(execFileSync('gofmt', ['-d', folder]).toString()).toBe('');
      const { status, stderr } = spawnSync('go', ['vet', './...'], { cwd: folder });
      expect(stderr.toString()).toBe('');
      expect(status).toBe(0);
      rmSync(folder, { recursive: true });
    });
  });
});
