import type { JsonSteps } from '../../json';
import { BUSY } from '../attempts';
import type { CarrySource } from '../carry';
import { LOOP_VARIABLE, type NumberPlace } from '../loops/loop';
import type { Writing } from '../loops/parameter';
import { quotePosix } from '../quoting/posix';
import { QUIET_FLAGS, SCRIPT_FLAGS, shellCommand } from '../targets/curl-sh';
import { envOf, joinTexts, splitUrlValue } from '../value';
import { posixComment } from '../writing/comment';
import { posixComments, posixVariables, posixWord } from '../writing/shell';
import { LINK_NEXT, splitAtEach } from './places';
import { type Expected, gatherIn, linesOf, NO_JSON, type ScriptLanguage, type ScriptNeeds } from './statement';

/** Files that stand for what the other languages keep in variables: answers may be of any size, and hold any bytes. */
const FILES = ['body', 'headers', 'rows'] as const;
type File = (typeof FILES)[number];

/** A name that jq takes behind a dot. */
const PLAIN_NAME = /^[A-Za-z_]\w*$/;

/** What stands at a place of JSON, null where nothing does: "?" gives nothing where a step fails. */
const jqAt = (steps: JsonSteps, from = '.'): string => (steps.length === 0 ? from : `[${jqSteps(steps)}][0]`);

function jqSteps(steps: JsonSteps): string {
  const code = steps
    .map((step) => (typeof step === 'string' && PLAIN_NAME.test(step) ? `.${step}?` : `[${JSON.stringify(step)}]?`))
    .join('');
  return code.startsWith('.') ? code : `.${code}`;
}

const jqList = (list: JsonSteps, lacking: string): string =>
  `${jqAt(list)} | if type == "array" then . else error(${JSON.stringify(lacking)}) end`;

/** The addresses at a place, as far as they are texts; what URLs have percent-encoded is so here. */
const jqAddresses = (at: JsonSteps): string =>
  `${splitAtEach(at)
    .map((steps) => (steps.length === 0 ? '.' : jqSteps(steps)))
    .join(' | arrays[] | ')} | strings | gsub("(?<c>[^!-~])"; .c | @uri)`;

/** Rows of an array as CSV, names first. */
const JQ_CSV = [
  'def flat($p): if type == "object" then to_entries[] | .key as $k | .value | flat(if $p == "" then $k else $p + "." + $k end)',
  '  else {key: (if $p == "" then "value" else $p end), value: .} end;',
  // A table program would run such a text as a formula.
  'def defused: if test("^([\\t\\r]|\\\\s*[=+@-])") and (test("^-?[0-9]+([.][0-9]+)?(e-?[0-9]+)?$"; "i") | not) then "\\u0027" + . else . end;',
  'def cell: if . == null then "" elif type == "string" then defused else tojson end',
  '  | if test("[\\",\\r\\n]") then "\\"" + gsub("\\""; "\\"\\"") + "\\"" else . end;',
  '[.[] | [flat("")] | from_entries] as $rows',
  '| (reduce ($rows[] | keys_unsorted[]) as $name ({}; .[$name] = true) | keys_unsorted) as $names',
  '| if $names == [] then empty else $names, ($rows[] | [.[$names[]]]) end',
  '| map(cell) | join(",") | if . == "" then "\\"\\"" else . end',
].join('\n');

/** An address as the page at another one means it (RFC 3986 5.2); curl itself takes dot segments away. */
const RESOLVE = [
  'resolve() {',
  '  base=${2%%[?#]*}',
  '  case ${base#*://} in */*) ;; *) base=$base/ ;; esac',
  '  host=${base#*://}',
  '  origin=${base%%://*}://${host%%/*}',
  '  case $1 in',
  `    '') printf '%s' "\${2%%#*}" ;;`,
  `    //*) printf '%s' "\${base%%:*}:$1" ;;`,
  `    /*) printf '%s' "$origin$1" ;;`,
  `    [?]*) printf '%s' "$base$1" ;;`,
  `    [#]*) printf '%s' "\${2%%#*}" ;;`,
  '    *)',
  '      scheme=${1%%[:/?#]*}',
  '      case $scheme in',
  '        [!A-Za-z]* | *[!A-Za-z0-9+.-]*) ;;',
  `        *) case \${1#"$scheme"} in :*) printf '%s' "$1"; return ;; esac ;;`,
  '      esac',
  `      printf '%s' "\${base%/*}/$1" ;;`,
  '  esac',
  '}',
];

