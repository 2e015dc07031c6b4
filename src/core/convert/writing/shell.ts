import { bytesFromText, textFromBytes } from '../../content';
import type { Variable } from '../draft';
import type { Plan, PlanBody } from '../plan';
import { ACTED_ON, printfFormat, quotePosix, quotePrintfFormat } from '../quoting/posix';
import { envOf, type Value } from '../value';
import { posixComment } from './comment';

// What the commands for POSIX shells have in common.

/** A value as one word of a POSIX shell; variables stand in double quotes, in which nothing of them is read. */
export function posixWord(value: Value): string {
  if (value.every((piece) => 'text' in piece))
    return quotePosix(value.map((piece) => ('text' in piece ? piece.text : '')).join(''));
  return value.map((piece) => ('text' in piece ? quotePosix(piece.text) : `"$${envOf(piece.variable)}"`)).join('');
}

/** Variables at the top of a script; secrets have to be in the environment, and are asked for by name where they lack. */
export const posixVariables = (variables: readonly Variable[]): string[] =>
  variables.map((variable) =>
    variable.isSecret
      ? `: "\${${envOf(variable)}:?set ${envOf(variable)} first}"`
      : `${envOf(variable)}=${quotePosix(variable.value)}`,
  );

/** A body's bytes as a command that writes them, variables where they stand. */
export function printfBody(body: PlanBody): string {
  const pieces = body.type === 'text' ? body.value : [];
  const format =
    body.type === 'bytes'
      ? printfFormat(body.bytes)
      : pieces.map((piece) => ('text' in piece ? printfFormat(bytesFromText(piece.text)) : '%s')).join('');
  const words = pieces.flatMap((piece) => ('text' in piece ? [] : posixWord([piece])));
  return ['printf', quotePrintfFormat(format), ...words].join(' ');
}

/** The bytes as text that survives being pasted into a terminal: UTF-8, no control characters but line feeds. */
export function typeableText(bytes: Uint8Array): string | undefined {
  const text = textFromBytes(bytes);
  return text === undefined || text.includes('\0') || ACTED_ON.test(text) ? undefined : text;
}

/**
 * Left-out headers as comments behind a command: within it they would end it. Some shells read comments at their prompt
 * as commands: quotes are closed in them, too.
 */
export const posixComments = ({ leftOut }: Plan, option: string): string[] =>
  leftOut.map(({ name, value, reason }) =>
    posixComment(`${option} ${name}: ${value}`.trim(), `left out: ${reason.replaceAll("'", '’')}`),
  );

/** A script of variables and a command, as a function where that is asked for. */
export function posixScript(plan: Plan, command: string, comments: readonly string[], name = 'send_request'): string {
  const lines = [...posixVariables(plan.variables), command, ...comments];
  // A literal may span lines: nothing is indented.
  const text = plan.options.asFunction ? [`${name}() {`, ...lines, '}', '', name] : lines;
  return `${text.join('\n')}\n`;
}
