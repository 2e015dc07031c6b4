import type { JsonSteps } from '../../json';
import { BUSY } from '../attempts';
import { type CarriedAs, type CarrySource, givesNumber } from '../carry';
import { LOOP_VARIABLE, type NumberPlace } from '../loops/loop';
import type { Writing } from '../loops/parameter';
import { planOf } from '../plan';
import { quotePython as quote } from '../quoting/python';
import { REQUESTS_ABILITIES, requestParts } from '../targets/python-requests';
import { splitUrlValue } from '../value';
import { commentLine } from '../writing/comment';
import { indentAll } from '../writing/indent';
import { pyImportLines, pyName, pyValue, pyVariables } from '../writing/python';
import { HELPERS } from './helpers/python';
import { LINK_NEXT, splitAtEach, stepsAsWords } from './places';
import {
  type Expected,
  gatherIn,
  inOrder,
  linesOf,
  type PagesBy,
  type ScriptLanguage,
  type ScriptNeeds,
} from './statement';

const inBlock = (lines: readonly string[]): string[] => indentAll(lines, '    ');

function valueAt(from: string, steps: JsonSteps, needs: ScriptNeeds): string {
  if (steps.length === 0) return from;
  needs.help('value_at');
  return `value_at(${from}, ${stepsAsWords(steps, quote)})`;
}

function stopIf(condition: string, sentence: string, needs: ScriptNeeds): string[] {
  needs.import('sys');
  return [`if ${condition}:`, `    sys.exit(${quote(sentence)})`];
}

const stopUnless = (condition: string, sentence: string, needs: ScriptNeeds): string[] =>
  stopIf(`not ${condition}`, sentence, needs);

function itemsAt(list: JsonSteps, lacking: string, needs: ScriptNeeds): string[] {
  return [`items = ${valueAt('data', list, needs)}`, ...stopUnless('isinstance(items, list)', lacking, needs)];
}

function sourceOf(source: CarrySource, needs: ScriptNeeds): string {
  switch (source.type) {
    case 'json':
      return valueAt('data', source.path, needs);
    case 'text':
      needs.help('text_between');
      return `text_between(response.text, ${quote(source.before)}, ${quote(source.after)})`;
    case 'cookie':
      return `response.cookies.get(${quote(source.name)})`;
    case 'header':
      return `response.headers.get(${quote(source.name)})`;
    case 'location':
      return "response.headers.get('Location')";
    case 'parameter':
      needs.import('re');
      needs.help('location_parameter');
      return `location_parameter(response, ${quote(source.name)})`;
    default:
      return source satisfies never;
  }
}

const WRITTEN: Record<CarriedAs, (name: string) => readonly string[]> = {
  plain: () => [],
  encoded: (name) => [`${name} = urllib.parse.quote(${name}, safe='')`],
  decoded: (name) => [`${name} = urllib.parse.unquote(${name})`],
};

function numbersOf({ from, to, step }: Extract<PagesBy, { by: 'counter' }>): string {
  const by = step === 'rows' ? 1 : step;
  return to === undefined ? `itertools.count(${from}, ${by})` : `range(${from}, ${to + Math.sign(by)}, ${by})`;
}

/** What a place says, as a number; else anything that is none. */
function numberAt(name: string, place: NumberPlace, needs: ScriptNeeds): string[] {
  if (place.in === 'json') return [`${name} = ${valueAt('data', place.at, needs)}`];
  needs.import('re');
  return [
    // Of "items 0-24/319" the 319.
    `found = re.search(r'(\\d+)\\s*$', response.headers.get(${quote(place.name)}, ''))`,
    `${name} = int(found.group(1)) if found else None`,
  ];
}

function nextAddress(elsewhere: string, needs: ScriptNeeds): string[] {
  needs.import('string', 'sys', 'urllib.parse');
  const site = pyValue(splitUrlValue(needs.plans.at(-1)?.address ?? []).origin);
  return [
    'address = urllib.parse.urljoin(response.url, urllib.parse.quote(str(next_page), safe=string.punctuation))',
    'parts = urllib.parse.urlsplit(address)',
    `if parts[:2] != urllib.parse.urlsplit(${site})[:2]:`,
    `    sys.exit(${quote(elsewhere)} + address)`,
    "following = urllib.parse.urlunsplit(('', '', parts.path[1:], parts.query, ''))",
  ];
}

