import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import ts from 'typescript';
import { expect, it } from 'vitest';

// What CONTRIBUTING says of adding something: the compiler names every place that it has to be added to. Each is added to
// a copy here, to one list or type alone, and the places that do not compile are held against those that are meant.

const ROOT = process.cwd();

interface Added {
  readonly what: string;
  /** Where it is added, and how. */
  readonly to: readonly (readonly [path: string, at: string, instead: string])[];
  /** The files that do not compile until they know of it. */
  readonly leadsTo: readonly string[];
}

const CORE = 'src/core';
const ADDED: readonly Added[] = [
  {
    what: 'a rule',
    to: [[`${CORE}/diagnose/finding.ts`, "  'http-error',", "  'http-error',\n  'a-new-rule',"]],
    leadsTo: [`${CORE}/diagnose/rules/index.ts`, `${CORE}/diagnose/diagnose.test.ts`],
  },
  {
    what: 'a target',
    to: [[`${CORE}/convert/target.ts`, "  'wget',", "  'wget',\n  'a-new-target',"]],
    leadsTo: [`${CORE}/convert/targets/index.ts`, `${CORE}/convert/testing/runners.ts`],
  },
  {
    what: 'a language of scripts',
    to: [[`${CORE}/convert/scripts/script-target.ts`, "  'curl-sh',", "  'curl-sh',\n  'ruby',"]],
    leadsTo: [`${CORE}/convert/scripts/index.ts`, `${CORE}/convert/testing/tools.ts`],
  },
  {
    what: 'a statement of scripts',
    to: [
      [`${CORE}/convert/scripts/statement.ts`, "{ readonly do: 'report' }", "{ readonly do: 'report' | 'a-new-one' }"],
    ],
    leadsTo: ['go', 'node', 'php', 'powershell', 'python', 'shell'].map((name) => `${CORE}/convert/scripts/${name}.ts`),
  },
  {
    what: 'a loop',
    to: [
      [
        `${CORE}/convert/loops/loop.ts`,
        "{ readonly type: 'table';",
        "{ readonly type: 'a-new-one' }\n  | { readonly type: 'table';",
      ],
    ],
    leadsTo: [`${CORE}/convert/loops/fields.ts`, `${CORE}/convert/scripts/loop.ts`],
  },
  {
    what: 'a role of headers',
    to: [
      [`${CORE}/convert/header-policy.ts`, "['computed', 'conditional',", "['computed', 'a-new-one', 'conditional',"],
    ],
    leadsTo: [`${CORE}/convert/header-policy.ts`],
  },
  {
    what: 'a type of payload',
    to: [
      [
        `${CORE}/convert/draft.ts`,
        "  | { readonly type: 'none' }",
        "  | { readonly type: 'none' }\n  | { readonly type: 'a-new-one' }",
      ],
    ],
    leadsTo: [`${CORE}/convert/draft.ts`, `${CORE}/convert/plan.ts`, `${CORE}/convert/texts.ts`],
  },
  {
    what: 'a flag of the filter',
    to: [
      [
        `${CORE}/filter/fields.ts`,
        "  failed: { type: 'flag',",
        "  newflag: { type: 'flag', says: '' },\n  failed: { type: 'flag',",
      ],
    ],
    leadsTo: [`${CORE}/filter/columns.ts`],
  },
  {
    what: 'a named field of the filter',
    to: [
      [
        `${CORE}/filter/fields.ts`,
        "  req: { type: 'named',",
        "  trailer: { type: 'named', says: '' },\n  req: { type: 'named',",
      ],
    ],
    leadsTo: [`${CORE}/filter/named.ts`],
  },
  {
    what: 'a text and a number of the filter',
    to: [
      [
        `${CORE}/filter/fields.ts`,
        "  method: { type: 'text',",
        "  newtext: { type: 'text', says: '' },\n  newnumber: { type: 'number', dimension: 'ms', says: '' },\n  method: { type: 'text',",
      ],
    ],
    leadsTo: [`${CORE}/filter/columns.ts`],
  },
  {
    what: 'a view of a capture',
    to: [['src/islands/state/address.ts', "  'brief',\n  'waterfall',", "  'brief',\n  'cookies',\n  'waterfall',"]],
    leadsTo: ['src/islands/views.tsx'],
  },
  {
    what: 'a reading of bodies',
    to: [['src/islands/content/reading.ts', "  table: 'table',", "  table: 'table',\n  map: 'map',"]],
    leadsTo: ['src/islands/content/ContentView.tsx'],
  },
  {
    what: 'a field of the row',
    to: [
      [
        `${CORE}/analysis/exchange-row.ts`,
        '  readonly method: string;',
        '  readonly method: string;\n  readonly tls: string;',
      ],
    ],
    leadsTo: [`${CORE}/analysis/row-fields.ts`, `${CORE}/analysis/row.ts`],
  },
  {
    what: 'a field of the row, to its table',
    to: [
      [
        `${CORE}/analysis/exchange-row.ts`,
        '  readonly method: string;',
        '  readonly method: string;\n  readonly tls: string;',
      ],
      [
        `${CORE}/analysis/row-fields.ts`,
        "  method: { kept: 'text',",
        "  tls: { kept: 'text' },\n  method: { kept: 'text',",
      ],
    ],
    leadsTo: [`${CORE}/analysis/row-fields.ts`, `${CORE}/analysis/row.ts`],
  },
  {
    what: 'a reason for which requests fail',
    to: [[`${CORE}/model/failure.ts`, "  'refused',", "  'refused',\n  'a-new-one',"]],
    leadsTo: [`${CORE}/diagnose/rules/no-answer.ts`],
  },
  {
    what: 'a kind of exchange',
    to: [[`${CORE}/model/kinds.ts`, "'document',", "'document', 'a-new-one',"]],
    leadsTo: [`${CORE}/diagnose/say.ts`, 'src/islands/ui/kind.ts'],
  },
];

const config = ts.parseJsonConfigFileContent(ts.readConfigFile('tsconfig.json', ts.sys.readFile).config, ts.sys, ROOT);

const base = ts.createProgram({ rootNames: config.fileNames, options: config.options });

/** The files of some that do not compile once files were given other texts; all else is as it is. */
function brokenAmong(paths: readonly string[], texts: ReadonlyMap<string, string>): string[] {
  const host = ts.createCompilerHost(config.options);
  host.getSourceFile = (path, version) => {
    const text = texts.get(path);
    return text === undefined ? base.getSourceFile(path) : ts.createSourceFile(path, text, version, true);
  };
  const program = ts.createProgram({ rootNames: config.fileNames, options: config.options, host, oldProgram: base });
  return paths.filter((path) => {
    const file = program.getSourceFile(join(ROOT, path));
    // Of no file the compiler would check all of them.
    if (file === undefined) throw new Error(`There is no ${path}.`);
    return program.getSemanticDiagnostics(file).length > 0;
  });
}

it.each(ADDED)('the compiler leads whoever adds $what', ({ to, leadsTo }) => {
  const texts = new Map<string, string>();
  for (const [path, from, instead] of to) {
    const full = join(ROOT, path);
    const text = texts.get(full) ?? readFileSync(full, 'utf8');
    expect(text, `${path} has no ${from}`).toContain(from);
    texts.set(
      full,
      text.replace(from, () => instead),
    );
  }
  expect(brokenAmong(leadsTo, new Map())).toEqual([]);
  expect(brokenAmong(leadsTo, texts)).toEqual(leadsTo);
});
