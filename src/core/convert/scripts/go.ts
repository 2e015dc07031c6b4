import type { JsonSteps } from '../../json';
import type { CarriedAs, CarrySource } from '../carry';
import { LOOP_VARIABLE } from '../loops/loop';
import { planOf } from '../plan';
import { quoteGo as quote } from '../quoting/go';
import { GO_ABILITIES, goClient, goImports, goInitial, goRequest, goValue } from '../targets/go';
import { identOf, splitUrlValue } from '../value';
import { commentLine } from '../writing/comment';
import { indentLines } from '../writing/indent';
import { call, HELPERS, type HelperName } from './helpers/go';
import { foundAt, isExpected, nextWritten, numberAt, valueAt } from './helpers/go-expressions';
import { LINK_NEXT } from './places';
import { gatherIn, inOrder, linesOf, type PagesBy, type ScriptLanguage, type ScriptNeeds } from './statement';

const inBlock = (lines: readonly string[]): string[] => indentLines(lines, '\t');

const RETURN = ['if err != nil {', '\treturn err', '}'];

function stop(sentence: string, needs: ScriptNeeds): string {
  needs.import('errors');
  return `return errors.New(${quote(sentence)})`;
}

const itemsAt = (list: JsonSteps, lacking: string, needs: ScriptNeeds): string[] => [
  `items, ok := ${valueAt('data', list, needs)}.([]any)`,
  'if !ok {',
  `\t${stop(lacking, needs)}`,
  '}',
];

function sourceOf(source: CarrySource, into: string, needs: ScriptNeeds): string[] {
  switch (source.type) {
    case 'json':
      return source.holds === 'text'
        ? [`${into}, isGiven = ${valueAt('data', source.path, needs)}.(string)`]
        : [
            `if number, ok := ${valueAt('data', source.path, needs)}.(json.Number); ok {`,
            '\t// One with a fraction is no id.',
            '\t_, err := number.Int64()',
            `\t${into}, isGiven = number.String(), err == nil`,
            '}',
          ];
    case 'text':
      call(needs, 'textBetween');
      return [`${into}, isGiven = textBetween(string(response.body), ${quote(source.before)}, ${quote(source.after)})`];
    case 'cookie':
      needs.import('strings');
      return [
        'for _, line := range response.Header.Values("Set-Cookie") {',
        `\tif strings.HasPrefix(line, ${quote(`${source.name}=`)}) {`,
        `\t\t${into}, _, _ = strings.Cut(strings.TrimPrefix(line, ${quote(`${source.name}=`)}), ";")`,
        '\t\tisGiven = true',
        '\t}',
        '}',
      ];
    case 'header':
      return [`${into} = response.Header.Get(${quote(source.name)})`, `isGiven = ${into} != ""`];
    case 'location':
      return [`${into} = response.Header.Get("Location")`, `isGiven = ${into} != ""`];
    case 'parameter':
      call(needs, 'locationParameter');
      return [`${into} = locationParameter(response, ${quote(source.name)})`, `isGiven = ${into} != ""`];
    default:
      return source satisfies never;
  }
}

const WRITTEN: Record<CarriedAs, (name: string) => readonly string[]> = {
  plain: () => [],
  encoded: (name) => [`${name} = strings.ReplaceAll(url.QueryEscape(${name}), "+", "%20")`],
  decoded: (name) => [`if plain, err := url.PathUnescape(${name}); err == nil {`, `\t${name} = plain`, '}'],
};

const headOf = ({ from, to, step }: Extract<PagesBy, { by: 'counter' }>): string => {
  const end = to === undefined ? ' ' : ` number ${step !== 'rows' && step < 0 ? '>=' : '<='} ${to}`;
  const move =
    step === 'rows'
      ? ''
      : step === 1
        ? 'number++'
        : step === -1
          ? 'number--'
          : `number ${step < 0 ? '-' : '+'}= ${Math.abs(step)}`;
  return `for number := ${from};${end}; ${move}`.trimEnd().concat(' {');
};