function nextWritten({ as, before }: Writing, needs: ScriptNeeds): string {
  needsJson(needs);
  const plain = 'next_page if isinstance(next_page, str) else as_json(next_page)';
  if (as === 'encoded') needs.import('urllib.parse');
  const text = as === 'json' ? 'as_json(next_page)' : as === 'plain' ? plain : `urllib.parse.quote(${plain}, safe='')`;
  return before === '' ? text : `${quote(before)} + ${text}`;
}

/** A test of `found`. Python takes True for 1, and no text for a number. */
function isExpected({ text, value, than }: Expected, needs: ScriptNeeds): string {
  if (than !== undefined)
    return `isinstance(found, (int, float)) and found is not True and found is not False and found ${than.comparison} ${than.number}`;
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
    `found = [${valueAt('data', first, needs)}]`,
    ...others.map(
      (steps) =>
        `found = [${valueAt('item', steps, needs)} for items in found if isinstance(items, list) for item in items]`,
    ),
  ];
}

/** Python with requests. */
export const python = {
  target: 'python-requests',
  requirements: () => [],
  statements: {
    step: ({ title, body }, _, write) => linesOf('', commentLine('#', title), ...inOrder(write(body))),
    request: ({ draft, called, retries, stopsAtRedirect, mayFail, readsJson }, needs) => {
      if (!mayFail) {
        needs.import('sys');
        needs.help('stop_unless_ok');
      }
      if (readsJson) {
        needs.import('sys');
        needs.help('json_of');
      }
      const plan = needs.plan(planOf(draft, needs.optionsOf(stopsAtRedirect), REQUESTS_ABILITIES));
      const { settings, call, imports } = requestParts(plan);
      needs.import(...imports);
      const each = settings.filter(({ uses }) => uses.some(isCounted)).flatMap(({ lines }) => lines);
      const before = settings.filter(({ uses }) => !uses.some(isCounted)).flatMap(({ lines }) => lines);
      return {
        before,
        lines: [
          ...each,
          ...(retries === 0 ? [`response = ${call}`] : withRetries(call, retries, needs)),
          ...(mayFail ? [] : [`stop_unless_ok(response, ${quote(called)})`]),
          ...(readsJson ? [`data = json_of(response, ${quote(called)})`] : []),
        ],
      };
    },
    take: ({ into, source, as, lacking }, needs) => {
      if (as !== 'plain') needs.import('urllib.parse');
      return linesOf(
        `${pyName(into)} = ${sourceOf(source, needs)}`,
        ...(givesNumber(source)
          ? [...stopIf(`type(${pyName(into)}) is not int`, lacking, needs), `${pyName(into)} = str(${pyName(into)})`]
          : stopUnless(`isinstance(${pyName(into)}, str)`, lacking, needs)),
        ...WRITTEN[as](pyName(into)),
      );
    },
    report: () => linesOf('print(response.status_code, response.url)'),
    pause: ({ pauseMs }, needs) => {
      needs.import('time');
      return linesOf(`time.sleep(${pauseMs / 1000})`);
    },
    pages: ({ moves, most, stopped, rows, body }, needs, write) => {
      needs.import('sys');
      const isTable = rows === 'csv';
      const { before, lines } = write(body);
      const gather = gatherIn(body);
      const name = pyName(LOOP_VARIABLE);
      if (isTable) needsCsv(needs);
      const stops = [`if pages > ${most}:`, `    print(${quote(stopped)}, file=sys.stderr)`, '    break'];
      const isByRows = moves.by === 'counter' && moves.step === 'rows';
      if (moves.by === 'response' || (moves.by === 'counter' && moves.to === undefined && !isByRows))
        needs.import('itertools');
      const loop = isByRows
        ? [
            `number = ${moves.from}`,
            'pages = 0',
            moves.to === undefined ? 'while True:' : `while number <= ${moves.to}:`,
            ...inBlock(['pages += 1', ...stops, `${name} = str(number)`, ...lines, 'number += len(items)']),
          ]
        : moves.by === 'counter'
          ? [
              `for pages, number in enumerate(${numbersOf(moves)}, 1):`,
              ...inBlock([...stops, `${name} = str(number)`, ...lines]),
            ]
          : moves.by === 'values'
            ? [
                `${name}s = [`,
                ...inBlock(moves.values.map((value) => `${quote(value)},`)),
                ']',
                `for pages, ${name} in enumerate(${name}s, 1):`,
                ...inBlock(lines),
              ]
            : ['for pages in itertools.count(1):', ...inBlock([...stops, ...lines])];
      return linesOf(
        ...before,
        isTable ? 'rows = []' : 'count = 0',
        ...(gather?.endsEmpty === true ? ['before = None'] : []),
        ...(gather?.endsShort === true ? ['first = None'] : []),
        ...(moves.by === 'response' ? [`${name} = ${quote(moves.first)}`] : []),
        ...(isTable
          ? [
              'try:',
              ...inBlock(loop),
              '# Also where a page fails: what came before it is not lost.',
              'finally:',
              '    write_csv(rows)',
            ]
          : loop),
      );
    },
    gather: ({ list, lacking, rows, endsEmpty, endsShort }, needs) => {
      if (rows === 'jsonl') needsJson(needs);
      return linesOf(
        ...itemsAt(list, lacking, needs),
        ...(endsEmpty
          ? [
              '# A page that comes again is the last one.',
              'if not items or items == before:',
              '    break',
              'before = items',
            ]
          : []),
        ...(rows === 'csv'
          ? ['rows.extend(items)']
          : ['for item in items:', '    print(as_json(item), flush=True)', 'count += len(items)']),
        ...(endsShort ? ['if first is None:', '    first = len(items)', 'if len(items) < first:', '    break'] : []),
      );
    },
    enough: ({ of, place, rows }, needs) => {
      const name = of === 'pages' ? 'last_page' : 'total';
      const held = of === 'pages' ? 'pages' : rows === 'csv' ? 'len(rows)' : 'count';
      return linesOf(
        ...numberAt(name, place, needs),
        `if isinstance(${name}, (int, float)) and not isinstance(${name}, bool) and ${held} >= ${name}:`,
        '    break',
      );
    },
    next: ({ place, writing, isAddress, elsewhere }, needs) => {
      const name = pyName(LOOP_VARIABLE);
      if (place.in === 'link') needs.import('re');
      return linesOf(
        ...(place.in === 'json'
          ? [`next_page = ${valueAt('data', place.at, needs)}`]
          : [
              `link = re.search(r'(?i)${LINK_NEXT}', response.headers.get('link', ''))`,
              'next_page = link and link.group(1)',
            ]),
        "if next_page is None or next_page is False or next_page == '':",
        '    break',
        ...(isAddress ? nextAddress(elsewhere, needs) : [`following = ${nextWritten(writing, needs)}`]),
        '# What is named again would never end.',
        `if following == ${name}:`,
        '    break',
        `${name} = following`,
      );
    },
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
        `found = ${valueAt('data', at, needs)}`,
        `if ${isExpected(is, needs)}:`,
        '    print(as_json(data))',
        '    break',
      );
    },
    'until-status': ({ status }) =>
      linesOf(`if response.status_code == ${status}:`, '    print(response.text)', '    break'),
    'write-list': ({ list, lacking, rows }, needs) => {
      if (rows === 'csv') needsCsv(needs);
      else needsJson(needs);
      return linesOf(
        ...itemsAt(list, lacking, needs),
        ...(rows === 'csv' ? ['write_csv(items)'] : ['for item in items:', '    print(as_json(item))']),
      );
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

const isCounted = (name: string): boolean => name === LOOP_VARIABLE.name;

function needsJson(needs: ScriptNeeds): void {
  needs.import('json');
  needs.help('as_json');
}

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
