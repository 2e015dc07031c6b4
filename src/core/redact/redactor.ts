import { findSecrets } from '../content';
import type { Json } from '../har';
import { Automaton } from './automaton';
import { type EntryTools, mapEntry, type TextRole } from './entry';
import { layersOf } from './layers';
import { isUnderName } from './names';
import { ofLength } from './placeholder';
import type { Secret, SecretStore } from './store';
import { variantsOf } from './variants';

/** How often each secret was replaced, and in which exchanges. */
export interface Replaced {
  readonly secret: Secret;
  readonly count: number;
}

/** Replaces what a store holds, wherever it stands and however it is written there. */
export class Redactor {
  readonly #store: SecretStore;
  readonly #automaton: Automaton;
  /** For each pattern the secret and what stands there instead. */
  readonly #patterns: readonly { readonly secret: Secret; readonly text: string }[];
  readonly #hasInPlace: boolean;
  readonly #counts = new Map<string, number>();

  constructor(store: SecretStore) {
    this.#store = store;
    const patterns = new Map<string, { readonly secret: Secret; readonly text: string }>();
    for (const secret of store.secrets) {
      if (!secret.isEverywhere) continue;
      for (const { text, write } of variantsOf(secret.value)) {
        if (patterns.has(text)) continue;
        const plain = write(secret.placeholder);
        // In base64 and hex what follows must not move: there it is made just as long.
        const written = plain.length === text.length ? plain : sameLength(secret, text, write);
        patterns.set(text, { secret, text: written });
      }
    }
    this.#automaton = new Automaton([...patterns.keys()]);
    this.#patterns = [...patterns.values()];
    this.#hasInPlace = store.inPlaceOnly.length > 0;
  }

  /** What was replaced so far, and how often. */
  get replaced(): readonly Replaced[] {
    return this.#store.secrets.map((secret) => ({ secret, count: this.#counts.get(secret.value) ?? 0 }));
  }

  entry(entry: Json, tools: EntryTools): Json {
    return mapEntry(entry, (text, role) => this.text(text, role), tools);
  }

  /** A text with every secret in it replaced. */
  text(text: string, role: TextRole = { type: 'other' }): string {
    if (text === '') return text;
    const inPlace = this.#hasInPlace ? this.#replaceInPlace(text, role) : text;
    const edits = this.#editsOf(inPlace, 0);
    if (edits.length === 0) return inPlace;
    let written = '';
    let copied = 0;
    for (const { start, end, text: replacement, secret } of edits) {
      this.#count(secret);
      written += inPlace.slice(copied, start) + replacement;
      copied = end;
    }
    return written + inPlace.slice(copied);
  }

  /** What is to be replaced in a text, as it stands and behind each encoding in it, in order; none overlaps another. */
  #editsOf(text: string, depth: number): Edit[] {
    const own = this.#automaton.find(text).flatMap(({ start, end, pattern }): Edit[] => {
      const found = this.#patterns[pattern];
      return found === undefined ? [] : [{ start, end, ...found }];
    });
    if (depth >= MOST_LAYERS) return own;
    const behind = layersOf(text).flatMap(({ text: inner, starts, write }) =>
      this.#editsOf(inner, depth + 1).map(
        (edit): Edit => ({
          ...edit,
          start: starts[edit.start] ?? 0,
          end: starts[edit.end] ?? text.length,
          text: write(edit.text),
        }),
      ),
    );
    return behind.length === 0 ? own : withoutOverlaps([...own, ...behind]);
  }

  #count({ value }: Secret): void {
    this.#counts.set(value, (this.#counts.get(value) ?? 0) + 1);
  }

  /** Common words, which are secret only where they stand as one. */
  #replaceInPlace(text: string, role: TextRole): string {
    const whole = (value: string): string => {
      const secret = this.#store.get(value);
      if (secret === undefined || secret.isEverywhere) return value;
      this.#count(secret);
      return secret.placeholder;
    };
    switch (role.type) {
      case 'cookie':
      case 'pair':
        return whole(text);
      case 'header':
        return this.#replaceInHeader(role.name.toLowerCase(), text, whole);
      case 'url':
        return this.#replaceSpans(text, { type: 'url' });
      case 'content':
        return this.#replaceParts(this.#replaceSpans(text, role.text), whole);
      case 'other':
        return text;
      default:
        return role satisfies never;
    }
  }

  #replaceInHeader(name: string, text: string, whole: (value: string) => string): string {
    if (name !== 'cookie' && name !== 'set-cookie') return this.#replaceSpans(text, { type: 'named', name });
    const separator = name === 'cookie' ? /(;\s*)/ : /(\n)/;
    return text
      .split(separator)
      .map((part) => part.replace(/^([^=;]*=)([^;]*)/, (_, before: string, value: string) => before + whole(value)))
      .join('');
  }

  #replaceSpans(text: string, where: Parameters<typeof findSecrets>[1]): string {
    let written = '';
    let copied = 0;
    for (const { start, end, value } of findSecrets(text, where, isUnderName)) {
      const secret = this.#store.get(value);
      if (secret === undefined || secret.isEverywhere) continue;
      this.#count(secret);
      written += text.slice(copied, start) + secret.placeholder;
      copied = end;
    }
    return written + text.slice(copied);
  }

  #replaceParts(text: string, whole: (value: string) => string): string {
    if (!text.includes('form-data')) return text;
    return text.replace(PART, (_, head: string, value: string) => head + whole(value));
  }
}

/** A field of multipart/form-data (RFC 7578 4.2), what stands before its value apart from it. */
const PART = /(;\s*name="[^"\r\n]{1,200}"(?![^\r\n]*filename=)[^\r\n]*\r?\n(?:[^\r\n]+\r?\n)*\r?\n)([^\r\n]{1,2000})/g;

/** So many encodings inside one another are undone. */
const MOST_LAYERS = 3;

/** A place of a text, and what stands there instead. */
interface Edit {
  readonly start: number;
  readonly end: number;
  readonly text: string;
  readonly secret: Secret;
}

/** Of edits that overlap the one that begins first, and of those the longest. */
function withoutOverlaps(edits: readonly Edit[]): Edit[] {
  const kept: Edit[] = [];
  for (const edit of edits.toSorted((one, other) => one.start - other.start || other.end - one.end)) {
    if (edit.start >= (kept.at(-1)?.end ?? 0) && edit.end > edit.start) kept.push(edit);
  }
  return kept;
}

function sameLength(secret: Secret, text: string, write: (placeholder: string) => string): string {
  const { value, placeholder } = secret;
  const isBytewise = /^[A-Za-z0-9+/_%=\\-]+$/.test(text) && !text.includes(value);
  const bytes = new TextEncoder().encode(value).length;
  return write(isBytewise ? ofLength(placeholder, bytes) : placeholder);
}