/** Go's net/http. */
export const go = {
  target: 'go',
  requirements: () => [],
  statements: {
    step: ({ title, body }, _, write) =>
      linesOf('', commentLine('//', title), '{', ...inBlock(inOrder(write(body))), '}'),
    request: ({ draft, called, retries, stopsAtRedirect, mayFail, readsJson }, needs) => {
      if (stopsAtRedirect) call(needs, 'stopping');
      const plan = needs.plan(planOf(draft, needs.options, GO_ABILITIES));
      call(needs, 'send', ...(mayFail ? [] : (['failed'] as const)), ...(readsJson ? (['jsonOf'] as const) : []));
      needs.import('net/http');
      return linesOf(
        ...goRequest(plan, needs.imports, RETURN),
        `response, err := send(${stopsAtRedirect ? 'stopping(client)' : 'client'}, request, ${retries})`,
        ...RETURN,
        ...(mayFail ? [] : [`if err := failed(response, ${quote(called)}); err != nil {`, '\treturn err', '}']),
        ...(readsJson ? [`data, err := jsonOf(response, ${quote(called)})`, ...RETURN] : []),
      );
    },
    take: ({ into, source, as, lacking }, needs) => {
      if (as !== 'plain') needs.import('net/url', ...(as === 'encoded' ? ['strings'] : []));
      return linesOf(
        ...sourceOf(source, identOf(into), needs),
        'if !isGiven {',
        `\t${stop(lacking, needs)}`,
        '}',
        ...(source.type === 'json' && source.holds === 'text' ? [] : ['isGiven = false']),
        ...WRITTEN[as](identOf(into)),
      );
    },
    report: (_, needs) => {
      needs.import('fmt');
      return linesOf('fmt.Println(response.StatusCode, response.Request.URL)');
    },
    pause: ({ pauseMs }, needs) => {
      needs.import('time');
      return linesOf(`time.Sleep(${pauseMs} * time.Millisecond)`);
    },
    pages: ({ moves, most, stopped, rows, body }, needs, write) => {
      const { before, lines } = write(body);
      const gather = gatherIn(body);
      const ident = identOf(LOOP_VARIABLE);
      needs.import('log');
      if (moves.by === 'counter') needs.import('strconv');
      if (rows === 'csv') call(needs, 'writeCSV');
      return linesOf(
        ...before,
        ...(rows === 'csv'
          ? [
              'var rows []any',
              '// Also where a page fails: what came before it is not lost.',
              'defer func() { writeCSV(rows) }()',
            ]
          : moves.by === 'counter'
            ? ['count := 0']
            : []),
        ...(gather?.endsEmpty === true ? ['before := ""'] : []),
        ...(gather?.endsShort === true ? ['first := 0'] : []),
        'pages := 0',
        ...(moves.by === 'response' ? [`${ident} = ${quote(moves.first)}`] : []),
        ...(moves.by === 'values'
          ? [
              'values := []string{',
              ...inBlock(moves.values.map((value) => `${quote(value)},`)),
              '}',
              'for _, value := range values {',
            ]
          : [moves.by === 'response' ? 'for {' : headOf(moves)]),
        ...inBlock([
          'pages++',
          `if pages > ${most} {`,
          `\tlog.Println(${quote(stopped)})`,
          '\tbreak',
          '}',
          ...(moves.by === 'counter' ? [`${ident} = strconv.Itoa(number)`] : []),
          ...(moves.by === 'values' ? [`${ident} = value`] : []),
          ...lines,
          ...(moves.by === 'counter' && moves.step === 'rows' ? ['number += len(items)'] : []),
        ]),
        '}',
      );
    },
    gather: ({ list, lacking, rows, endsEmpty, endsShort }, needs) => {
      if (rows === 'jsonl') needs.import('fmt');
      if (rows === 'jsonl' || endsEmpty) call(needs, 'asJSON');
      return linesOf(
        ...itemsAt(list, lacking, needs),
        ...(endsEmpty
          ? [
              '// A page that comes again is the last one.',
              'if len(items) == 0 || asJSON(items) == before {',
              '\tbreak',
              '}',
              'before = asJSON(items)',
            ]
          : []),
        ...(rows === 'csv'
          ? ['rows = append(rows, items...)']
          : [
              'for _, item := range items {',
              '\tfmt.Println(asJSON(item))',
              '}',
              ...(endsEmpty ? ['count += len(items)'] : []),
            ]),
        ...(endsShort
          ? ['if first == 0 {', '\tfirst = len(items)', '}', 'if len(items) < first {', '\tbreak', '}']
          : []),
      );
    },
    enough: ({ of, place, rows }, needs) => {
      const name = of === 'pages' ? 'lastPage' : 'total';
      const held = of === 'pages' ? 'pages' : rows === 'csv' ? 'len(rows)' : 'count';
      return linesOf(
        '{',
        ...inBlock(numberAt(name, place, needs)),
        `\tif isGiven && float64(${held}) >= ${name} {`,
        '\t\tbreak',
        '\t}',
        '}',
      );
    },
    next: ({ place, writing, isAddress, elsewhere }, needs) => {
      const ident = identOf(LOOP_VARIABLE);
      if (place.in === 'link') needs.import('regexp', 'strings');
      if (isAddress) {
        call(needs, 'textOf');
        needs.import('errors', 'net/url', 'strings');
      }
      return linesOf(
        ...(place.in === 'json'
          ? [`next := ${valueAt('data', place.at, needs)}`]
          : [
              'var next any',
              'links := strings.Join(response.Header.Values("Link"), ", ")',
              `if link := regexp.MustCompile(\`(?i)${LINK_NEXT}\`).FindStringSubmatch(links); link != nil {`,
              '\tnext = link[1]',
              '}',
            ]),
        'if next == nil || next == "" || next == false {',
        '\tbreak',
        '}',
        ...(isAddress
          ? [
              'address, err := response.Request.URL.Parse(textOf(next))',
              ...RETURN,
              `site, err := url.Parse(${goValue(splitUrlValue(needs.plans.at(-1)?.address ?? []).origin)})`,
              ...RETURN,
              'if address.Scheme != site.Scheme || !strings.EqualFold(address.Host, site.Host) {',
              `\treturn errors.New(${quote(elsewhere)} + address.String())`,
              '}',
              'following := strings.TrimPrefix(address.RequestURI(), "/")',
            ]
          : [`following := ${nextWritten(writing, needs)}`]),
        '// What is named again would never end.',
        `if following == ${ident} {`,
        '\tbreak',
        '}',
        `${ident} = following`,
      );
    },
    tries: ({ most, inVain, body }, needs, write) => {
      const { before, lines } = write(body);
      return linesOf(
        ...before,
        'for attempt := 1; ; attempt++ {',
        ...inBlock([`if attempt > ${most} {`, `\t${stop(inVain, needs)}`, '}', ...lines]),
        '}',
      );
    },
    until: ({ at, is }, needs) => {
      needs.import('fmt');
      call(needs, 'asJSON');
      const { before, test } = isExpected(is, needs);
      return linesOf(
        `found := ${valueAt('data', at, needs)}`,
        ...before,
        `if ${test} {`,
        '\tfmt.Println(asJSON(data))',
        '\tbreak',
        '}',
      );
    },
    'until-status': ({ status }, needs) => {
      needs.import('fmt');
      return linesOf(`if response.StatusCode == ${status} {`, '\tfmt.Println(string(response.body))', '\tbreak', '}');
    },
    'write-list': ({ list, lacking, rows }, needs) => {
      if (rows === 'csv') call(needs, 'writeCSV');
      else {
        needs.import('fmt');
        call(needs, 'asJSON');
      }
      return linesOf(
        ...itemsAt(list, lacking, needs),
        ...(rows === 'csv'
          ? ['writeCSV(items)']
          : ['for _, item := range items {', '\tfmt.Println(asJSON(item))', '}']),
      );
    },
    download: ({ at, folder, credentials }, needs) => {
      needs.import('fmt', 'os', 'path/filepath', 'strings');
      call(needs, 'failed');
      const sent = needs.plans.at(-1)?.headers.filter(({ name }) => credentials.includes(name.toLowerCase())) ?? [];
      return linesOf(
        `folder := ${quote(folder)}`,
        'if err := os.MkdirAll(folder, 0o777); err != nil {',
        '\treturn err',
        '}',
        ...foundAt(at, needs),
        'number := 0',
        'for _, item := range found {',
        ...inBlock([
          'relative, ok := item.(string)',
          'if !ok {',
          '\tcontinue',
          '}',
          'address, err := response.Request.URL.Parse(relative)',
          ...RETURN,
          'request, err := http.NewRequest("GET", address.String(), nil)',
          ...RETURN,
          ...(sent.length === 0
            ? []
            : [
                '// Nobody else is told the credentials.',
                'if from := response.Request.URL; address.Scheme == from.Scheme && address.Host == from.Host {',
                ...sent.map(({ name, value }) => `\trequest.Header.Add(${quote(name)}, ${goValue(value)})`),
                '}',
              ]),
          'file, err := send(client, request, 0)',
          ...RETURN,
          'if err := failed(file, address.String()); err != nil {',
          '\treturn err',
          '}',
          '// A number of our own before the name in the URL: no file name can lead out of the folder.',
          'name := address.EscapedPath()[strings.LastIndex(address.EscapedPath(), "/")+1:]',
          'if name == "" {',
          '\tname = "file"',
          '}',
          'path := filepath.Join(folder, fmt.Sprintf("%d-%s", number, name))',
          'if err := os.WriteFile(path, file.body, 0o666); err != nil {',
          '\treturn err',
          '}',
          'number++',
        ]),
        '}',
      );
    },
  },
  file: (body, needs, own, taken) => {
    needs.import('log');
    const [plan] = needs.plans;
    const client = plan === undefined ? [] : goClient(plan, needs.imports, RETURN);
    if (own.some(({ isSecret }) => isSecret)) needs.import('os');
    const helpers = (Object.keys(HELPERS) as HelperName[]).filter((name) => needs.helpers.has(name));
    for (const name of helpers) needs.import(...HELPERS[name].imports);
    const isCounted = needs.plans.some(({ variables }) => variables.some(({ name }) => name === LOOP_VARIABLE.name));
    const variables = [
      ...own.map((variable) => `var ${identOf(variable)} = ${goInitial(variable)}`),
      ...taken.map((variable) => `var ${identOf(variable)} string`),
      ...(isCounted || body.some((line) => line.includes(`${identOf(LOOP_VARIABLE)} = `))
        ? [`var ${identOf(LOOP_VARIABLE)} string`]
        : []),
    ];
    const lines = [
      ...(client.length === 0 ? ['client := http.DefaultClient'] : client),
      ...(taken.length === 0 ? [] : ['isGiven := false']),
      ...body,
      'return nil',
    ];
    return [
      'package main',
      '',
      ...goImports(needs.imports),
      ...helpers.flatMap((name) => ['', ...HELPERS[name].lines]),
      ...(variables.length === 0 ? [] : ['', ...variables]),
      '',
      'func run() error {',
      ...inBlock(lines).map((line) => line.trimEnd()),
      '}',
      '',
      'func main() {',
      '\tlog.SetFlags(0)',
      '\tif err := run(); err != nil {',
      '\t\tlog.Fatal(err)',
      '\t}',
      '}',
    ];
  },
} as const satisfies ScriptLanguage;
