import type { JsonSteps } from '../../json';
import type { CarrySource } from '../carry';
import { LOOP_VARIABLE, type NumberPlace } from '../loops/loop';
import type { Writing } from '../loops/parameter';
import { planOf } from '../plan';
import { quotePowerShell as quote } from '../quoting/powershell';
import { POWERSHELL_ABILITIES, psRequest, psValue, psVariables } from '../targets/powershell';
import { identOf, joinTexts, splitUrlValue } from '../value';
import { commentLine } from '../writing/comment';
import { HELPERS } from './helpers/powershell';
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

const inBlock = (lines: readonly string[]): string[] => lines.map((line) => (line === '' ? '' : `    ${line}`));

function valueAt(from: string, steps: JsonSteps, needs: ScriptNeeds): string {
  if (steps.length === 0) return from;
  needs.help('Get-At');
  return `Get-At ${from} @(${stepsAsWords(steps, quote)})`;
}

const stopWhere = (condition: string, sentence: string): string[] => [
  `if (${condition}) {`,
  `    throw ${quote(sentence)}`,
  '}',
];

const itemsAt = (list: JsonSteps, lacking: string, needs: ScriptNeeds): string[] => [
  `$list = ${valueAt('$data', list, needs)}`,
  ...stopWhere("$list.ValueKind -ne 'Array'", lacking),
  '$items = @($list.EnumerateArray())',
];

function sourceOf(source: CarrySource, into: string, needs: ScriptNeeds): string[] {
  switch (source.type) {
    case 'json':
      return [
        `$found = ${valueAt('$data', source.path, needs)}`,
        source.holds === 'number'
          ? `${into} = if ("$found" -match '^\\d+$' -and $found.ValueKind -eq 'Number') { $found.GetRawText() }`
          : `${into} = if ($found.ValueKind -eq 'String') { $found.GetString() }`,
      ];
    case 'text':
      needs.help('Get-Between', 'Get-Body');
      return [`${into} = Get-Between (Get-Body $response) ${quote(source.before)} ${quote(source.after)}`];
    case 'cookie':
      return [
        `${into} = $null`,
        "foreach ($line in $response.Headers['Set-Cookie']) {",
        `    if ($line.StartsWith(${quote(`${source.name}=`)}, 'Ordinal')) {`,
        `        ${into} = $line.Substring(${source.name.length + 1}).Split(';')[0]`,
        '    }',
        '}',
      ];
    case 'header':
      return [`${into} = $response.Headers[${quote(source.name)}] | Select-Object -First 1`];
    case 'location':
      return [`${into} = $response.Headers['Location'] | Select-Object -First 1`];
    case 'parameter':
      return [
        `$start = ${quote(`${source.name}=`)}`,
        "$pieces = \"$($response.Headers['Location'] | Select-Object -First 1)\" -split '[?&#]'",
        "$piece = $pieces | Where-Object { $_.StartsWith($start, 'Ordinal') } | Select-Object -First 1",
        `${into} = if ($piece) { $piece.Substring($start.Length) }`,
      ];
    default:
      return source satisfies never;
  }
}

const COMPARISONS = { '<': '-lt', '<=': '-le', '>': '-gt', '>=': '-ge' } as const;

/** A test of `$found`. */
function isExpected({ text, value, than }: Expected, needs: ScriptNeeds): string {
  if (than !== undefined)
    return `$found.ValueKind -eq 'Number' -and $found.GetDouble() ${COMPARISONS[than.comparison]} ${than.number}`;
  const isText = `($found.ValueKind -eq 'String' -and $found.GetString() -ceq ${quote(text)})`;
  if (value === undefined) return isText;
  if (value === null) return `$null -eq $found -or ${isText}`;
  if (typeof value === 'boolean') return `$found.ValueKind -eq '${value ? 'True' : 'False'}' -or ${isText}`;
  if (typeof value === 'number')
    return `($found.ValueKind -eq 'Number' -and $found.GetDouble() -eq ${value}) -or ${isText}`;
  needs.help('ConvertTo-Text');
  return `$null -ne $found -and (ConvertTo-Text $found) -ceq ${quote(JSON.stringify(value))}`;
}

