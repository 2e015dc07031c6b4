import type { Draft } from '../draft';
import type { RenderOptions } from '../options';
import { quotePosix } from '../quoting/posix';
import { jqPath } from '../script';
import type { Rendering } from '../target';
import { OR_SHOW, SCRIPT_FLAGS, shellCommand } from '../targets/curl-sh';
import { envOf } from '../value';
import { posixVariables } from '../writing/shell';
import { type JsonSteps, LOOP_VARIABLE, type Loop, noListAt, others, stoppedAfter } from './loop';

/** jq that flattens objects and writes rows as CSV, names first. */
const JQ_CSV =
  '[.[] | [paths(type != "object") as $p | select(all($p[]; type == "string")) | select(getpath($p) | type != "object") | {key: ($p | join(".")), value: (getpath($p) | if type == "array" then tojson else . end)}] | from_entries] | (map(keys_unsorted) | add // [] | reduce .[] as $n ([]; if index($n) then . else . + [$n] end)) as $names | $names, (.[] | [.[$names[]]]) | @csv';

/** The list at a place, or an error that says that there is none. */
const jqList = (list: JsonSteps): string =>
  `${jqPath(list)} | if type == "array" then . else error(${JSON.stringify(noListAt(list))}) end`;

/** A loop for a POSIX shell with curl and jq. */
export function shellLoop(draft: Draft, loop: Loop, options: RenderOptions): Rendering {
  const { plan, command: run } = shellCommand(draft, { ...options, prints: 'body' }, SCRIPT_FLAGS);
  const head = ['set -e', ...posixVariables(others(plan.variables))];
  const jq = (filter: string): string => `jq -r ${quotePosix(filter)}`;
  const counter = envOf(LOOP_VARIABLE);
  const pause = `sleep ${'pauseMs' in loop ? loop.pauseMs / 1000 : 0}`;
  const lines: string[] = [];
  switch (loop.type) {
    case 'pages':
      lines.push(
        'rows=$(mktemp)',
        `trap 'rm -f "$rows"' EXIT`,
        `${counter}=${loop.from}`,
        'before=',
        'pages=0',
        loop.to === undefined
          ? 'while :; do'
          : `while [ "$${counter}" ${loop.step < 0 ? '-ge' : '-le'} ${loop.to} ]; do`,
        'pages=$((pages + 1))',
        `[ "$pages" -le ${loop.mostPages} ] || { echo ${quotePosix(stoppedAfter(loop.mostPages))} >&2; break; }`,
        `answer=$(${run})${OR_SHOW}`,
        `items=$(printf '%s' "$answer" | jq -c ${quotePosix(`${jqList(loop.list)} | .[]`)})`,
        '# A page that comes again is the last one.',
        `[ -n "$items" ] && [ "$items" != "$before" ] || break`,
        'before=$items',
        `printf '%s\\n' "$items" >> "$rows"`,
        ...(loop.total === undefined
          ? []
          : [`[ "$(wc -l < "$rows")" -lt "$(printf '%s' "$answer" | ${jq(jqPath(loop.total))})" ] || break`]),
        `${counter}=$((${counter} + ${loop.step}))`,
        pause,
        'done',
        `jq -s -r ${quotePosix(JQ_CSV)} "$rows"`,
      );
      break;
    case 'poll':
      lines.push(
        'tries=0',
        'while :; do',
        `answer=$(${run})${OR_SHOW}`,
        `[ "$(printf '%s' "$answer" | ${jq(`${jqPath(loop.at)} | tostring`)})" != ${quotePosix(loop.until)} ] || break`,
        'tries=$((tries + 1))',
        `[ "$tries" -lt ${loop.most} ] || { echo 'It did not come to that in ${loop.most} tries.' >&2; exit 1; }`,
        pause,
        'done',
        `printf '%s\\n' "$answer"`,
      );
      break;
    case 'table':
      lines.push(`answer=$(${run})${OR_SHOW}`, `printf '%s' "$answer" | ${jq(`${jqList(loop.list)} | ${JQ_CSV}`)}`);
      break;
    case 'files': {
      const origin = /^[a-z]+:\/\/[^/?]*/i.exec(draft.url)?.[0] ?? '';
      const filter = loop.at.reduce<string>(
        (path, step) =>
          step === '*' ? `${path}[]` : `${path}[${typeof step === 'number' ? step : JSON.stringify(step)}]`,
        '.',
      );
      lines.push(
        `folder=${quotePosix(loop.folder)}`,
        'mkdir -p "$folder"',
        `answer=$(${run})${OR_SHOW}`,
        'number=0',
        `printf '%s' "$answer" | ${jq(filter)} | while IFS= read -r address; do`,
        `case $address in http://*|https://*) ;; /*) address=${quotePosix(origin)}$address ;; *) address=${quotePosix(`${origin}/`)}$address ;; esac`,
        '# A name of our own before the one in the address: none can lead out of the folder.',
        `name=$(basename "$(printf '%s' "$address" | sed 's/[?#].*//')")`,
        'curl --fail --silent --show-error --globoff --output "$folder/$number-$name" "$address"',
        'number=$((number + 1))',
        'done',
      );
      break;
    }
    default:
      loop satisfies never;
  }
  return {
    text: `${[...head, ...lines].join('\n')}\n`,
    warnings: [...plan.warnings, 'It reads answers by jq, which has to be there.'],
  };
}
