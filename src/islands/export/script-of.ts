import { strToU8, zipSync } from 'fflate';
import {
  findCarries,
  findTarget,
  type Rendering,
  type RenderOptions,
  renderScript,
  SCRIPT_TARGETS,
  type Sequence,
  type SequenceStep,
  stepOf,
  tellCarry,
  withoutAttempts,
} from '#core/convert';
import { HarReader, isObject, normaliseEntry } from '#core/har';

/** What a selection comes to as code: one file, and what is to be known of it. */
export interface SelectionCode {
  readonly name: string;
  readonly content: Blob;
  readonly notes: readonly string[];
}

/**
 * The exchanges of a capture as code, in capture order: one script where the target has scripts, else a folder of files.
 * @param har a capture of just these exchanges
 * @param indexes their numbers in the capture they are from
 * @param how whether a script goes on where a step fails
 */
export function codeOfSelection(
  har: string,
  indexes: readonly number[],
  targetId: string,
  options: RenderOptions,
  how: { readonly goesOn?: boolean } = {},
): SelectionCode {
  const target = findTarget(targetId);
  if (target === undefined) throw new Error(`no target ${targetId}`);
  const steps = stepsOf(har, indexes);
  const script = SCRIPT_TARGETS.find((one) => one === targetId);
  if (script !== undefined) {
    const attempts = withoutAttempts(steps);
    const sequence = findCarries(attempts.steps);
    const { text, warnings } = renderScript(sequence, script, options, how);
    const carried = sequence.carries.map(tellCarry);
    return {
      name: `script.${target.extension}`,
      content: new Blob([text], { type: 'text/plain' }),
      notes: [...attempts.notes, ...carried, ...warnings],
    };
  }
  const files = steps.map(({ index, draft }): [string, Uint8Array] => [
    `${index}.${target.extension}`,
    contentOf(target.render(draft, options)),
  ]);
  return {
    name: 'requests.zip',
    content: new Blob([zipSync(Object.fromEntries(files)) as Uint8Array<ArrayBuffer>], { type: 'application/zip' }),
    notes: [...new Set(steps.flatMap(({ draft }) => target.render(draft, options).warnings))],
  };
}

/** The exchanges of a capture as requests that take from the responses before them what they did there. */
export const sequenceOfSelection = (har: string, indexes: readonly number[]): Sequence =>
  findCarries(withoutAttempts(stepsOf(har, indexes)).steps);

function stepsOf(har: string, indexes: readonly number[]): SequenceStep[] {
  const steps: SequenceStep[] = [];
  // Captures come in several outer forms; the reader knows them all.
  const reader = new HarReader({
    onEntry: ({ value, place }) => {
      if (!isObject(value)) return;
      // Bodies that recorders left compressed are not unpacked here: they give no values.
      const step = stepOf(normaliseEntry(value, place), 'lean', () => undefined);
      steps.push({ ...step, index: indexes[place] ?? place });
    },
  });
  reader.push(new TextEncoder().encode(har));
  reader.end();
  return steps;
}

const contentOf = ({ text, bytes }: Rendering): Uint8Array => bytes ?? strToU8(text);
