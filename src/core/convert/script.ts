import { BUSY } from './attempts';
import type { Carry, CarrySource, Sequence, SequenceStep } from './carry';
import { DEFAULT_OPTIONS, type RenderOptions } from './options';
import { type Plan, planOf } from './plan';
import { quoteJavaScript } from './quoting/javascript';
import { quotePosix } from './quoting/posix';
import { quotePython } from './quoting/python';
import type { Rendering, TargetId } from './target';
import { OR_SHOW, QUIET_FLAGS, retryFlags, SCRIPT_FLAGS, shellCommand } from './targets/curl-sh';
import { fetchStatement, NODE_FETCH_ABILITIES, nodePrelude } from './targets/node-fetch';
import { REQUESTS_ABILITIES, requestLines } from './targets/python-requests';
import { envOf, identOf } from './value';
import { commentLine, posixComment } from './writing/comment';
import { fileImports } from './writing/js';
import { indentLines } from './writing/lines';
import { pyImports, pyName } from './writing/python';
import { posixComments, posixVariables } from './writing/shell';

/** The targets in which several requests are one script; the others are written as a folder of files. */
export const SCRIPT_TARGETS = ['curl-sh', 'node-fetch', 'python-requests'] as const satisfies readonly TargetId[];
export type ScriptTarget = (typeof SCRIPT_TARGETS)[number];

/** Requests one after the other as one script; what an answer gave is taken from the answer as it comes then. */
export function renderScript(
  sequence: Sequence,
  target: ScriptTarget,
  options: RenderOptions = DEFAULT_OPTIONS,
): Rendering {
  switch (target) {
    case 'curl-sh':
      return shellScript(sequence, options);
    case 'node-fetch':
      return nodeScript(sequence, options);
    case 'python-requests':
      return pythonScript(sequence, options);
    default:
      return target satisfies never;
  }
}

/** What a step of a script is called in the comment above it. */
const titleOf = ({ draft: { method, url }, index, ended }: SequenceStep): string =>
  `#${index} ${`${method} ${url.replace(/^[a-z]+:\/\/[^/?]*/i, '')}`.replace(/[^\x20-\x7e]/g, '?').slice(0, 80)}${mayFail(ended) ? `, which was answered ${ended} in the capture` : ''}`;

/** What failed in the capture may fail again: the script goes on behind it, as the page did. */
const mayFail = (ended: SequenceStep['ended']): boolean => typeof ended === 'number';

const givenBy = ({ carries }: Sequence, index: number): Carry[] => carries.filter(({ from }) => from === index);
const isCarried = ({ carries }: Sequence, name: string): boolean => carries.some((carry) => carry.name === name);

const noteFiles = (plans: readonly Plan[]): string[] => [...new Set(plans.flatMap(({ warnings }) => warnings))];

/** Variables of all steps but those that answers give, each once. */
function ownVariables(sequence: Sequence, plans: readonly Plan[]): Plan['variables'] {
  const own = new Map(
    plans.flatMap(({ variables }) => variables.map((variable) => [variable.name, variable] as const)),
  );
  return [...own.values()].filter(({ name }) => !isCarried(sequence, name));
}

function pythonScript(sequence: Sequence, options: RenderOptions): Rendering {
  const plans = sequence.steps.map(({ draft }) => planOf(draft, options, REQUESTS_ABILITIES));
  const imports = new Set<string>();
  const steps = sequence.steps.map((step, at) => {
    const plan = plans[at] as Plan;
    const { lines, imports: needed } = requestLines({ ...plan, variables: [] });
    for (const name of needed) imports.add(name);
    if (step.retries > 0) imports.add('time');
    const taken = givenBy(sequence, step.index).map(
      (carry) => `${pyName({ name: carry.name, value: '', isSecret: false })} = ${pythonTake(carry.source)}`,
    );
    return [
      commentLine('#', titleOf(step)),
      ...(step.retries > 0 ? pythonRetries(lines, step.retries) : lines),
      ...(mayFail(step.ended) ? [] : ['response.raise_for_status()']),
      ...taken,
      'print(response.status_code, response.url)',
    ];
  });
  const variables = ownVariables(sequence, plans);
  const secrets = { ...(plans[0] as Plan), variables };
  const { lines: declared } = requestLines({ ...secrets, body: { type: 'none' }, headers: [] });
  const text = [
    ...pyImports(secrets, [...imports], ['requests']),
    ...declared.slice(0, variables.length),
    ...steps.flatMap((lines) => ['', ...lines]),
  ];
  return { text: `${text.join('\n')}\n`, warnings: noteFiles(plans) };
}

/** Asks a busy server again, after the seconds that it names, else one. */
function pythonRetries(lines: readonly string[], retries: number): string[] {
  const at = lines.findIndex((line) => line.startsWith('response = '));
  return [
    ...lines.slice(0, at),
    `for left in range(${retries}, -1, -1):`,
    ...indentLines(
      [
        ...lines.slice(at).flatMap((line) => line.split('\n')),
        `if left == 0 or response.status_code not in (${BUSY.join(', ')}):`,
        '    break',
        "wait = response.headers.get('Retry-After', '')",
        'time.sleep(int(wait) if wait.isdigit() else 1)',
      ],
      '    ',
    ),
  ];
}

const pythonPath = (path: readonly (string | number)[]): string =>
  path.map((step) => `[${typeof step === 'number' ? step : quotePython(step)}]`).join('');

function pythonTake(source: CarrySource): string {
  if (source.type === 'json') return `response.json()${pythonPath(source.path)}`;
  return source.type === 'cookie' ? `response.cookies[${quotePython(source.name)}]` : "response.headers['Location']";
}

