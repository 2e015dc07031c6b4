import { execFileSync, spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { format } from 'prettier';
import { describe, expect, it } from 'vitest';
import { type Draft, EMPTY_DRAFT } from './draft';
import { DEFAULT_OPTIONS, findTarget, type TargetId } from './index';
import { CASES } from './testing/cases';
import { own } from './testing/odd-texts';
import { itNeeding } from './testing/tools';

// Code is laid out as its language's own formatter would: it finds nothing to do. Where a line has to be longer than it
// likes, because a text in it is, formatters differ on where to break it; and what a generator made up is no payload
// that anybody looks at.

const LINE_CHARS = 100;

const keys = ['A', 'X-'.padEnd(39, 'a'), 'X-'.padEnd(60, 'b'), 'X-'.padEnd(200, 'c'), 'X-'.padEnd(190, 'd'), 'B'];
/** Names of all lengths. */
const long: Draft = {
  ...EMPTY_DRAFT,
  url: 'http://127.0.0.1/',
  headers: keys.map((name) => own(name, name.slice(0, 2))),
};

/** What a target emits, by the names of the cases. */
function emitted(id: TargetId, mostChars = Number.POSITIVE_INFINITY): [name: string, text: string][] {
  const drafts = [
    ...CASES.map(({ name, draft, options }) => ({ name, draft: draft('http://127.0.0.1:8080'), options })),
    { name: 'names of all lengths', draft: long, options: DEFAULT_OPTIONS },
  ];
  return drafts.flatMap(({ name, draft, options }): [string, string][] => {
    if (mostChars !== Number.POSITIVE_INFINITY && name.startsWith('random')) return [];
    const texts = [false, true].map(
      (idioms) => findTarget(id)?.render(draft, { ...DEFAULT_OPTIONS, ...options, idioms }).text ?? '',
    );
    const fits = (text: string): boolean => text.split('\n').every((line) => line.length <= mostChars);
    return [...new Set(texts)].filter(fits).map((text) => [name, text]);
  });
}

/** Writes the cases of a target into a folder, each under its number. */
function inFolder<T>(id: TargetId, texts: readonly (readonly [string, string])[], work: (folder: string) => T): T {
  const folder = mkdtempSync(join(tmpdir(), `trazado-layout-${id}-`));
  const extension = findTarget(id)?.extension ?? 'txt';
  for (const [at, [, text]] of texts.entries()) writeFileSync(join(folder, `c${at}.${extension}`), text);
  try {
    return work(folder);
  } finally {
    rmSync(folder, { recursive: true });
  }
}

describe('what is emitted is laid out as its own formatter would', () => {
  itNeeding(['gofmt'])('go, by gofmt', () => {
    const found = inFolder('go', emitted('go'), (folder) => execFileSync('gofmt', ['-l', folder]).toString());
    expect(found).toBe('');
  });

  itNeeding(['elixir'])(
    'elixir, by its own',
    () => {
      const found = inFolder('elixir', emitted('elixir', Number.POSITIVE_INFINITY).slice(0, -1), (folder) => {
        const check = `for path <- Path.wildcard("${folder}/*.exs") do
          text = File.read!(path)
          formatted = IO.iodata_to_binary([Code.format_string!(text), "\\n"])
          if formatted != text, do: IO.puts(path <> "\\n" <> formatted)
        end`;
        return execFileSync('elixir', ['-e', check]).toString();
      });
      expect(found).toBe('');
    },
    60_000,
  );

  itNeeding(['rustfmt'])('rust, by rustfmt', () => {
    const found = inFolder('rust-reqwest', emitted('rust-reqwest', LINE_CHARS), (folder) => {
      const paths = readdirSync(folder).map((name) => join(folder, name));
      return spawnSync('rustfmt', ['--edition', '2021', '--check', ...paths]).stdout.toString();
    });
    expect(found).toBe('');
  });

  itNeeding(['rubocop'])(
    'ruby, by rubocop',
    () => {
      const found = inFolder('ruby', emitted('ruby', LINE_CHARS), (folder) =>
        spawnSync('rubocop', ['--only', 'Layout', '--format', 'emacs', folder], {
          env: { ...process.env, HOME: folder },
        }).stdout.toString(),
      );
      expect(found).toBe('');
    },
    60_000,
  );

  for (const id of ['python-requests', 'python-httpx', 'python-urllib', 'python-aiohttp'] as const) {
    itNeeding(['black'])(
      `${id}, by black`,
      () => {
        const found = inFolder(id, emitted(id, LINE_CHARS), (folder) =>
          // Quotes stay as they are: which of them needs fewer escapes depends on the text.
          spawnSync('black', ['--skip-string-normalization', '--line-length', '120', '--diff', '--quiet', folder], {
            env: { ...process.env, HOME: folder, BLACK_CACHE_DIR: folder },
          }).stdout.toString(),
        );
        expect(found).toBe('');
      },
      120_000,
    );
  }

  itNeeding(['perltidy'])(
    'perl, by perltidy with tight brackets',
    () => {
      const texts = emitted('perl', LINE_CHARS);
      const found = inFolder('perl', texts, (folder) => {
        const paths = readdirSync(folder).map((name) => join(folder, name));
        execFileSync('perltidy', ['-npro', '-pt=2', '-sbt=2', '-bt=2', '-l=120', '-b', '-bext=/', ...paths]);
        return texts.flatMap(([name, text], at) =>
          readFileSync(join(folder, `c${at}.pl`), 'utf8') === text ? [] : [name],
        );
      });
      expect(found).toEqual([]);
    },
    60_000,
  );

  it.each(['js-fetch', 'js-xhr', 'node-fetch', 'node-undici', 'node-http', 'node-axios'] as const)(
    '%s, by prettier',
    async (id) => {
      const found: string[] = [];
      for (const [name, text] of emitted(id, LINE_CHARS)) {
        const formatted = await format(text, { parser: 'babel', singleQuote: true, printWidth: 120 });
        if (formatted !== text) found.push(`${name}\n${formatted}`);
      }
      expect(found).toEqual([]);
    },
    60_000,
  );
});
