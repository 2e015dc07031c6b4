import { type ChildProcess, spawnSync } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import Database from 'better-sqlite3';
import { Command } from 'commander';
import fc from 'fast-check';
import { zipSync } from 'fflate';
import { analyse, takeFacts } from '#core/analysis';
import {
  DEFAULT_OPTIONS,
  draftFromExchange,
  findCarries,
  renderScript,
  SCRIPT_TARGETS,
  stepOf,
  TARGETS,
} from '#core/convert';
import { HarError, HarReader, isObject, type Json, normaliseEntry, writeHar } from '#core/har';
import type { Exchange } from '#core/model';
import { explainJson } from '#core/report';
import { beginReading } from '#server/diagnose';
import { startServer } from '../src/server/testing/process';

// Throws damaged and hostile captures at the reader, the command line and the server, from a seed, for so long; and kills the
// server in the middle of its work. Ends with 1 at the first thing that must not be, with the case kept for a look.

const program = new Command('fuzz')
  .option('--seconds <n>', 'how long each of the three runs', '20')
  .option('--seed <n>', 'where chance begins', '20261003')
  .option('--kills <n>', 'how often the server is killed', '5')
  .parse();
const options = program.opts<{ seconds: string; seed: string; kills: string }>();
const SECONDS = Number(options.seconds);
const SEED = Number(options.seed);
const KILLS = Number(options.kills);

const folder = mkdtempSync(join(tmpdir(), 'trazado-fuzz-'));
const LAUNCHER = join(process.cwd(), 'bin/trazado');

class Fault extends Error {}

function fault(what: string, bytes: Uint8Array | undefined, seed: number): never {
  const kept = join(tmpdir(), `trazado-fuzz-${seed}.har`);
  if (bytes !== undefined) writeFileSync(kept, bytes);
  throw new Fault(`${what}\n  case ${seed}${bytes === undefined ? '' : `, kept as ${kept}`}`);
}

/** A few entries of the demo, small enough to be tried thousands of times. */
const ENTRIES: readonly Json[] = readdirSync('demo/captures')
  .filter((name) => name.endsWith('.har'))
  .flatMap(
    (name) =>
      (JSON.parse(readFileSync(join('demo/captures', name), 'utf8')) as { log: { entries: Json[] } }).log.entries,
  )
  .filter((entry) => JSON.stringify(entry).length < 4000);

const ODD_TEXTS = [
  '',
  '\0',
  '\ud800',
  '__proto__',
  'constructor',
  'toString',
  '"}],{"',
  '\u2028',
  "'; touch x #",
  '$(x)',
  '{{a}}',
  '../..',
  '1e999',
  '-1',
];
const odd = fc.oneof(
  fc.constantFrom<Json>(null, true, 0, -1, 1e308, '200 OK', [], {}, [[]], ...ODD_TEXTS),
  fc.jsonValue({ maxDepth: 2 }) as fc.Arbitrary<Json>,
);

type Pick = (most: number) => number;

/** Puts something odd into a place of a value, somewhere below it. */
function spoil(value: Json, pick: Pick, put: () => Json): Json {
  if (pick(6) === 0 || typeof value !== 'object' || value === null) return put();
  if (Array.isArray(value)) {
    const list = value as readonly Json[];
    const at = pick(list.length + 1);
    return list.length === 0 || at === list.length
      ? [...list, put()]
      : list.map((item, place) => (place === at ? spoil(item, pick, put) : item));
  }
  const pairs = Object.entries(value);
  const at = pick(pairs.length + 1);
  if (at === pairs.length) return Object.fromEntries([...pairs, [ODD_TEXTS[pick(ODD_TEXTS.length)] ?? '', put()]]);
  return Object.fromEntries(
    pairs.map(([key, item], place) => [key, place === at ? spoil(item, pick, put) : item] as const),
  );
}

/** One case: a capture, spoiled in its values, then perhaps in its bytes, then perhaps packed. */
function makeCase(seed: number): { readonly bytes: Uint8Array; readonly json: Json | undefined } {
  const random = fc.sample(fc.integer({ min: 0, max: 0x7fffffff }), { numRuns: 200, seed });
  let next = 0;
  const pick: Pick = (most) => (most <= 0 ? 0 : (random[next++ % random.length] ?? 0) % most);
  const values = fc.sample(odd, { numRuns: 8, seed });
  const put = (): Json => values[pick(values.length)] ?? null;
  const entries = Array.from({ length: 1 + pick(6) }, () => ENTRIES[pick(ENTRIES.length)] ?? {});
  let json: Json = {
    log: {
      version: '1.2',
      creator: { name: 'x' },
      pages: [
        {
          id: ODD_TEXTS[pick(ODD_TEXTS.length)] ?? 'p',
          startedDateTime: '2026-10-03T09:00:00Z',
          pageTimings: { onLoad: 900 },
        },
      ],
      entries,
    },
  };
  for (let times = pick(5); times > 0; times--) json = spoil(json, pick, put);
  const shape = pick(6);
  if (shape === 0) json = entries;
  if (shape === 1) json = [json, json];
  const bytes = Buffer.from(JSON.stringify(json, null, pick(2) * 2));
  const kind = pick(8);
  if (kind < 3) return { bytes, json };
  if (kind === 3) return { bytes: gzipSync(bytes), json: undefined };
  if (kind === 4) return { bytes: zipSync({ 'a.har': bytes }), json: undefined };
  const damaged = Buffer.from(pick(4) === 0 ? gzipSync(bytes) : bytes);
  for (let times = 1 + pick(4); times > 0; times--) damaged[pick(damaged.length)] = pick(256);
  return { bytes: pick(3) === 0 ? damaged.subarray(0, pick(damaged.length)) : damaged, json: undefined };
}