/** The values at a place, one array after the other. */
function foundAt(at: JsonSteps, needs: ScriptNeeds): string[] {
  const [first = [], ...others] = splitAtEach(at);
  return [
    `$found = @(${valueAt('$data', first, needs)})`,
    ...others.flatMap((steps) => [
      '$found = @(foreach ($value in $found) {',
      "    if ($value.ValueKind -eq 'Array') {",
      `        foreach ($item in $value.EnumerateArray()) { ${valueAt('$item', steps, needs)} }`,
      '    }',
      '})',
    ]),
  ];
}

/** What leaves a number in a variable; nothing where there is none. */
function numberAt(name: string, place: NumberPlace, needs: ScriptNeeds): string[] {
  if (place.in === 'json') {
    return [
      `$found = ${valueAt('$data', place.at, needs)}`,
      `$${name} = if ($found.ValueKind -eq 'Number') { $found.GetDouble() }`,
    ];
  }
  return [
    // Of "items 0-24/319" the 319.
    `$${name} = if ([string] ($response.Headers[${quote(place.name)}] | Select-Object -First 1) -match '(\\d+)\\s*$') { [double] $Matches[1] }`,
  ];
}

function nextWritten({ as, before }: Writing, needs: ScriptNeeds): string {
  needs.help('ConvertTo-Text');
  const plain = "$(if ($next.ValueKind -eq 'String') { $next.GetString() } else { ConvertTo-Text $next })";
  const text =
    as === 'json' ? '(ConvertTo-Text $next)' : as === 'encoded' ? `[Uri]::EscapeDataString(${plain})` : plain;
  return before === '' ? text : `${quote(before)} + ${text}`;
}

const headOf = ({ from, to, step }: Extract<PagesBy, { by: 'counter' }>): string => {
  const end = to === undefined ? ' ' : ` $number ${step !== 'rows' && step < 0 ? '-ge' : '-le'} ${to}`;
  const move = step === 'rows' ? '' : step === 1 ? ' $number++' : ` $number += ${step}`;
  return `for ($number = ${from};${end};${move}) {`;
};

const URL_OF_RESPONSE = '$response.BaseResponse.RequestMessage.RequestUri';

