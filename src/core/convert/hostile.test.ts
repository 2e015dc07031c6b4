import { execFile } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type JsonObject, normaliseEntry } from '../har';
import { EACH } from '../json';
import { draftFromExchange } from './draft';
import {
  DEFAULT_OPTIONS,
  findCarries,
  findTarget,
  renderLoop,
  renderScript,
  stepOf,
  TARGETS,
  tellCarry,
} from './index';
import { itNeeding, PYTHON, RUN_TARGETS, type RunTarget, SCRIPT_NEEDS, type ToolName } from './testing/tools';

// Nothing that was captured ever runs: every text of a capture says what would leave a file behind if it did.

const run = promisify(execFile);

/** Everything that ends a line, or a comment, somewhere. */
const ENDS = [
  '\n',
  '\r',
  '\r\n',
  '\u2028',
  '\u2029',
  '\u0085',
  '\u000b',
  '\u000c',
  '\u001c',
  '\0',
  '*/',
  '?>',
  '-->',
  '\\u000a',
  "'",
  '"',
  '`',
];

/** What makes a file, in the languages that run here; behind each of the ends. */
const CANARY = 'canary';
const MAKERS = [
  `touch ${CANARY}`,
  `$(touch ${CANARY})`,
  `open("${CANARY}","w")`,
  `require("fs").writeFileSync("${CANARY}","")`,
  `await import("node:fs").then(f=>f.writeFileSync("${CANARY}",""))`,
];
const hostile = ENDS.flatMap((end) => MAKERS.map((maker) => `x${end}${maker}${end}#`));
const inShells = [
  `\`touch ${CANARY}\``,
  `$(touch ${CANARY})`,
  `;touch ${CANARY};`,
  `&touch ${CANARY}&`,
  `|touch ${CANARY}`,
  `a[$(touch ${CANARY})]`,
];

