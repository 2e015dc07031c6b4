import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { TargetId } from '../target';
import type { READ_BACK } from './literals';
import { PYTHON, type ToolName } from './tools';
import { readCmd, readPowerShell, type Understood } from './windows-shells';

/** How rendered cases are run by what really runs them, many in one process where that takes long to start. */
export interface Runner {
  /** What has to be on the machine. */
  readonly needs: readonly ToolName[];
  /** What runs it, in words. */
  readonly interpreter: string;
  /** Headers that the client adds by itself, in lower case. */
  readonly adds: readonly string[];
  /** Writes what is needed to run the cases and says how. */
  readonly prepare: (folder: string, texts: readonly string[]) => readonly (readonly [string, ...string[]])[];
}

const files = (
  folder: string,
  extension: string,
  texts: readonly string[],
  change = (text: string, _at: number) => text,
): string[] =>
  texts.map((text, at) => {
    const path = join(folder, `case${at}.${extension}`);
    writeFileSync(path, change(text, at));
    return path;
  });

/** A shell that is not here, by a model of how it reads; what it would start is started. */
const modelled = (
  read: (script: string, environment: Readonly<Record<string, string>>) => Understood,
  interpreter: string,
): Runner => ({
  needs: ['curl'],
  interpreter,
  adds: ['host', 'content-length', 'accept-encoding', 'content-type'],
  prepare: (folder, texts) =>
    texts.map((text, at): readonly [string, ...string[]] => {
      const { files: written, curl } = read(text, { PATH: 'C:\\Windows', HOME: 'C:\\Users\\x', REQ_TOKEN: 's3cret' });
      const [args] = curl;
      if (args === undefined || curl.length > 1) throw new Error(`${curl.length} commands in ${text.slice(0, 200)}`);
      // Each case's files have names of their own: they are all run in one folder.
      const renamed = new Map([...written.keys()].map((name) => [name, join(folder, `${at}-${name}`)]));
      for (const [name, bytes] of written) writeFileSync(renamed.get(name) ?? '', bytes);
      return [
        'curl',
        ...args.map((arg) =>
          arg.startsWith('@') && renamed.has(arg.slice(1))
            ? `@${renamed.get(arg.slice(1))}`
            : arg === 'NUL'
              ? '/dev/null'
              : arg,
        ),
      ];
    }),
});

/** One shell for each command. */
const shell = (needs: Runner['needs'], interpreter: string, adds: readonly string[]): Runner => ({
  needs,
  interpreter,
  adds,
  prepare: (folder, texts) => files(folder, 'sh', texts).map((path) => ['sh', path] as const),
});

const node = (adds: readonly string[]): Runner => ({
  needs: [],
  interpreter: 'node',
  adds,
  prepare: (folder, texts) => {
    const paths = files(folder, 'mjs', texts, (text) =>
      text
        .replace(/^export (async function send\(\))/m, '$1')
        .concat(text.includes('export async function send()') ? '\nawait send();\n' : ''),
    );
    const driver = join(folder, 'all.mjs');
    writeFileSync(
      driver,
      `globalThis.prompt = (name) => process.env[name];\nfor (const path of ${JSON.stringify(paths)}) {\n  try { await import(path); } catch (error) { console.error(path, error); }\n}\n`,
    );
    return [['node', driver]];
  },
});

const python = (tool: ToolName, adds: readonly string[]): Runner => ({
  needs: [tool],
  interpreter: tool,
  adds,
  prepare: (folder, texts) => {
    const paths = files(folder, 'py', texts);
    const driver = join(folder, 'all.py');
    writeFileSync(
      driver,
      `import runpy, sys, traceback\nfor path in ${JSON.stringify(paths)}:\n    try:\n        runpy.run_path(path, run_name='__main__')\n    except BaseException:\n        print(path, file=sys.stderr)\n        traceback.print_exc()\n`,
    );
    return [[PYTHON, driver]];
  },
});

const FETCH_ADDS = [
  'host',
  'connection',
  'content-length',
  'accept',
  'accept-language',
  'sec-fetch-mode',
  'user-agent',
  'accept-encoding',
  'content-type',
  'pragma',
  'cache-control',
];
const PYTHON_ADDS = [
  'host',
  'connection',
  'content-length',
  'accept',
  'accept-encoding',
  'user-agent',
  'content-type',
  'transfer-encoding',
];

