import { DEFAULT_OPTIONS, findTarget, TARGETS } from '#core/convert';
import { withSheet } from '#core/sheet';
import type { RunOrder } from '#core/wire';
import { runTrim } from '#server/runs/trim';
import { UsageError } from '../input';
import { printExactly, printJson, tell } from '../output';
import { type RunOptions, readRequest, runContext, running } from '../sending';

export interface TrimOptions extends RunOptions {
  readonly most?: string;
  readonly to: string;
  readonly measure: string;
  readonly json?: true;
}

/** Finds by trials which parts of a request are needed, and prints what is left of it, with the reasons. */
export async function trim(file: string | undefined, place: string | undefined, options: TrimOptions): Promise<void> {
  const target = findTarget(options.to);
  if (target === undefined)
    throw new UsageError(`"${options.to}" is not a target; "trazado targets" lists all ${TARGETS.length}.`);
  const mostSends = options.most === undefined ? 80 : Number(options.most);
  if (!Number.isInteger(mostSends) || mostSends < 3) throw new UsageError('--most takes a whole number from 3 on.');
  if (options.measure !== 'captured' && options.measure !== 'now')
    throw new UsageError('--measure takes captured or now.');
  const request = await readRequest(file, place, options);
  const { context, end } = runContext(request, options, ({ label, sentence }) => tell(`${label}: ${sentence}`));
  const order: Extract<RunOrder, { kind: 'trim' }> = {
    kind: 'trim',
    measure: options.measure,
    target: target.id,
    mostSends,
  };
  await running(() => runTrim(context, order));
  const { result, sentence } = end();
  if (result.trim === undefined) {
    tell(result.asksMeasure === true ? `${sentence} Add --measure now to trim for what it gets now.` : sentence);
    process.exitCode = 1;
    return;
  }
  const { needed, leftOut, isProven, text } = result.trim;
  const { draft } = withSheet(context.kept, { ...context.kept.sheet, text });
  const rendering = target.render(draft, DEFAULT_OPTIONS);
  if (options.json === true)
    printJson({
      sentence,
      isProven,
      needed: needed.map(({ name, reason }) => ({ name, reason })),
      leftOut,
      text: rendering.text,
    });
  else {
    tell(sentence);
    for (const { name, reason } of needed) tell(`  ${name}: ${reason}`);
    for (const warning of rendering.warnings) tell(warning);
    printExactly(rendering.text);
  }
  if (!isProven) process.exitCode = 1;
}
