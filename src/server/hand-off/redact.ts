import { findInEntry, findInText, findOwn, type Redactor, type SecretKind, SecretStore } from '#core/redact';
import { TookTooLong, withinTime } from '../find/bounded';
import { inflateWithZlib } from '../inflate';
import { membersOf, type Part, piecesOf } from './part';

/** What is taken out of what leaves. */
export interface RedactOrder {
  readonly kinds: ReadonlySet<SecretKind>;
  readonly on?: ReadonlySet<string>;
  readonly off?: ReadonlySet<string>;
  /** The user's own words, and expressions. */
  readonly words: readonly (RegExp | string)[];
  /** What somebody pointed at. */
  readonly pointed?: readonly string[];
}

/** An own expression that backtracks without end. */
export class WordTookTooLong extends Error {}

export const TOOLS = { inflate: inflateWithZlib };

/** A user's expressions may run for so long on one exchange. */
const WORD_LIMIT_MS = 4000;

/** Finds what is secret in parts of captures: in their entries, and in whatever encloses these. @param onEntry is told of each exchange */
export function findSecretsIn(parts: readonly Part[], order: RedactOrder, onEntry: () => void): SecretStore {
  const store = new SecretStore({
    kinds: order.kinds,
    ...(order.on === undefined ? {} : { on: order.on }),
    ...(order.off === undefined ? {} : { off: order.off }),
  });
  for (const word of order.words) if (typeof word === 'string') store.add(word, 'own', 'own');
  for (const value of order.pointed ?? []) store.add(value, 'own', 'pointed');
  const patterns = order.words.filter((word) => word instanceof RegExp);
  for (const part of parts) {
    for (const { value, place } of part.entries()) {
      store.place = place;
      findInEntry(value, store, TOOLS);
      if (patterns.length > 0) bounded(() => findOwn(value, patterns, store, TOOLS));
      onEntry();
    }
    store.place = undefined;
    const around = [...part.pages, ...membersOf(part.recorded.outline).map(({ value }) => value)];
    for (const value of around) {
      findInEntry(value, store, TOOLS);
      if (patterns.length > 0) bounded(() => findOwn(value, patterns, store, TOOLS));
    }
    const { wrapper } = part.recorded.outline;
    for (const text of [wrapper?.before ?? '', wrapper?.after ?? ''])
      findInText(text, { type: 'content', text: { type: 'text' } }, store);
  }
  return store;
}

function bounded(run: () => void): void {
  try {
    withinTime(WORD_LIMIT_MS, run);
  } catch (error) {
    if (!(error instanceof TookTooLong)) throw error;
    throw new WordTookTooLong(`A word's regular expression takes too long: ${error.message}. Make it simpler.`);
  }
}

/** A part without its secrets, as the text of a HAR file. */
export const redactedPieces = (part: Part, redactor: Redactor, onEntry: () => void): Generator<string> =>
  piecesOf(part, {
    entry: ({ value, place }) => {
      onEntry();
      return redactor.entry(value, TOOLS, place);
    },
    value: (value) => redactor.entry(value, TOOLS),
    text: (text) => redactor.text(text),
  });
