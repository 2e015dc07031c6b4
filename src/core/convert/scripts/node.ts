import type { JsonSteps } from '../../json';
import { BUSY } from '../attempts';
import { type CarrySource, givesNumber } from '../carry';
import { LOOP_VARIABLE, type NumberPlace } from '../loops/loop';
import type { Writing } from '../loops/parameter';
import { planOf } from '../plan';
import { quoteJavaScript as quote } from '../quoting/javascript';
import { fetchStatement, NODE_FETCH_ABILITIES, nodePrelude } from '../targets/node-fetch';
import { identOf, splitUrlValue } from '../value';
import { commentLine } from '../writing/comment';
import { indentAll } from '../writing/indent';
import { jsHeader, jsKey, jsValue, readsFiles } from '../writing/js';
import { LINK_NEXT, splitAtEach, stepsAsWords } from './places';
import {
  type Expected,
  gatherIn,
  linesOf,
  NO_JSON,
  type PagesBy,
  type ScriptLanguage,
  type ScriptNeeds,
} from './statement';

/** What statements call, by its name; each stands in the file once, where it is called. */
const HELPERS: Readonly<Record<string, readonly string[]>> = {
  valueAt: [
    '// What stands at a place of JSON; null where nothing does.',
    'function valueAt(value, ...steps) {',
    '  for (const step of steps) {',
    "    const holds = Array.isArray(value) === (typeof step === 'number') && Object(value) === value;",
    '    value = holds && Object.hasOwn(value, step) ? value[step] : null;',
    '  }',
    '  return value;',
    '}',
  ],
  jsonOf: [
    '// The JSON of a response; where it is none that ends the script.',
    'async function jsonOf(response, request) {',
    '  const text = await response.text();',
    '  try {',
    '    return JSON.parse(text);',
    '  } catch {',
    `    throw new Error(\`\${request}\\n${NO_JSON}\\n\${text}\`.trim());`,
    '  }',
    '}',
  ],
  locationParameter: [
    '// The value of a parameter of the Location, as it stands there; null where it has none.',
    'function locationParameter(response, name) {',
    "  const pieces = (response.headers.get('location') ?? '').split(/[?&#]/);",
    '  return pieces.find((piece) => piece.startsWith(`${name}=`))?.slice(name.length + 1) || null;',
    '}',
  ],
  textBetween: [
    '// What stands between two texts, the first time; null where nothing does.',
    'function textBetween(text, before, after) {',
    '  const start = text.indexOf(before) + before.length;',
    '  const end = text.includes(before) ? text.indexOf(after, start) : -1;',
    '  return end > start ? text.slice(start, end) : null;',
    '}',
  ],
  stop: [
    '// Ends the script with what failed, its status and what the response says.',
    'async function stop(response, request) {',
    "  const status = [request, response.status, response.statusText].filter((part) => part).join(' ');",
    '  throw new Error(`${status}\\n${await response.text()}`);',
    '}',
  ],
  writeCsv: [
    "function flatten(value, prefix = '') {",
    "  if (typeof value !== 'object' || value === null || Array.isArray(value)) return [[prefix || 'value', value]];",
    '  return Object.entries(value).flatMap(([key, member]) => flatten(member, prefix ? `${prefix}.${key}` : key));',
    '}',
    '',
    'function writeCsv(rows) {',
    '  const flat = rows.map((row) => new Map(flatten(row)));',
    '  const names = [...new Set(flat.flatMap((row) => [...row.keys()]))];',
    '  if (names.length === 0) return;',
    '  // A table program would run such a text as a formula.',
    '  const isFormula = (cell) => /^(?:[\\t\\r]|\\s*[=+\\-@])/.test(cell) && !/^-?\\d+(?:\\.\\d+)?(?:e-?\\d+)?$/i.test(cell);',
    "  const defused = (cell) => (isFormula(cell) ? `'${cell}` : cell);",
    "  const text = (value) => (typeof value === 'string' ? defused(value) : JSON.stringify(value));",
    '  const quoted = (cell) => (/[",\\r\\n]/.test(cell) ? `"${cell.replaceAll(\'"\', \'""\')}"` : cell);',
    "  const cell = (value) => (value === null || value === undefined ? '' : quoted(text(value)));",
    '  for (const row of [names, ...flat.map((one) => names.map((name) => one.get(name)))]) {',
    "    console.log(row.map(cell).join(',') || '\"\"');",
    '  }',
    '}',
  ],
};

