import { base64Of } from '../../content';
import type { FlatBody, Plan, PlanBody } from '../plan';
import type { Rendering } from '../target';
import type { Value } from '../value';
import { indentLines } from './indent';

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

/** How a language writes a body as an expression. */
export interface BodyWriter {
  readonly text: (value: Value) => string;
  /** Of bytes in base64. */
  readonly bytes: (base64: string) => string;
  readonly file: (path: string) => string;
}

/** A body as an expression; undefined where there is none. */
export function writeBody({ body }: Plan<FlatBody>, { text, bytes, file }: BodyWriter): string | undefined {
  switch (body.type) {
    case 'none':
      return undefined;
    case 'text':
      return text(body.value);
    case 'bytes':
      return bytes(base64Of(body.bytes));
    case 'file':
      return file(body.path);
    default:
      return body satisfies never;
  }
}