/** PowerShell 7 with Invoke-WebRequest. */
export const powershell = {
  target: 'powershell',
  requirements: () => ['It needs PowerShell 7 or later.'],
  statements: {
    step: ({ title, body }, _, write) => linesOf('', commentLine('#', title), ...inOrder(write(body))),
    request: ({ draft, called, retries, stopsAtRedirect, mayFail, readsJson }, needs) => {
      const plan = needs.plan(planOf(draft, needs.optionsOf(stopsAtRedirect), POWERSHELL_ABILITIES));
      needs.help(
        'Send-Request',
        ...(mayFail ? [] : ['Assert-Ok', 'Get-Body']),
        ...(readsJson ? ['Get-Json', 'Get-Body'] : []),
      );
      return linesOf(
        // It calls a redirect that is not followed an error, which is none here.
        ...psRequest(plan, stopsAtRedirect ? ["ErrorAction = 'SilentlyContinue'"] : []),
        `$response = Send-Request $request ${retries}`,
        ...(mayFail ? [] : [`Assert-Ok $response ${quote(called)}`]),
        ...(readsJson ? [`$data = Get-Json $response ${quote(called)}`] : []),
      );
    },
    take: ({ into, source, as, lacking }, needs) =>
      linesOf(
        ...sourceOf(source, `$${identOf(into)}`, needs),
        ...stopWhere(`$null -eq $${identOf(into)}`, lacking),
        ...(as === 'plain'
          ? []
          : [`$${identOf(into)} = [uri]::${as === 'encoded' ? 'Escape' : 'Unescape'}DataString($${identOf(into)})`]),
      ),
    report: () => linesOf(`"$($response.StatusCode) $(${URL_OF_RESPONSE})"`),
    pause: ({ pauseMs }) => linesOf(`Start-Sleep -Milliseconds ${pauseMs}`),
    pages: ({ moves, most, stopped, rows, body }, needs, write) => {
      const { before, lines } = write(body);
      const gather = gatherIn(body);
      const ident = `$${identOf(LOOP_VARIABLE)}`;
      const isTable = rows === 'csv';
      if (isTable) needs.help('Write-Csv', 'ConvertTo-Text');
      const loop = [
        ...(moves.by === 'values'
          ? [
              `$${identOf(LOOP_VARIABLE)}s = @(`,
              ...inBlock(moves.values.map(quote)),
              ')',
              `foreach (${ident} in ${ident}s) {`,
            ]
          : [moves.by === 'response' ? 'while ($true) {' : headOf(moves)]),
        ...inBlock([
          '$pages++',
          `if ($pages -gt ${most}) {`,
          `    [Console]::Error.WriteLine(${quote(stopped)})`,
          '    break',
          '}',
          ...(moves.by === 'counter' ? [`${ident} = [string] $number`] : []),
          ...lines,
          ...(moves.by === 'counter' && moves.step === 'rows' ? ['$number += $items.Count'] : []),
        ]),
        '}',
      ];
      return linesOf(
        ...before,
        isTable ? '$collected = [System.Collections.Generic.List[object]]::new()' : '$count = 0',
        ...(gather?.endsEmpty === true ? ['$before = $null'] : []),
        ...(gather?.endsShort === true ? ['$first = $null'] : []),
        '$pages = 0',
        ...(moves.by === 'response' ? [`${ident} = ${quote(moves.first)}`] : []),
        ...(isTable
          ? [
              'try {',
              ...inBlock(loop),
              '}',
              'finally {',
              '    # Also where a page fails: what came before it is not lost.',
              '    Write-Csv $collected',
              '}',
            ]
          : loop),
      );
    },
    gather: ({ list, lacking, rows, endsEmpty, endsShort }, needs) => {
      needs.help('ConvertTo-Text');
      return linesOf(
        ...itemsAt(list, lacking, needs),
        ...(endsEmpty
          ? [
              '# A page that comes again is the last one.',
              'if ($items.Count -eq 0 -or (ConvertTo-Text $list) -ceq $before) {',
              '    break',
              '}',
              '$before = ConvertTo-Text $list',
            ]
          : []),
        ...(rows === 'csv'
          ? ['foreach ($item in $items) { $collected.Add($item) }']
          : ['foreach ($item in $items) { ConvertTo-Text $item }', '$count += $items.Count']),
        ...(endsShort
          ? ['if ($null -eq $first) { $first = $items.Count }', 'if ($items.Count -lt $first) {', '    break', '}']
          : []),
      );
    },
    enough: ({ of, place, rows }, needs) => {
      const name = of === 'pages' ? 'lastPage' : 'total';
      const held = of === 'pages' ? '$pages' : rows === 'csv' ? '$collected.Count' : '$count';
      return linesOf(
        ...numberAt(name, place, needs),
        `if ($null -ne $${name} -and ${held} -ge $${name}) {`,
        '    break',
        '}',
      );
    },
    next: ({ place, writing, isAddress, elsewhere }, needs) => {
      const ident = `$${identOf(LOOP_VARIABLE)}`;
      const site = psValue(splitUrlValue(needs.plans.at(-1)?.address ?? []).origin);
      return linesOf(
        ...(place.in === 'json'
          ? [
              `$next = ${valueAt('$data', place.at, needs)}`,
              "$isEnd = $null -eq $next -or $next.ValueKind -eq 'False' -or ($next.ValueKind -eq 'String' -and $next.GetString() -eq '')",
              'if ($isEnd) {',
              '    break',
              '}',
              ...(isAddress ? ['$next = $next.GetString()'] : []),
            ]
          : [
              `if (-not (($response.Headers['Link'] -join ', ') -match '${LINK_NEXT}')) {`,
              '    break',
              '}',
              '$next = $Matches[1]',
            ]),
        ...(isAddress
          ? [
              `$address = [Uri]::new(${URL_OF_RESPONSE}, [string] $next)`,
              `if ($address.GetLeftPart('Authority') -ne ([Uri] (${site})).GetLeftPart('Authority')) {`,
              `    throw ${quote(elsewhere)} + $address.AbsoluteUri`,
              '}',
              '$following = $address.PathAndQuery.Substring(1)',
            ]
          : [`$following = ${nextWritten(writing, needs)}`]),
        '# What is named again would never end.',
        `if ($following -ceq ${ident}) {`,
        '    break',
        '}',
        `${ident} = $following`,
      );
    },
    tries: ({ most, inVain, body }, _, write) => {
      const { before, lines } = write(body);
      return linesOf(
        ...before,
        'for ($attempt = 1; ; $attempt++) {',
        ...inBlock([...stopWhere(`$attempt -gt ${most}`, inVain), ...lines]),
        '}',
      );
    },
    until: ({ at, is }, needs) => {
      needs.help('ConvertTo-Text');
      return linesOf(
        `$found = ${valueAt('$data', at, needs)}`,
        `if (${isExpected(is, needs)}) {`,
        '    ConvertTo-Text $data',
        '    break',
        '}',
      );
    },
    'until-status': ({ status }, needs) => {
      needs.help('Get-Body');
      return linesOf(`if ($response.StatusCode -eq ${status}) {`, '    Get-Body $response', '    break', '}');
    },
    'write-list': ({ list, lacking, rows }, needs) => {
      needs.help('ConvertTo-Text', ...(rows === 'csv' ? ['Write-Csv'] : []));
      return linesOf(
        ...itemsAt(list, lacking, needs),
        rows === 'csv' ? 'Write-Csv $items' : 'foreach ($item in $items) { ConvertTo-Text $item }',
      );
    },
    download: ({ at, folder, credentials }, needs) => {
      const sent = needs.plans.at(-1)?.headers.filter(({ name }) => credentials.includes(name.toLowerCase())) ?? [];
      const isOwn = `$address.GetLeftPart('Authority') -eq ${URL_OF_RESPONSE}.GetLeftPart('Authority')`;
      return linesOf(
        `$folder = ${quote(folder)}`,
        'New-Item -ItemType Directory -Force -Path $folder | Out-Null',
        ...foundAt(at, needs),
        ...(sent.length === 0
          ? []
          : [
              '$credentials = @{',
              ...sent.map(({ name, value }) => `    ${quote(name)} = ${psValue(joinTexts(value))}`),
              '}',
            ]),
        '$number = 0',
        'foreach ($item in $found) {',
        ...inBlock([
          "if ($item.ValueKind -ne 'String') { continue }",
          `$address = [Uri]::new(${URL_OF_RESPONSE}, $item.GetString())`,
          '# A number of our own before the name in the URL: no file name can lead out of the folder.',
          "$name = $address.AbsolutePath.Split('/')[-1]",
          "if ($name -eq '') { $name = 'file' }",
          '$download = @{',
          '    Uri = $address',
          '    OutFile = Join-Path $folder "$number-$name"',
          '    SkipHeaderValidation = $true',
          '    UseBasicParsing = $true',
          '}',
          ...(sent.length === 0
            ? []
            : ['# Nobody else is told the credentials.', `if (${isOwn}) { $download.Headers = $credentials }`]),
          'Invoke-WebRequest @download',
          '$number++',
        ]),
        '}',
      );
    },
  },
  file: (body, needs, own) => {
    const helpers = Object.keys(HELPERS).filter((name) => needs.helpers.has(name));
    return [
      "$ErrorActionPreference = 'Stop'",
      '# What ends the script is said in a sentence.',
      'trap {',
      '    [Console]::Error.WriteLine($_.Exception.Message)',
      '    exit 1',
      '}',
      ...helpers.flatMap((name) => ['', ...(HELPERS[name] ?? [])]),
      ...(body[0] === '' && own.length === 0 ? [] : ['']),
      ...psVariables(own),
      ...body,
    ];
  },
} as const satisfies ScriptLanguage;
