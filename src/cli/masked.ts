import { findInEntry, Redactor, type RedactPreset, SecretStore } from '#core/redact';
import { inflateWithZlib } from '#server/inflate';
import { type Input, readEntries } from './input';
import { tell } from './output';

export interface MaskOptions {
  readonly secrets?: true;
  readonly mask?: true;
}

const TOOLS = { inflate: inflateWithZlib };

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
  const store = findSecretsOf([input], 'colleague');
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

/** What is secret in captures: in their entries, and in what their pages are called. */
export function findSecretsOf(inputs: readonly Input[], preset: RedactPreset): SecretStore {
  const store = new SecretStore({ preset });
  for (const input of inputs) {
    const entries = readEntries(input);
    let next = entries.next();
    for (; next.done !== true; next = entries.next()) findInEntry(next.value.value, store, TOOLS);
    for (const page of next.value.rawPages) findInEntry(page, store, TOOLS);
  }
  return store;
}

/** A capture whose entries are read with their secrets replaced. */
export const withoutSecrets = (input: Input, redactor: Redactor): Input => ({
  ...input,
  change: (value) => redactor.entry(value, TOOLS),
});