function nodeScript(sequence: Sequence, options: RenderOptions): Rendering {
  const plans = sequence.steps.map(({ draft }) => planOf(draft, options, NODE_FETCH_ABILITIES));
  const steps = sequence.steps.map((step, at) => {
    const plan = plans[at] as Plan;
    const given = givenBy(sequence, step.index);
    const hasJson = given.some(({ source }) => source.type === 'json');
    const taken = given.map(
      (carry) => `${identOf({ name: carry.name, value: '', isSecret: false })} = ${nodeTake(carry.source)};`,
    );
    return [
      commentLine('//', titleOf(step)),
      '{',
      ...indentLines(
        [
          ...(step.retries > 0 ? nodeRetries(fetchStatement(plan), step.retries) : fetchStatement(plan)),
          ...(mayFail(step.ended)
            ? []
            : ['if (!response.ok) throw new Error(`${response.status} ${response.statusText}`);']),
          ...(hasJson ? ['const answer = await response.json();'] : []),
          ...taken,
          'console.log(response.status, response.url);',
        ].flatMap((line) => line.split('\n')),
        '  ',
      ),
      '}',
    ];
  });
  const carried = sequence.carries.map(({ name }) => identOf({ name, value: '', isSecret: false }));
  const text = [
    ...new Set(plans.flatMap((plan) => fileImports(plan, false))),
    ...(plans[0] === undefined ? [] : nodePrelude(plans[0], ownVariables(sequence, plans))),
    ...(carried.length === 0 ? [] : [`let ${carried.join(', ')};`]),
    ...steps.flatMap((lines) => ['', ...lines]),
  ];
  return { text: `${text.join('\n').replace(/^\n+/, '')}\n`, warnings: noteFiles(plans) };
}

/** The same for Node. */
const nodeRetries = (statement: readonly string[], retries: number): string[] => [
  'let response;',
  `for (let left = ${retries}; ; left--) {`,
  ...indentLines(
    [
      ...statement.flatMap((line) => line.split('\n')).map((line) => line.replace(/^const response = /, 'response = ')),
      `if (left === 0 || ![${BUSY.join(', ')}].includes(response.status)) break;`,
      "const wait = 1000 * (Number(response.headers.get('retry-after')) || 1);",
      'await new Promise((resolve) => setTimeout(resolve, wait));',
    ],
    '  ',
  ),
  '}',
];

/**
 * A path as JavaScript writes it.
 * @param mayLack ends where a step leads nowhere, instead of failing there
 */
export const nodePath = (path: readonly (string | number)[], mayLack = false): string =>
  path
    .map((step) => {
      if (typeof step === 'string' && /^[A-Za-z_$][\w$]*$/.test(step)) return mayLack ? `?.${step}` : `.${step}`;
      return `${mayLack ? '?.' : ''}[${typeof step === 'number' ? step : quoteJavaScript(step)}]`;
    })
    .join('');

function nodeTake(source: CarrySource): string {
  if (source.type === 'json') return `answer${nodePath(source.path)}`;
  if (source.type === 'location') return "response.headers.get('location')";
  const start = quoteJavaScript(`${source.name}=`);
  return `response.headers.getSetCookie().find((line) => line.startsWith(${start})).slice(${source.name.length + 1}).split(';')[0]`;
}

/** A path as jq writes it. */
export const jqPath = (path: readonly (string | number)[]): string => {
  const steps = path.map((step) => (typeof step === 'number' ? `[${step}]` : `[${JSON.stringify(step)}]`)).join('');
  return `.${steps}`;
};

function shellScript(sequence: Sequence, options: RenderOptions): Rendering {
  const plans: Plan[] = [];
  const steps = sequence.steps.flatMap((step) => {
    const given = givenBy(sequence, step.index);
    const needsHeaders = given.some(({ source }) => source.type !== 'json');
    const stops = mayFail(step.ended) ? QUIET_FLAGS : step.retries > 0 ? retryFlags(step.retries) : SCRIPT_FLAGS;
    const flags = needsHeaders ? `${stops}--dump-header "$headers" ` : stops;
    const { plan, command } = shellCommand(step.draft, { ...options, prints: 'body' }, flags);
    plans.push(plan);
    const taken = given.map(
      (carry) => `${envOf({ name: carry.name, value: '', isSecret: false })}=$(${shellTake(carry.source)})`,
    );
    return [
      '',
      posixComment(titleOf(step)),
      ...(given.length > 0 ? [`answer=$(${command})${OR_SHOW}`, ...taken] : [command, 'echo']),
      ...posixComments(plan, '-H'),
    ];
  });
  const warnings = new Set(noteFiles(plans));
  const usesHeaders = sequence.carries.some(({ source }) => source.type !== 'json');
  const text = [
    'set -e',
    ...(usesHeaders ? ['headers=$(mktemp)', `trap 'rm -f "$headers"' EXIT`] : []),
    ...posixVariables(ownVariables(sequence, plans)),
    ...steps,
  ];
  if (sequence.carries.some(({ source }) => source.type === 'json'))
    warnings.add('It takes values from answers by jq, which has to be there.');
  return { text: `${text.join('\n')}\n`, warnings: [...warnings] };
}

function shellTake(source: CarrySource): string {
  if (source.type === 'json') return `printf '%s' "$answer" | jq -r ${quotePosix(jqPath(source.path))}`;
  if (source.type === 'location') return `sed -n 's/\\r$//; s/^[Ll]ocation: //p' "$headers"`;
  const name = source.name.replace(/[^A-Za-z0-9_-]/g, '.');
  return `sed -n 's/\\r$//; s/^[Ss]et-[Cc]ookie: ${name}=\\([^;]*\\).*/\\1/p' "$headers"`;
}
