import type { JsonSteps } from '../../json';
import type { CarrySource } from '../carry';
import { LOOP_VARIABLE } from '../loops/loop';
import { quotePosix } from '../quoting/posix';
import { QUIET_FLAGS, retryFlags, SCRIPT_FLAGS, shellCommand } from '../targets/curl-sh';
import { envOf, joinTexts } from '../value';
import { posixComment } from '../writing/comment';
import { posixComments, posixVariables, posixWord } from '../writing/shell';
import { splitAtEach } from './python';
import { type Expected, linesOf, type ScriptLanguage } from './statement';

/** Files that stand for what the other languages keep in variables: answers may be of any size, and hold any bytes. */
const FILES = ['answer', 'headers', 'rows'] as const;
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

const stopUnless = (condition: string, sentence: string): string =>
  `${condition} || { echo ${quotePosix(sentence)} >&2; exit 1; }`;

function sourceOf(source: CarrySource): string {
  switch (source.type) {
    case 'json':
      return `jq -r ${quotePosix(`${jqAt(source.path)} | strings`)} "$answer"`;
    case 'cookie': {
      const name = source.name.replace(/[^A-Za-z0-9_-]/g, '.');
      return `sed -n 's/\\r$//; s/^[Ss]et-[Cc]ookie: ${name}=\\([^;]*\\).*/\\1/p' "$headers" | tail -n 1`;
    }
    case 'location':
      return `sed -n 's/\\r$//; s/^[Ll]ocation: //p' "$headers" | tail -n 1`;
    default:
      return source satisfies never;
  }
}

/** A test in jq. */
function isExpected({ text, value }: Expected): string {
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
    request: ({ draft, retries, mayFail, readsHeaders }, needs) => {
      const flags = mayFail ? QUIET_FLAGS : retries > 0 ? retryFlags(retries) : SCRIPT_FLAGS;
      needs.help('answer', ...(readsHeaders ? ['headers'] : []));
      const kept = `--output "$answer" ${readsHeaders ? '--dump-header "$headers" ' : ''}`;
      const shown = `--write-out '%{http_code} %{url_effective}' `;
      const { plan, command } = shellCommand(draft, needs.options, flags + kept + shown);
      needs.plan(plan);
      return linesOf(
        // What an answer said is shown before its failing ends the script.
        `response=$(${command}) || { code=$?; cat "$answer" >&2; exit "$code"; }`,
        ...posixComments(plan, '-H'),
      );
    },
    take: ({ into, source, lacking }, needs) => {
      if (source.type === 'json') needs.help('jq');
      return linesOf(`${envOf(into)}=$(${sourceOf(source)})`, stopUnless(`[ -n "$${envOf(into)}" ]`, lacking));
    },
    report: () => linesOf(`printf '%s\\n' "$response"`),
    pause: ({ pauseMs }) => linesOf(`sleep ${pauseMs / 1000}`),
    pages: ({ from, to, step, most, stopped, body }, needs, write) => {
      needs.help('rows', 'jq', 'table');
      const counter = envOf(LOOP_VARIABLE);
      return linesOf(
        `${counter}=${from}`,
        'before=',
        'pages=0',
        to === undefined ? 'while :; do' : `while [ "$${counter}" ${step < 0 ? '-ge' : '-le'} ${to} ]; do`,
        'pages=$((pages + 1))',
        `[ "$pages" -le ${most} ] || { echo ${quotePosix(stopped)} >&2; break; }`,
        ...write(body).lines,
        `${counter}=$((${counter} + ${step}))`,
        'done',
      );
    },
    gather: ({ list, lacking }) =>
      linesOf(
        `items=$(jq -c ${quotePosix(`${jqList(list, lacking)} | .[]`)} "$answer")`,
        '# A page that comes again is the last one.',
        '[ -n "$items" ] && [ "$items" != "$before" ] || break',
        'before=$items',
        `printf '%s\\n' "$items" >> "$rows"`,
      ),
    enough: ({ total }) =>
      linesOf(
        `total=$(jq ${quotePosix(`${jqAt(total)} | numbers | ceil`)} "$answer")`,
        '[ -z "$total" ] || [ "$(wc -l < "$rows")" -lt "$total" ] || break',
      ),
    tries: ({ most, inVain, body }, _, write) =>
      linesOf(
        'tries=0',
        'while :; do',
        'tries=$((tries + 1))',
        stopUnless(`[ "$tries" -le ${most} ]`, inVain),
        ...write(body).lines,
        'done',
      ),
    until: ({ at, is }, needs) => {
      needs.help('jq');
      return linesOf(
        `found=$(jq ${quotePosix(`${jqAt(at)} | ${isExpected(is)}`)} "$answer")`,
        `if [ "$found" = true ]; then jq -c . "$answer"; break; fi`,
      );
    },
    'write-list': ({ list, lacking }, needs) => {
      needs.help('jq');
      return linesOf(`jq -r ${quotePosix(`${jqList(list, lacking)}\n| ${JQ_CSV}`)} "$answer"`);
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
        `jq -r ${quotePosix(jqAddresses(at))} "$answer" | while IFS= read -r address; do`,
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
      ...posixVariables(own),
      ...body,
    ];
  },
} as const satisfies ScriptLanguage;
