import { execFile, execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { availableParallelism, tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { boundaryOf, readMultipart } from '../../content';
import { type Draft, encodeParts } from '../draft';
import { literally } from '../literally';
import type { Target } from '../target';
import { fillIn } from '../value';
import type { Arrived, Door, Echo } from './echo';
import { CANARY, type Case } from './odd-texts';
import type { Runner } from './runners';

const run = promisify(execFile);

/** What a case came to: the same on the wire; another thing, which a warning says; or another thing that nothing says. */
export type Verdict =
  | { readonly type: 'same'; readonly name: string; readonly warnings: string }
  | { readonly type: 'warned'; readonly name: string; readonly why: string; readonly warnings: string }
  | { readonly type: 'wrong'; readonly name: string; readonly why: string; readonly text: string };

export interface Outcome {
  readonly verdicts: readonly Verdict[];
  /** What the run left in its folder beside the answers that some cases ask for. */
  readonly strays: readonly string[];
  readonly log: string;
}

/**
 * Renders the cases, has them run by what really runs them, and holds what arrived against what was wanted.
 * Long because a case's folder, its door and its log are needed from its writing to its verdict.
 */
export async function tryTarget(target: Target, runner: Runner, cases: readonly Case[], echo: Echo): Promise<Outcome> {
  const folder = mkdtempSync(join(tmpdir(), `trazado-${target.id}-`));
  const scratch = join(folder, 'scratch');
  mkdirSync(scratch);
  const modules = join(process.cwd(), 'node_modules');
  const doors = await Promise.all(cases.map(() => echo.openDoor()));
  const wanted = cases.map((one, at) => one.draft(`http://127.0.0.1:${doors[at]?.port}`));
  const rendered = cases.map((one, at) => target.render(wanted[at] as Draft, one.options));
  const texts = rendered.map(({ text }) => text);
  if (target.language === 'JavaScript') execFileSync('ln', ['-s', modules, join(folder, 'node_modules')]);
  const commands = runner.prepare(folder, texts);
  for (const [at, { bytes }] of rendered.entries()) {
    if (bytes !== undefined) writeFileSync(join(folder, `case${at}.${target.extension}`), bytes);
  }
  doors.forEach(({ port }, at) => {
    if (target.id === 'http') writeFileSync(join(folder, `case${at}.http.door`), String(port));
  });
  const logs: string[] = [];
  const crashed = new Set<number>();
  const isEachAlone = commands.length === cases.length;
  const goOne = async ([command, ...args]: readonly [string, ...string[]], at: number): Promise<void> => {
    const env = {
      ...process.env,
      HOME: folder,
      REQ_TOKEN: 's3cret',
      GOFLAGS: '-mod=mod',
      GOCACHE: join(tmpdir(), 'trazado-go-cache'),
      LC_ALL: 'C.UTF-8',
    };
    try {
      const { stderr } = await run(command, args, { cwd: scratch, env, maxBuffer: 1 << 28, timeout: 240_000 });
      logs.push(stderr);
    } catch (error) {
      logs.push(error instanceof Error ? error.message : String(error));
      if (isEachAlone) crashed.add(at);
    }
  };
  // Commands of one case each are on their own; those of a driver depend on one another.
  if (isEachAlone) await inParallel(commands, goOne);
  else for (const [at, command] of commands.entries()) await goOne(command, at);
  // Drivers name the file of a case that died.
  for (const [, at] of isEachAlone ? [] : logs.join('\n').matchAll(/(?:case|^)(\d+)(?:\.\w+\b| )/gm))
    crashed.add(Number(at));
  const verdicts = cases.map((one, at): Verdict => {
    const arrived = doors[at]?.take() ?? [];
    const filled = fillIn(wanted[at] as Draft);
    const draft = one.arrives?.(filled) ?? filled;
    const warnings = rendered[at]?.warnings.join('\n') ?? '';
    const why = [
      ...differences(draft, arrived, runner, doors[at] as Door),
      ...(crashed.has(at) ? [{ what: 'it failed', covers: LACKS_FILE }] : []),
    ];
    const uncovered = why.filter(({ covers }) => !covers.test(warnings));
    if (uncovered.length > 0) {
      return {
        type: 'wrong',
        name: one.name,
        why: uncovered.map(({ what }) => what).join('; '),
        text: texts[at] ?? '',
      };
    }
    const { name } = one;
    return why.length > 0
      ? { type: 'warned', name, why: why.map(({ what }) => what).join('; '), warnings }
      : { type: 'same', name, warnings };
  });
  const strays = readdirSync(scratch).filter((name) => name !== 'response');
  if (existsSync(join(folder, CANARY))) strays.push(CANARY);
  rmSync(folder, { recursive: true });
  return { verdicts, strays, log: logs.join('\n') };
}

async function inParallel<T>(items: readonly T[], work: (item: T, at: number) => Promise<void>): Promise<void> {
  let next = 0;
  const worker = async (): Promise<void> => {
    for (let at = next++; at < items.length; at = next++) await work(items[at] as T, at);
  };
  await Promise.all(Array.from({ length: availableParallelism() }, worker));
}

interface Difference {
  readonly what: string;
  /** A warning that says so. */
  readonly covers: RegExp;
}

const NONE = /(?!)/;
const LACKS_FILE = /next to the (?:file|code)/;
const isToken = (name: string): boolean => /^[!#$%&'*+.^_`|~0-9A-Za-z-]+$/.test(name);

export function differences(
  draft: Draft,
  arrived: readonly Arrived[],
  { adds }: Pick<Runner, 'adds'>,
  door: Pick<Door, 'port'>,
): Difference[] {
  const [request] = arrived;
  // A file that has to be put beside the code was not.
  if (request === undefined) return [{ what: 'nothing arrived', covers: LACKS_FILE }];
  if (arrived.length > 1) return [{ what: `${arrived.length} requests arrived`, covers: NONE }];
  const found: Difference[] = [];
  const method = request.requestLine.split(' ', 1)[0];
  const target = request.requestLine.slice((method?.length ?? 0) + 1, -' HTTP/1.1'.length);
  const wantedTarget = draft.url.slice(`http://127.0.0.1:${door.port}`.length);
  if (method !== draft.method) found.push({ what: `method ${method}`, covers: /method/ });
  if (target !== wantedTarget) found.push({ what: `target ${target.slice(0, 200)}`, covers: /URL/ });
  if (!request.requestLine.endsWith(' HTTP/1.1')) found.push({ what: request.requestLine, covers: NONE });
  found.push(...headerDifferences(draft, request, adds), ...bodyDifferences(draft, request));
  return found;
}

function headerDifferences(draft: Draft, request: Arrived, adds: readonly string[]): Difference[] {
  const found: Difference[] = [];
  const group = (headers: readonly { readonly name: string; readonly value: string }[]) => {
    const groups = new Map<string, string[]>();
    for (const { name, value } of headers) {
      const key = name.toLowerCase();
      groups.set(key, [...(groups.get(key) ?? []), value.replace(/^[ \t]+|[ \t]+$/g, '')]);
    }
    return groups;
  };
  const isForm = draft.payload.type === 'parts';
  const kept = group(
    draft.headers.filter(({ kept: isKept, name }) => isKept && !(isForm && name.toLowerCase() === 'content-type')),
  );
  const came = group(request.headers);
  for (const [name, values] of kept) {
    const there = came.get(name) ?? [];
    if (JSON.stringify(there) === JSON.stringify(values)) continue;
    found.push({
      what: `header ${name}: ${JSON.stringify(there).slice(0, 200)} for ${JSON.stringify(values).slice(0, 200)}`,
      covers: new RegExp(`"?${literally(isToken(name) ? name : JSON.stringify(name).slice(1, -1))}"?`, 'i'),
    });
  }
  for (const name of came.keys()) {
    if (kept.has(name) || adds.includes(name) || (isForm && name === 'content-type')) continue;
    found.push({ what: `added ${name}`, covers: NONE });
  }
  const type = came.get('content-type');
  if (!kept.has('content-type') && type !== undefined && !isForm)
    found.push({ what: `added type ${type}`, covers: /Content-Type/ });
  return found;
}

function bodyDifferences(draft: Draft, request: Arrived): Difference[] {
  const { payload } = draft;
  if (payload.type === 'parts') {
    const type = request.headers.find(({ name }) => name.toLowerCase() === 'content-type')?.value;
    const parts = readMultipart(request.body, boundaryOf(type) ?? '');
    const told = (
      list: readonly {
        name?: string | undefined;
        fileName: string | undefined;
        bytes: Uint8Array | undefined;
        contentType: string | undefined;
      }[],
    ) =>
      JSON.stringify(
        list.map(({ name, fileName, bytes, contentType }) => [
          name,
          fileName,
          fileName === undefined ? undefined : contentType,
          Buffer.from(bytes ?? []).toString('base64'),
        ]),
      );
    const wanted = readMultipart(encodeParts(payload.parts, payload.boundary), payload.boundary);
    return told(parts) === told(wanted)
      ? []
      : [{ what: `parts ${told(parts).slice(0, 600)} for ${told(wanted).slice(0, 600)}`, covers: /form|payload/ }];
  }
  const bytes =
    payload.type === 'text'
      ? Buffer.from(payload.text)
      : payload.type === 'bytes'
        ? Buffer.from(payload.bytes)
        : Buffer.alloc(0);
  return request.body.equals(bytes)
    ? []
    : [
        {
          what: `payload ${JSON.stringify(request.body.toString('latin1').slice(0, 200))} for ${JSON.stringify(bytes.toString('latin1').slice(0, 200))}`,
          covers: /payload/,
        },
      ];
}
