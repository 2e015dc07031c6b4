import { EACH, type JsonSteps } from '../../json';
import { BUSY } from '../attempts';
import type { CarrySource } from '../carry';
import { LOOP_VARIABLE } from '../loops/loop';
import { planOf } from '../plan';
import { quotePython as quote } from '../quoting/python';
import { REQUESTS_ABILITIES, requestParts } from '../targets/python-requests';
import { commentLine } from '../writing/comment';
import { indentLines } from '../writing/lines';
import { pyImportLines, pyName, pyVariables } from '../writing/python';
import { type Expected, type Lines, linesOf, type ScriptLanguage, type ScriptNeeds } from './statement';

/** What statements call, by its name; each stands in the file once, where it is called. */
const HELPERS: Readonly<Record<string, readonly string[]>> = {
  value_at: [
    'def value_at(value, *steps):',
    '    """What stands at a place of JSON; None where nothing does."""',
    '    for step in steps:',
    '        if not isinstance(value, list if isinstance(step, int) else dict):',
    '            return None',
    '        try:',
    '            value = value[step]',
    '        except (KeyError, IndexError):',
    '            return None',
    '    return value',
  ],
  as_json: ['def as_json(value):', "    return json.dumps(value, ensure_ascii=False, separators=(',', ':'))"],
  write_csv: [
    "def flatten(value, prefix=''):",
    '    if not isinstance(value, dict):',
    "        return {prefix or 'value': value}",
    '    row = {}',
    '    for key, member in value.items():',
    "        row.update(flatten(member, f'{prefix}.{key}' if prefix else key))",
    '    return row',
    '',
    '',
    "FORMULA = re.compile(r'[\\t\\r]|\\s*[=+\\-@]')",
    "NUMBER = re.compile(r'-?\\d+(\\.\\d+)?(e-?\\d+)?$', re.I)",
    '',
    '',
    'def write_csv(rows):',
    '    def cell(value):',
    '        if not isinstance(value, str):',
    "            return '' if value is None else as_json(value)",
    '        # A table program would run such a text as a formula.',
    '        return f"\'{value}" if FORMULA.match(value) and not NUMBER.match(value) else value',
    '',
    '    flat = [flatten(row) for row in rows]',
    '    names = list(dict.fromkeys(name for row in flat for name in row))',
    '    if names:',
    "        writer = csv.writer(sys.stdout, lineterminator='\\n')",
    '        writer.writerow(names)',
    '        writer.writerows([cell(row.get(name)) for name in names] for row in flat)',
  ],
};

const inBlock = (lines: readonly string[]): string[] =>
  indentLines(
    lines.flatMap((line) => line.split('\n')),
    '    ',
  );

function valueAt(from: string, steps: JsonSteps, needs: ScriptNeeds): string {
  if (steps.length === 0) return from;
  needs.help('value_at');
  return `value_at(${[from, ...steps.map((step) => (typeof step === 'number' ? step : quote(String(step))))].join(', ')})`;
}

function stopUnless(condition: string, sentence: string, needs: ScriptNeeds): string[] {
  needs.import('sys');
  return [`if not ${condition}:`, `    sys.exit(${quote(sentence)})`];
}

function itemsAt(list: JsonSteps, lacking: string, needs: ScriptNeeds): string[] {
  return [`items = ${valueAt('answer', list, needs)}`, ...stopUnless('isinstance(items, list)', lacking, needs)];
}

function sourceOf(source: CarrySource, needs: ScriptNeeds): string {
  switch (source.type) {
    case 'json':
      return valueAt('answer', source.path, needs);
    case 'cookie':
      return `response.cookies.get(${quote(source.name)})`;
    case 'location':
      return "response.headers.get('Location')";
    default:
      return source satisfies never;
  }
}

