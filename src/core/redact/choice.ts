import type { Kind } from '../model';
import { KINDS_OF_PRESET, type RedactPreset, type SecretKind } from './kinds';

/** What leaves of a capture, and what is inked out in it. */
export interface HandOffChoice {
  /** The kinds of secrets that are taken out by themselves. */
  readonly kinds: readonly SecretKind[];
  /** Own words, and regular expressions between slashes, as they were typed. */
  readonly words: readonly string[];
  /** What somebody pointed at: secret wherever it stands. */
  readonly pointed: readonly string[];
  /** Values that are taken out, or left, whatever their kind. */
  readonly on: readonly string[];
  readonly off: readonly string[];
  /** Of exchanges of these kinds bodies are left out, or made blank. */
  readonly withoutBodies: readonly Kind[];
  readonly blank: readonly Kind[];
}

export const choiceOf = (preset: RedactPreset): HandOffChoice => ({
  kinds: [...KINDS_OF_PRESET[preset]],
  words: [],
  pointed: [],
  on: [],
  off: [],
  withoutBodies: [],
  blank: [],
});

/** A word of the user's own that cannot be looked for. */
export class OwnWordError extends Error {}

/** A word, or a regular expression between slashes with "i" behind them or not. @throws OwnWordError */
export function readOwnWord(text: string): RegExp | string {
  if (text.trim() === '') throw new OwnWordError('An empty word would be found everywhere.');
  const match = /^\/(.+)\/(i?)$/s.exec(text);
  if (match === null) return text;
  try {
    return new RegExp(match[1] ?? '', `g${match[2]}u`);
  } catch {
    throw new OwnWordError(`${text} is not a regular expression.`);
  }
}
