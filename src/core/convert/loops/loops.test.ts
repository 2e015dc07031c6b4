import { execFile } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import {
  type Draft,
  EMPTY_DRAFT,
  FIRST_LOOP,
  type Loop,
  type LoopFields,
  readLoop,
  readSteps,
  renderLoop,
  SCRIPT_TARGETS,
  type ScriptTarget,
  suggestLoop,
} from '../index';
import { own } from '../testing/cases';
import { describeNeeding, PYTHON, SCRIPT_NEEDS } from '../testing/tools';
import { writeSteps } from './loop';

const run = promisify(execFile);

/** Huts in pages of two, a hold that is confirmed at the third asking, photos under addresses of all kinds. */
let server: Server;
let origin: string;
let asked: string[] = [];
let polls = 0;
const HUTS = [
  { name: 'Alba "Norte"', place: { height: 2100, tags: ['a', 'b'] } },
  { name: 'Jara, Vieja', place: { height: 1800 } },
  { name: "Cantil d'Alta", open: true },
];
beforeAll(async () => {
  server = createServer((request, response) => {
    const url = new URL(request.url ?? '/', 'http://x');
    asked.push(`${request.url} ${request.headers['x-key'] ?? '-'}`);
    const json = (value: unknown): void =>
      void response.setHeader('content-type', 'application/json').end(JSON.stringify(value));
    if (url.pathname === '/huts') {
      const page = Number(url.searchParams.get('page'));
      json({ data: { 'the items': HUTS.slice(page * 2, page * 2 + 2), total: HUTS.length } });
    } else if (url.pathname === '/nights') {
      // A service that gives its last page for every number behind it.
      json({ nights: [{ night: Math.min(2, Number(url.searchParams.get('page'))) }] });
    } else if (url.pathname === '/job') {
      // What is waited for comes at the third asking; its member is not there before.
      polls++;
      json(
        polls < 3 ? {} : { result: { done: true, error: null, left: 0, states: [{ now: 'ready' }], 'a.b "c"': 'é' } },
      );
    } else if (url.pathname === '/hold') json({ state: ++polls % 3 === 0 ? 'it\'s "held"' : 'waiting' });
    else if (url.pathname === '/list')
      json({
        list: [
          { photos: [{ at: '/photo/a.png?x=1' }, { at: `${origin}/photo/..%2Fb.png` }] },
          { photos: [{ at: '/photo/' }] },
        ],
      });
    else if (url.pathname.startsWith('/photo')) response.end(`picture ${url.pathname}`);
    else response.writeHead(404).end();
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => server.close());

const draftOf = (path: string): Draft => ({ ...EMPTY_DRAFT, url: `${origin}${path}`, headers: [own('X-Key', "k'1")] });
const steps = (text: string) => readSteps(text) ?? [];

async function runLoop(
  draft: Draft,
  loop: Loop,
  target: ScriptTarget,
): Promise<{ stdout: string; stderr: string; files: Record<string, string> }> {
  const folder = mkdtempSync(join(tmpdir(), 'trazado-loop-'));
  const path = join(folder, target === 'node-fetch' ? 'run.mjs' : 'run');
  writeFileSync(path, renderLoop(draft, loop, target).text);
  asked = [];
  polls = 0;
  const [command, ...args]: [string, ...string[]] =
    target === 'curl-sh' ? ['sh', path] : target === 'node-fetch' ? ['node', path] : [PYTHON, path];
  try {
    const { stdout, stderr } = await run(command, args, { cwd: folder });
    const names = readdirSync(folder, { recursive: true, withFileTypes: true }).filter(
      (entry) => entry.isFile() && !entry.name.startsWith('run'),
    );
    return {
      stdout: stdout.replaceAll('\r\n', '\n'),
      stderr,
      files: Object.fromEntries(
        names.map((entry) => [entry.name, readFileSync(join(entry.parentPath, entry.name), 'utf8')]),
      ),
    };
  } finally {
    rmSync(folder, { recursive: true });
  }
}

/** Rows of CSV, quotes taken away: writers differ in what they quote. */
const rowsOf = (csv: string): string[][] =>
  csv
    .trim()
    .split('\n')
    .map((line) =>
      [...line.matchAll(/(?:^|,)(?:"((?:[^"]|"")*)"|([^,]*))/g)].map(
        ([, quoted, bare]) => quoted?.replaceAll('""', '"') ?? bare ?? '',
      ),
    );

const TABLE = [
  ['name', 'place.height', 'place.tags', 'open'],
  ['Alba "Norte"', '2100', '["a","b"]', ''],
  ['Jara, Vieja', '1800', '', ''],
  ["Cantil d'Alta", '', '', 'true'],
];
const alike = (rows: string[][]): string[][] =>
  rows.map((row) => row.map((cell) => cell.replace('["a", "b"]', '["a","b"]').replace('True', 'true')));

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
      expect(alike(rowsOf(stdout))).toEqual(TABLE);
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
      expect(rowsOf(stdout)).toEqual([['night'], ['0'], ['1'], ['2']]);
      expect(asked).toHaveLength(4);
      const { stdout: some, stderr } = await runLoop(draftOf('/nights'), { ...nights, mostPages: 2 }, target);
      expect(rowsOf(some)).toEqual([['night'], ['0'], ['1']]);
      expect(stderr.trim()).toBe('Stopped after 2 pages: there may be more.');
      expect(asked).toHaveLength(2);
    });

    it('say so where there is no list, instead of an empty table', async () => {
      for (const list of ['$.data', "$.data['the "])
        await expect(runLoop(draftOf('/huts'), { ...pages, list: steps(list) }, target)).rejects.toThrow(
          `There is no list at ${list === '$.data' ? list : '$'} in the answer.`,
        );
      expect(asked).toHaveLength(1);
    });

    it('ask again until a place of the answer is what is waited for, and give up in the end', async () => {
      const poll = { type: 'poll', at: steps('$.state'), until: 'it\'s "held"', pauseMs: 1, most: 5 } as const;
      const { stdout } = await runLoop(draftOf('/hold'), poll, target);
      expect(stdout).toContain('held');
      expect(asked).toHaveLength(3);
      await expect(runLoop(draftOf('/hold'), { ...poll, most: 2 }, target)).rejects.toThrow(
        /did not come to that in 2 tries/,
      );
    });

    it.each([
      ['$.result.done', 'true'],
      ['$.result.left', '0'],
      ['$.result.states[0].now', 'ready'],
      ["$.result['states']", '[{"now":"ready"}]'],
      ['$.result[\'a.b "c"\']', 'é'],
    ])('wait for a member that is not there yet: %s is %s', async (at, until) => {
      await runLoop(draftOf('/job'), { type: 'poll', at: steps(at), until, pauseMs: 1, most: 4 }, target);
      expect(asked).toHaveLength(3);
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
      expect(alike(rowsOf(stdout))).toEqual(TABLE.slice(0, 3).map((row) => row.slice(0, 3)));
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
  });
}