interface ReadCase {
  readonly exchanges: readonly Exchange[];
  readonly saved: string;
  readonly end: ReturnType<HarReader['end']>;
}

function readCase(bytes: Uint8Array): ReadCase | undefined {
  const values: Json[] = [];
  try {
    const reader = new HarReader({ onEntry: ({ value }) => void values.push(value) });
    reader.push(bytes);
    const end = reader.end();
    const saved = [
      ...writeHar(end.outline, {
        pages: end.rawPages.map((page) => JSON.stringify(page)),
        entries: values.map((value) => JSON.stringify(value)),
      }),
    ].join('');
    return {
      exchanges: values.flatMap((value, place) => (isObject(value) ? normaliseEntry(value, place) : [])),
      saved,
      end,
    };
  } catch (error) {
    if (error instanceof HarError) return undefined;
    throw error;
  }
}

/** Reads, analyses, diagnoses, explains and converts in this process. */
function fuzzCore(): string {
  let cases = 0;
  let read = 0;
  let slowest = 0;
  for (const until = Date.now() + SECONDS * 1000; Date.now() < until; cases++) {
    const seed = SEED + cases;
    const { bytes, json } = makeCase(seed);
    const since = Date.now();
    try {
      const found = readCase(bytes);
      if (found === undefined) continue;
      read++;
      const { capture } = found.end;
      if (json !== undefined && capture.completeness.behind === undefined && !sameJson(JSON.parse(found.saved), json)) {
        fault('What was saved is not what was read.', bytes, seed);
      }
      const diagnoser = beginReading(analyse(found.exchanges.map(takeFacts), capture.pages, capture.completeness).rows);
      for (const exchange of found.exchanges) diagnoser.add(exchange);
      const diagnosis = diagnoser.end(capture.pages, capture.completeness);
      for (const page of [undefined, ...diagnosis.overview.pages.map(({ id }) => id)]) explainJson(diagnosis, page);
      const exchange = found.exchanges[cases % Math.max(1, found.exchanges.length)];
      if (exchange !== undefined) {
        const draft = draftFromExchange(exchange, cases % 2 === 0 ? 'faithful' : 'lean');
        for (const target of TARGETS) target.render(draft, { ...DEFAULT_OPTIONS, commentsLeftOut: true });
        const steps = found.exchanges.map((one) => stepOf(one, 'lean', () => undefined));
        for (const target of SCRIPT_TARGETS) renderScript(findCarries(steps), target);
      }
    } catch (error) {
      if (error instanceof Fault) throw error;
      fault(error instanceof Error ? (error.stack ?? error.message) : String(error), bytes, seed);
    }
    slowest = Math.max(slowest, Date.now() - since);
  }
  return `reader and core: ${cases} cases, ${read} read, the slowest ${slowest} ms`;
}

/** Deep equality of JSON, whose numbers beyond what a double holds are the same infinity. */
const sameJson = (one: unknown, other: unknown): boolean => JSON.stringify(one) === JSON.stringify(other);

const COMMANDS = [
  'summary F --json',
  'list F --json',
  'list F --where status>=400',
  'explain F',
  'find F hut',
  'show F 0',
  'show F 0 --body',
  'convert F 0 --to go',
  'convert F --script --to curl-sh',
  'save F -',
  'check F --max loaded=1s',
];

/** Runs commands on cases: an exit status of 0, 1 or 2, at most one line of error, no stack trace. */
function fuzzCli(): string {
  let cases = 0;
  for (const until = Date.now() + SECONDS * 1000; Date.now() < until; cases++) {
    const seed = SEED + cases;
    const { bytes } = makeCase(seed);
    const path = join(folder, 'case.har');
    writeFileSync(path, bytes);
    const args = (COMMANDS[cases % COMMANDS.length] ?? '').split(' ').map((word) => (word === 'F' ? path : word));
    const { status, stderr } = spawnSync(process.execPath, [LAUNCHER, ...args], {
      encoding: 'utf8',
      maxBuffer: 1 << 28,
    });
    const isOdd =
      status === null || status > 2 || /^\s+at /m.test(stderr) || (status === 2 && stderr.trimEnd().includes('\n'));
    // biome-ignore lint/suspicious/noControlCharactersInRegex: no such character may reach a terminal.
    if (isOdd || /[\u0000-\u0009\u000b-\u001f\u007f-\u009f\u202a-\u202e]/.test(stderr))
      fault(`${args.join(' ')} ended with ${status}:\n${stderr}`, bytes, seed);
  }
  return `command line: ${cases} cases`;
}