const inBlock = (lines: readonly string[]): string[] => indentAll(lines, '  ');

function valueAt(from: string, steps: JsonSteps, needs: ScriptNeeds): string {
  if (steps.length === 0) return from;
  needs.help('valueAt');
  return `valueAt(${from}, ${stepsAsWords(steps, quote)})`;
}

const stopUnless = (condition: string, sentence: string): string =>
  `if (!${condition}) throw new Error(${quote(sentence)});`;

const itemsAt = (list: JsonSteps, lacking: string, needs: ScriptNeeds): string[] => [
  `const items = ${valueAt('data', list, needs)};`,
  stopUnless('Array.isArray(items)', lacking),
];

function sourceOf(source: CarrySource, needs: ScriptNeeds): string {
  switch (source.type) {
    case 'json':
      return valueAt('data', source.path, needs);
    case 'text':
      needs.help('textBetween');
      return `textBetween(text, ${quote(source.before)}, ${quote(source.after)})`;
    case 'cookie': {
      const start = quote(`${source.name}=`);
      return `response.headers.getSetCookie().find((line) => line.startsWith(${start}))?.slice(${source.name.length + 1}).split(';')[0]`;
    }
    case 'header':
      return `response.headers.get(${quote(source.name)})`;
    case 'location':
      return "response.headers.get('location')";
    case 'parameter':
      needs.help('locationParameter');
      return `locationParameter(response, ${quote(source.name)})`;
    default:
      return source satisfies never;
  }
}

/** What a place says, as a number; else anything that is none. */
function numberAt(place: NumberPlace, needs: ScriptNeeds): string {
  if (place.in === 'json') return valueAt('data', place.at, needs);
  // Of "items 0-24/319" the 319.
  return `Number(/(\\d+)\\s*$/.exec(response.headers.get(${quote(place.name)}) ?? '')?.[1] ?? NaN)`;
}

const endOf = ({ to, step }: Extract<PagesBy, { by: 'counter' }>): string =>
  to === undefined ? '' : `number ${step !== 'rows' && step < 0 ? '>=' : '<='} ${to}`;

function nextWritten({ as, before }: Writing): string {
  const plain = "(typeof next === 'string' ? next : JSON.stringify(next))";
  const text = as === 'plain' ? plain : as === 'json' ? 'JSON.stringify(next)' : `encodeURIComponent${plain}`;
  return before === '' ? text : `${quote(before)} + ${text}`;
}

/** A test of `found`. */
function isExpected({ text, value, than }: Expected): string {
  if (than !== undefined) return `typeof found === 'number' && found ${than.comparison} ${than.number}`;
  if (value === undefined) return `found === ${quote(text)}`;
  return typeof value === 'object' && value !== null
    ? `JSON.stringify(found) === ${quote(JSON.stringify(value))}`
    : `found === ${value} || found === ${quote(text)}`;
}

/** The values at a place, one array after the other. */
function foundAt(at: JsonSteps, needs: ScriptNeeds): string {
  const [first = [], ...others] = splitAtEach(at);
  return others.reduce(
    (code, steps) => `${code}.filter(Array.isArray).flat().map((item) => ${valueAt('item', steps, needs)})`,
    `[${valueAt('data', first, needs)}]`,
  );
}

