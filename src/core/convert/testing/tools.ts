import { execFileSync } from 'node:child_process';
import { describe, it } from 'vitest';
import { SCRIPT_TARGETS, type ScriptTarget } from '../scripts/script-target';

/** Debian's own Python has its libraries; another one first in the path may not. */
export const PYTHON = '/usr/bin/python3';

interface Tool {
  /** Ends with 0 where it is there. */
  readonly probe: readonly [string, ...string[]];
  /** Debian's package. */
  readonly from: string;
}

/** Everything beside Node and its packages that tests run or emitted code is run by: nothing of it may be taken for granted. */
export const TOOLS = {
  sh: { probe: ['sh', '-c', 'exit 0'], from: 'dash' },
  bash: { probe: ['bash', '--version'], from: 'bash' },
  zsh: { probe: ['zsh', '--version'], from: 'zsh' },
  curl: { probe: ['curl', '--version'], from: 'curl' },
  wget: { probe: ['wget', '--version'], from: 'wget' },
  jq: { probe: ['jq', '--version'], from: 'jq' },
  'the http command': { probe: ['http', '--version'], from: 'httpie' },
  python3: { probe: [PYTHON, '-c', 'import urllib.request'], from: 'python3' },
  'python3 with requests': { probe: [PYTHON, '-c', 'import requests'], from: 'python3-requests' },
  'python3 with the http command': { probe: [PYTHON, '-c', 'import httpie.core'], from: 'httpie' },
  'python3 with httpx': { probe: [PYTHON, '-c', 'import httpx'], from: 'python3-httpx' },
  'python3 with aiohttp': { probe: [PYTHON, '-c', 'import aiohttp'], from: 'python3-aiohttp' },
  'gcc with libcurl': {
    probe: ['sh', '-c', 'echo "#include <curl/curl.h>" | gcc -E - >/dev/null && command -v curl-config'],
    from: 'gcc libcurl4-openssl-dev',
  },
  go: { probe: ['go', 'version'], from: 'golang-go' },
  gofmt: { probe: ['gofmt', '-h'], from: 'golang-go' },
  java: { probe: ['java', '-version'], from: 'openjdk-17-jdk-headless' },
  javac: { probe: ['javac', '-version'], from: 'openjdk-17-jdk-headless' },
  'php with curl': { probe: ['php', '-r', 'exit(extension_loaded("curl") ? 0 : 1);'], from: 'php-curl' },
  black: { probe: ['black', '--version'], from: 'black' },
  perltidy: { probe: ['perltidy', '--version'], from: 'perltidy' },
  rubocop: { probe: ['rubocop', '--version'], from: 'rubocop' },
  rustfmt: { probe: ['rustfmt', '--version'], from: 'rustfmt' },
  elixir: { probe: ['elixir', '--version'], from: 'elixir' },
  ruby: { probe: ['ruby', '--version'], from: 'ruby' },
  perl: { probe: ['perl', '-MHTTP::Tiny', '-e', '1'], from: 'perl' },
  'perl with TLS': { probe: ['perl', '-MIO::Socket::SSL', '-e', '1'], from: 'libio-socket-ssl-perl' },
  'R with httr2': { probe: ['Rscript', '-e', 'library(httr2)'], from: 'r-cran-httr2' },
  'R with jsonlite': { probe: ['Rscript', '-e', 'library(jsonlite)'], from: 'r-cran-jsonlite' },
} as const satisfies Record<string, Tool>;

export type ToolName = keyof typeof TOOLS;

/** The targets whose scripts are run here; nothing here runs PowerShell, whose scripts are held against its grammar. */
export type RunTarget = Exclude<ScriptTarget, 'powershell'>;
export const RUN_TARGETS = SCRIPT_TARGETS.filter((target): target is RunTarget => target !== 'powershell');

/** What scripts of several requests and loops are run by. */
export const SCRIPT_NEEDS = {
  'curl-sh': ['sh', 'curl', 'jq'],
  'node-fetch': [],
  'python-requests': ['python3 with requests'],
  'php-curl': ['php with curl'],
  go: ['go'],
} as const satisfies Record<RunTarget, readonly ToolName[]>;

/** The commands that run a script's file. */
export const SCRIPT_COMMANDS: Record<RunTarget, readonly [string, ...string[]]> = {
  'curl-sh': ['sh'],
  'node-fetch': ['node'],
  'python-requests': [PYTHON],
  'php-curl': ['php'],
  go: ['go', 'run'],
};

/** Set where everything has to be there: a missing tool is a failure then. */
const MAY_NOT_SKIP = process.env['TRAZADO_ALL_INTERPRETERS'] !== undefined;

const known = new Map<ToolName, boolean>();

function isThere(name: ToolName): boolean {
  const before = known.get(name);
  if (before !== undefined) return before;
  const [command, ...args] = TOOLS[name].probe;
  let there = true;
  try {
    execFileSync(command, args, { stdio: 'ignore' });
  } catch {
    there = false;
  }
  known.set(name, there);
  return there;
}

/** What a client's code needs to ask for anything by HTTPS. */
export const withTls = (tools: readonly ToolName[]): readonly ToolName[] =>
  tools.includes('perl') ? [...tools, 'perl with TLS'] : tools;

/** How a test that was left out says what it lacked; the run's end is told from it. */
export const leftOutMark = (lacking: readonly string[]): string => `[needs ${lacking.join(', ')}]`;
export const LEFT_OUT = /\[needs ([^\]]+)\]$/;

type Run = () => void | Promise<void>;

/** The tools of a list that are not here; none where nothing may be left out. */
const lackingOf = (tools: readonly ToolName[]): ToolName[] =>
  MAY_NOT_SKIP ? [] : tools.filter((name) => !isThere(name));

/** `it`, for a test that needs tools: where one is not here it is left out by name, unless nothing may be. */
export function itNeeding(
  tools: readonly ToolName[],
  options: { readonly concurrent?: boolean } = {},
): (title: string, run: Run, timeoutMs?: number) => void {
  const lacking = lackingOf(tools);
  return (title, run, timeoutMs) => {
    if (lacking.length > 0) it.skip(`${title} ${leftOutMark(lacking)}`, run, timeoutMs);
    else if (options.concurrent === true) it.concurrent(title, run, timeoutMs);
    else it(title, run, timeoutMs);
  };
}

/** `describe`, for tests that all need tools: where one is not here they are one test that is left out by name. */
export function describeNeeding(tools: readonly ToolName[]): (title: string, run: () => void) => void {
  const lacking = lackingOf(tools);
  return (title, run) => {
    // biome-ignore lint/correctness/usePlaywrightValidDescribeCallback: it is a function, and these are no browser tests.
    if (lacking.length === 0) describe(title, run);
    else it.skip(`${title} ${leftOutMark(lacking)}`, () => undefined);
  };
}
