import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import Parser from 'web-tree-sitter';
import { type Draft, EMPTY_DRAFT } from './draft';
import { DEFAULT_OPTIONS, findTarget, TARGETS } from './index';
import { CASES } from './testing/cases';
import { type Echo, startEcho } from './testing/echo';
import { tryTarget } from './testing/harness';
import { LITERALS } from './testing/literals';
import { own } from './testing/odd-texts';
import { RUNNERS } from './testing/runners';
import { itNeeding } from './testing/tools';

// The two laws of conversion: what is emitted sends what the draft says, or a warning says what not and why; and
// nothing of what was captured ever runs. HARNESS=all runs every case also where that takes long.

const isThorough = process.env['HARNESS'] === 'all';
/** Clients that take half a second to start are given fewer cases. */
const EVERY: Partial<Record<string, number>> = isThorough ? {} : { c: 4, httpie: 4, 'python-httpx': 2 };
let echo: Echo;
beforeAll(async () => {
  echo = await startEcho();
});
afterAll(() => echo.close());

/** Sentences that say that something else arrives than the draft says. */
const ALARM =
  /In the URL|The (?:header|method) .* is not possible here|A payload with|sends Content-Type|goes out once/;

const tally: string[] = [];
afterAll(() => {
  process.stdout.write(`\nWhat targets put on the wire, over ${CASES.length} requests:\n${tally.join('\n')}\n`);
});

describe('what is emitted, run by what really runs it', () => {
  for (const [id, runner] of Object.entries(RUNNERS)) {
    itNeeding(runner.needs, { concurrent: true })(
      `${id} sends what the draft says and nothing else, or warns (${runner.interpreter})`,
      async () => {
        const target = findTarget(id);
        if (target === undefined) throw new Error(`no target ${id}`);
        const cases = CASES.filter((_, at) => at % (EVERY[id] ?? 1) === 0);
        const { verdicts, strays, log } = await tryTarget(target, runner, cases, echo);
        const count = (type: string): number => verdicts.filter((verdict) => verdict.type === type).length;
        tally.push(
          `  ${id}: ${cases.length} cases, ${count('same')} the same, ${count('warned')} warned, ${count('wrong')} wrong`,
        );
        if (isThorough) {
          for (const verdict of verdicts) {
            if (verdict.type === 'warned')
              tally.push(`    ${verdict.name}: ${verdict.why.slice(0, 160)} | ${verdict.warnings}`);
            if (verdict.type === 'same' && verdict.warnings !== '')
              tally.push(`    the same all the same, ${verdict.name} | ${verdict.warnings}`);
            if (verdict.type === 'wrong') tally.push(`    WRONG ${verdict.name}: ${verdict.why.slice(0, 300)}`);
          }
        }
        const wrong = verdicts.flatMap((verdict) =>
          verdict.type === 'wrong' ? `${verdict.name}: ${verdict.why}` : [],
        );
        expect(wrong, log.slice(0, 2000)).toEqual([]);
        expect(strays, 'something else ran').toEqual([]);
        const alarms = verdicts.flatMap((verdict) =>
          verdict.type === 'same' && ALARM.test(verdict.warnings) ? `${verdict.name}: ${verdict.warnings}` : [],
        );
        expect(alarms, 'warned of what arrived as it should').toEqual([]);
        // A target that warns of nearly everything would keep the law and be of no use.
        expect(count('same') / verdicts.length).toBeGreaterThan(0.8);
      },
      240_000,
    );
  }
});