/** A test of `found`. Python takes True for 1, and no text for a number. */
function isExpected({ text, value }: Expected, needs: ScriptNeeds): string {
  const isText = `found == ${quote(text)}`;
  if (value === undefined) return isText;
  if (value === null) return `found is None or ${isText}`;
  if (typeof value === 'boolean') return `found is ${value ? 'True' : 'False'} or ${isText}`;
  if (typeof value === 'number') return `(found == ${value} and not isinstance(found, bool)) or ${isText}`;
  needs.import('json');
  needs.help('as_json');
  return `as_json(found) == ${quote(JSON.stringify(value))}`;
}

/** The values at a place, one array after the other. */
function foundAt(at: JsonSteps, needs: ScriptNeeds): string[] {
  const [first = [], ...others] = splitAtEach(at);
  return [
    `found = [${valueAt('answer', first, needs)}]`,
    ...others.map(
      (steps) =>
        `found = [${valueAt('item', steps, needs)} for items in found if isinstance(items, list) for item in items]`,
    ),
  ];
}

/** The stretches of a path between which each of an array is meant. */
export function splitAtEach(at: JsonSteps): JsonSteps[] {
  const end = at.indexOf(EACH);
  return end === -1 ? [at] : [at.slice(0, end), ...splitAtEach(at.slice(end + 1))];
}

