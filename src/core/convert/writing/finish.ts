import type { Plan, PlanBody } from '../plan';
import type { Rendering } from '../target';
import { indentLines } from './lines';

/** The lines of a target as what it gives back: they end in a line feed, and carry what the plan warns of. */
export const rendered = ({ warnings }: Plan<PlanBody>, lines: readonly string[]): Rendering => ({
  text: `${lines.join('\n')}\n`,
  warnings,
});

/** How a language writes a function and its call. Without indent nothing in it is moved: a literal may span lines. */
export interface FunctionFrame {
  readonly open: readonly string[];
  readonly indent: string;
  readonly close: readonly string[];
  readonly call: readonly string[];
}

/** Lines as a function that is called at the end, where that is asked for. */
export const asFunction = (
  { options }: Plan<PlanBody>,
  lines: readonly string[],
  { open, indent, close, call }: FunctionFrame,
): string[] => (options.asFunction ? [...open, ...indentLines(lines, indent), ...close, '', ...call] : [...lines]);

/** PowerShell's: a literal may span lines. */
export const POWERSHELL_FUNCTION: FunctionFrame = {
  open: ['function Send-Request {'],
  indent: '',
  close: ['}'],
  call: ['Send-Request'],
};