let server: Server;
let origin = '';
let answer = '{}';
beforeAll(async () => {
  server = createServer((request, response) => {
    request.resume();
    request.on('end', () => {
      response.setHeader('content-type', 'application/json');
      response.setHeader('set-cookie', `trail=${encodeURIComponent(answer).slice(0, 200)}`);
      response.end(answer);
    });
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => server.close());

/** An entry in which one text is in every place that takes one. */
const entryWith = (text: string, place: number) =>
  normaliseEntry(
    {
      startedDateTime: `2026-10-03T09:00:0${place % 10}Z`,
      comment: text,
      pageref: text,
      request: {
        method: text,
        url: `${origin}/a${text}?q=${text}#${text}`,
        httpVersion: text,
        headers: [
          { name: text, value: text },
          { name: 'X-Own', value: text },
          { name: 'Authorization', value: `Bearer ${text}` },
          { name: 'Accept-Encoding', value: text },
          { name: 'If-None-Match', value: text },
        ],
        queryString: [{ name: text, value: text }],
        cookies: [{ name: text, value: text }],
        postData: {
          mimeType: place % 2 === 0 ? text : 'multipart/form-data; boundary=b',
          ...(place % 2 === 0
            ? { text }
            : { params: [{ name: text, fileName: text, contentType: text, value: text }] }),
        },
      },
      response: {
        status: 200,
        statusText: text,
        headers: [
          { name: text, value: text },
          { name: 'Location', value: text },
          { name: 'Set-Cookie', value: `${text}=${text}` },
        ],
        redirectURL: text,
        content: { mimeType: 'application/json', text: JSON.stringify({ [text]: `${text} value`, list: [text] }) },
      },
    } as unknown as JsonObject,
    place,
  );

const OPTIONS = [
  DEFAULT_OPTIONS,
  { ...DEFAULT_OPTIONS, commentsLeftOut: true, headers: 'calls' as const, asFunction: true, secretsFromEnv: true },
];

/** What ends a line: anything that does so somewhere, but in languages of which it is known that only these do. */
// biome-ignore lint/suspicious/noControlCharactersInRegex: these are the characters that end lines.
const LINE_END = /\r\n|[\n\r\u2028\u2029\u0085\u000b\u000c]/;
const LINE_ENDS: Readonly<Record<string, RegExp>> = { 'curl-cmd': /\r\n|[\n\r]/, autohotkey: /\r\n|[\n\r]/ };

/** Languages in which no literal spans lines: there nothing of a capture begins a line. */
const SPANS_LINES = new Set(['curl-sh', 'curl-ps', 'curl-config', 'wget', 'httpie', 'powershell', 'http']);

describe('a capture in which every text is hostile', () => {
  it('begins no line of any target of which no literal spans lines', () => {
    const begun: string[] = [];
    for (const target of TARGETS.filter(({ id }) => !SPANS_LINES.has(id))) {
      for (const text of hostile) {
        const draft = draftFromExchange(entryWith(text, 0), 'faithful');
        for (const options of OPTIONS) {
          const lines = target.render(draft, options).text.split(LINE_ENDS[target.id] ?? LINE_END);
          if (lines.some((line) => MAKERS.some((maker) => line.trimStart().startsWith(maker))))
            begun.push(`${target.id}: ${JSON.stringify(text)}`);
        }
      }
    }
    expect(begun).toEqual([]);
  });

  it('is told of in one line that drives no terminal', () => {
    for (const text of hostile) {
      const steps = [entryWith(text, 0), entryWith(`${text} value`, 1)].map((entry) =>
        stepOf(entry, 'faithful', () => undefined),
      );
      for (const carry of findCarries(steps).carries) expect(tellCarry(carry)).toMatch(/^[\x20-\x7e]+$/);
    }
  });
});

const GO_CACHE = join(tmpdir(), 'trazado-go-cache');

/** A few at a time: each starts an interpreter. */
async function inTurns<T>(items: readonly T[], work: (item: T) => Promise<void>): Promise<void> {
  const waiting = [...items];
  const turn = async (): Promise<void> => {
    for (let next = waiting.shift(); next !== undefined; next = waiting.shift()) await work(next);
  };
  await Promise.all([turn(), turn(), turn()]);
}

async function filesAfter(
  text: string,
  commands: readonly (readonly [string, ...string[]])[],
  extension = 'sh',
): Promise<string[]> {
  const folder = mkdtempSync(join(tmpdir(), 'trazado-hostile-'));
  try {
    const path = join(folder, `run.${extension}`);
    writeFileSync(path, text);
    for (const [command, ...args] of commands) {
      const env = { ...process.env, HOME: folder, ZDOTDIR: folder, REQ_TOKEN: 'x', GOCACHE: GO_CACHE };
      await run(command, [...args, path], { cwd: folder, env, timeout: 60_000 }).catch(() => undefined);
    }
    return readdirSync(folder).filter((name) => name !== `run.${extension}` && existsSync(join(folder, name)));
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

const MAKERS_IN: Record<RunTarget, readonly string[]> = {
  'curl-sh': MAKERS.slice(0, 2),
  'node-fetch': MAKERS.slice(3),
  'python-requests': MAKERS.slice(2, 3),
  'php-curl': [`file_put_contents("${CANARY}","");`],
  go: [`os.WriteFile("${CANARY}", nil, 0o600)`],
};
const COMMENT_IN: Record<RunTarget, string> = {
  'curl-sh': '#',
  'node-fetch': '//',
  'python-requests': '#',
  'php-curl': '//',
  go: '//',
};
const COMMANDS: Record<RunTarget, readonly (readonly [string, ...string[]])[]> = {
  'curl-sh': [['sh'], ['bash']],
  'node-fetch': [['node']],
  'python-requests': [[PYTHON]],
  'php-curl': [['php']],
  go: [['go', 'run']],
};

describe('scripts and loops of a hostile capture', () => {
  for (const target of RUN_TARGETS) {
    itNeeding(SCRIPT_NEEDS[target])(`run nothing of it in ${target}`, async () => {
      const texts = [
        ...ENDS.flatMap((end) => MAKERS_IN[target].map((maker) => `x${end}${maker}${end}${COMMENT_IN[target]}`)),
        ...(target === 'curl-sh' ? inShells : []),
      ];
      // A script for each: what is no language of this one's must not end it before it runs.
      const left: string[] = [];
      await inTurns(texts, async (one) => {
        const steps = [0, 1].map((place) => stepOf(entryWith(one, place), 'faithful', () => undefined));
        const { text } = renderScript(findCarries(steps), target, OPTIONS[1]);
        const forgiving = text
          .replace(/^set -e$/m, 'set +e')
          .replaceAll(/^( *)stop_unless_ok\(response, .*$/gm, '$1pass');
        const files = await filesAfter(forgiving, COMMANDS[target], findTarget(target)?.extension);
        if (files.length > 0) left.push(`${JSON.stringify(one)}: ${files}`);
      });
      expect(left).toEqual([]);
      const loops = await Promise.all(
        texts.slice(0, 12).map((one) => {
          const draft = draftFromExchange(entryWith(one, 0), 'faithful');
          const loop = renderLoop(
            { ...draft, url: `${origin}/${one}` },
            { type: 'files', at: [one, EACH], folder: 'files' },
            target,
          );
          return filesAfter(loop.text, COMMANDS[target].slice(0, 1), findTarget(target)?.extension);
        }),
      );
      expect([...new Set(loops.flat())].filter((name) => name !== 'files')).toEqual([]);
    });
  }

  const SHELLS: readonly ToolName[] = ['sh', 'bash', 'zsh'];
  for (const shell of SHELLS) {
    itNeeding([shell, 'curl', 'jq'])(
      `keep a variable from being one of ${shell}'s own, and what is assigned from being evaluated`,
      async () => {
        const names =
          'random seconds uid euid ppid groups lineno histcmd epochseconds shlvl path ifs env status argv'.split(' ');
        const before = 'old1234567890';
        const steps = names.flatMap((name, at) => [
          stepOf(pair(name, at * 2, `${before}-${name}`, undefined), 'faithful', () => undefined),
          stepOf(pair(name, at * 2 + 1, undefined, `${before}-${name}`), 'faithful', () => undefined),
        ]);
        const { text } = renderScript(findCarries(steps), 'curl-sh');
        answer = JSON.stringify(Object.fromEntries(names.map((name) => [name, `a[$(touch ${CANARY})]`])));
        const commands = [[shell]] as const;
        expect(await filesAfter(text, commands)).toEqual([]);
        // What the service says now is what the next request carries, whatever the key is called.
        answer = JSON.stringify(Object.fromEntries(names.map((name) => [name, `live-${name}-1234`])));
        const asked: string[] = [];
        server.on('request', (request) => void asked.push(request.url ?? ''));
        await filesAfter(text, commands);
        for (const name of names) expect(asked).toContain(`/next?x=live-${name}-1234`);
      },
    );
  }
});

/** Two requests of which the second carries what the first one's answer has under a key. */
const pair = (name: string, place: number, given: string | undefined, used: string | undefined) =>
  normaliseEntry(
    {
      startedDateTime: `2026-10-03T09:00:00.${100 + place}Z`,
      request: { method: 'GET', url: used === undefined ? `${origin}/first` : `${origin}/next?x=${used}`, headers: [] },
      response: {
        status: 200,
        headers: [],
        content: { mimeType: 'application/json', text: JSON.stringify(given === undefined ? {} : { [name]: given }) },
      },
    } as unknown as JsonObject,
    place,
  );
