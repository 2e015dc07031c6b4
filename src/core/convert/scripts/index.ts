import type { Sequence } from '../carry';
import type { Draft, Variable } from '../draft';
import { LOOP_VARIABLE, type Loop } from '../loops/loop';
import { DEFAULT_OPTIONS, type RenderOptions } from '../options';
import type { Rendering } from '../target';
import { findTarget } from '../targets';
import { go } from './go';
import { describeLoop } from './loop';
import { node } from './node';
import { php } from './php';
import { powershell } from './powershell';
import { python } from './python';
import { SCRIPT_TARGETS, type ScriptTarget } from './script-target';
import { describeSequence, variableOf } from './sequence';
import { shell } from './shell';
import { joinAll, type Lines, type ScriptLanguage, ScriptNeeds, type Statement } from './statement';

const LANGUAGES: Readonly<Record<ScriptTarget, ScriptLanguage>> = {
  'curl-sh': shell,
  'node-fetch': node,
  'php-curl': php,
  go,
  powershell,
  'python-requests': python,
};

/** The targets that have scripts and loops, as a sentence names them. */
export function tellScriptTargets(): string {
  const names = SCRIPT_TARGETS.map((id) => (findTarget(id)?.label ?? id).replace(/, (.*)$/, ' ($1)'));
  return `${names.slice(0, -1).join(', ')} and ${names.at(-1)}`;
}

/**
 * Requests one after the other as one script.
 * @param goesOn a step that fails does not end it
 */
export const renderScript = (
  sequence: Sequence,
  target: ScriptTarget,
  options: RenderOptions = DEFAULT_OPTIONS,
  { goesOn = false }: { readonly goesOn?: boolean } = {},
): Rendering => write(describeSequence(sequence, goesOn), sequence.carries.map(variableOf), target, options);

/** Code that does more than one request. */
export const renderLoop = (
  draft: Draft,
  loop: Loop,
  target: ScriptTarget,
  options: RenderOptions = DEFAULT_OPTIONS,
): Rendering => write(describeLoop(draft, loop), [], target, options);

function write(
  statements: readonly Statement[],
  taken: readonly Variable[],
  target: ScriptTarget,
  options: RenderOptions,
): Rendering {
  const language = LANGUAGES[target];
  const needs = new ScriptNeeds({ ...options, prints: 'body' });
  const { before, lines } = writeAll(language, needs, statements);
  const own = new Map(needs.plans.flatMap(({ variables }) => variables.map((one) => [one.name, one] as const)));
  for (const { name } of [...taken, LOOP_VARIABLE]) own.delete(name);
  const text = language.file([...before, ...lines], needs, [...own.values()], taken);
  const warnings = new Set([...needs.plans.flatMap((plan) => plan.warnings), ...language.requirements(needs)]);
  return { text: `${text.join('\n')}\n`, warnings: [...warnings] };
}

/** Statements in a language. Each kind has its writer: one that is forgotten does not compile. */
function writeAll(language: ScriptLanguage, needs: ScriptNeeds, statements: readonly Statement[]): Lines {
  const inner = (nested: readonly Statement[]): Lines => writeAll(language, needs, nested);
  return joinAll(
    statements.map((statement) => {
      const writer = language.statements[statement.do] as (
        one: Statement,
        of: ScriptNeeds,
        nested: typeof inner,
      ) => Lines;
      return writer(statement, needs, inner);
    }),
  );
}
