import type { JsonSteps } from '../../json';
import { type CarrySource, givesNumber } from '../carry';
import { LOOP_VARIABLE, type NumberPlace } from '../loops/loop';
import type { Writing } from '../loops/parameter';
import { planOf } from '../plan';
import { quotePhp as quote } from '../quoting/php';
import { PHP_ABILITIES, phpRequest, phpValue, phpVariables } from '../targets/php-curl';
import { identOf, splitUrlValue } from '../value';
import { commentLine } from '../writing/comment';
import { indentAll } from '../writing/indent';
import { HELPERS } from './helpers/php';
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
  needs.help('valueAt');
  return `valueAt(${from}, ${stepsAsWords(steps, quote)})`;
}

const stopUnless = (condition: string, sentence: string): string[] => [
  `if (!${condition}) {`,
  `    throw new RuntimeException(${quote(sentence)});`,
  '}',
];

const itemsAt = (list: JsonSteps, lacking: string, needs: ScriptNeeds): string[] => [
  `$items = ${valueAt('$data', list, needs)};`,
  ...stopUnless('is_array($items)', lacking),
];

function sourceOf(source: CarrySource, into: string, needs: ScriptNeeds): string[] {
  switch (source.type) {
    case 'json':
      return [`${into} = ${valueAt('$data', source.path, needs)};`];
    case 'text':
      needs.help('textBetween');
      return [`${into} = textBetween($response['body'], ${quote(source.before)}, ${quote(source.after)});`];
    case 'cookie':
      return [
        `${into} = null;`,
        "foreach ($response['headers']['set-cookie'] ?? [] as $line) {",
        `    if (str_starts_with($line, ${quote(`${source.name}=`)})) {`,
        `        ${into} = explode(';', substr($line, ${new TextEncoder().encode(source.name).length + 1}))[0];`,
        '    }',
        '}',
      ];
    case 'header':
      return [`${into} = $response['headers'][${quote(source.name.toLowerCase())}][0] ?? null;`];
    case 'location':
      return [`${into} = $response['headers']['location'][0] ?? null;`];
    case 'parameter':
      needs.help('locationParameter');
      return [`${into} = locationParameter($response, ${quote(source.name)});`];
    default:
      return source satisfies never;
  }
}

/** A test of `$found`. */
function isExpected({ text, value, than }: Expected, needs: ScriptNeeds): string {
  if (than !== undefined) return `(is_int($found) || is_float($found)) && $found ${than.comparison} ${than.number}`;
  const isText = `$found === ${quote(text)}`;
  if (value === undefined) return isText;
  if (value === null || typeof value === 'boolean') return `$found === ${value} || ${isText}`;
  if (typeof value === 'number') return `((is_int($found) || is_float($found)) && $found == ${value}) || ${isText}`;
  needs.help('asJson');
  return `asJson($found) === ${quote(JSON.stringify(value))}`;
}

/** The values at a place, one array after the other. */
function foundAt(at: JsonSteps, needs: ScriptNeeds): string[] {
  const [first = [], ...others] = splitAtEach(at);
  return [
    `$found = [${valueAt('$data', first, needs)}];`,
    ...others.flatMap((steps) => [
      "$found = array_merge(...array_values(array_filter($found, 'is_array')));",
      ...(steps.length === 0 ? [] : [`$found = array_map(fn ($item) => ${valueAt('$item', steps, needs)}, $found);`]),
    ]),
  ];
}

/** What says a number; anything that is none where there is none. */
function numberAt(name: string, place: NumberPlace, needs: ScriptNeeds): string[] {
  if (place.in === 'json') return [`$${name} = ${valueAt('$data', place.at, needs)};`];
  return [
    // Of "items 0-24/319" the 319.
    `$isThere = preg_match('/(\\d+)\\s*$/', $response['headers'][${quote(place.name.toLowerCase())}][0] ?? '', $found);`,
    `$${name} = $isThere === 1 ? (int) $found[1] : null;`,
  ];
}

function nextWritten({ as, before }: Writing, needs: ScriptNeeds): string {
  needs.help('asJson');
  const plain = 'is_string($next) ? $next : asJson($next)';
  const text =
    as === 'json'
      ? 'asJson($next)'
      : as === 'encoded'
        ? `rawurlencode(${plain})`
        : before === ''
          ? plain
          : `(${plain})`;
  return before === '' ? text : `${quote(before)} . ${text}`;
}

const headOf = ({ from, to, step }: Extract<PagesBy, { by: 'counter' }>): string => {
  const end = to === undefined ? ' ' : ` $number ${step !== 'rows' && step < 0 ? '>=' : '<='} ${to}`;
  const move = step === 'rows' ? '' : step === 1 ? ' $number++' : ` $number += ${step}`;
  return `for ($number = ${from};${end};${move}) {`;
};