describe('what cannot run here', () => {
  const GRAMMARS: Readonly<Record<string, string>> = {
    csharp: 'c_sharp',
    'rust-reqwest': 'rust',
    'kotlin-okhttp': 'kotlin',
    swift: 'swift',
  };
  const require = createRequire(import.meta.url);

  it.each(Object.entries(GRAMMARS))(
    '%s is what its grammar allows, whatever the request',
    async (id, grammar) => {
      await Parser.init();
      const parser = new Parser();
      parser.setLanguage(
        await Parser.Language.load(readFileSync(require.resolve(`tree-sitter-wasms/out/tree-sitter-${grammar}.wasm`))),
      );
      const broken = CASES.flatMap(({ name, draft, options }) => {
        const text = findTarget(id)?.render(draft('http://127.0.0.1:8080'), options).text ?? '';
        // The Kotlin grammar takes an escaped dollar before another escape for a template; by its code it is text.
        const tree = parser.parse(id === 'kotlin-okhttp' ? text.replaceAll('\\$', '\\u0024') : text);
        const isBroken = tree.rootNode.hasError;
        tree.delete();
        return isBroken ? [name] : [];
      });
      expect(broken).toEqual([]);
    },
    60_000,
  );

  it.each(Object.entries(LITERALS))(
    'a string of %s reads back as the very text, and ends where it ends',
    (_, { quote, read }) => {
      const text = fc.string({
        unit: fc.oneof(
          fc.constantFrom(...'\'"`$\\{}()#@%!?<>;\n\r\t\u2028‘’ü😀 a'),
          fc.string({ unit: 'binary', minLength: 1, maxLength: 1 }),
        ),
      });
      fc.assert(
        fc.property(text, (one) => {
          const wanted = one.toWellFormed().replaceAll('\0', '');
          expect(read(`${quote(wanted)} tail`)).toEqual({ text: wanted, rest: ' tail' });
        }),
        { numRuns: 500 },
      );
    },
  );
});

describe('Go', () => {
  itNeeding(['gofmt'])('is formatted as gofmt would, whatever the request', () => {
    const folder = mkdtempSync(join(tmpdir(), 'trazado-gofmt-'));
    const long: Draft = {
      ...EMPTY_DRAFT,
      url: 'http://127.0.0.1/',
      headers: ['A', 'X-'.padEnd(39, 'a'), 'X-'.padEnd(60, 'b'), 'X-'.padEnd(200, 'c'), 'X-'.padEnd(190, 'd'), 'B'].map(
        (name) => own(name, name.slice(0, 2)),
      ),
    };
    const drafts = [
      ...CASES.map(({ draft, options }) => ({ draft: draft('http://127.0.0.1:8080'), options })),
      { draft: long, options: DEFAULT_OPTIONS },
    ];
    for (const [at, { draft, options }] of drafts.entries()) {
      writeFileSync(join(folder, `${at}.go`), findTarget('go')?.render(draft, options).text ?? '');
    }
    expect(execFileSync('gofmt', ['-l', folder]).toString()).toBe('');
    rmSync(folder, { recursive: true });
  });
});

describe('every target', () => {
  it('reads as it should for one plain request', () => {
    const draft = CASES.find(({ name }) => name.startsWith('option: as a function'))?.draft(
      'https://api.cumbrera.example',
    );
    if (draft === undefined) throw new Error('no such case');
    for (const { id, render } of TARGETS) {
      const { text, warnings } = render(draft, DEFAULT_OPTIONS);
      expect(text, id).toContain('api.cumbrera.example');
      expect(text, id).toContain('s3cret');
      expect(text.endsWith('\n') || id === 'http', id).toBe(true);
      expect(
        warnings.every((warning) => warning.endsWith('.')),
        `${id}: ${warnings.join(' | ')}`,
      ).toBe(true);
      const secret = render(draft, { ...DEFAULT_OPTIONS, secretsFromEnv: true }).text;
      if (id !== 'http' && id !== 'curl-config') expect(secret, id).not.toContain('s3cret');
    }
  });

  it('names what it cannot do of the options', () => {
    const draft = CASES[0]?.draft('https://a.example');
    if (draft === undefined) throw new Error('no case');
    const options = { ...DEFAULT_OPTIONS, proxy: 'http://proxy.example:8080', ignoresCertificate: true };
    for (const { id, render } of TARGETS.filter((target) => target.id !== 'http')) {
      const { text, warnings } = render(draft, options);
      const isDone = text.includes('proxy.example') || warnings.some((warning) => /proxy/i.test(warning));
      expect(isDone, id).toBe(true);
    }
  });
});