/** What stands between two texts of a file, the first time; nothing where nothing does. */
const TEXT_BETWEEN = [
  'text_between() {',
  '  text=$(cat "$1")',
  '  case $text in *"$2"*) text=${text#*"$2"} ;; *) return ;; esac',
  `  case $text in *"$3"*) printf '%s' "\${text%%"$3"*}" ;; esac`,
  '}',
];

/**
 * What header lines have, one a line. Sed is given no \r, which POSIX leaves undefined and other systems take for an r.
 * @param rule the name as a basic regular expression with what of the line is matched, a slash, and what is given of it
 */
function headerLines(rule: string): string {
  return `tr -d '\\r' < "$headers" | sed -n 's/^${rule}/p'`;
}

/** The same of the last response alone: redirects have theirs before. */
function lastHeader(rule: string): string {
  return `${headerLines(rule)} | tail -n 1`;
}

/**
 * Sends until the server is not busy, after the seconds that it names. curl's own --retry would also send again what a server
 * failed at (500), with whatever that does there.
 */
const askedAgain = (command: string, retries: number): string[] => [
  `left=${retries} wait=1`,
  'while :; do',
  ...indented([
    `code=0; response=$(${command}) || code=$?`,
    `case $left:$response in ${BUSY.map((status) => `[1-9]*:${status}*`).join(' | ')}) ;; *) break ;; esac`,
    `seconds=$(${lastHeader('[Rr]etry-[Aa]fter: *\\([0-9][0-9]*\\) *$/\\1')})`,
    'sleep "${seconds:-$wait}"',
    'left=$((left - 1)) wait=$((wait * 2))',
  ]),
  'done',
];

const stopUnless = (condition: string, sentence: string): string =>
  `${condition} || { echo ${quotePosix(sentence)} >&2; exit 1; }`;

/** Whole numbers that jq holds exactly. */
const JQ_WHOLE = 'numbers | select(floor == . and . <= 9007199254740991)';

/** A header of the last response, in whatever letters it is written. */
function headerOf(name: string): string {
  const letters = name
    .replace(/[^A-Za-z0-9_-]/g, '.')
    .replace(/[A-Za-z]/g, (one) => `[${one.toUpperCase()}${one.toLowerCase()}]`);
  return lastHeader(`${letters}: */`);
}

const LOCATION = lastHeader('[Ll]ocation: /');
/** Without percent-encoding: of letters in ASCII, as tokens are. */
const JQ_DECODE =
  'def digit: if . >= 97 then . - 87 elif . >= 65 then . - 55 else . - 48 end; gsub("%(?<hex>[0-9A-Fa-f]{2})"; [.hex | explode | map(digit) | .[0] * 16 + .[1]] | implode)';

function sourceOf(source: CarrySource): string {
  switch (source.type) {
    case 'json':
      return `jq -r ${quotePosix(`${jqAt(source.path)} | ${source.holds === 'number' ? JQ_WHOLE : 'strings'}`)} "$body"`;
    case 'text':
      return `text_between "$body" ${quotePosix(source.before)} ${quotePosix(source.after)}`;
    case 'cookie': {
      const name = source.name.replace(/[^A-Za-z0-9_-]/g, '.');
      return lastHeader(`[Ss]et-[Cc]ookie: ${name}=\\([^;]*\\).*/\\1`);
    }
    case 'header':
      return headerOf(source.name);
    case 'location':
      return LOCATION;
    case 'parameter': {
      const name = source.name.replace(/[^A-Za-z0-9_-]/g, '.');
      return `${LOCATION} | tr '?&#' '\\n\\n\\n' | sed -n 's/^${name}=//p' | tail -n 1`;
    }
    default:
      return source satisfies never;
  }
}