/** Node with its own fetch. */
export const node = {
  target: 'node-fetch',
  requirements: () => [],
  statements: {
    step: ({ title, body }, _, write) => {
      const { before, lines } = write(body);
      return linesOf('', commentLine('//', title), '{', ...inBlock([...before, ...lines]), '}');
    },
    request: ({ draft, called, retries, stopsAtRedirect, mayFail, readsJson, readsText }, needs) => {
      needs.help(...(mayFail ? [] : ['stop']), ...(readsJson ? ['jsonOf'] : []));
      const plan = needs.plan(planOf(draft, needs.optionsOf(stopsAtRedirect), NODE_FETCH_ABILITIES));
      if (readsFiles(plan)) needs.import('readFile');
      return linesOf(
        ...(retries === 0
          ? fetchStatement(plan)
          : [
              'let response;',
              `for (let left = ${retries}; ; left--) {`,
              ...inBlock([
                ...fetchStatement(plan, 'response'),
                `if (left === 0 || ![${BUSY.join(', ')}].includes(response.status)) break;`,
                `const wait = 1000 * (Number(response.headers.get('retry-after')) || 2 ** (${retries} - left));`,
                'await new Promise((resolve) => setTimeout(resolve, wait));',
              ]),
              '}',
            ]),
        ...(mayFail
          ? []
          : [
              `if (${stopsAtRedirect ? 'response.status >= 400' : '!response.ok'}) await stop(response, ${quote(called)});`,
            ]),
        ...(readsJson ? [`const data = await jsonOf(response, ${quote(called)});`] : []),
        ...(readsText ? ['const text = await response.text();'] : []),
      );
    },
    take: ({ into, source, as, lacking }, needs) =>
      linesOf(
        `${identOf(into)} = ${sourceOf(source, needs)};`,
        givesNumber(source)
          ? stopUnless(`Number.isSafeInteger(${identOf(into)})`, lacking)
          : `if (typeof ${identOf(into)} !== 'string') throw new Error(${quote(lacking)});`,
        ...(as === 'plain'
          ? []
          : [`${identOf(into)} = ${as === 'encoded' ? 'encode' : 'decode'}URIComponent(${identOf(into)});`]),
      ),
    report: () => linesOf('console.log(response.status, response.url);'),
    pause: ({ pauseMs }) => linesOf(`await new Promise((resolve) => setTimeout(resolve, ${pauseMs}));`),
    pages: ({ moves, most, stopped, rows, body }, needs, write) => {
      const { before, lines } = write(body);
      const gather = gatherIn(body);
      const ident = identOf(LOOP_VARIABLE);
      const isTable = rows === 'csv';
      if (isTable) needs.help('writeCsv');
      const head =
        moves.by === 'values'
          ? [`for (const ${ident} of [`, ...inBlock(moves.values.map((value) => `${quote(value)},`)), ']) {']
          : moves.by === 'response'
            ? ['for (;;) {']
            : [
                `for (let number = ${moves.from}; ${endOf(moves)};${moves.step === 'rows' ? '' : ` number += ${moves.step}`}) {`,
              ];
      const loop = [
        ...head,
        ...inBlock([
          `if (++pages > ${most}) {`,
          `  console.error(${quote(stopped)});`,
          '  break;',
          '}',
          ...(moves.by === 'counter' ? [`const ${ident} = String(number);`] : []),
          ...lines,
          ...(moves.by === 'counter' && moves.step === 'rows' ? ['number += items.length;'] : []),
        ]),
        '}',
      ];
      return linesOf(
        ...before,
        isTable ? 'const rows = [];' : 'let count = 0;',
        ...(gather?.endsEmpty === true ? ["let before = '';"] : []),
        ...(gather?.endsShort === true ? ['let first;'] : []),
        'let pages = 0;',
        ...(moves.by === 'response' ? [`let ${ident} = ${quote(moves.first)};`] : []),
        ...(isTable
          ? [
              'try {',
              ...inBlock(loop),
              '} finally {',
              '  // Also where a page fails: what came before it is not lost.',
              '  writeCsv(rows);',
              '}',
            ]
          : loop),
      );
    },
    gather: ({ list, lacking, rows, endsEmpty, endsShort }, needs) =>
      linesOf(
        ...itemsAt(list, lacking, needs),
        ...(endsEmpty
          ? [
              '// A page that comes again is the last one.',
              'if (items.length === 0 || JSON.stringify(items) === before) break;',
              'before = JSON.stringify(items);',
            ]
          : []),
        ...(rows === 'csv'
          ? ['rows.push(...items);']
          : ['for (const item of items) console.log(JSON.stringify(item));', 'count += items.length;']),
        ...(endsShort ? ['first ??= items.length;', 'if (items.length < first) break;'] : []),
      ),
    enough: ({ of, place, rows }, needs) => {
      const held = of === 'pages' ? 'pages' : rows === 'csv' ? 'rows.length' : 'count';
      const name = of === 'pages' ? 'lastPage' : 'total';
      return linesOf(
        `const ${name} = ${numberAt(place, needs)};`,
        `if (typeof ${name} === 'number' && ${held} >= ${name}) break;`,
      );
    },
    next: ({ place, writing, isAddress, elsewhere }, needs) => {
      const ident = identOf(LOOP_VARIABLE);
      const site = jsValue(splitUrlValue(needs.plans.at(-1)?.address ?? []).origin);
      const found =
        place.in === 'json'
          ? valueAt('data', place.at, needs)
          : `/${LINK_NEXT}/i.exec(response.headers.get('link') ?? '')?.[1]`;
      return linesOf(
        `const next = ${found};`,
        "if (next === undefined || next === null || next === '' || next === false) break;",
        ...(isAddress
          ? [
              'const address = new URL(String(next), response.url);',
              `if (address.origin !== new URL(${site}).origin) throw new Error(${quote(elsewhere)} + address);`,
              'const following = (address.pathname + address.search).slice(1);',
            ]
          : [`const following = ${nextWritten(writing)};`]),
        '// What is named again would never end.',
        `if (following === ${ident}) break;`,
        `${ident} = following;`,
      );
    },
    tries: ({ most, inVain, body }, _, write) => {
      const { before, lines } = write(body);
      return linesOf(
        ...before,
        'for (let attempt = 1; ; attempt++) {',
        ...inBlock([`if (attempt > ${most}) throw new Error(${quote(inVain)});`, ...lines]),
        '}',
      );
    },
    until: ({ at, is }, needs) =>
      linesOf(
        `const found = ${valueAt('data', at, needs)};`,
        `if (${isExpected(is)}) {`,
        '  console.log(JSON.stringify(data));',
        '  break;',
        '}',
      ),
    'until-status': ({ status }) =>
      linesOf(`if (response.status === ${status}) {`, '  console.log(await response.text());', '  break;', '}'),
    'write-list': ({ list, lacking, rows }, needs) => {
      if (rows === 'csv') needs.help('writeCsv');
      return linesOf(
        ...itemsAt(list, lacking, needs),
        rows === 'csv' ? 'writeCsv(items);' : 'for (const item of items) console.log(JSON.stringify(item));',
      );
    },
    download: ({ at, folder, credentials }, needs) => {
      needs.import('mkdir', 'writeFile');
      const sent = needs.plans.at(-1)?.headers.filter(({ name }) => credentials.includes(name.toLowerCase())) ?? [];
      return linesOf(
        `const folder = ${quote(folder)};`,
        'await mkdir(folder, { recursive: true });',
        `const found = ${foundAt(at, needs)};`,
        "const addresses = found.filter((address) => typeof address === 'string');",
        ...(sent.length === 0
          ? []
          : ['const credentials = {', ...sent.map(({ name, value }) => `  ${jsKey(name)}: ${jsHeader(value)},`), '};']),
        'for (const [number, relative] of addresses.entries()) {',
        ...inBlock([
          'const address = new URL(relative, response.url);',
          ...(sent.length === 0
            ? ['const file = await fetch(address);']
            : [
                '// Nobody else is told the credentials.',
                'const isOwn = address.origin === new URL(response.url).origin;',
                'const file = await fetch(address, { headers: isOwn ? credentials : {} });',
              ]),
          'if (!file.ok) throw new Error(`${file.status} ${address}`);',
          '// A number of our own before the name in the URL: no file name can lead out of the folder.',
          "const name = `${number}-${address.pathname.split('/').at(-1) || 'file'}`;",
          'await writeFile(`${folder}/${name}`, Buffer.from(await file.arrayBuffer()));',
        ]),
        '}',
      );
    },
  },
  file: (body, needs, own, taken) => {
    const names = [...needs.imports].sort();
    const [plan] = needs.plans;
    const head = [
      ...(names.length === 0 ? [] : [`import { ${names.join(', ')} } from 'node:fs/promises';`, '']),
      ...Object.keys(HELPERS).flatMap((name) => (needs.helpers.has(name) ? [...(HELPERS[name] ?? []), ''] : [])),
      ...(plan === undefined ? [] : nodePrelude(plan, own)),
      ...(taken.length === 0 ? [] : [`let ${taken.map(identOf).join(', ')};`]),
    ];
    return [...head, ...(head.length === 0 && body[0] === '' ? body.slice(1) : body)];
  },
} as const satisfies ScriptLanguage;
