import { KINDS_OF_PRESET, Redactor } from '#core/redact';
import type { Input } from '#server/capture-file';
import { findSecretsOfFiles, withoutSecrets } from '#server/hand-off/report';
import { tell } from './output';

export interface MaskOptions {
  readonly secrets?: true;
  readonly mask?: true;
}

/** Terminals keep what they show, and others look on: there credentials are masked unless they are asked for. */
export const isMasked = ({ secrets, mask }: MaskOptions, isTerminal: boolean): boolean =>
  secrets !== true && (mask === true || isTerminal);

/** A capture as it is to be shown. */
export interface Shown {
  /** The capture with its credentials masked; as it is where they are shown. */
  readonly input: Input;
  readonly isMasked: boolean;
  /** Masks what was not read from an entry, as the title of a page. */
  readonly line: (text: string) => string;
  /** Says on stderr that something was masked. */
  readonly end: () => void;
}

/** Looks through a capture for credentials, and gives it as it is to be shown. */
export function maskFor(input: Input, options: MaskOptions): Shown {
  if (!isMasked(options, process.stdout.isTTY === true)) {
    return { input, isMasked: false, line: (text) => text, end: () => undefined };
  }
  const order = { kinds: KINDS_OF_PRESET.colleague, words: [] };
  const store = findSecretsOfFiles([input], order, () => undefined);
  const redactor = new Redactor(store);
  return {
    input: withoutSecrets(input, redactor),
    isMasked: true,
    line: (text) => redactor.text(text),
    end: () => {
      if (store.secrets.length > 0) tell('Credentials are masked; --secrets shows them.');
    },
  };
}