/** Rows as they come; a table is made of them at the end. */
const keepRows = (rows: 'csv' | 'jsonl'): string[] => [
  `printf '%s\\n' "$items" ${rows === 'csv' ? '>>' : '| tee -a'} "$rows"`,
];

/** The address that the last response's Link headers name as next (RFC 8288 3). */
const LINKED_NEXT = [
  headerLines('[Ll][Ii][Nn][Kk]: */'),
  `jq -Rsr ${quotePosix(`[match(${JSON.stringify(LINK_NEXT)}; "gi").captures[0].string] | last // empty`)}`,
].join(' | ');

/** What says a number, rounded up; nothing where there is none. */
function numberAt(place: NumberPlace, needs: ScriptNeeds): string {
  if (place.in === 'json') return `jq ${quotePosix(`${jqAt(place.at)} | numbers | ceil`)} "$body"`;
  needs.help('headers');
  const name = [...place.name]
    .map((one) =>
      /[a-z]/i.test(one) ? `[${one.toUpperCase()}${one.toLowerCase()}]` : /[\w-]/.test(one) ? one : `[${one}]`,
    )
    .join('');
  // Of "items 0-24/319" the 319.
  return lastHeader(`${name}: *\\(.*[^0-9]\\)\\{0,1\\}\\([0-9][0-9]*\\) *$/\\2`);
}

/** What follows, in jq, as it is written where it goes. */
function jqWritten({ as, before }: Writing): string {
  const text = 'if type == "string" then . else tojson end';
  const written = as === 'json' ? 'tojson' : as === 'plain' ? text : `${text} | @uri`;
  return before === '' ? `(${written})` : `${JSON.stringify(before)} + (${written})`;
}

/** Statements in a block. What a statement's literals hold behind their first line stays where it is. */
const indented = (lines: readonly string[]): string[] => lines.map((line) => (line === '' ? '' : `  ${line}`));

/** A test in jq. */
function isExpected({ text, value, than }: Expected): string {
  if (than !== undefined) return `type == "number" and . ${than.comparison} ${than.number}`;
  const isText = `. == ${JSON.stringify(text)}`;
  if (value === undefined) return isText;
  return typeof value === 'object' && value !== null
    ? `tojson == ${JSON.stringify(JSON.stringify(value))}`
    : `. == ${value} or ${isText}`;
}