/** PHP with its curl extension. */
export const php = {
  target: 'php-curl',
  requirements: () => [],
  statements: {
    step: ({ title, body }, _, write) => linesOf('', commentLine('//', title), ...inOrder(write(body))),
    request: ({ draft, called, retries, stopsAtRedirect, mayFail, readsJson }, needs) => {
      const plan = needs.plan(planOf(draft, needs.optionsOf(stopsAtRedirect), PHP_ABILITIES));
      needs.help('send', ...(mayFail ? [] : ['stopUnlessOk']), ...(readsJson ? ['jsonOf'] : []));
      return linesOf(
        ...phpRequest(plan, draft.wantsCompressed),
        `$response = send($curl, ${retries});`,
        ...(mayFail ? [] : [`stopUnlessOk($response, ${quote(called)});`]),
        ...(readsJson ? [`$data = jsonOf($response, ${quote(called)});`] : []),
      );
    },
    take: ({ into, source, as, lacking }, needs) =>
      linesOf(
        ...sourceOf(source, `$${identOf(into)}`, needs),
        ...stopUnless(`${givesNumber(source) ? 'is_int' : 'is_string'}($${identOf(into)})`, lacking),
        ...(as === 'plain'
          ? []
          : [`$${identOf(into)} = rawurl${as === 'encoded' ? 'encode' : 'decode'}($${identOf(into)});`]),
      ),
    report: () => linesOf("echo $response['status'], ' ', $response['url'], PHP_EOL;"),
    pause: ({ pauseMs }) => linesOf(`usleep(${pauseMs * 1000});`),
    pages: ({ moves, most, stopped, rows, body }, needs, write) => {
      const { before, lines } = write(body);
      const gather = gatherIn(body);
      const ident = `$${identOf(LOOP_VARIABLE)}`;
      const isTable = rows === 'csv';
      if (isTable) needs.help('writeCsv', 'asJson');
      const loop = [
        ...(moves.by === 'values'
          ? [`foreach ([`, ...inBlock(moves.values.map((value) => `${quote(value)},`)), `] as ${ident}) {`]
          : [moves.by === 'response' ? 'for (;;) {' : headOf(moves)]),
        ...inBlock([
          `if (++$pages > ${most}) {`,
          `    fwrite(STDERR, ${quote(stopped)} . PHP_EOL);`,
          '    break;',
          '}',
          ...(moves.by === 'counter' ? [`${ident} = (string) $number;`] : []),
          ...lines,
          ...(moves.by === 'counter' && moves.step === 'rows' ? ['$number += count($items);'] : []),
        ]),
        '}',
      ];
      return linesOf(
        ...before,
        isTable ? '$rows = [];' : '$count = 0;',
        ...(gather?.endsEmpty === true ? ['$before = null;'] : []),
        ...(gather?.endsShort === true ? ['$first = null;'] : []),
        '$pages = 0;',
        ...(moves.by === 'response' ? [`${ident} = ${quote(moves.first)};`] : []),
        ...(isTable
          ? [
              'try {',
              ...inBlock(loop),
              '} finally {',
              '    // Also where a page fails: what came before it is not lost.',
              '    writeCsv($rows);',
              '}',
            ]
          : loop),
      );
    },
    gather: ({ list, lacking, rows, endsEmpty, endsShort }, needs) => {
      needs.help('asJson');
      return linesOf(
        ...itemsAt(list, lacking, needs),
        ...(endsEmpty
          ? [
              '// A page that comes again is the last one.',
              'if ($items === [] || asJson($items) === $before) {',
              '    break;',
              '}',
              '$before = asJson($items);',
            ]
          : []),
        ...(rows === 'csv'
          ? ['array_push($rows, ...$items);']
          : ['foreach ($items as $item) {', '    echo asJson($item), "\\n";', '}', '$count += count($items);']),
        ...(endsShort ? ['$first ??= count($items);', 'if (count($items) < $first) {', '    break;', '}'] : []),
      );
    },
    enough: ({ of, place, rows }, needs) => {
      const name = of === 'pages' ? 'lastPage' : 'total';
      const held = of === 'pages' ? '$pages' : rows === 'csv' ? 'count($rows)' : '$count';
      return linesOf(
        ...numberAt(name, place, needs),
        `if ((is_int($${name}) || is_float($${name})) && ${held} >= $${name}) {`,
        '    break;',
        '}',
      );
    },
    next: ({ place, writing, isAddress, elsewhere }, needs) => {
      const ident = `$${identOf(LOOP_VARIABLE)}`;
      if (isAddress) needs.help('resolve', 'siteOf');
      return linesOf(
        ...(place.in === 'json'
          ? [`$next = ${valueAt('$data', place.at, needs)};`]
          : [
              `preg_match('~${LINK_NEXT}~i', implode(', ', $response['headers']['link'] ?? []), $link);`,
              '$next = $link[1] ?? null;',
            ]),
        "if ($next === null || $next === '' || $next === false) {",
        '    break;',
        '}',
        ...(isAddress
          ? [
              "$address = resolve((string) $next, $response['url']);",
              `if (siteOf($address) !== siteOf(${phpValue(splitUrlValue(needs.plans.at(-1)?.address ?? []).origin)})) {`,
              `    throw new RuntimeException(${quote(elsewhere)} . $address);`,
              '}',
              "$following = preg_replace('~^[^:]*://[^/?#]*/?|#.*$~s', '', $address);",
            ]
          : [`$following = ${nextWritten(writing, needs)};`]),
        '// What is named again would never end.',
        `if ($following === ${ident}) {`,
        '    break;',
        '}',
        `${ident} = $following;`,
      );
    },
    tries: ({ most, inVain, body }, _, write) => {
      const { before, lines } = write(body);
      return linesOf(
        ...before,
        'for ($attempt = 1; ; $attempt++) {',
        ...inBlock([...stopUnless(`($attempt <= ${most})`, inVain), ...lines]),
        '}',
      );
    },
    until: ({ at, is }, needs) => {
      needs.help('asJson');
      return linesOf(
        `$found = ${valueAt('$data', at, needs)};`,
        `if (${isExpected(is, needs)}) {`,
        '    echo asJson($data), "\\n";',
        '    break;',
        '}',
      );
    },
    'until-status': ({ status }) =>
      linesOf(`if ($response['status'] === ${status}) {`, "    echo $response['body'], PHP_EOL;", '    break;', '}'),
    'write-list': ({ list, lacking, rows }, needs) => {
      needs.help('asJson', ...(rows === 'csv' ? ['writeCsv'] : []));
      return linesOf(
        ...itemsAt(list, lacking, needs),
        ...(rows === 'csv'
          ? ['writeCsv($items);']
          : ['foreach ($items as $item) {', '    echo asJson($item), "\\n";', '}']),
      );
    },
    download: ({ at, folder, credentials }, needs) => {
      needs.help('resolve', 'send', 'stopUnlessOk', ...(credentials.length === 0 ? [] : ['siteOf']));
      const sent = needs.plans.at(-1)?.headers.filter(({ name }) => credentials.includes(name.toLowerCase())) ?? [];
      return linesOf(
        `$folder = ${quote(folder)};`,
        'is_dir($folder) || mkdir($folder, 0777, true);',
        ...foundAt(at, needs),
        "$addresses = array_values(array_filter($found, 'is_string'));",
        ...(sent.length === 0
          ? []
          : [
              '$credentials = [',
              ...sent.map(({ name, value }) => `    ${phpValue([{ text: `${name}: ` }, ...value])},`),
              '];',
            ]),
        'foreach ($addresses as $number => $address) {',
        ...inBlock([
          "$address = resolve($address, $response['url']);",
          '$curl = curl_init($address);',
          'curl_setopt($curl, CURLOPT_RETURNTRANSFER, true);',
          ...(sent.length === 0
            ? []
            : [
                '// Nobody else is told the credentials.',
                "if (siteOf($address) === siteOf($response['url'])) {",
                '    curl_setopt($curl, CURLOPT_HTTPHEADER, $credentials);',
                '}',
              ]),
          '$file = send($curl, 0);',
          'stopUnlessOk($file, $address);',
          '// A number of our own before the name in the URL: no file name can lead out of the folder.',
          "$name = substr(strrchr(preg_replace('~[?#].*$~s', '', $address), '/'), 1);",
          "file_put_contents(\"$folder/$number-\" . ($name === '' ? 'file' : $name), $file['body']);",
        ]),
        '}',
      );
    },
  },
  file: (body, needs, own) => {
    const helpers = Object.keys(HELPERS).filter((name) => needs.helpers.has(name));
    return [
      '<?php',
      '',
      '// What ends the script is said in a sentence.',
      'set_exception_handler(function (Throwable $error): void {',
      '    fwrite(STDERR, $error->getMessage() . PHP_EOL);',
      '    exit(1);',
      '});',
      ...helpers.flatMap((name) => ['', ...(HELPERS[name] ?? [])]),
      ...(body[0] === '' && own.length === 0 ? [] : ['']),
      ...phpVariables(own),
      ...body,
    ];
  },
} as const satisfies ScriptLanguage;
