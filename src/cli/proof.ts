import { PRESETS, type RedactPreset } from '#core/redact';
import { UsageError } from './input';

/** What was to leave was not proven to be without secrets and otherwise as recorded: nothing is written. */
export class NotProven extends Error {
  readonly lines: readonly string[];

  constructor(lines: readonly string[]) {
    super('the proof failed');
    this.lines = lines;
  }
}

/** Who it is for. @throws UsageError where that is none */
export function readPreset(text = 'colleague'): RedactPreset {
  const preset = PRESETS.find((one) => one === text);
  if (preset !== undefined) return preset;
  throw new UsageError(`"${text}" is not a preset; use one of ${PRESETS.join(', ')}.`);
}