/** A POSIX shell with curl and jq. */
export const shell = {
  target: 'curl-sh',
  requirements: (needs) => (needs.helpers.has('jq') ? ['It needs jq, to read JSON.'] : []),
  statements: {
    step: ({ title, body }, _, write) => linesOf('', posixComment(title), ...write(body).lines),
    request: ({ draft, called, retries, stopsAtRedirect, mayFail, readsJson, readsHeaders }, needs) => {
      const flags = mayFail ? QUIET_FLAGS : SCRIPT_FLAGS;
      const keepsHeaders = readsHeaders || retries > 0;
      needs.help('body', ...(keepsHeaders ? ['headers'] : []));
      const named = called === '' ? '' : `printf '%s\\n' ${quotePosix(called)} >&2; `;
      if (readsJson) needs.help('jq');
      const kept = `--output "$body" ${keepsHeaders ? '--dump-header "$headers" ' : ''}`;
      const shown = `--write-out '%{http_code} %{url_effective}' `;
      const { plan, command } = shellCommand(draft, needs.optionsOf(stopsAtRedirect), flags + kept + shown);
      needs.plan(plan);
      return linesOf(
        // What failed and what its response said is shown before that ends the script.
        ...(retries === 0
          ? [`response=$(${command}) || { code=$?; ${named}cat "$body" >&2; exit "$code"; }`]
          : [...askedAgain(command, retries), `[ "$code" = 0 ] || { ${named}cat "$body" >&2; exit "$code"; }`]),
        ...(readsJson
          ? [
              // An empty body is no fault to jq.
              `jq -es 'length == 1' "$body" >/dev/null 2>&1 || { ${named}echo ${quotePosix(NO_JSON)} >&2; cat "$body" >&2; exit 1; }`,
            ]
          : []),
        ...posixComments(plan, '-H'),
      );
    },
    take: ({ into, source, as, lacking }, needs) => {
      const name = envOf(into);
      if (source.type === 'json' || as !== 'plain') needs.help('jq');
      if (source.type === 'text') needs.help('text_between');
      return linesOf(
        `${name}=$(${sourceOf(source)})`,
        stopUnless(`[ -n "$${name}" ]`, lacking),
        ...(as === 'plain'
          ? []
          : [`${name}=$(printf '%s' "$${name}" | jq -sRr ${as === 'encoded' ? '@uri' : quotePosix(JQ_DECODE)})`]),
      );
    },
    report: () => linesOf(`printf '%s\\n' "$response"`),
    pause: ({ pauseMs }) => linesOf(`sleep ${pauseMs / 1000}`),
    pages: ({ moves, most, stopped, rows, body }, needs, write) => {
      needs.help('rows', 'jq', ...(rows === 'csv' ? ['table'] : []));
      const name = envOf(LOOP_VARIABLE);
      const gather = gatherIn(body);
      if (moves.by === 'values') {
        const values = moves.values.map((value, at) => {
          const end = at === moves.values.length - 1 ? '; do' : ' \\';
          return `${quotePosix(value)}${end}`;
        });
        return linesOf(`for ${name} in \\`, ...indented(values), ...indented([...write(body).lines]), 'done');
      }
      const isEnd = moves.by === 'response' || moves.to === undefined;
      const isDown = moves.by === 'counter' && moves.step !== 'rows' && moves.step < 0;
      return linesOf(
        moves.by === 'counter' ? `${name}=${moves.from}` : `${name}=${quotePosix(moves.first)}`,
        ...(gather?.endsEmpty === true ? ['before='] : []),
        ...(gather?.endsShort === true ? ['first='] : []),
        'pages=0',
        isEnd ? 'while :; do' : `while [ "$${name}" ${isDown ? '-ge' : '-le'} ${moves.to} ]; do`,
        ...indented([
          'pages=$((pages + 1))',
          `[ "$pages" -le ${most} ] || { echo ${quotePosix(stopped)} >&2; break; }`,
          ...write(body).lines,
          ...(moves.by === 'response'
            ? []
            : [`${name}=$((${name} + ${moves.step === 'rows' ? `$(printf '%s\\n' "$items" | wc -l)` : moves.step}))`]),
        ]),
        'done',
      );
    },
    gather: ({ list, lacking, rows, endsEmpty, endsShort }) =>
      linesOf(
        `items=$(jq -c ${quotePosix(`${jqList(list, lacking)} | .[]`)} "$body")`,
        ...(endsEmpty
          ? [
              '# A page that comes again is the last one.',
              '[ -n "$items" ] && [ "$items" != "$before" ] || break',
              'before=$items',
              ...keepRows(rows),
            ]
          : ['if [ -n "$items" ]; then', ...indented(keepRows(rows)), 'fi']),
        ...(endsShort
          ? [`came=$(printf '%s\\n' "$items" | wc -l)`, 'first=${first:-$came}', '[ "$came" -ge "$first" ] || break']
          : []),
      ),
    enough: ({ of, place }, needs) => {
      const held = of === 'pages' ? '"$pages"' : '"$(wc -l < "$rows")"';
      return linesOf(`total=$(${numberAt(place, needs)})`, `[ -z "$total" ] || [ ${held} -lt "$total" ] || break`);
    },
    next: ({ place, writing, isAddress, elsewhere }, needs) => {
      const name = envOf(LOOP_VARIABLE);
      if (isAddress) needs.help('resolve');
      const site = posixWord(splitUrlValue(needs.plans.at(-1)?.address ?? []).origin);
      const found =
        place.in === 'json'
          ? `jq -r ${quotePosix(`${jqAt(place.at)} | if . == null or . == false or . == "" then empty else ${jqWritten(writing)} end`)} "$body"`
          : LINKED_NEXT;
      return linesOf(
        `following=$(${found})`,
        '[ -n "$following" ] || break',
        ...(isAddress
          ? [
              `site=${site}`,
              'following=$(resolve "$following" "${response#* }")',
              'following=${following%%#*}',
              'case $following in',
              '"$site" | "$site"[?]*) following=${following#"$site"} ;;',
              '"$site"/*) following=${following#"$site"/} ;;',
              `*) printf '%s\\n' ${quotePosix(elsewhere)}"$following" >&2; exit 1 ;;`,
              'esac',
            ]
          : []),
        '# What is named again would never end.',
        `[ "$following" != "$${name}" ] || break`,
        `${name}=$following`,
      );
    },
    tries: ({ most, inVain, body }, _, write) =>
      linesOf(
        'tries=0',
        'while :; do',
        ...indented(['tries=$((tries + 1))', stopUnless(`[ "$tries" -le ${most} ]`, inVain), ...write(body).lines]),
        'done',
      ),
    until: ({ at, is }, needs) => {
      needs.help('jq');
      return linesOf(
        `found=$(jq ${quotePosix(`${jqAt(at)} | ${isExpected(is)}`)} "$body")`,
        `if [ "$found" = true ]; then jq -c . "$body"; break; fi`,
      );
    },
    'until-status': ({ status }) =>
      linesOf(`if [ "\${response%% *}" = ${status} ]; then cat "$body"; printf '\\n'; break; fi`),
    'write-list': ({ list, lacking, rows }, needs) => {
      needs.help('jq');
      return linesOf(
        rows === 'csv'
          ? `jq -r ${quotePosix(`${jqList(list, lacking)}\n| ${JQ_CSV}`)} "$body"`
          : `jq -c ${quotePosix(`${jqList(list, lacking)} | .[]`)} "$body"`,
      );
    },
    download: ({ at, folder, credentials }, needs) => {
      needs.help('jq', 'resolve');
      const sent = needs.plans.at(-1)?.headers.filter(({ name }) => credentials.includes(name.toLowerCase())) ?? [];
      const words = sent.map(({ name, value }) => `-H ${posixWord(joinTexts([{ text: `${name}: ` }, ...value]))}`);
      return linesOf(
        `folder=${quotePosix(folder)}`,
        'mkdir -p "$folder"',
        'number=0',
        ...(words.length === 0
          ? []
          : ['site=${response#* }', 'host=${site#*://}', 'site=${site%%://*}://${host%%[/?#]*}']),
        `jq -r ${quotePosix(jqAddresses(at))} "$body" | while IFS= read -r address; do`,
        ...indented([
          'address=$(resolve "$address" "${response#* }")',
          '# A number of our own before the name in the URL: no file name can lead out of the folder.',
          'name=${address%%[?#]*}',
          'name=${name##*/}',
          ...(words.length === 0
            ? []
            : [
                '# Nobody else is told the credentials.',
                'case $address in',
                `"$site" | "$site"[/?]*) set -- ${words.join(' ')} ;;`,
                '*) set -- ;;',
                'esac',
              ]),
          `curl --fail --silent --show-error --globoff --output "$folder/$number-\${name:-file}" ${words.length === 0 ? '' : '"$@" '}"$address"`,
          'number=$((number + 1))',
        ]),
        'done',
      );
    },
  },
  file: (body, needs, own) => {
    const files = FILES.filter((file): file is File => needs.helpers.has(file));
    return [
      'set -e',
      ...files.map((file) => `${file}=$(mktemp)`),
      // Also where a page fails: what came before it is not lost.
      ...(needs.helpers.has('table') ? ['write_table() {', `jq -s -r ${quotePosix(JQ_CSV)} "$rows"`, '}'] : []),
      ...(files.length === 0
        ? []
        : [
            `trap '${needs.helpers.has('table') ? 'write_table; ' : ''}rm -f ${files.map((file) => `"$${file}"`).join(' ')}' EXIT`,
          ]),
      ...(needs.helpers.has('resolve') ? RESOLVE : []),
      ...(needs.helpers.has('text_between') ? TEXT_BETWEEN : []),
      ...posixVariables(own),
      ...body,
    ];
  },
} as const satisfies ScriptLanguage;