const ENDPOINTS = [
  '',
  '/exchanges',
  '/names',
  '/findings',
  '/forecast',
  '/find?text=hut',
  '/find?text=a%2B&regex=true',
  '/exchanges/0',
  '/exchanges/0/body',
  '/exchanges/0/body?as=picture',
  '/exchanges/99',
  '/drafts',
  '/held?here=0&there=1',
  '/columns?name=req.accept',
  '/cookies?from=0&name=a',
  '/variation?place=0',
];

/** Has the server take cases in and asks it everything about them: no answer of 500 and more. */
async function fuzzHttp(): Promise<string> {
  const app = await startServer();
  let cases = 0;
  let calls = 0;
  try {
    for (const until = Date.now() + SECONDS * 1000; Date.now() < until; cases++) {
      const seed = SEED + cases;
      const { bytes } = makeCase(seed);
      const query = new URLSearchParams({ name: 'case', importId: randomUUID() });
      const taken = await fetch(`${app.url}api/captures?${query}`, { method: 'POST', body: new Uint8Array(bytes) });
      if (taken.status >= 500) fault(`importing was answered by ${taken.status}`, bytes, seed);
      const results = taken.ok ? ((await taken.json()) as { readonly id?: string }[]) : [];
      for (const { id } of results) {
        if (id === undefined) continue;
        for (const endpoint of ENDPOINTS) {
          const answer = await fetch(`${app.url}api/captures/${id}${endpoint}`);
          await answer.arrayBuffer();
          calls++;
          if (answer.status >= 500) fault(`${endpoint} was answered by ${answer.status}`, bytes, seed);
        }
      }
    }
  } finally {
    await app.stop();
  }
  return `server: ${cases} imports, ${calls} calls`;
}

/** Kills the server in the middle of imports, again and again: the database stays sound, and nothing is there by half. */
async function kill(): Promise<string> {
  const data = mkdtempSync(join(tmpdir(), 'trazado-kill-'));
  let taken = 0;
  for (let times = 0; times < KILLS; times++) {
    const app = await startServer(data);
    const entry = ENTRIES[times % ENTRIES.length];
    const bytes = Buffer.from(
      JSON.stringify({
        log: { version: '1.2', comment: `${times}`, entries: Array.from({ length: 3000 }, () => entry) },
      }),
    );
    const query = new URLSearchParams({ name: `${times}`, importId: randomUUID() });
    const sending = fetch(`${app.url}api/captures?${query}`, { method: 'POST', body: bytes })
      .then((answer) => void (answer.ok && taken++))
      .catch(() => undefined);
    await new Promise((resolve) => setTimeout(resolve, (SEED * (times + 7) * 131) % 900));
    await ended(app.process);
    await sending;
    const database = new Database(join(data, 'trazado.db'));
    const sound = database.pragma('integrity_check', { simple: true });
    const halves = database
      .prepare(
        'select count(*) from captures c where (select count(*) from entries e where e.capture_id = c.id) <> 3000',
      )
      .pluck()
      .get();
    const orphans = database
      .prepare(
        'select count(*) from bodies where sha256 not in (select body_sha256 from entries where body_sha256 is not null)',
      )
      .pluck()
      .get();
    database.close();
    if (sound !== 'ok' || halves !== 0 || orphans !== 0)
      fault(
        `after ${times + 1} kills: integrity ${sound}, ${halves} captures by half, ${orphans} bodies of nobody`,
        undefined,
        SEED,
      );
  }
  if (KILLS > 0) {
    const last = await startServer(data);
    const left = readdirSync(join(data, 'incoming'));
    await last.stop();
    if (left.length > 0) fault(`${left.length} files were left in incoming/`, undefined, SEED);
  }
  rmSync(data, { recursive: true, force: true });
  return `killed ${KILLS} times, ${taken} imports had ended before`;
}

async function ended(child: ChildProcess): Promise<void> {
  const exit = new Promise((resolve) => child.once('exit', resolve));
  child.kill('SIGKILL');
  await exit;
}

try {
  console.log(`Fuzzing from seed ${SEED}.`);
  console.log(fuzzCore());
  console.log(fuzzCli());
  console.log(await fuzzHttp());
  console.log(await kill());
} catch (error) {
  console.error(error instanceof Fault ? error.message : error);
  process.exitCode = 1;
} finally {
  rmSync(folder, { recursive: true, force: true });
}
