import type { Draft } from '../draft';
import type { RenderOptions } from '../options';
import { planOf } from '../plan';
import { quoteJavaScript } from '../quoting/javascript';
import { nodePath } from '../script';
import type { Rendering } from '../target';
import { fetchStatement, NODE_FETCH_ABILITIES, nodePrelude } from '../targets/node-fetch';
import { indentLines } from '../writing/lines';
import { type JsonSteps, type Loop, noListAt, others, stoppedAfter } from './loop';

const NODE_FLATTEN = [
  "function flatten(value, prefix = '') {",
  "  if (typeof value !== 'object' || value === null) return [[prefix || 'value', value]];",
  "  if (Array.isArray(value)) return [[prefix || 'value', JSON.stringify(value)]];",
  '  return Object.entries(value).flatMap(([key, member]) => flatten(member, prefix ? `${prefix}.${key}` : key));',
  '}',
  '',
  'function writeCsv(rows) {',
  '  const flat = rows.map((row) => new Map(flatten(row)));',
  '  const names = [...new Set(flat.flatMap((row) => [...row.keys()]))];',
  "  const cell = (value) => (/[\",\\r\\n]/.test(String(value ?? '')) ? `\"${String(value).replaceAll('\"', '\"\"')}\"` : String(value ?? ''));",
  "  for (const row of [names, ...flat.map((one) => names.map((name) => one.get(name)))]) console.log(row.map(cell).join(','));",
  '}',
  '',
];

/** A loop for Node with its fetch. */
export function nodeLoop(draft: Draft, loop: Loop, options: RenderOptions): Rendering {
  const plan = planOf(draft, options, NODE_FETCH_ABILITIES);
  const each = [
    ...fetchStatement(plan),
    'if (!response.ok) throw new Error(`${response.status} ${response.statusText}`);',
    'const answer = await response.json();',
  ];
  const inner = (lines: readonly string[]): string[] =>
    indentLines(
      lines.flatMap((line) => line.split('\n')),
      '  ',
    );
  const variables = nodePrelude(plan, others(plan.variables));
  const sleep = `await new Promise((resolve) => setTimeout(resolve, ${'pauseMs' in loop ? loop.pauseMs : 0}));`;
  const lines: string[] = [];
  switch (loop.type) {
    case 'pages':
      lines.push(
        ...NODE_FLATTEN,
        ...variables,
        'const rows = [];',
        "let before = '';",
        'let pages = 0;',
        `for (let number = ${loop.from}; ${loop.to === undefined ? '' : `number ${loop.step < 0 ? '>=' : '<='} ${loop.to}`}; number += ${loop.step}) {`,
        ...inner([
          `if (++pages > ${loop.mostPages}) {`,
          `  console.error(${quoteJavaScript(stoppedAfter(loop.mostPages))});`,
          '  break;',
          '}',
          'const page = String(number);',
          ...each,
          ...nodeItems(loop.list),
          '// A page that comes again is the last one.',
          'if (items.length === 0 || JSON.stringify(items) === before) break;',
          'before = JSON.stringify(items);',
          'rows.push(...items);',
          ...(loop.total === undefined ? [] : [`if (rows.length >= answer${nodePath(loop.total)}) break;`]),
          sleep,
        ]),
        '}',
        'writeCsv(rows);',
      );
      break;
    case 'poll':
      lines.push(
        ...variables,
        `for (let attempt = 1; ; attempt++) {`,
        ...inner([
          ...each,
          // A member that is not there yet is null, as it is in JSON.
          `const value = answer${nodePath(loop.at, true)} ?? null;`,
          `if ((typeof value === 'string' ? value : JSON.stringify(value)) === ${quoteJavaScript(loop.until)}) {`,
          '  console.log(answer);',
          '  break;',
          '}',
          `if (attempt >= ${loop.most}) throw new Error('It did not come to that in ${loop.most} tries.');`,
          sleep,
        ]),
        '}',
      );
      break;
    case 'table':
      lines.push(...NODE_FLATTEN, ...variables, ...each, ...nodeItems(loop.list), 'writeCsv(items);');
      break;
    case 'files':
      lines.push(
        `import { mkdir, writeFile } from 'node:fs/promises';`,
        `import { basename, join } from 'node:path';`,
        '',
        ...variables,
        ...each,
        `const folder = ${quoteJavaScript(loop.folder)};`,
        'await mkdir(folder, { recursive: true });',
        `const addresses = ${nodeEach(loop.at)};`,
        'for (const [number, found] of addresses.entries()) {',
        '  const address = new URL(found, response.url);',
        '  const file = await fetch(address);',
        '  if (!file.ok) throw new Error(`${file.status} ${address}`);',
        '  // A name of our own before the one in the address: none can lead out of the folder.',
        "  const name = `${number}-${basename(address.pathname) || 'file'}`;",
        '  await writeFile(join(folder, name), Buffer.from(await file.arrayBuffer()));',
        '}',
      );
      break;
    default:
      loop satisfies never;
  }
  return { text: `${lines.join('\n')}\n`, warnings: plan.warnings };
}

const nodeItems = (list: JsonSteps): string[] => [
  `const items = answer${nodePath(list)};`,
  `if (!Array.isArray(items)) throw new Error(${quoteJavaScript(noListAt(list))});`,
];

function nodeEach(at: JsonSteps): string {
  const place = at.indexOf('*');
  const parts: JsonSteps[] = [];
  let rest = at;
  for (let next = place; next !== -1; next = rest.indexOf('*')) {
    parts.push(rest.slice(0, next));
    rest = rest.slice(next + 1);
  }
  const [first = at, ...inner] = [...parts, rest];
  if (parts.length === 0) return `[answer${nodePath(first)}]`;
  return inner.reduce(
    (code, steps, number) =>
      `${code}.${number < inner.length - 1 ? 'flatMap' : 'map'}((item) => item${nodePath(steps)})`,
    `answer${nodePath(first)}`,
  );
}