/** What each target is run by: one that is neither run nor read back does not compile. What pages run is run by a browser, in e2e/fetch.spec.ts. */
export type RunnerId = Exclude<TargetId, keyof typeof READ_BACK | 'js-fetch' | 'js-xhr'>;

export const RUNNERS: Record<RunnerId, Runner> = {
  'curl-sh': shell(['curl'], 'curl', ['host', 'content-length', 'accept-encoding', 'content-type']),
  'curl-config': {
    needs: ['curl'],
    interpreter: 'curl -K',
    adds: ['host', 'content-length', 'accept-encoding', 'content-type'],
    prepare: (folder, texts) => files(folder, 'conf', texts).map((path) => ['curl', '-K', path] as const),
  },
  'curl-cmd': modelled(readCmd, 'a model of cmd, and curl'),
  'curl-ps': modelled(readPowerShell, 'a model of PowerShell, and curl'),
  wget: shell(['wget'], 'wget', [
    'host',
    'content-length',
    'accept',
    'accept-encoding',
    'user-agent',
    'connection',
    'content-type',
  ]),
  httpie: shell(['the http command'], 'the http command', [
    'host',
    'content-length',
    'accept-encoding',
    'connection',
    'user-agent',
  ]),
  http: {
    needs: [],
    interpreter: 'a raw socket',
    adds: ['host', 'content-length'],
    prepare: (folder, texts) => {
      const paths = files(folder, 'http', texts);
      const driver = join(folder, 'all.mjs');
      writeFileSync(
        driver,
        `import { readFileSync } from 'node:fs';\nimport { connect } from 'node:net';\nfor (const path of ${JSON.stringify(paths)}) {\n  const message = readFileSync(path);\n  const door = readFileSync(path + '.door', 'utf8');\n  await new Promise((resolve) => connect(Number(door), '127.0.0.1').on('close', resolve).on('error', resolve).resume().write(message));\n}\n`,
      );
      return [['node', driver]];
    },
  },
  'node-fetch': node(FETCH_ADDS),
  'node-undici': node(['host', 'connection', 'content-length', 'content-type']),
  'node-http': node(['host', 'connection', 'content-length']),
  'node-axios': node([
    'host',
    'connection',
    'content-length',
    'accept',
    'accept-encoding',
    'user-agent',
    'content-type',
  ]),
  'python-requests': python('python3 with requests', PYTHON_ADDS),
  'python-httpx': python('python3 with httpx', PYTHON_ADDS),
  'python-urllib': python('python3', PYTHON_ADDS),
  'python-aiohttp': python('python3 with aiohttp', PYTHON_ADDS),
  c: {
    needs: ['gcc with libcurl'],
    interpreter: 'gcc with libcurl',
    adds: ['host', 'content-length', 'accept-encoding', 'content-type'],
    prepare: (folder, texts) =>
      files(folder, 'c', texts).map((path) => {
        const program = path.replace(/\.c$/, '');
        // What a compiler warns of is a failure.
        return [
          'sh',
          '-c',
          `gcc -std=c99 -Wall -Wextra -Werror -o '${program}' '${path}' -lcurl && '${program}'`,
        ] as const;
      }),
  },
  go: {
    needs: ['go'],
    interpreter: 'go',
    adds: ['host', 'user-agent', 'accept-encoding', 'content-length', 'content-type'],
    prepare: (folder, texts) => {
      files(folder, 'go', texts, (text, at) =>
        text
          .replace(/^func main\(\) \{$/m, `func case${at}() {`)
          .replace(/^func send\(\) \{$/m, `func send${at}() {`)
          .replace(/^\tsend\(\)$/m, `\tsend${at}()`),
      );
      writeFileSync(
        join(folder, 'all.go'),
        `package main\n\nfunc main() {\n${texts.map((_, at) => `\tcase${at}()\n`).join('')}}\n`,
      );
      writeFileSync(join(folder, 'go.mod'), 'module cases\n\ngo 1.19\n');
      return [['go', 'run', '-C-', folder] as const].map(() => ['sh', '-c', `cd '${folder}' && go run .`] as const);
    },
  },
  java: {
    needs: ['javac', 'java'],
    interpreter: 'java',
    adds: ['host', 'user-agent', 'content-length', 'connection'],
    prepare: (folder, texts) => {
      const sources = join(folder, 'java');
      mkdirSync(sources);
      const paths = texts.map((text, at) => {
        const path = join(sources, `Main${at}.java`);
        writeFileSync(path, text.replace('public class Main {', `public class Main${at} {`));
        return path;
      });
      const all = join(sources, 'All.java');
      writeFileSync(
        all,
        `public class All {\n    public static void main(String[] args) {\n${texts.map((_, at) => `        try { Main${at}.main(args); } catch (Throwable error) { System.err.println(${at} + " " + error); }\n`).join('')}    }\n}\n`,
      );
      const list = join(sources, 'list');
      writeFileSync(list, [...paths, all].join('\n'));
      return [
        ['javac', '-nowarn', '-d', sources, `@${list}`],
        // Set before the client's classes are loaded, as each file does that needs it.
        ['java', '-Djdk.httpclient.allowRestrictedHeaders=host', '-cp', sources, 'All'],
      ];
    },
  },
  'php-curl': {
    needs: ['php with curl'],
    interpreter: 'php with curl',
    adds: ['host', 'content-length', 'accept-encoding', 'content-type'],
    prepare: (folder, texts) => {
      const paths = files(folder, 'php', texts, (text, at) =>
        text.replace('function send()', `function send${at}()`).replace(/^send\(\);$/m, `send${at}();`),
      );
      const driver = join(folder, 'all.php');
      writeFileSync(
        driver,
        `<?php\n${paths.map((path) => `try { (function () { include '${path}'; })(); } catch (Throwable $error) { fwrite(STDERR, '${path} ' . $error . "\\n"); }`).join('\n')}\n`,
      );
      return [['php', driver]];
    },
  },
  ruby: {
    needs: ['ruby'],
    interpreter: 'ruby',
    adds: ['host', 'connection', 'content-length', 'accept', 'accept-encoding', 'user-agent', 'content-type'],
    prepare: (folder, texts) => {
      const paths = files(folder, 'rb', texts);
      const driver = join(folder, 'all.rb');
      writeFileSync(
        driver,
        `${JSON.stringify(paths)}.each do |path|\n  begin\n    load path\n  rescue Exception => error\n    warn path, error.full_message\n  end\nend\n`,
      );
      return [['ruby', driver]];
    },
  },
  perl: {
    needs: ['perl'],
    interpreter: 'perl',
    adds: ['host', 'connection', 'content-length', 'user-agent', 'content-type'],
    prepare: (folder, texts) => {
      const paths = files(folder, 'pl', texts);
      const driver = join(folder, 'all.pl');
      writeFileSync(driver, `for my $path (qw(${paths.join(' ')})) {\n  do $path;\n  warn "$path $@" if $@;\n}\n`);
      return [['perl', '-X', driver]];
    },
  },
  elixir: {
    needs: ['elixir'],
    interpreter: 'elixir',
    adds: ['host', 'connection', 'content-length', 'te', 'content-type'],
    prepare: (folder, texts) => {
      const paths = files(folder, 'exs', texts);
      const driver = join(folder, 'all.exs');
      writeFileSync(
        driver,
        `for path <- ${JSON.stringify(paths)} do\n  try do\n    Code.eval_file(path)\n  rescue\n    error -> IO.puts(:stderr, path <> " " <> Exception.message(error))\n  end\nend\n`,
      );
      return [['elixir', driver]];
    },
  },
  'r-httr2': {
    needs: ['R with httr2'],
    interpreter: 'R with httr2',
    adds: ['host', 'content-length', 'accept', 'accept-encoding', 'user-agent', 'content-type'],
    prepare: (folder, texts) => {
      const paths = files(folder, 'R', texts);
      const driver = join(folder, 'all.R');
      writeFileSync(
        driver,
        `for (path in c(${paths.map((path) => JSON.stringify(path)).join(', ')})) {\n  tryCatch(source(path, local = new.env()), error = function(error) message(path, " ", conditionMessage(error)))\n}\n`,
      );
      return [['Rscript', driver]];
    },
  },
};