describe('what an answer suggests for a loop', () => {
  it.each([
    ['{"nights":[{"at":1}],"page":0,"pages":4}', 0, 1, { list: '$.nights', to: '3' }],
    ['{"nights":[{"at":1}],"page":1,"pages":4}', 1, 1, { list: '$.nights', to: '4' }],
    [
      '{"tags":["a"],"data":{"the items":[{},{}],"total":120}}',
      0,
      20,
      { list: "$.data['the items']", total: '$.data.total' },
    ],
    ['[{"a":1},{"a":2}]', 0, 1, { list: '$' }],
    // What counts the page is no total; pages of another step are none of this parameter.
    ['{"items":[1,2],"count":2,"pages":3}', 0, 2, { list: '$.items' }],
    ['{"items":[],"count":7}', 0, 1, { list: '$.items', total: '$.count' }],
    ['{"pages":0,"items":[1]}', 0, 1, { list: '$.items' }],
    ['{"status":"held"}', 0, 1, {}],
    ['no JSON', 0, 1, {}],
  ])('%s', (text, first, step, wanted) => expect(suggestLoop(text, first, step)).toEqual(wanted));
});

describe('a loop as it is typed', () => {
  const typed = (change: Partial<LoopFields>) => readLoop({ ...FIRST_LOOP, ...change });

  it('is one request until another kind is chosen', () => {
    expect(typed({})).toBeUndefined();
    expect(typed({ kind: 'pages' })).toEqual({
      type: 'pages',
      parameter: 'page',
      from: 0,
      to: undefined,
      step: 1,
      list: ['items'],
      total: undefined,
      mostPages: 100,
      pauseMs: 500,
    });
    expect(typed({ kind: 'poll', pauseMs: '0' })).toMatchObject({ type: 'poll', until: 'done', most: 20, pauseMs: 0 });
    expect(typed({ kind: 'table', list: '$' })).toEqual({ type: 'table', list: [] });
    expect(typed({ kind: 'files', list: '$[*].at' })).toEqual({ type: 'files', at: ['*', 'at'], folder: 'files' });
  });

  it.each([
    [{ kind: 'pages', step: '0' }, 'From and step are whole numbers, the step not 0.'],
    [{ kind: 'pages', from: '' }, 'From and step are whole numbers, the step not 0.'],
    [{ kind: 'pages', to: 'x' }, 'To is a whole number, or empty.'],
    [{ kind: 'pages', mostPages: '0' }, 'The most pages are a whole number, 1 or more.'],
    [{ kind: 'pages', parameter: '' }, 'Name the parameter.'],
    [{ kind: 'pages', list: '$[' }, 'The list is a place like $.items.'],
    [{ kind: 'pages', total: '$[' }, 'The total is a place like $.total.'],
    [{ kind: 'poll', mostTries: '1.5' }, 'The tries are a whole number, 1 or more.'],
    [{ kind: 'poll', pauseMs: '-1' }, 'The pause is a number of ms.'],
    [{ kind: 'files', folder: ' ' }, 'Name the folder.'],
  ] as [Partial<LoopFields>, string][])('%j is refused: %s', (change, sentence) =>
    expect(typed(change)).toBe(sentence),
  );
});

describe('a place in JSON', () => {
  it.each([
    ['$', []],
    ['$.a[0].b', ['a', 0, 'b']],
    ['a.b', ['a', 'b']],
    ['$[\'a b\'][*]["c"]', ['a b', '*', 'c']],
    ['$[', undefined],
  ])('%s leads to %j', (text, wanted) => expect(readSteps(text)).toEqual(wanted));

  it('is read back as it is written, whatever its names', () => {
    const step = fc.oneof(fc.nat(99), fc.constant('*'), fc.string({ unit: 'binary', minLength: 1 }));
    fc.assert(
      fc.property(fc.array(step), (place) => {
        expect(readSteps(writeSteps(place))).toEqual(place);
      }),
      { seed: 13 },
    );
  });
});
