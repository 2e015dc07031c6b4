import type { Draft } from '../draft';
import type { RenderOptions } from '../options';
import { planOf } from '../plan';
import { quotePython } from '../quoting/python';
import type { Rendering } from '../target';
import { REQUESTS_ABILITIES, requestLines } from '../targets/python-requests';
import { indentLines } from '../writing/lines';
import { type JsonSteps, type Loop, noListAt, others, stoppedAfter } from './loop';

const PYTHON_FLATTEN = [
  'def flatten(value, prefix=""):',
  '    if isinstance(value, dict):',
  '        row = {}',
  '        for key, member in value.items():',
  '            row.update(flatten(member, f"{prefix}.{key}" if prefix else key))',
  '        return row',
  '    return {prefix or "value": json.dumps(value, ensure_ascii=False) if isinstance(value, list) else value}',
  '',
  '',
  'def write_csv(rows):',
  '    flat = [flatten(row) for row in rows]',
  '    names = list(dict.fromkeys(name for row in flat for name in row))',
  '    writer = csv.DictWriter(sys.stdout, names)',
  '    writer.writeheader()',
  '    writer.writerows(flat)',
  '',
  '',
];

/** What stands at a place, as JSON writes it; a member that is not there yet is null. */
const PYTHON_AT = [
  'def text_at(value, *steps):',
  '    for step in steps:',
  '        try:',
  '            value = value[step]',
  '        except (KeyError, IndexError, TypeError):',
  '            value = None',
  "    return value if isinstance(value, str) else json.dumps(value, ensure_ascii=False, separators=(',', ':'))",
  '',
  '',
];

const pySteps = (steps: JsonSteps): string =>
  steps.map((step) => `[${typeof step === 'number' ? step : quotePython(step)}]`).join('');

/** A loop in Python with requests. */
export function pythonLoop(draft: Draft, loop: Loop, options: RenderOptions): Rendering {
  const plan = planOf(draft, options, REQUESTS_ABILITIES);
  const { lines, imports } = requestLines({ ...plan, variables: others(plan.variables) });
  const blank = lines.indexOf('');
  // What does not change from one request to the next stands before the loop.
  const isFixed = (line: string): boolean => !/^url = /.test(line) || loop.type !== 'pages';
  const setUp = lines.slice(0, blank).filter(isFixed);
  const each = [
    ...lines.slice(0, blank).filter((line) => !isFixed(line)),
    ...lines.slice(blank + 1),
    'response.raise_for_status()',
    'answer = response.json()',
  ];
  const needed = new Set([...imports, ...(plan.variables.some(({ isSecret }) => isSecret) ? ['os'] : [])]);
  const body: string[] = [];
  switch (loop.type) {
    case 'pages': {
      for (const name of ['csv', 'itertools', 'json', 'sys', 'time']) needed.add(name);
      const numbers =
        loop.to === undefined
          ? `itertools.count(${loop.from}, ${loop.step})`
          : `range(${loop.from}, ${loop.to + Math.sign(loop.step || 1)}, ${loop.step})`;
      if (loop.to !== undefined) needed.delete('itertools');
      body.push(
        ...PYTHON_FLATTEN,
        ...setUp,
        'rows = []',
        'before = None',
        `for pages, number in enumerate(${numbers}):`,
        ...indentLines(
          [
            `if pages == ${loop.mostPages}:`,
            `    print(${quotePython(stoppedAfter(loop.mostPages))}, file=sys.stderr)`,
            '    break',
            'page = str(number)',
            ...each,
            ...pyItems(loop.list),
            '# A page that comes again is the last one.',
            'if not items or items == before:',
            '    break',
            'before = items',
            'rows.extend(items)',
            ...(loop.total === undefined ? [] : [`if len(rows) >= answer${pySteps(loop.total)}:`, '    break']),
            `time.sleep(${loop.pauseMs / 1000})`,
          ].flatMap((line) => line.split('\n')),
          '    ',
        ),
        'write_csv(rows)',
      );
      break;
    }
    case 'poll':
      needed.add('json').add('sys').add('time');
      body.push(
        ...PYTHON_AT,
        ...setUp,
        `for attempt in range(${loop.most}):`,
        ...indentLines(
          [
            ...each,
            `if text_at(answer${loop.at.map((step) => `, ${typeof step === 'number' ? step : quotePython(step)}`).join('')}) == ${quotePython(loop.until)}:`,
            '    print(answer)',
            '    break',
            `time.sleep(${loop.pauseMs / 1000})`,
          ].flatMap((line) => line.split('\n')),
          '    ',
        ),
        'else:',
        `    sys.exit('It did not come to that in ${loop.most} tries.')`,
      );
      break;
    case 'table':
      for (const name of ['csv', 'json', 'sys']) needed.add(name);
      body.push(...PYTHON_FLATTEN, ...setUp, ...each, ...pyItems(loop.list), 'write_csv(items)');
      break;
    case 'files':
      needed.add('os').add('urllib.parse');
      body.push(
        ...setUp,
        ...each,
        `folder = ${quotePython(loop.folder)}`,
        'os.makedirs(folder, exist_ok=True)',
        `addresses = [${pyEach(loop.at)}]`,
        'for number, address in enumerate(addresses):',
        '    address = urllib.parse.urljoin(url, address)',
        '    # A name of our own before the one in the address: none can lead out of the folder.',
        `    name = os.path.basename(urllib.parse.urlsplit(address).path) or 'file'`,
        '    answer = requests.get(address)',
        '    answer.raise_for_status()',
        `    with open(os.path.join(folder, f'{number}-{name}'), 'wb') as file:`,
        '        file.write(answer.content)',
      );
      break;
    default:
      loop satisfies never;
  }
  const head = [...[...needed].sort().map((name) => `import ${name}`), '', 'import requests', '', ''];
  return { text: `${[...head, ...body].join('\n')}\n`, warnings: plan.warnings };
}

const pyItems = (list: JsonSteps): string[] => [
  `items = answer${pySteps(list)}`,
  'if not isinstance(items, list):',
  `    sys.exit(${quotePython(noListAt(list))})`,
];

/** A comprehension over what a place with "*" in it leads to. */
function pyEach(at: JsonSteps): string {
  let value = 'answer';
  let count = 0;
  const loops: string[] = [];
  for (const step of at) {
    if (step !== '*') {
      value += pySteps([step]);
      continue;
    }
    const name = `item${count++}`;
    loops.push(`for ${name} in ${value}`);
    value = name;
  }
  return [value, ...loops].join(' ');
}