/** Python with requests. */
export const python = {
  target: 'python-requests',
  requirements: () => [],
  statements: {
    step: ({ title, body }, _, write) => linesOf('', commentLine('#', title), ...inOrder(write(body))),
    request: ({ draft, retries, mayFail, readsJson }, needs) => {
      const plan = needs.plan(planOf(draft, needs.options, REQUESTS_ABILITIES));
      const { settings, call, imports } = requestParts(plan);
      needs.import(...imports);
      const each = settings.filter(({ uses }) => uses.some(isCounted)).flatMap(({ lines }) => lines);
      const before = settings.filter(({ uses }) => !uses.some(isCounted)).flatMap(({ lines }) => lines);
      return {
        before,
        lines: [
          ...each,
          ...(retries === 0 ? [`response = ${call}`] : withRetries(call, retries, needs)),
          ...(mayFail ? [] : ['response.raise_for_status()']),
          ...(readsJson ? ['answer = response.json()'] : []),
        ],
      };
    },
    take: ({ into, source, lacking }, needs) =>
      linesOf(
        `${pyName(into)} = ${sourceOf(source, needs)}`,
        ...stopUnless(`isinstance(${pyName(into)}, str)`, lacking, needs),
      ),
    report: () => linesOf('print(response.status_code, response.url)'),
    pause: ({ pauseMs }, needs) => {
      needs.import('time');
      return linesOf(`time.sleep(${pauseMs / 1000})`);
    },
    pages: ({ from, to, step, most, stopped, body }, needs, write) => {
      needs.import('sys', ...(to === undefined ? ['itertools'] : []));
      const numbers =
        to === undefined ? `itertools.count(${from}, ${step})` : `range(${from}, ${to + Math.sign(step)}, ${step})`;
      needsCsv(needs);
      const { before, lines } = write(body);
      return linesOf(
        ...before,
        'rows = []',
        'before = None',
        'try:',
        ...inBlock([
          `for pages, number in enumerate(${numbers}):`,
          ...inBlock([
            `if pages == ${most}:`,
            `    print(${quote(stopped)}, file=sys.stderr)`,
            '    break',
            `${pyName(LOOP_VARIABLE)} = str(number)`,
            ...lines,
          ]),
        ]),
        '# Also where a page fails: what came before it is not lost.',
        'finally:',
        '    write_csv(rows)',
      );
    },
    gather: ({ list, lacking }, needs) =>
      linesOf(
        ...itemsAt(list, lacking, needs),
        '# A page that comes again is the last one.',
        'if not items or items == before:',
        '    break',
        'before = items',
        'rows.extend(items)',
      ),
    enough: ({ total }, needs) =>
      linesOf(
        `total = ${valueAt('answer', total, needs)}`,
        'if isinstance(total, (int, float)) and not isinstance(total, bool) and len(rows) >= total:',
        '    break',
      ),
    tries: ({ most, inVain, body }, needs, write) => {
      needs.import('sys');
      const { before, lines } = write(body);
      return linesOf(
        ...before,
        `for attempt in range(${most}):`,
        ...inBlock(lines),
        'else:',
        `    sys.exit(${quote(inVain)})`,
      );
    },
    until: ({ at, is }, needs) => {
      needs.import('json');
      needs.help('as_json');
      return linesOf(
        `found = ${valueAt('answer', at, needs)}`,
        `if ${isExpected(is, needs)}:`,
        '    print(as_json(answer))',
        '    break',
      );
    },
    'write-list': ({ list, lacking }, needs) => {
      needsCsv(needs);
      return linesOf(...itemsAt(list, lacking, needs), 'write_csv(items)');
    },
    download: ({ at, folder, credentials }, needs) => {
      needs.import('os', 'string', 'urllib.parse');
      const own = credentials.length > 0;
      return linesOf(
        `folder = ${quote(folder)}`,
        'os.makedirs(folder, exist_ok=True)',
        ...foundAt(at, needs),
        'addresses = [address for address in found if isinstance(address, str)]',
        ...(own
          ? [
              `credentials = {name: response.request.headers[name] for name in (${credentials
                .map((name) => `${quote(name)}, `)
                .join('')
                .trimEnd()})}`,
            ]
          : []),
        'for number, address in enumerate(addresses):',
        ...inBlock([
          'address = urllib.parse.urljoin(response.url, urllib.parse.quote(address, safe=string.punctuation))',
          '# A number of our own before the name in the URL: no file name can lead out of the folder.',
          "name = urllib.parse.urlsplit(address).path.rsplit('/', 1)[-1] or 'file'",
          ...(own
            ? [
                '# Nobody else is told the credentials.',
                'is_own = urllib.parse.urlsplit(address)[:2] == urllib.parse.urlsplit(response.url)[:2]',
                'download = requests.get(address, headers=credentials if is_own else None)',
              ]
            : ['download = requests.get(address)']),
          'download.raise_for_status()',
          `with open(os.path.join(folder, f'{number}-{name}'), 'wb') as file:`,
          '    file.write(download.content)',
        ]),
      );
    },
  },
  file: (body, needs, own) => {
    if (own.some(({ isSecret }) => isSecret)) needs.import('os');
    const helpers = Object.keys(HELPERS).filter((name) => needs.helpers.has(name));
    return [
      ...pyImportLines([...needs.imports], ['requests']),
      ...helpers.flatMap((name) => ['', ...(HELPERS[name] ?? []), '']),
      ...(helpers.length > 0 && (own.length > 0 || body[0] !== '') ? [''] : []),
      ...pyVariables(own),
      ...body,
    ];
  },
} as const satisfies ScriptLanguage;

const inOrder = ({ before, lines }: Lines): string[] => [...before, ...lines];

const isCounted = (name: string): boolean => name === LOOP_VARIABLE.name;

function needsCsv(needs: ScriptNeeds): void {
  needs.import('csv', 'json', 're', 'sys');
  needs.help('as_json', 'write_csv');
}

/** Asks a busy server again, after the seconds that it names, else after a second, and longer each time. */
function withRetries(call: string, retries: number, needs: ScriptNeeds): string[] {
  needs.import('time');
  return [
    `for left in range(${retries}, -1, -1):`,
    ...inBlock([
      `response = ${call}`,
      `if left == 0 or response.status_code not in (${BUSY.join(', ')}):`,
      '    break',
      "wait = response.headers.get('Retry-After', '')",
      `time.sleep(int(wait) if wait.isdigit() else 2 ** (${retries} - left))`,
    ]),
  ];
}
